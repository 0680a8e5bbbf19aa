#pragma once

#include "pages/voice/voice_view.h"
#include "predict/quiet/hiss.h"

namespace vinegar::app {

/// How much hiss there is at the speaker with the knobs as they stand, whose it is, and what quietens it.
class HissView : public VoiceView {
  Q_OBJECT
public:
  HissView(Page& page, SpanChoice& span);

protected:
  void put() override { hiss_.ask({true}); }
  void draw() override;

private:
  Kept<predict::predictHiss> hiss_{*this, Weight::heavy, Of::inkAndNow};
  QLabel* answer_;
  FigureSheet *sources_, *cures_;
};

} // namespace vinegar::app
