#include "ask/findings_desk.h"

namespace vinegar::app {
namespace {
constexpr int quietMs = 80, playedMs = 400;
} // namespace

FindingsDesk::FindingsDesk(Asker& asker, std::shared_ptr<const predict::Sound> chord, QObject* parent)
    : QObject(parent), asking_(asker, audit::auditIdle, Weight::background, Of::now),
      playing_(asker, audit::auditPlayed, Weight::background, Of::now) {
  asking_.sleep();
  asking_.ask({});
  playing_.sleep();
  playing_.ask({std::move(chord)});
  playing_.answered = [this](const auto& answers) {
    const auto* now = answers.now();
    if (!now || (!now->value && now->value.error().cancelled)) return;
    played_ = now->get() ? *now->get() : std::vector<audit::Finding>{};
    unplayed_ = now->get() ? std::nullopt : std::optional(now->value.error());
    put();
  };
  asking_.answered = [this](const auto& answers) {
    const auto* now = answers.now();
    if (!now || (!now->value && now->value.error().cancelled)) return;
    atRest_ = now->get() ? *now->get() : std::vector<audit::Finding>{};
    problem_ = now->get() ? std::nullopt : std::optional(now->value.error());
    put();
  };
  soon_.setSingleShot(true);
  soon_.setInterval(quietMs);
  connect(&soon_, &QTimer::timeout, this, [this] { asking_.wake(); });
  later_.setSingleShot(true);
  later_.setInterval(playedMs);
  connect(&later_, &QTimer::timeout, this, [this] { playing_.wake(); });
}

void FindingsDesk::put() {
  findings_ = atRest_;
  findings_.insert(findings_.end(), played_.begin(), played_.end());
  Q_EMIT changed();
}

void FindingsDesk::follow() {
  asking_.sleep();
  playing_.sleep();
  soon_.start();
  later_.start();
}

void FindingsDesk::startAfresh() {
  soon_.stop();
  later_.stop();
  asking_.sleep();
  playing_.sleep();
  atRest_.clear();
  played_.clear();
  findings_.clear();
  problem_.reset();
  unplayed_.reset();
  Q_EMIT changed();
}

} // namespace vinegar::app

#include "moc_findings_desk.cpp"
