#pragma once

#include "pages/supply/supply_view.h"
#include "predict/supply/supply_events.h"

class QComboBox;

namespace vinegar::app {

/// After the plug is pulled: how long the rails stay dangerous.
class DischargeView : public PlotView {
  Q_OBJECT
public:
  explicit DischargeView(Page& page);

protected:
  void ask(const Answers<predict::Idle>&) override { put(); }
  void draw() override;

private:
  void put();

  Kept<predict::predictDischarge> discharge_{*this, Weight::heavy, Of::inkAndNow};
  QComboBox* tubes_;
};

} // namespace vinegar::app
