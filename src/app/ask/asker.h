// Room: asking predictions in the background, for all pages, and keeping what was answered.
#pragma once

#include "ask/answers.h"

#include <QElapsedTimer>
#include <QObject>
#include <QThreadPool>
#include <QTimer>
#include <algorithm>
#include <atomic>
#include <deque>
#include <functional>
#include <map>
#include <mutex>
#include <optional>
#include <utility>
#include <vector>

namespace vinegar::app {

class AskingBase;

/// Which sides a question is put to.
enum class Of { now, inkAndNow, all };
/// Quick work runs to its end, and is shown if it is newer than what is on screen; heavy work, on a thread of its own,
/// is told to stop when it is overtaken; so is background work, which no page shows and every page's heavy work
/// precedes.
enum class Weight { quick, heavy, background };

/// The idle state of designs, worked out once by whoever needs it first, on whatever thread. Keeps the last few.
class IdleStore {
public:
  explicit IdleStore(const amp::Library& library) : library_(library) {}
  using Value = tl::expected<std::shared_ptr<const predict::Idle>, Problem>;
  /// 1 to 10 ms where it is not known yet. Any thread.
  Value of(const Side& side);
  [[nodiscard]] const amp::Library& library() const { return library_; }

private:
  struct Entry {
    std::shared_ptr<const amp::Design> design; ///< held, so that its address cannot come back as another's
    std::mutex working;
    std::optional<Value> value;
  };
  struct Place { ///< warmth is one caller's at a time
    std::mutex working;
    predict::Warmth warmth;
  };
  const amp::Library& library_;
  std::mutex mutex_;
  std::deque<std::shared_ptr<Entry>> entries_; ///< newest first
  std::map<int, std::shared_ptr<Place>> places_;
};

/// Owns the background work of a window: workers, warmth, caches. Make it before the pages and let it outlive them.
/// Every method is the window's thread's and returns at once.
class Asker : public QObject {
  Q_OBJECT
public:
  explicit Asker(const amp::Library& library, QObject* parent = nullptr);
  /// Drops all and waits for what runs.
  ~Asker() override;

  [[nodiscard]] const amp::Library& library() const { return store_->library(); }
  /// The document has changed: every question that is awake is put again.
  void follow(const Sides& sides);
  /// Another document is open: nothing asked before is delivered, nothing known is kept.
  void startAfresh();
  /// The same, and back only when nothing runs any more: the library may then be changed. As long as it takes a quick
  /// question, some ten milliseconds.
  void standStill();
  [[nodiscard]] const Sides& sides() const { return sides_; }
  /// The newest idle states that were delivered.
  [[nodiscard]] const Answers<predict::Idle>& idle() const { return idle_; }
  /// Nothing asked, running or undelivered, of anybody: for tests and pictures.
  [[nodiscard]] bool quiet() const;
  /// The same of all but background work: every page shows what it will.
  [[nodiscard]] bool pagesAnswered() const;
  /// The same of quick work alone: what was asked last is on screen.
  [[nodiscard]] bool answered() const;

Q_SIGNALS:
  void idleAnswered();

private:
  friend class AskingBase;
  std::shared_ptr<IdleStore> store_;
  std::vector<AskingBase*> order_; ///< as they were made: the window's own come first
  Sides sides_;
  Answers<predict::Idle> idle_;
  QThreadPool quick_, heavy_, background_;
  struct Traffic;
  std::shared_ptr<Traffic> traffic_; ///< heavy work waits while quick work is under way, background work for both
  std::unique_ptr<AskingBase> asksIdle_;
};

/// A question's fate: what is common to all. See Asking.
class AskingBase {
public:
  virtual ~AskingBase();
  AskingBase(const AskingBase&) = delete;
  AskingBase& operator=(const AskingBase&) = delete;

  /// Nothing asked before this is delivered; what runs is told to stop.
  void drop();
  /// The builder does not want to wait: what runs is told to stop and answers Problem::stopped().
  void cancel();
  /// Asks nothing until it is asked.
  virtual void rest() = 0;
  /// Asleep, sides may change and nothing is asked; heavy work is dropped. Awake again, it is asked if it is late.
  void sleep();
  void wake();
  /// Once more, after it was cancelled.
  void again() {
    forget();
    if (awake_) put();
  }
  [[nodiscard]] bool busy() const;
  [[nodiscard]] Weight weight() const { return weight_; }
  /// ms since what runs was asked, and how far it is, 0 to 1.
  [[nodiscard]] qint64 busyFor() const { return busy() && !waits() ? since_.elapsed() : 0; }
  [[nodiscard]] double share() const;
  /// Called when work starts, for those who show that.
  std::function<void()> started;

protected:
  using Deliver = std::function<void()>;
  using Work = std::function<Deliver(const predict::GoOn& goOn)>;
  AskingBase(Asker& asker, Weight weight);
  void post(Work work);
  virtual void put() = 0;    ///< asks again if the sides or the question are others
  virtual void forget() = 0; ///< what was put last
  [[nodiscard]] Asker& asker() const { return asker_; }
  [[nodiscard]] const std::shared_ptr<IdleStore>& store() const { return asker_.store_; }
  [[nodiscard]] bool isAwake() const { return awake_; }
  /// `put` once nothing was asked for a while; until then it counts as busy and is put by nobody.
  void putAfterRest();
  void putNow() {
    rested_.stop();
    put();
  }
  [[nodiscard]] bool waits() const { return rested_.isActive(); }
  /// For the destructor of the class that has `forget`: nothing is delivered any more.
  void leave();

private:
  friend class Asker;
  struct Fate;
  static void work(const std::shared_ptr<Fate>& fate, QThreadPool* pool, Asker* asker);
  static void enter(const std::shared_ptr<Fate>& fate, QThreadPool* pool, Asker* asker);

  Asker& asker_;
  Weight weight_;
  bool awake_ = true;
  QElapsedTimer since_;
  QTimer rested_;
  std::shared_ptr<Fate> fate_;
};

/// One question that its owner asks again and again: a member of the page or view that shows the answer. Asked again by
/// itself when the sides change. Question is ==-comparable and `predict` a pure function. The last answers are kept by
/// design and question, so that what is asked again is free.
template <class Question, class A> class Asking : public AskingBase {
public:
  using Predict = tl::expected<A, Problem> (*)(const predict::Idle&, const amp::Library&, const Question&,
                                               const predict::GoOn&);
  Asking(Asker& asker, Predict predict, Weight weight, Of of = Of::all)
      : AskingBase(asker, weight), predict_(predict), of_(of), known_(std::make_shared<Known>()) {}
  ~Asking() override { leave(); }

  void ask(Question question) {
    question_ = std::move(question);
    if (isAwake()) putNow();
  }
  /// Of these designs instead of the document's own.
  void ask(Question question, Sides sides) {
    makes_ = nullptr;
    given_ = std::move(sides);
    ask(std::move(question));
  }
  /// The same when the builder rests: for what costs much and is looked at seldom.
  void askAfterRest(Question question, std::function<Sides()> sides) {
    makes_ = std::move(sides);
    question_ = std::move(question);
    if (isAwake()) putAfterRest();
  }
  void rest() override {
    question_.reset();
    makes_ = nullptr;
    forget();
    drop();
  }
  std::function<void(const Answers<A>&)> answered;

private:
  using Value = tl::expected<std::shared_ptr<const A>, Problem>;
  struct Key {
    std::shared_ptr<const amp::Design> design;
    Question question;
    bool operator==(const Key&) const = default;
  };
  struct Known { ///< only one piece of work at a time touches it
    static constexpr std::size_t most = 12;
    std::deque<std::pair<Key, Value>> values;
  };

  [[nodiscard]] Sides wanted() const {
    if (given_) return *given_;
    Sides sides{asker().sides().edition, {}};
    for (const auto& side : asker().sides().all)
      if (of_ == Of::all || (of_ == Of::inkAndNow && side.look != Side::Look::other) ||
          (of_ == Of::now && side.look == Side::Look::active))
        sides.all.push_back(side);
    if (sides.all.empty() && !asker().sides().all.empty()) sides.all.push_back(asker().sides().all.front());
    return sides;
  }

  void put() override {
    if (waits() || !question_ || asker().sides().edition == 0) return;
    if (makes_) given_ = std::exchange(makes_, nullptr)();
    auto sides = wanted();
    std::vector<std::shared_ptr<const amp::Design>> designs;
    for (const auto& side : sides.all)
      designs.push_back(side.design);
    // The same of the same is asked once; a name that changed is no other question, but another answer.
    if (put_ && put_->first == sides.edition && put_->second == *question_ && designs == putDesigns_) return;
    put_ = std::pair{sides.edition, *question_};
    putDesigns_ = std::move(designs);
    post([this, sides = std::move(sides), question = *question_, predict = predict_, known = known_,
          store = store()](const predict::GoOn& goOn) -> Deliver {
      Answers<A> answers{sides.edition, {}};
      answers.sides.resize(sides.all.size());
      // What stands first, so that stopping early has done the most wanted.
      std::vector<std::size_t> order;
      for (std::size_t i = 0; i < sides.all.size(); ++i)
        order.insert(sides.all[i].look == Side::Look::active ? order.begin() : order.end(), i);
      double done = 0;
      const predict::GoOn part = [&](double share) {
        return goOn((done + share) / static_cast<double>(std::max<std::size_t>(order.size(), 1)));
      };
      for (const auto i : order) {
        answers.sides[i] = {sides.all[i], valueOf(*store, *known, sides.all[i], question, predict, part)};
        ++done;
      }
      return [this, answers = std::move(answers)] {
        if (answered) answered(answers);
      };
    });
  }

  static Value valueOf(IdleStore& store, Known& known, const Side& side, const Question& question, Predict predict,
                       const predict::GoOn& goOn) {
    if (!goOn(0)) return tl::unexpected(Problem::stopped());
    const Key key{side.design, question};
    // What is asked for again stays: the ink beside a value that is turned.
    if (const auto found = std::find_if(known.values.begin(), known.values.end(),
                                        [&](const auto& entry) { return entry.first == key; });
        found != known.values.end()) {
      std::rotate(known.values.begin(), found, found + 1);
      return known.values.front().second;
    }
    const auto idle = store.of(side);
    if (!idle) return tl::unexpected(idle.error());
    Value value = tl::unexpected(Problem{});
    if (auto answer = predict(**idle, store.library(), question, goOn))
      value = std::make_shared<const A>(std::move(*answer));
    else
      value = tl::unexpected(answer.error());
    if (!value && value.error().cancelled) return value;
    known.values.emplace_front(key, value);
    if (known.values.size() > Known::most) known.values.pop_back();
    return value;
  }

  void forget() override { put_.reset(); }

  Predict predict_;
  Of of_;
  std::optional<Question> question_;
  std::optional<Sides> given_;
  std::function<Sides()> makes_; ///< those that are asked of next
  std::optional<std::pair<std::uint64_t, Question>> put_;
  std::vector<std::shared_ptr<const amp::Design>> putDesigns_;
  std::shared_ptr<Known> known_;
};

} // namespace vinegar::app
