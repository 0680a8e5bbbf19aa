#pragma once

#include "pages/supply/text_view.h"
#include "predict/supply/supply_budget.h"

namespace vinegar::app {

/// Windings, heaters, heater to cathode with a divider to lift them where one is wanted, the mains at its ends.
class BudgetsView : public TextView {
  Q_OBJECT
public:
  explicit BudgetsView(Page& page);
  void restyle() override { draw(); }

protected:
  void ask(const Answers<predict::Idle>&) override { budget_.ask({}); }
  void draw() override;

private:
  Kept<predict::predictBudget> budget_{*this, Weight::heavy, Of::now};
};

} // namespace vinegar::app
