#include "pages/supply/supply_page.h"

#include "pages/supply/choices_view.h"
#include "pages/supply/cycles_view.h"
#include "pages/supply/events_view.h"
#include "pages/supply/rails_summary.h"
#include "pages/supply/texts_view.h"

#include <QStackedWidget>

namespace vinegar::app {

extern const PageFacts supplyPage;
const PageFacts supplyPage{"Supply", QT_TRANSLATE_NOOP("Page", "Supply"),
                           QT_TRANSLATE_NOOP("Page", "what voltages will I get?"), makePage<SupplyPage>,
                           PageFacts::findings | PageFacts::supplyEnd};

namespace {
constexpr int summaryWidth = 236;
} // namespace

SupplyPage::SupplyPage(const PageContext& context, const PageFacts& facts)
    : Page(context, facts), report_(context.asker, predict::predictSupplyReport, Weight::quick, Of::inkAndNow) {
  summary_ = new FigureTable;
  summary_->setObjectName(QStringLiteral("supplySummary"));
  summary_->setAccessibleName(tr("Rails"));
  summary_->setFixedWidth(summaryWidth);
  frame().setSide(summary_);
  stack_ = new QStackedWidget;
  frame().setContent(stack_);
  const auto add = [&](const char* id, const QString& title, SupplyView* view) {
    frame().addView(QLatin1String(id), title);
    stack_->addWidget(view);
  };
  add("Cycles", tr("Cycles"), new CyclesView(*this));
  add("Switch-on", tr("Switch-on"), new SwitchOnView(*this));
  add("Discharge", tr("Discharge"), new DischargeView(*this));
  add("Regulation", tr("Regulation"), new RegulationView(*this));
  add("Choices", tr("Choices"), new ChoicesView(*this));
  add("Budgets", tr("Budgets"), new BudgetsView(*this));
  findings_ = stack_->count();
  add("Findings", tr("Findings"), new FindingsView(*this));

  own(report_);
  report_.answered = [this](const auto& answers) { summary_->setRows(railsSummary(answers), 1); };
  connect(&frame(), &PageFrame::viewChosen, this, &SupplyPage::showView);
  connect(&context.findings, &FindingsDesk::changed, this, &SupplyPage::followFindings);
  showView(0);
  followFindings();
}

SupplyView& SupplyPage::view(int index) const { return *static_cast<SupplyView*>(stack_->widget(index)); }

CurvePlot* SupplyPage::plot() { return view(stack_->currentIndex()).plot(); }

void SupplyPage::showView(int index) {
  frame().setView(index);
  summary_->setVisible(!view(index).holdsRails()); // its rows hold the rails themselves
  stack_->setCurrentIndex(index);
  frame().setExports(view(index).exports());
  if (!context().asker.idle().empty()) view(index).follow(context().asker.idle());
}

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
  view(stack_->currentIndex()).follow(idle);
}

void SupplyPage::startAfresh() {
  report_.rest();
  summary_->setRows({}, 99);
  for (int i = 0; i < stack_->count(); ++i)
    view(i).startAfresh();
}

void SupplyPage::followFindings() {
  const auto count = context().findings.findings().size();
  frame().setViewTitle(findings_, count == 0 ? tr("Findings") : tr("Findings %1").arg(count));
}

QByteArray SupplyPage::saveView() const { return frame().viewId().toUtf8(); }

void SupplyPage::restoreView(const QByteArray& wanted) {
  if (const int index = frame().viewOf(QString::fromUtf8(wanted)); index >= 0) showView(index);
}

void SupplyPage::restyle() {
  for (int i = 0; i < stack_->count(); ++i)
    view(i).restyle();
}

} // namespace vinegar::app

#include "moc_supply_page.cpp"
