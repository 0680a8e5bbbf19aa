#pragma once

#include "pages/stages/stage_view.h"
#include "predict/stages/power_stage.h"

namespace vinegar::app {

class FigureTable;

/// The bias of the output stage: how hot, by what, how far it can be set, and what a fault would do.
class PowerView : public StageView {
  Q_OBJECT
public:
  PowerView(Page& page, TubeChoice& choice);

protected:
  void put(const predict::Idle& now) override;
  void draw() override;
  void clear() override;

private:
  Kept<predict::predictPowerStages> stages_{*this, Weight::heavy, Of::inkAndNow};
  QLabel *answer_, *caution_;
  FigureTable* table_;
};

} // namespace vinegar::app
