#include "pages/supply/cycles_view.h"

#include "predict/supply/supply.h"
#include "widgets/pick_list.h"

#include <QComboBox>

namespace vinegar::app {
namespace {

/// Two cycles of something on the supply.
void addCycles(CurvePlot::Picture& picture, const predict::SupplyIdle& idle, const Eigen::VectorXd& values,
               CurvePlot::Look look, int pane) {
  if (values.size() == 0) return;
  CurvePlot::Curve curve{{}, {}, {}, look, pane};
  const auto n = values.size();
  for (Eigen::Index k = 0; k <= 2 * n; ++k) {
    curve.x.push_back(1000 * idle.cycle.period * static_cast<double>(k) / static_cast<double>(n));
    curve.y.push_back(values[(k + n - 1) % n]);
  }
  picture.curves.push_back(std::move(curve));
}

} // namespace

CyclesView::CyclesView(Page& page)
    : PlotView(page, tr("cycles"),
               tr("This design has no mains: it runs from a bench supply. Start its supply with a transformer and "
                  "rectifier section to see cycles.")) {
  rail_ = new QComboBox;
  rail_->setObjectName(QStringLiteral("supplySource"));
  rail_->setAccessibleName(tr("Rail to show"));
  rail_->setSizeAdjustPolicy(QComboBox::AdjustToContents);
  plot()->addTool(rail_);
  plot()->addFit();
  connect(rail_, &QComboBox::activated, this, &CyclesView::draw);
}

void CyclesView::ask(const Answers<predict::Idle>& idle) {
  fillRails(*idle.any()->circuit);
  draw();
}

void CyclesView::fillRails(const amp::Circuit& circuit) {
  QStringList lines, rails;
  for (std::size_t i = 0; i < circuit.rails.size(); ++i)
    if (predict::isItself(circuit.rails, i)) {
      rails << QString::fromStdString(circuit.rails[i].name);
      lines << tr("rail %1").arg(rails.last());
    }
  refill(*rail_, lines, rails, {});
}

void CyclesView::draw() {
  using Scale = CurvePlot::Pane::Scale;
  const auto rail = rail_->currentData().toString();
  CurvePlot::Picture picture;
  picture.title = tr("Cycles of the mains, rail %1").arg(rail);
  picture.xLabel = picture.xUnit = tr("ms");
  picture.panes = {{tr("V, rail %1").arg(rail), tr("V"), Scale::tight},
                   {tr("mA, one plate"), tr("mA"), Scale::fromZero}};
  const auto& answers = page().context().asker.idle();
  for (const auto& [answer, look] :
       {std::pair{answers.inkValue(), CurvePlot::Look::ink}, {answers.pencilValue(), CurvePlot::Look::pencil}}) {
    if (!answer || !answer->point.supply) continue;
    const auto& idle = *answer->point.supply;
    const auto& circuit = *answer->circuit;
    for (const auto& r : circuit.rails)
      if (QString::fromStdString(r.name) == rail) addCycles(picture, idle, idle.volts(r.node), look, 0);
    if (!circuit.supply.rectifiers.empty())
      addCycles(picture, idle, 1000 * idle.amps(circuit.supply.rectifiers.front()), look, 1);
  }
  show(answers, std::move(picture));
}

} // namespace vinegar::app

#include "moc_cycles_view.cpp"
