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

HissView::HissView(Page& page, SpanChoice& span)
    : VoiceView(page, span), hiss_(page.context().asker, predict::predictHiss, Weight::heavy, Of::inkAndNow) {
  auto* column = contentColumn(4);
  answer_ = answerLabel("hissAnswer");
  answer_->setWordWrap(true);
  column->addWidget(answer_);
  auto* about = quietLabel(tr("20 Hz to 20 kHz, knobs as they stand; as heard: weighted by curve A. Crackle, "
                              "microphony and hum are not in it."));
  about->setWordWrap(true);
  column->addWidget(about);
  auto* row = new QHBoxLayout;
  row->setSpacing(12);
  const auto sheet = [&](const char* name, const QString& about, int stretch) {
    auto* table = new FigureSheet;
    table->setObjectName(QLatin1String(name));
    table->setAccessibleName(about);
    table->setStretched({QLatin1String(name) == QLatin1String("hissCures") ? 6 : 0});
    row->addWidget(table, stretch);
    return table;
  };
  sources_ = sheet("hissSources", tr("Whose hiss it is"), 3);
  cures_ = sheet("hissCures", tr("What quietens it"), 5);
  column->addLayout(row, 1);
  own(hiss_);
  hiss_.answered = [this](const auto& answers) {
    answers_ = answers;
    draw();
  };
  connect(sources_, &FigureSheet::cellTaken, this, [this](int taken, int) {
    const auto* hiss = answers_.nowValue();
    if (hiss && static_cast<std::size_t>(taken) < hiss->sources.size())
      select(hiss->sources[static_cast<std::size_t>(taken)].part);
  });
}

void HissView::clear() {
  answers_ = {};
  answer_->clear();
  sources_->clear();
  cures_->clear();
}

void HissView::draw() {
  const auto *hiss = answers_.nowValue(), *ink = answers_.inkValue();
  if (!hiss) {
    if (const auto* problem = answers_.problem()) sayProblem(*problem);
    return;
  }
  state().showContent();
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
