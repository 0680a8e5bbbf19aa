#include "ask/findings_desk.h"

namespace vinegar::app {
namespace {
constexpr int quietMs = 80;
} // namespace

FindingsDesk::FindingsDesk(Asker& asker, QObject* parent)
    : QObject(parent), asking_(asker, audit::auditIdle, Weight::heavy, Of::now) {
  asking_.sleep();
  asking_.ask({});
  asking_.answered = [this](const auto& answers) {
    const auto* now = answers.now();
    if (!now || (!now->value && now->value.error().cancelled)) return;
    findings_ = now->get() ? *now->get() : std::vector<audit::Finding>{};
    problem_ = now->get() ? std::nullopt : std::optional(now->value.error());
    Q_EMIT changed();
  };
  soon_.setSingleShot(true);
  soon_.setInterval(quietMs);
  connect(&soon_, &QTimer::timeout, this, [this] { asking_.wake(); });
}

void FindingsDesk::follow() {
  asking_.sleep();
  soon_.start();
}

void FindingsDesk::startAfresh() {
  soon_.stop();
  asking_.sleep();
  findings_.clear();
  problem_.reset();
  Q_EMIT changed();
}

} // namespace vinegar::app

#include "moc_findings_desk.cpp"
