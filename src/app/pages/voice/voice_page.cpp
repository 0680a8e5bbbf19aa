#include "pages/voice/voice_page.h"

#include "pages/voice/builds_view.h"
#include "pages/voice/compare_view.h"
#include "pages/voice/controls_view.h"
#include "pages/voice/curve_view.h"
#include "pages/voice/ends_view.h"
#include "pages/voice/hiss_view.h"
#include "pages/voice/parts_view.h"
#include "pages/voice/target_view.h"
#include "widgets/knob_grid.h"

namespace vinegar::app {

extern const PageFacts voicePage;
const PageFacts voicePage{"Voice", QT_TRANSLATE_NOOP("Page", "Voice"),
                          QT_TRANSLATE_NOOP("Page", "what will it sound like?"), makePage<VoicePage>, PageFacts::gain};

VoicePage::VoicePage(const PageContext& context, const PageFacts& facts)
    : ViewsPage(context, facts), span_(new SpanChoice(context)),
      knobs_(new KnobGrid(session(), KnobGrid::Which::played)) {
  frame().addHeadTool(span_);
  frame().addRow(knobs_);
  curve_ = new CurveView(*this, *span_);
  addView("Curve", tr("Curve"), curve_);
  addView("Parts", tr("Parts"), new PartsView(*this, *span_));
  addView("Controls", tr("Controls"), new ControlsView(*this, *span_));
  addView("Target", tr("Target"), new TargetView(*this, *span_));
  addView("Compare", tr("Compare"), new CompareView(*this, *span_));
  addView("Builds", tr("Builds"), new BuildsView(*this, *span_));
  addView("Ends", tr("Ends"), new EndsView(*this, *span_));
  addView("Hiss", tr("Hiss"), new HissView(*this, *span_));
  startViews();
}

void VoicePage::followDocument() { knobs_->refresh(); }

void VoicePage::startAfresh() {
  ViewsPage::startAfresh();
  span_->clear();
}

QByteArray VoicePage::saveView() const {
  return (QStringList{frame().viewId()} + curve_->flags()).join(QLatin1Char(' ')).toUtf8();
}

void VoicePage::restoreView(const QByteArray& view) {
  curve_->setFlags(view);
  ViewsPage::restoreView(view.split(' ').front());
}

} // namespace vinegar::app

#include "moc_voice_page.cpp"
