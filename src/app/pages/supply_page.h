#pragma once

#include "audit/supply_rules.h"
#include "window/latest_wins.h"
#include "window/shown.h"

#include <QWidget>
#include <atomic>

class QButtonGroup;
class QComboBox;
class QLabel;
class QPushButton;
class QStackedWidget;
class QTextBrowser;
class QTimer;

namespace vinegar::app {

class ChoicesView;
class CurvePlot;
class FigureTable;
class Session;

/// What voltages will I get, and will the rectifier survive it? The rails at the left; at the right one view of
/// several: cycles of the mains, switch-on, discharge, regulation, choices side by side, budgets, findings.
class SupplyPage : public QWidget {
  Q_OBJECT
public:
  explicit SupplyPage(Session& session, QWidget* parent = nullptr);
  ~SupplyPage() override;

  enum View { cycles, switchOn, discharge, regulation, choices, budgets, findings };

  void display(const Shown& shown);
  void restyle();
  void showView(View view);
  [[nodiscard]] bool idle() const;
  [[nodiscard]] CurvePlot* plot() { return plot_; }
  [[nodiscard]] const std::vector<audit::Finding>& supplyFindings() const { return findings_; }

Q_SIGNALS:
  void failed(const QString& message);
  void partWanted(const QString& part);
  /// The findings on what stands now, pencil or ink.
  void findingsChanged(const std::vector<vinegar::audit::Finding>& findings);

protected:
  void showEvent(QShowEvent* event) override;

private:
  void showSummary();
  void fillSources();
  void showCycles();
  void askBudgets();
  void showFindings();
  void askView();
  void askFindings();
  void showProgress(double share);
  void exportPlot();
  void showSafety();
  /// Ink and, when there are marks, pencil: designs that have an answer.
  [[nodiscard]] std::vector<std::pair<QString, std::shared_ptr<const amp::Design>>> designs() const;

  Session& session_;
  Shown shown_;
  View view_ = cycles;
  FigureTable* summary_;
  QButtonGroup* tabs_;
  QPushButton *findingsTab_, *cancelButton_;
  QStackedWidget* stack_;
  CurvePlot* plot_;
  QComboBox *source_, *from_;
  QLabel* progress_;
  ChoicesView* choicesView_;
  QTextBrowser *budgetsView_, *findingsView_;
  QTimer* findingsSoon_; ///< findings wait until the builder stops turning
  std::vector<audit::Finding> findings_;
  LatestWins viewWork_, findingsWork_;
  std::shared_ptr<std::atomic<bool>> cancel_;
};

} // namespace vinegar::app
