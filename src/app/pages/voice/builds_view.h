#pragma once

#include "pages/voice/voice_view.h"
#include "predict/tolerance.h"

namespace vinegar::app {

/// Five hundred builds of the design with parts as they are sold: the band they lie in, and who makes it.
class BuildsView : public VoiceView {
  Q_OBJECT
public:
  BuildsView(Page& page, SpanChoice& span);

  void restyle() override { plot_->restyle(); }
  [[nodiscard]] PageFrame::Exports exports() override { return page().exportsOf(*plot_, tr("builds")); }
  [[nodiscard]] CurvePlot* plot() override { return plot_; }

protected:
  void put() override;
  void clear() override;

private:
  void draw();

  Asking<predict::ToleranceQuestion, predict::Tolerance> tolerance_;
  Answers<predict::Tolerance> answers_;
  QComboBox* tolerances_;
  QLabel* answer_;
  CurvePlot* plot_;
  FigureSheet* sheet_;
};

} // namespace vinegar::app
