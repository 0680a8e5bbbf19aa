#pragma once

#include "pages/voice/voice_view.h"
#include "predict/quiet/hiss.h"

namespace vinegar::app {

/// How much hiss there is at the speaker with the knobs as they stand, whose it is, and what quietens it.
class HissView : public VoiceView {
  Q_OBJECT
public:
  HissView(Page& page, SpanChoice& span);

  [[nodiscard]] PageFrame::Exports exports() override { return page().exportsOf(*sources_, tr("hiss")); }

protected:
  void put() override { hiss_.ask({true}); }
  void clear() override;

private:
  void draw();

  Asking<predict::HissQuestion, predict::Hiss> hiss_;
  Answers<predict::Hiss> answers_;
  QLabel* answer_;
  FigureSheet *sources_, *cures_;
};

} // namespace vinegar::app
