#pragma once

#include "pages/stages/stage_view.h"
#include "predict/choices/swap.h"

namespace vinegar::app {

/// What every other type would do in the tube's place; a row pencils in, with its new bias or without.
class SwapView : public StageView {
  Q_OBJECT
public:
  SwapView(Page& page, TubeChoice& choice);

protected:
  void put(const predict::Idle&) override { swaps_.ask({choice().tube()}); }
  void draw() override;

private:
  Kept<predict::predictSwaps> swaps_{*this, Weight::heavy, Of::now};
  FigureSheet* table_;
  QPushButton *others_, *rebias_;
};

} // namespace vinegar::app
