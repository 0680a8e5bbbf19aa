#pragma once

#include <QObject>
#include <QThreadPool>
#include <functional>
#include <mutex>

namespace vinegar::app {

/// Background work of which only the newest request matters. `work` runs on one worker thread and returns what is to
/// be done with its result on the window's thread; a result that a newer request has overtaken is dropped, and a
/// request that has not started is replaced.
class LatestWins : public QObject {
  Q_OBJECT
public:
  using Deliver = std::function<void()>;
  using Work = std::function<Deliver()>;

  explicit LatestWins(QObject* parent = nullptr);
  ~LatestWins() override;

  void ask(Work work);
  /// Nothing waiting, running or undelivered.
  [[nodiscard]] bool idle() const;

private:
  void next();
  void deliver(quint64 number, const Deliver& result);

  QThreadPool pool_;
  mutable std::mutex mutex_;
  Work waiting_;
  quint64 asked_ = 0, delivered_ = 0;
  bool running_ = false;
};

} // namespace vinegar::app
