#pragma once

#include "pages/stages/stage_view.h"
#include "predict/choices/swap.h"

namespace vinegar::app {

class FigureSheet;

/// What every other type would do in the tube's place; a row pencils in, with its new bias or without.
class SwapView : public StageView {
  Q_OBJECT
public:
  SwapView(Page& page, TubeChoice& choice);
  [[nodiscard]] PageFrame::Exports exports() override;

protected:
  void ask(const Answers<predict::Idle>& idle) override;
  void clear() override;

private:
  void draw(const predict::Swaps& swaps);

  Asking<predict::SwapQuestion, predict::Swaps> swaps_;
  std::shared_ptr<const predict::Swaps> shown_;
  FigureSheet* table_;
  QPushButton *others_, *rebias_;
};

} // namespace vinegar::app
