#pragma once

#include "amp/design.h"
#include "window/latest_wins.h"

#include <QWidget>

class QLabel;
class QTableWidget;

namespace vinegar::app {

class ResponsePlot;
class Session;

/// What did I change and why? The revisions, and the response before and after the chosen one.
class LogPage : public QWidget {
  Q_OBJECT
public:
  explicit LogPage(Session& session, QWidget* parent = nullptr);
  void refresh();
  void restyle();
  [[nodiscard]] QTableWidget* table() { return table_; }
  [[nodiscard]] ResponsePlot* plot() { return plot_; }
  [[nodiscard]] bool idle() const { return work_.idle(); }

Q_SIGNALS:
  void failed(const QString& message);

private:
  void showRevision(int row);
  void exportTable();

  Session& session_;
  QTableWidget* table_;
  QLabel *empty_, *detail_;
  ResponsePlot* plot_;
  std::vector<amp::Revision> shown_;
  LatestWins work_;
};

} // namespace vinegar::app
