#include "pages/levels/gain_view.h"

#include "pages/kit/input_box.h"
#include "tell/levels.h"
#include "theme/text.h"
#include "widgets/readings.h"
#include "widgets/told.h"

#include <QLabel>
#include <QVBoxLayout>
#include <cmath>

namespace vinegar::app {

GainView::GainView(Page& page) : LevelView(page) {
  auto* column = contentColumn(4);
  answer_ = newAnswer("gainAnswer");
  column->addWidget(answer_);
  table_ = newSheet("gains", tr("Gain of every section"), tr("gains"));
  column->addWidget(table_, 1);
}

void GainView::draw() {
  // Until the waves are known, what the stages would do if nothing clipped.
  const auto *quick = levels_->nowValue(), *waves = waves_->nowValue();
  const bool known = quick && waves && waves_->edition == levels_->edition && waves->inputPeak == quick->inputPeak &&
                     waves->hertz == quick->hertz;
  const auto& levels = known ? *waves_ : *levels_;
  const auto* ink = levels.pencil() ? levels.inkValue() : nullptr;
  const auto* now = standing(levels);
  if (!now) return;
  double gained = 0, lost = 0;
  std::vector<predict::SectionLevel> sections;
  for (const auto& section : now->sections) {
    if (!section.gainDecibels) continue;
    if (section.chain == "line") (*section.gainDecibels > 0 ? gained : lost) += *section.gainDecibels;
    sections.push_back(section);
    sections.back().title = sentence(QString::fromStdString(section.title)).toStdString();
  }
  QString told = tr("The stages of the main line give %1 dB, what stands between them takes %2 dB")
                     .arg(gained, 0, 'f', 0)
                     .arg(-lost, 0, 'f', 0);
  if (now->feedbackDecibels && std::abs(*now->feedbackDecibels) > 0.05)
    told += tr("; feedback takes %1 dB").arg(*now->feedbackDecibels, 0, 'f', 1);
  told += QLatin1Char('.');
  if (const auto* clean = power_->nowValue(); clean && clean->power) {
    const double spare = units::decibels(now->inputPeak / clean->power->atOnce.inputPeak);
    told += (spare > 0 ? tr(" As the knobs stand, %1 is %2 dB more than clean power takes: feedback could use as much.")
                       : tr(" As the knobs stand, %1 is %2 dB less than clean power takes."))
                .arg(InputBox::level(now->inputPeak))
                .arg(std::abs(spare), 0, 'f', 0);
  }
  answer_->setText(told);
  Told<predict::SectionLevel> gains;
  gains.besides(ink ? &ink->sections : nullptr, [](const auto& a, const auto& b) { return a.section == b.section; });
  showTold(*table_, tell::sections(), sections, gains);
}

void GainView::ask(const Answers<predict::Idle>&) {
  levels_.ask({played().hertz, played().inputPeak, false});
  waves_.ask({played().hertz, played().inputPeak, true});
  power_.ask({});
}

} // namespace vinegar::app

#include "moc_gain_view.cpp"
