#pragma once

#include "pages/kit/page_view.h"
#include "predict/supply/supply.h"

namespace vinegar::app {

class FigureTable;
class KnobGrid;

/// What voltages will I get, and will the rectifier survive it? The rails at the left; at the right one view of
/// several: cycles of the mains, switch-on, discharge, regulation, choices side by side, budgets, findings.
class SupplyPage : public ViewsPage {
  Q_OBJECT
public:
  SupplyPage(const PageContext& context, const PageFacts& facts);

protected:
  void followDocument() override;
  void followIdle(const Answers<predict::Idle>& idle) override;
  void startAfresh() override;

private:
  void followFindings();

  Kept<predict::predictSupplyReport> report_{*this, Weight::quick, Of::inkAndNow};
  KnobGrid* knobs_;
  FigureTable* summary_;
  int findings_ = 0; ///< the number of that view
};

} // namespace vinegar::app
