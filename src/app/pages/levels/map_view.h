#pragma once

#include "pages/levels/level_view.h"
#include "predict/levels/clip_order.h"
#include "predict/levels/levels.h"

namespace vinegar::app {

/// Input against the setting of a control: what clips where. A click sets both, everywhere.
class MapView : public LevelView {
  Q_OBJECT
public:
  explicit MapView(Page& page);

protected:
  void ask(const Answers<predict::Idle>& idle) override;
  void draw() override;
  void clear() override;

private:
  void setState(double setting, double level);

  CoarseFine<predict::predictLevelMap> map_{*this, Of::inkAndNow};
  QLabel* answer_;
  QComboBox* control_;
  CurvePlot* plot_;
};

} // namespace vinegar::app
