#include "pages/supply/cycles_view.h"

#include "predict/supply/supply.h"

#include <QComboBox>
#include <QSignalBlocker>

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
  QStringList wanted, present;
  for (std::size_t i = 0; i < circuit.rails.size(); ++i)
    if (predict::isItself(circuit.rails, i)) wanted << tr("rail %1").arg(QString::fromStdString(circuit.rails[i].name));
  for (int i = 0; i < rail_->count(); ++i)
    present << rail_->itemText(i);
  if (present == wanted) return;
  const QString chosen = rail_->currentText();
  const QSignalBlocker block(rail_);
  rail_->clear();
  for (std::size_t i = 0; i < circuit.rails.size(); ++i)
    if (predict::isItself(circuit.rails, i))
      rail_->addItem(tr("rail %1").arg(QString::fromStdString(circuit.rails[i].name)),
                     QString::fromStdString(circuit.rails[i].name));
  if (wanted.contains(chosen)) rail_->setCurrentText(chosen);
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
  PlotView::draw(answers, std::move(picture));
}

} // namespace vinegar::app

#include "moc_cycles_view.cpp"
