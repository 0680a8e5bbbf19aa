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

protected:
  void put() override;
  void draw() override;

private:
  Kept<predict::predictTolerance> tolerance_{*this, Weight::heavy, Of::now};
  ToleranceBox* tolerances_;
};

} // namespace vinegar::app
