#pragma once

#include "pages/voice/voice_view.h"
#include "predict/voice/tolerance.h"

namespace vinegar::app {

class ToleranceBox;

/// Five hundred builds of the design with parts as they are sold: the band they lie in, and who makes it.
class BuildsView : public AnswerView {
  Q_OBJECT
public:
  BuildsView(Page& page, SpanChoice& span);

  [[nodiscard]] PageFrame::Exports exports() override { return page().exportsOf(curves(), tr("builds")); }

protected:
  void put() override;
  void clear() override;

private:
  void draw();

  Asking<predict::ToleranceQuestion, predict::Tolerance> tolerance_;
  Answers<predict::Tolerance> answers_;
  ToleranceBox* tolerances_;
};

} // namespace vinegar::app
