#include "pages/supply/discharge_view.h"

#include "widgets/readings.h"

#include <QComboBox>
#include <algorithm>

namespace vinegar::app {

using units::Unit;

DischargeView::DischargeView(Page& page)
    : PlotView(page, tr("discharge"),
               tr("This design has no mains: a bench supply sees to its own discharge. Measure before touching all the "
                  "same.")) {
  tubes_ = new QComboBox;
  tubes_->setObjectName(QStringLiteral("dischargeWith"));
  tubes_->setAccessibleName(tr("Tubes"));
  tubes_->setSizeAdjustPolicy(QComboBox::AdjustToContents);
  tubes_->addItems({tr("tubes out"), tr("tubes in")}); // the slower, and so the safer, first
  plot()->addTool(tubes_);
  plot()->addFit();
  connect(tubes_, &QComboBox::activated, this, &DischargeView::put);
}

void DischargeView::draw() {
  const auto& answers = *discharge_;
  auto picture =
      supplyPicture(tr("Discharge, %1").arg(tubes_->currentText()), tr("s after the plug is pulled"), tr("s"), tr("V"));
  for (const auto& [side, value] : answers.sides) {
    if (!value) continue;
    const auto& answer = **value;
    double until = 5;
    for (const auto& rail : answer.rails)
      until = std::max(until, rail.secondsTo50 ? 1.6 * *rail.secondsTo50 : answer.seconds.back());
    for (std::size_t r = 0; r < answer.rails.size(); ++r) {
      if (!predict::isItself(answer.rails, r)) continue;
      const auto& rail = answer.rails[r];
      const bool main = rail.node == answer.fed;
      CurvePlot::Curve curve{
          nameOn(side, answers.sides.size(), QString::fromStdString(rail.name)), {}, {}, lookOf(side, main), 0};
      for (std::size_t k = 0; k < answer.seconds.size() && answer.seconds[k] <= until; ++k) {
        curve.x.push_back(answer.seconds[k]);
        curve.y.push_back(rail.volts[k]);
      }
      picture.curves.push_back(std::move(curve));
    }
    const auto* last = answer.slowest();
    if (!last || &value != &answers.now()->value) continue;
    const auto word = last->secondsTo50 ? tr("50 V after %1 s (%2 last): measure before touching")
                                              .arg(*last->secondsTo50, 0, 'f', *last->secondsTo50 < 10 ? 1 : 0)
                                              .arg(QString::fromStdString(last->name))
                                        : tr("%2 over 50 V after %1 min: discharge by resistor")
                                              .arg(answer.seconds.back() / 60, 0, 'f', 0)
                                              .arg(QString::fromStdString(last->name));
    picture.marks.push_back({50, word, false, true, 0});
  }
  show(answers, std::move(picture));
}

void DischargeView::put() { discharge_.ask({tubes_->currentIndex() == 1}); }

} // namespace vinegar::app

#include "moc_discharge_view.cpp"
