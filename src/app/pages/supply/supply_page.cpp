#include "pages/supply/supply_page.h"

#include "pages/supply/budgets_view.h"
#include "pages/supply/choices_view.h"
#include "pages/supply/cycles_view.h"
#include "pages/supply/discharge_view.h"
#include "pages/supply/findings_view.h"
#include "pages/supply/rails_summary.h"
#include "pages/supply/regulation_view.h"
#include "pages/supply/switch_on_view.h"
#include "widgets/knob_grid.h"

namespace vinegar::app {

extern const PageFacts supplyPage;
const PageFacts supplyPage{"Supply", QT_TRANSLATE_NOOP("Page", "Supply"),
                           QT_TRANSLATE_NOOP("Page", "what voltages will I get?"), makePage<SupplyPage>,
                           PageFacts::findings | PageFacts::supplyEnd};

namespace {
constexpr int summaryWidth = 236;
} // namespace

SupplyPage::SupplyPage(const PageContext& context, const PageFacts& facts) : ViewsPage(context, facts) {
  summary_ = new FigureTable;
  summary_->setObjectName(QStringLiteral("supplySummary"));
  summary_->setAccessibleName(tr("Rails"));
  summary_->setFixedWidth(summaryWidth);
  frame().setSide(summary_);
  knobs_ = new KnobGrid(session(), KnobGrid::Which::ofSupply);
  frame().addRow(knobs_);
  addView("Cycles", tr("Cycles"), new CyclesView(*this));
  addView("Switch-on", tr("Switch-on"), new SwitchOnView(*this));
  addView("Discharge", tr("Discharge"), new DischargeView(*this));
  addView("Regulation", tr("Regulation"), new RegulationView(*this));
  addView("Choices", tr("Choices"), new ChoicesView(*this));
  addView("Budgets", tr("Budgets"), new BudgetsView(*this));
  findings_ = addView("Findings", tr("Findings"), new FindingsView(*this));

  report_.then = [this] { summary_->setRows(railsSummary(*report_), 1); };
  connect(&context.findings, &FindingsDesk::changed, this, &SupplyPage::followFindings);
  startViews(summary_);
  followFindings();
}

void SupplyPage::followDocument() { knobs_->refresh(); }

void SupplyPage::followIdle(const Answers<predict::Idle>& idle) {
  if (saysNothing(idle)) {
    report_.rest();
    summary_->setRows({}, 99);
    return;
  }
  if (const auto* now = idle.any(); now->point.supply) {
    report_.ask({});
  } else {
    report_.rest();
    summary_->setRows({{{tr("no mains"), FigureTable::Look::quiet}}}, 99);
  }
  view(viewOnScreen()).follow(idle);
}

void SupplyPage::startAfresh() {
  report_.rest();
  summary_->setRows({}, 99);
  ViewsPage::startAfresh();
}

void SupplyPage::followFindings() {
  const auto count = context().findings.findings().size();
  frame().setViewTitle(findings_, count == 0 ? tr("Findings") : tr("Findings %1").arg(count));
}

} // namespace vinegar::app

#include "moc_supply_page.cpp"
