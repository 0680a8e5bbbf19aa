#include "pages/supply/switch_on_view.h"

#include "widgets/readings.h"

#include <QComboBox>
#include <algorithm>

namespace vinegar::app {

using units::Unit;

SwitchOnView::SwitchOnView(Page& page)
    : PlotView(page, tr("switch-on"), tr("This design has no mains, so there is nothing to switch on.")) {
  from_ = new QComboBox;
  from_->setObjectName(QStringLiteral("switchOnFrom"));
  from_->setAccessibleName(tr("Starting from"));
  from_->setMaximumWidth(180); // its list shows the long ones whole
  from_->addItems(
      {tr("from cold"), tr("from standby, tubes warm"), tr("off for a quarter of a second and on again, all hot")});
  plot()->addTool(from_);
  plot()->addFit();
  connect(from_, &QComboBox::activated, this, &SwitchOnView::put);
}

void SwitchOnView::draw() {
  const auto& answers = *switchOn_;
  auto picture = supplyPicture(tr("Switch-on %1").arg(from_->currentText()), tr("s after the switch closes"), tr("s"),
                               tr("V, mean over a cycle"));
  for (const auto& [side, value] : answers.sides) {
    if (!value) continue;
    const auto& answer = **value;
    for (std::size_t r = 0; r < answer.rails.size(); ++r) {
      if (!predict::isItself(answer.rails, r)) continue;
      const auto& trace = answer.rails[r];
      const bool main = trace.node == answer.fed;
      const auto name = QString::fromStdString(trace.name);
      CurvePlot::Curve curve{nameOn(side, answers.sides.size(), name),
                             {0},
                             {0},
                             lookOf(side, main),
                             0,
                             side.look == Side::Look::ink ? name : QString(),
                             1 - 0.06 * static_cast<double>(r)};
      curve.x.insert(curve.x.end(), answer.seconds.begin(), answer.seconds.end());
      curve.y.insert(curve.y.end(), trace.mean.begin(), trace.mean.end());
      picture.curves.push_back(std::move(curve));
      if (!main || &value != &answers.now()->value) continue;
      const double peak =
          answer.peakAmps.empty() ? 0 : *std::max_element(answer.peakAmps.begin(), answer.peakAmps.end());
      picture.marks.push_back({trace.highest,
                               tr("highest %1 at %2 s; rectifier peak %3")
                                   .arg(readingOf(trace.highest, Unit::volt))
                                   .arg(trace.highestAt, 0, 'f', 1)
                                   .arg(readingOf(peak, Unit::ampere)),
                               false, false, 0});
    }
  }
  show(answers, std::move(picture));
}

void SwitchOnView::put() {
  switchOn_.ask({static_cast<predict::SwitchOnQuestion::From>(std::max(from_->currentIndex(), 0)), 30});
}

} // namespace vinegar::app

#include "moc_switch_on_view.cpp"
