#pragma once

#include "pages/levels/level_view.h"
#include "predict/levels/clip_order.h"
#include "predict/levels/levels.h"

namespace vinegar::app {

/// The whole chain as one picture: the level at every section's end, and over it the ceiling of each stage.
class ChainView : public LevelView {
  Q_OBJECT
public:
  explicit ChainView(Page& page);

protected:
  void ask(const Answers<predict::Idle>& idle) override;
  void draw() override;
  void clear() override;

private:
  void say();

  Kept<predict::predictLevels> levels_{*this, Weight::quick, Of::inkAndNow},
      waves_{*this, Weight::heavy, Of::inkAndNow};
  Kept<predict::predictClipping> first_{*this, Weight::heavy, Of::inkAndNow}, all_{*this, Weight::heavy, Of::inkAndNow};
  QLabel *answer_, *more_;
  CurvePlot* plot_;
};

} // namespace vinegar::app
