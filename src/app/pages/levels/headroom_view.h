#pragma once

#include "pages/levels/level_view.h"
#include "predict/levels/headroom.h"

namespace vinegar::app {

/// Changes that give a stage more headroom, or make it the first to break up.
class HeadroomView : public LevelView {
  Q_OBJECT
public:
  explicit HeadroomView(Page& page);

protected:
  void ask(const Answers<predict::Idle>& idle) override;
  void draw() override;
  void clear() override;

private:
  void put();

  Kept<predict::predictHeadroom> changes_{*this, Weight::heavy, Of::now};
  QComboBox *wish_, *tube_;
  QLabel* answer_;
  FigureSheet* table_;
};

} // namespace vinegar::app
