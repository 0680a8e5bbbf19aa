#include "pages/supply/supply_view.h"

#include <QVBoxLayout>

namespace vinegar::app {

SupplyView::SupplyView(Page& page, const QString& withoutMains) : page_(page), withoutMains_(withoutMains) {}

void SupplyView::setContent(QWidget* content) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  state_ = new StatePane(content);
  column->addWidget(state_);
}

void SupplyView::own(AskingBase& asking) {
  View::own(asking);
  page_.frame().watch(asking);
}

void SupplyView::follow(const Answers<predict::Idle>& idle) {
  // Where the pencil alone has no answer the ink is shown, and the answers themselves say what is missing.
  const auto* any = idle.any();
  if (any && any->point.supply) return ask(idle);
  startAfresh();
  if (any)
    state_->say(withoutMains_);
  else if (const auto* problem = idle.problem())
    sayProblem(*problem);
}

void SupplyView::startAfresh() {
  for (auto* asking : askings())
    asking->rest();
  clear();
  state_->showContent();
}

void SupplyView::sayProblem(const Problem& problem) {
  if (problem.cancelled)
    state_->say(tr("Cancelled."), false, tr("Work it out"), [this] {
      for (auto* asking : askings())
        asking->again();
    });
  else
    state_->say(tr("No answer: %1").arg(QString::fromStdString(problem.line())), true);
}

PlotView::PlotView(Page& page, const QString& fileName, const QString& withoutMains)
    : SupplyView(page, withoutMains), plot_(new CurvePlot), fileName_(fileName) {
  setContent(plot_);
}

PageFrame::Exports PlotView::exports() { return page().exportsOf(*plot_, fileName_); }

} // namespace vinegar::app

#include "moc_supply_view.cpp"
