#include "pages/kit/page_view.h"

#include "theme/text.h"

#include <QLabel>
#include <QStackedWidget>
#include <QVBoxLayout>

namespace vinegar::app {

void letPencil(FigureSheet::Row& row, Session& session, const std::vector<amp::SetField>& changes,
               const QString& title) {
  row.act = PageView::tr("Pencil");
  row.actName = QStringLiteral("pencil ") + title;
  row.actTip = PageView::tr("Pencil in %1").arg(title);
  row.acted = [&session, changes, title] { session.pencil(changes, title); };
}

FigureSheet::Row pencilRow(Session& session, const std::vector<amp::SetField>& changes, const QString& title) {
  FigureSheet::Row row;
  letPencil(row, session, changes, title);
  return row;
}

void PageView::setContent(QWidget* content) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  state_ = new StatePane(content);
  column->addWidget(state_);
}

QVBoxLayout* PageView::contentColumn(int spacing) {
  auto* content = new QWidget;
  auto* column = new QVBoxLayout(content);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(spacing);
  setContent(content);
  return column;
}

void PageView::own(AskingBase& asking) {
  View::own(asking);
  page_.frame().watch(asking);
}

QLabel* PageView::newAnswer(const char* name, double points) {
  auto* label = answerLabel(name, points);
  label->setWordWrap(true);
  return answers_.emplace_back(label);
}

CurvePlot* PageView::newPlot(const QString& file) { return plots_.emplace_back(new CurvePlot, file).first; }

FigureSheet* PageView::newSheet(const char* name, const QString& about, const QString& file) {
  auto* sheet = new FigureSheet;
  sheet->setObjectName(QLatin1String(name));
  sheet->setAccessibleName(about);
  return sheets_.emplace_back(sheet, file).first;
}

void PageView::restyle() {
  for (const auto& [plot, file] : plots_)
    plot->restyle();
}

PageFrame::Exports PageView::exports() {
  PageFrame::Exports all;
  const auto add = [&](auto* what, const QString& file) {
    if (file.isEmpty()) return;
    for (auto& one : page_.exportsOf(*what, file))
      all.push_back(std::move(one));
  };
  for (const auto& [plot, file] : plots_)
    add(plot, file);
  for (const auto& [sheet, file] : sheets_)
    add(sheet, file);
  return all;
}

void PageView::again() {
  const auto& idle = page_.context().asker.idle();
  if (isVisible() && !idle.empty()) follow(idle);
}

void PageView::follow(const Answers<predict::Idle>& idle) {
  // Where the pencil alone has no answer the ink is shown, and the answers themselves say what is missing.
  const auto* any = idle.any();
  const QString refused = any ? refusal(*any) : QString();
  if (any && refused.isEmpty()) return ask(idle);
  startAfresh();
  if (any)
    state_->say(refused);
  else if (const auto* problem = idle.problem())
    sayProblem(*problem);
}

void PageView::startAfresh() {
  restAll();
  for (auto* label : answers_)
    label->clear();
  for (const auto& [plot, file] : plots_)
    plot->clear();
  for (const auto& [sheet, file] : sheets_)
    sheet->clear();
  clear();
  state_->showContent();
}

void PageView::sayProblem(const Problem& problem) {
  if (problem.cancelled)
    state_->say(tr("Cancelled."), false, tr("Work it out"), [this] {
      for (auto* asking : askings())
        asking->again();
    });
  else
    state_->say(tr("No answer: %1").arg(QString::fromStdString(problem.line())), true);
}

int ViewsPage::addView(const char* id, const QString& title, PageView* view) {
  if (!stack_) {
    stack_ = new QStackedWidget;
    frame().setContent(stack_);
    connect(&frame(), &PageFrame::viewChosen, this, &ViewsPage::showView);
  }
  frame().addView(QLatin1String(id), title);
  return stack_->addWidget(view);
}

void ViewsPage::startViews(QWidget* side) {
  side_ = side;
  showView(0);
}

int ViewsPage::viewOnScreen() const { return stack_->currentIndex(); }
PageView& ViewsPage::view(int index) const { return *static_cast<PageView*>(stack_->widget(index)); }

void ViewsPage::showView(int index) {
  frame().setView(index);
  if (side_) side_->setVisible(!view(index).needsNoSide());
  stack_->setCurrentIndex(index);
  frame().setExports(view(index).exports());
  if (!context().asker.idle().empty()) view(index).follow(context().asker.idle());
}

void ViewsPage::followIdle(const Answers<predict::Idle>& idle) {
  if (saysNothing(idle)) return;
  view(viewOnScreen()).follow(idle);
}

void ViewsPage::startAfresh() {
  for (int i = 0; i < stack_->count(); ++i)
    view(i).startAfresh();
}

void ViewsPage::restoreView(const QByteArray& wanted) {
  if (const int index = frame().viewOf(QString::fromUtf8(wanted)); index >= 0) showView(index);
}

void ViewsPage::restyle() {
  for (int i = 0; i < stack_->count(); ++i)
    view(i).restyle();
}

} // namespace vinegar::app

#include "moc_page_view.cpp"
