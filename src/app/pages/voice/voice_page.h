#pragma once

#include "pages/kit/page_view.h"

namespace vinegar::app {

class CurveView;
class KnobGrid;
class SpanChoice;

/// What will it sound like, and which part do I reach for? The response of the whole amplifier or of any span of it,
/// with the knobs it is played at.
class VoicePage : public ViewsPage {
  Q_OBJECT
public:
  VoicePage(const PageContext& context, const PageFacts& facts);

  [[nodiscard]] QByteArray saveView() const override;
  void restoreView(const QByteArray& view) override;

protected:
  void followDocument() override;
  void startAfresh() override;

private:
  SpanChoice* span_;
  KnobGrid* knobs_;
  CurveView* curve_;
};

} // namespace vinegar::app
