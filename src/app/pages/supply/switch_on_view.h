#pragma once

#include "pages/supply/supply_view.h"
#include "predict/supply/supply_events.h"

class QComboBox;

namespace vinegar::app {

/// From the moment the switch closes: every rail over half a minute.
class SwitchOnView : public PlotView {
  Q_OBJECT
public:
  explicit SwitchOnView(Page& page);

protected:
  void ask(const Answers<predict::Idle>&) override { put(); }
  void draw() override;

private:
  void put();

  Kept<predict::predictSwitchOn> switchOn_{*this, Weight::heavy, Of::inkAndNow};
  QComboBox* from_;
};

} // namespace vinegar::app
