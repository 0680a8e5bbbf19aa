#include "pages/voice/builds_view.h"

#include "pages/tolerance_box.h"
#include "tell/voice.h"
#include "theme/text.h"
#include "widgets/readings.h"
#include "widgets/told.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QVBoxLayout>

namespace vinegar::app {

BuildsView::BuildsView(Page& page, SpanChoice& span)
    : AnswerView(page, span, {"buildsAnswer", "culprits", tr("Parts that make the band"), tr("builds"), {}}) {
  tolerances_ = new ToleranceBox(QStringLiteral("tolerances"));
  curves().addTool(tolerances_);
  sheet().setFixedWidth(190);
  sheet().setStretched({0});
  connect(tolerances_, &QComboBox::activated, this, &BuildsView::put);
  connect(&sheet(), &FigureSheet::cellTaken, this, [this](int taken, int) {
    const auto* tolerance = tolerance_->nowValue();
    if (tolerance && static_cast<std::size_t>(taken) < tolerance->culprits.size())
      select(tolerance->culprits[static_cast<std::size_t>(taken)].part);
  });
}

void BuildsView::put() { tolerance_.ask({from(), to(), tolerances_->tolerances()}); }

void BuildsView::draw() {
  const auto* tolerance = standing(*tolerance_);
  if (!tolerance) return;
  using Look = CurvePlot::Look;
  const bool pencil = tolerance_->pencil();
  const auto look = pencil ? Look::pencil : Look::ink, thin = pencil ? Look::pencilThin : Look::inkThin;
  auto picture = voicePicture(tr("Builds, %1").arg(span().words()), tr("dB, %1").arg(span().words()));
  CurvePlot::Path band{tr("nine of ten"), tolerance->hertz, tolerance->high, thin};
  band.hatched = true;
  band.x.insert(band.x.end(), tolerance->hertz.rbegin(), tolerance->hertz.rend());
  band.y.insert(band.y.end(), tolerance->low.rbegin(), tolerance->low.rend());
  band.x.push_back(tolerance->hertz.front());
  band.y.push_back(tolerance->high.front());
  picture.paths.push_back(std::move(band));
  picture.curves = {{tr("5 % under"), tolerance->hertz, tolerance->low, thin},
                    {tr("middle"), tolerance->hertz, tolerance->middle, look},
                    {tr("95 % under"), tolerance->hertz, tolerance->high, thin}};
  curves().show(std::move(picture));
  auto text = tr("Two built alike differ by %1 dB in level and %2 dB in voice; one pair in twenty by %3 and %4")
                  .arg(tolerance->level.middle, 0, 'f', 1)
                  .arg(tolerance->voice.middle, 0, 'f', 1)
                  .arg(tolerance->level.high, 0, 'f', 1)
                  .arg(tolerance->voice.high, 0, 'f', 1);
  text += tr("; %1").arg(QString::fromStdString(predict::words(tolerances_->tolerances())));
  if (tolerance->failures > 0) text += tr("; %1 builds have no answer").arg(tolerance->failures);
  answer().setText(text);
  showTold(sheet(), tell::culprits(), tolerance->culprits);
}

} // namespace vinegar::app

#include "moc_builds_view.cpp"
