#include "ask/asker.h"

#include <QMetaObject>
#include <QThread>
#include <algorithm>
#include <chrono>
#include <condition_variable>

namespace vinegar::app {
namespace {

constexpr std::size_t mostIdle = 12; ///< two changes' worth of ink and sheets

struct IdleQuestion {
  bool operator==(const IdleQuestion&) const = default;
};

/// The idle state itself, as an answer: the store has it by then.
tl::expected<predict::Idle, Problem> itself(const predict::Idle& idle, const amp::Library&, const IdleQuestion&,
                                            const predict::GoOn&) {
  return idle;
}

} // namespace

/// So that what is turned is on screen first: step effects and the like follow it.
struct Asker::Traffic {
  using Clock = std::chrono::steady_clock;
  /// A value that is turned on comes back to the quick ones within a frame: what only follows would take their time.
  static constexpr std::chrono::milliseconds rest{12};
  std::mutex mutex;
  std::condition_variable clear;
  int quick = 0, heavy = 0; ///< queued or running
  Clock::time_point ended;  ///< the last quick one

  void starts(Weight weight) {
    const std::lock_guard lock(mutex);
    if (weight == Weight::quick) ++quick;
    if (weight == Weight::heavy) ++heavy;
  }
  void ends(Weight weight) {
    const std::lock_guard lock(mutex);
    if (weight == Weight::quick) {
      ended = Clock::now();
      --quick;
    }
    if (weight == Weight::heavy) --heavy;
    clear.notify_all();
  }
  /// Until no quick work, and for background work no heavy work either, has been there for a moment; or `stop`.
  void waitFor(Weight weight, const std::atomic<bool>& stop) {
    if (weight == Weight::quick) return;
    std::unique_lock lock(mutex);
    const auto busy = [&] { return quick > 0 || (weight == Weight::background && heavy > 0); };
    while (!stop && (busy() || Clock::now() - ended < rest))
      clear.wait_for(lock, busy() ? rest : ended + rest - Clock::now());
  }
};

IdleStore::Value IdleStore::of(const Side& side) {
  std::shared_ptr<Entry> entry;
  std::shared_ptr<Place> place;
  {
    const std::lock_guard lock(mutex_);
    const auto found =
        std::find_if(entries_.begin(), entries_.end(), [&](const auto& known) { return known->design == side.design; });
    if (found != entries_.end()) {
      entry = *found;
    } else {
      entry = std::make_shared<Entry>();
      entry->design = side.design;
      entries_.push_front(entry);
      if (entries_.size() > mostIdle) entries_.pop_back();
    }
    auto& own = places_[side.place];
    if (!own) own = std::make_shared<Place>();
    place = own;
  }
  const std::lock_guard working(entry->working);
  if (!entry->value) {
    const std::lock_guard warm(place->working);
    auto idle = predict::predictIdle(*side.design, library_, &place->warmth);
    if (idle)
      entry->value = std::make_shared<const predict::Idle>(std::move(*idle));
    else
      entry->value = tl::unexpected(idle.error());
  }
  return *entry->value;
}

/// Shared between the asking and its worker; outlives the asking where work is still running.
struct AskingBase::Fate {
  Fate(Weight w) : weight(w) {}
  const Weight weight;
  std::mutex mutex;
  // Guarded by the mutex.
  Work waiting;
  bool running = false, gone = false, stopAtOnce = false;
  std::uint64_t asked = 0; ///< tickets given out
  std::uint64_t waitingTicket = 0, runningTicket = 0;
  std::uint64_t settled = 0;               ///< the newest that is delivered, or never will be
  std::uint64_t dropped = 0;               ///< none up to this one is delivered
  std::shared_ptr<std::atomic<bool>> stop; ///< of what runs
  std::atomic<double> share = 0;
};

AskingBase::AskingBase(Asker& asker, Weight weight)
    : asker_(asker), weight_(weight), fate_(std::make_shared<Fate>(weight)) {
  asker_.order_.push_back(this);
  constexpr int restMs = 300;
  rested_.setSingleShot(true);
  rested_.setInterval(restMs);
  QObject::connect(&rested_, &QTimer::timeout, &rested_, [this] {
    if (awake_) put();
  });
}

void AskingBase::putAfterRest() {
  drop(); // what is under way is of what stood before
  rested_.start();
}

AskingBase::~AskingBase() = default;

void AskingBase::leave() {
  std::erase(asker_.order_, this);
  drop();
  const std::lock_guard lock(fate_->mutex);
  fate_->gone = true;
}

void AskingBase::post(Work work) {
  auto& fate = *fate_;
  bool start = false;
  {
    const std::lock_guard lock(fate.mutex);
    if (fate.settled == fate.asked) since_.start();
    fate.waiting = std::move(work);
    fate.waitingTicket = ++fate.asked;
    fate.stopAtOnce = false; // what was given up was the question before
    if (fate.running) {
      if (weight_ != Weight::quick && fate.stop) *fate.stop = true;
    } else {
      fate.running = start = true;
      fate.share = 0;
    }
  }
  if (start) {
    auto* pool = weight_ == Weight::quick   ? &asker_.quick_
                 : weight_ == Weight::heavy ? &asker_.heavy_
                                            : &asker_.background_;
    enter(fate_, pool, &asker_);
  }
  if (started) started();
}

void AskingBase::enter(const std::shared_ptr<Fate>& fate, QThreadPool* pool, Asker* asker) {
  const auto traffic = asker->traffic_;
  traffic->starts(fate->weight);
  pool->start([fate, pool, asker, traffic] {
    work(fate, pool, asker);
    traffic->ends(fate->weight);
  });
}

/// One piece of work, then to the end of the queue with what came meanwhile: nobody starves while a value is turned.
void AskingBase::work(const std::shared_ptr<Fate>& fate, QThreadPool* pool, Asker* asker) {
  Work work;
  std::uint64_t ticket = 0;
  auto stop = std::make_shared<std::atomic<bool>>(false);
  {
    const std::lock_guard lock(fate->mutex);
    if (!fate->waiting) {
      fate->running = false;
      return;
    }
    work = std::move(fate->waiting);
    fate->waiting = nullptr;
    ticket = fate->runningTicket = fate->waitingTicket;
    *stop = fate->stopAtOnce;
    fate->stopAtOnce = false;
    fate->stop = stop;
    fate->share = 0;
  }
  asker->traffic_->waitFor(fate->weight, *stop);
  auto deliver = work([&](double share) {
    fate->share = share;
    return !*stop;
  });
  work = nullptr;
  const std::lock_guard lock(fate->mutex);
  fate->stop = nullptr;
  if (fate->gone) {
    fate->running = false;
    return;
  }
  QMetaObject::invokeMethod(
      asker,
      [fate, ticket, deliver = std::move(deliver)] {
        {
          const std::lock_guard guard(fate->mutex);
          const bool newest = fate->weight == Weight::quick || ticket == fate->asked;
          if (fate->gone || ticket <= fate->dropped || ticket <= fate->settled || !newest) return;
        }
        deliver();
        const std::lock_guard guard(fate->mutex);
        fate->settled = std::max(fate->settled, ticket);
      },
      Qt::QueuedConnection);
  if (fate->waiting)
    enter(fate, pool, asker);
  else
    fate->running = false;
}

void AskingBase::drop() {
  rested_.stop();
  forget();
  const std::lock_guard lock(fate_->mutex);
  fate_->waiting = nullptr;
  fate_->stopAtOnce = false;
  fate_->dropped = fate_->settled = fate_->asked;
  if (fate_->stop) *fate_->stop = true;
}

void AskingBase::cancel() {
  const std::lock_guard lock(fate_->mutex);
  if (!fate_->stop || fate_->runningTicket <= fate_->dropped) { // it stands in the queue
    fate_->stopAtOnce = fate_->waiting != nullptr;
    return;
  }
  *fate_->stop = true;
  // What waits behind it was not wanted either.
  fate_->waiting = nullptr;
  fate_->asked = fate_->runningTicket;
}

void AskingBase::sleep() {
  awake_ = false;
  rested_.stop(); // awake again, it is asked at once
  if (weight_ != Weight::quick) drop();
}

void AskingBase::wake() {
  awake_ = true;
  put();
}

bool AskingBase::busy() const {
  if (waits()) return true;
  const std::lock_guard lock(fate_->mutex);
  return fate_->settled != fate_->asked;
}

double AskingBase::share() const { return fate_->share; }

Asker::Asker(const amp::Library& library, QObject* parent)
    : QObject(parent), store_(std::make_shared<IdleStore>(library)), traffic_(std::make_shared<Traffic>()) {
  quick_.setMaxThreadCount(std::max(1, QThread::idealThreadCount() - 1));
  heavy_.setMaxThreadCount(1);
  heavy_.setThreadPriority(QThread::LowPriority);
  background_.setMaxThreadCount(1);
  background_.setThreadPriority(QThread::LowestPriority);
  for (auto* pool : {&quick_, &heavy_, &background_})
    pool->setExpiryTimeout(-1);
  auto asking = std::make_unique<Asking<IdleQuestion, predict::Idle>>(*this, itself, Weight::quick, Of::all);
  asking->answered = [this](const Answers<predict::Idle>& answers) {
    idle_ = answers;
    Q_EMIT idleAnswered();
  };
  asking->ask({});
  asksIdle_ = std::move(asking);
}

Asker::~Asker() {
  asksIdle_.reset();
  standStill();
}

void Asker::standStill() {
  startAfresh();
  quick_.waitForDone();
  heavy_.waitForDone();
  background_.waitForDone();
}

void Asker::follow(const Sides& sides) {
  sides_ = sides;
  for (auto* asking : order_)
    if (asking->awake_) asking->put();
}

void Asker::startAfresh() {
  sides_ = {};
  idle_ = {};
  for (auto* asking : order_)
    asking->drop();
}

bool Asker::quiet() const {
  return std::none_of(order_.begin(), order_.end(), [](const auto* asking) { return asking->busy(); });
}

bool Asker::pagesAnswered() const {
  return std::none_of(order_.begin(), order_.end(),
                      [](const auto* asking) { return asking->weight() != Weight::background && asking->busy(); });
}

bool Asker::answered() const {
  return std::none_of(order_.begin(), order_.end(),
                      [](const auto* asking) { return asking->weight() == Weight::quick && asking->busy(); });
}

} // namespace vinegar::app

#include "moc_asker.cpp"
