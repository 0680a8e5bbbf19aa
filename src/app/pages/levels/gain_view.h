#pragma once

#include "pages/levels/level_view.h"
#include "predict/levels/levels.h"

namespace vinegar::app {

/// Where the gain goes: every section's own, and what is spare for feedback.
class GainView : public LevelView {
  Q_OBJECT
public:
  explicit GainView(Page& page);

protected:
  void ask(const Answers<predict::Idle>& idle) override;
  void draw() override;

private:
  Kept<predict::predictLevels> levels_{*this, Weight::quick, Of::inkAndNow},
      waves_{*this, Weight::heavy, Of::inkAndNow};
  Kept<predict::predictCleanPower> power_{*this, Weight::heavy, Of::now};
  QLabel* answer_;
  FigureSheet* table_;
};

} // namespace vinegar::app
