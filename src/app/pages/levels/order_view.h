#pragma once

#include "pages/levels/level_view.h"
#include "predict/levels/clip_order.h"
#include "predict/levels/levels.h"

namespace vinegar::app {

/// The order in which things clip as the input rises, and at which setting of a control each is met.
class OrderView : public LevelView {
  Q_OBJECT
public:
  explicit OrderView(Page& page);

protected:
  void ask(const Answers<predict::Idle>& idle) override;
  void draw() override;
  void clear() override;

private:
  Kept<predict::predictClipping> clipping_{*this, Weight::heavy, Of::inkAndNow};
  Kept<predict::predictLevelMap> map_{*this, Weight::heavy, Of::now};
  Kept<predict::predictCleanPower> power_{*this, Weight::heavy, Of::now};
  QLabel *answer_, *more_;
  QComboBox* control_;
  FigureSheet* table_;
};

} // namespace vinegar::app
