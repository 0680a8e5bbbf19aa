#include "pages/voice/hiss_view.h"

#include "tell/hiss.h"
#include "theme/text.h"
#include "widgets/readings.h"
#include "widgets/told.h"

#include <QHBoxLayout>
#include <QVBoxLayout>
#include <cmath>

namespace vinegar::app {

using units::Unit;

namespace {
constexpr double leastShare = 5e-4; ///< of the weighted power that is worth a row
} // namespace

HissView::HissView(Page& page, SpanChoice& span) : VoiceView(page, span) {
  auto* column = contentColumn(4);
  answer_ = newAnswer("hissAnswer");
  column->addWidget(answer_);
  auto* about = quietLabel(tr("20 Hz to 20 kHz, knobs as they stand; as heard: weighted by curve A. Crackle, "
                              "microphony and hum are not in it."));
  about->setWordWrap(true);
  column->addWidget(about);
  auto* row = new QHBoxLayout;
  row->setSpacing(12);
  sources_ = newSheet("hissSources", tr("Whose hiss it is"), tr("hiss"));
  sources_->setStretched({0});
  row->addWidget(sources_, 3);
  cures_ = newSheet("hissCures", tr("What quietens it"));
  cures_->setStretched({6});
  row->addWidget(cures_, 5);
  column->addLayout(row, 1);
  connect(sources_, &FigureSheet::cellTaken, this, [this](int taken, int) {
    const auto* hiss = hiss_->nowValue();
    if (hiss && static_cast<std::size_t>(taken) < hiss->sources.size())
      select(hiss->sources[static_cast<std::size_t>(taken)].part);
  });
}

void HissView::draw() {
  const auto *hiss = standing(*hiss_), *ink = hiss_->inkValue();
  if (!hiss) return;
  auto text = tr("%1 of hiss as heard").arg(readingOf(hiss->weighted, Unit::volt));
  if (const auto under = hiss->underFull()) text += tr(", %1 dB under clean power").arg(std::lround(-*under));
  if (!hiss->sources.empty())
    text += tr("; %1 of it is %2's")
                .arg(percent(hiss->sources.front().share), QString::fromStdString(hiss->sources.front().part));
  if (ink && ink != hiss)
    text += tr("; %1 dB against ink").arg(signedDecibels(20 * std::log10(hiss->weighted / ink->weighted)));
  answer_->setText(text);
  auto worth = hiss->sources;
  std::erase_if(worth, [](const auto& source) { return source.share < leastShare; });
  showTold(*sources_, tell::hissSources(), worth);
  Told<predict::HissCure> cures{true};
  cures.finish = [this](const predict::HissCure& cure, FigureSheet::Row& row) {
    letPencil(row, page().session(), {cure.change}, row.cells.front().text);
  };
  showTold(*cures_, tell::hissCures(*now()->circuit), hiss->cures, cures);
}

} // namespace vinegar::app

#include "moc_hiss_view.cpp"
