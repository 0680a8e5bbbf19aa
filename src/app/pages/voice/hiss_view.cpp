#include "pages/voice/hiss_view.h"

#include "theme/text.h"
#include "widgets/readings.h"

#include <QHBoxLayout>
#include <QVBoxLayout>
#include <cmath>

namespace vinegar::app {

using units::Unit;

namespace {
constexpr double leastShare = 5e-4; ///< of the weighted power that is worth a row

QString kindWords(const std::string& kind) {
  if (kind == "thermal") return tr("its resistance");
  if (kind == "space-charge") return tr("its cathode");
  if (kind == "partition") return tr("its screen's share");
  if (kind == "grid") return tr("its grid current");
  return tr("its current");
}
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
  sources_ = sheet("hissSources", tr("Whose hiss it is"), 4);
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
  std::vector<FigureSheet::Row> rows;
  for (const auto& source : hiss->sources) {
    if (source.share < leastShare) break;
    rows.push_back({{{QString::fromStdString(source.part)},
                     {kindWords(source.kind), {}, false, false, true},
                     {readingOf(source.weighted, Unit::volt), {}, false, false, false, source.weighted},
                     {percent(source.share), {}, false, true, false, source.share}}});
  }
  sources_->setSheet({tr("part"), tr("by"), tr("as heard"), tr("share")}, std::move(rows));
  rows.clear();
  for (const auto& cure : hiss->cures) {
    const auto title = valueWords(cure.change.part, std::get<double>(cure.change.to));
    auto row = pencilRow(page().session(), {cure.change}, title);
    row.cells = {
        {title},
        {signedDecibels(cure.quieter), tr("hiss less gain: as heard at one loudness"), false, true, false,
         cure.quieter},
        {signedDecibels(cure.hiss), {}, false, false, false, cure.hiss},
        {signedDecibels(cure.gain), {}, false, false, false, cure.gain},
        {signedDecibels(cure.radio), tr("what comes to the first grid at 1 MHz"), false, false, false, cure.radio},
        {movedWords(cure.movedTube, cure.movedShare)}};
    rows.push_back(std::move(row));
  }
  cures_->setSheet({tr("one step"), tr("net"), tr("hiss"), tr("gain"), tr("radio"), tr("moves")}, std::move(rows),
                   true);
}

} // namespace vinegar::app

#include "moc_hiss_view.cpp"
