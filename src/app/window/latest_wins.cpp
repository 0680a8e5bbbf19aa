#include "window/latest_wins.h"

#include <QMetaObject>

namespace vinegar::app {

LatestWins::LatestWins(QObject* parent) : QObject(parent) { pool_.setMaxThreadCount(1); }

LatestWins::~LatestWins() {
  {
    const std::lock_guard lock(mutex_);
    waiting_ = nullptr;
  }
  pool_.waitForDone();
}

void LatestWins::ask(Work work) {
  const std::lock_guard lock(mutex_);
  waiting_ = std::move(work);
  ++asked_;
  if (running_) return;
  running_ = true;
  pool_.start([this] { next(); });
}

bool LatestWins::idle() const {
  const std::lock_guard lock(mutex_);
  return delivered_ == asked_;
}

void LatestWins::next() {
  for (;;) {
    Work work;
    quint64 number = 0;
    {
      const std::lock_guard lock(mutex_);
      if (!waiting_) {
        running_ = false;
        return;
      }
      work = std::move(waiting_);
      waiting_ = nullptr;
      number = asked_;
    }
    auto result = work();
    QMetaObject::invokeMethod(
        this, [this, number, result = std::move(result)] { deliver(number, result); }, Qt::QueuedConnection);
  }
}

void LatestWins::deliver(quint64 number, const Deliver& result) {
  {
    const std::lock_guard lock(mutex_);
    if (number != asked_) return;
  }
  if (result) result();
  const std::lock_guard lock(mutex_);
  if (number == asked_) delivered_ = number;
}

} // namespace vinegar::app
