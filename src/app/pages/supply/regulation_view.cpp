#include "pages/supply/regulation_view.h"

namespace vinegar::app {

RegulationView::RegulationView(Page& page)
    : PlotView(page, tr("regulation"), tr("This design has no mains; a bench supply holds its volts.")) {
  plot()->addFit();
}

void RegulationView::draw() {
  auto picture = supplyPicture(tr("Regulation"), tr("mA drawn from the first rail"), tr("mA"), tr("V, first rail"));
  picture.panes.front().scale = CurvePlot::Pane::Scale::tight;
  std::size_t labels = 0;
  const auto add = [&](const predict::RegulationCurve& curve, const QString& name, CurvePlot::Look look,
                       bool labelled) {
    const auto type = QString::fromStdString(curve.type);
    CurvePlot::Curve drawn{
        name, {}, curve.volts, look, 0, labelled ? type : QString(), 1 - 0.085 * static_cast<double>(labels)};
    if (labelled) ++labels;
    for (const double amps : curve.amps)
      drawn.x.push_back(1000 * amps);
    picture.curves.push_back(std::move(drawn));
  };
  for (const auto& [side, value] : own_->sides) {
    if (!value) continue;
    const auto& own = (*value)->curves.front();
    add(own, nameOn(side, own_->sides.size(), QString::fromStdString(own.type)), lookOf(side, true),
        side.look == Side::Look::ink);
    if (&value == &own_->now()->value) picture.marks.push_back({1000 * (*value)->idleAmps, tr("idle"), true, false, 0});
  }
  if (const auto* every = every_->nowValue())
    for (std::size_t c = 1; c < every->curves.size(); ++c)
      add(every->curves[c], QString::fromStdString(every->curves[c].type), CurvePlot::Look::inkThin, true);
  show(*own_, std::move(picture));
}

void RegulationView::ask(const Answers<predict::Idle>&) {
  own_.ask({false});
  every_.ask({true});
}

} // namespace vinegar::app

#include "moc_regulation_view.cpp"
