#pragma once

#include "pages/page.h"
#include "predict/supply.h"

class QStackedWidget;

namespace vinegar::app {

class FigureTable;
class SupplyView;

/// What voltages will I get, and will the rectifier survive it? The rails at the left; at the right one view of
/// several: cycles of the mains, switch-on, discharge, regulation, choices side by side, budgets, findings.
class SupplyPage : public Page {
  Q_OBJECT
public:
  SupplyPage(const PageContext& context, const PageFacts& facts);

  void restyle() override;
  [[nodiscard]] QByteArray saveView() const override;
  void restoreView(const QByteArray& view) override;
  void showView(int view);
  /// Of the view on screen; null where it has none.
  [[nodiscard]] CurvePlot* plot();

protected:
  void followIdle(const Answers<predict::Idle>& idle) override;
  void startAfresh() override;

private:
  [[nodiscard]] SupplyView& view(int index) const;
  void followFindings();

  Asking<predict::SupplyReportQuestion, predict::SupplyReport> report_;
  FigureTable* summary_;
  QStackedWidget* stack_;
  int findings_ = 0; ///< the number of that view
};

} // namespace vinegar::app
