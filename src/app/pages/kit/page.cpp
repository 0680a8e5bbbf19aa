#include "pages/kit/page.h"

#include "document/saving.h"
#include "plots/curve_plot.h"
#include "plots/plot_files.h"
#include "theme/text.h"
#include "widgets/figure_sheet.h"

#include <QApplication>
#include <QClipboard>
#include <QTextBrowser>
#include <QVBoxLayout>

namespace vinegar::app {

Page::Page(const PageContext& context, const PageFacts& facts)
    : context_(context), facts_(facts), frame_(new PageFrame(facts.titleText(), facts.questionText())) {
  setObjectName(QStringLiteral("page"));
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->addWidget(frame_);
}

void Page::own(AskingBase& asking) {
  View::own(asking);
  frame_->watch(asking);
}

void Page::documentChanged() {
  documentLate_ = true;
  catchUp();
}

void Page::idleAnswered() {
  idleLate_ = true;
  catchUp();
}

void Page::documentReplaced() {
  frame_->state().warnAbove({});
  frame_->state().showContent();
  startAfresh();
}

void Page::catchUp() {
  if (!isVisible()) return;
  if (std::exchange(documentLate_, false)) followDocument();
  if (context_.asker.idle().empty() || !std::exchange(idleLate_, false)) return;
  followIdle(context_.asker.idle());
}

void Page::showEvent(QShowEvent* event) {
  catchUp();
  View::showEvent(event);
}

bool Page::saysNothing(const Answers<predict::Idle>& idle) {
  if (session().pencilled().sections().empty() && session().document().ink.sections().empty()) {
    frame_->state().say(tr("This design is empty. Open a design, or one of the samples, to see an amplifier at work."),
                        false, tr("Open\u2026"), [this] { context_.act("open"); });
    return true;
  }
  auto& state = frame_->state();
  state.warnAbove({});
  if (const auto* problem = idle.problem()) {
    const auto [way, go] = wayTo(*problem);
    const auto why = QString::fromStdString(problem->line());
    if (idle.any())
      state.warnAbove(tr("What is pencilled has no answer; this is the ink. %1").arg(why), way, go);
    else
      state.say(tr("No answer: %1").arg(why), true, way, go);
  }
  if (idle.any()) state.showContent();
  return !idle.any();
}

std::pair<QString, std::function<void()>> Page::wayTo(const Problem& problem) const {
  const auto place = problem.place;
  const auto& parts = session().pencilledParts();
  if (std::none_of(parts.begin(), parts.end(), [&](const auto& part) { return part.name == place; })) return {};
  return {tr("Select %1").arg(menuText(QString::fromStdString(place))),
          [this, place] { context_.selection.select(place); }};
}

PageFrame::Exports Page::exportsOf(CurvePlot& plot, const QString& fileName) {
  return {{tr("Copy picture and figures"), [&plot] { plot.copyToClipboard(); }},
          {tr("Export as SVG, PDF, PNG or CSV\u2026"), [this, &plot, fileName] {
             const QString path = askWhereToSavePlot(this, tr("Export the picture"), fileName + QStringLiteral(".svg"));
             if (path.isEmpty()) return;
             if (const QString problem = plot.exportTo(path); !problem.isEmpty()) context_.notify(problem, true);
           }}};
}

PageFrame::Exports Page::exportsOf(FigureSheet& sheet, const QString& fileName) {
  return {{tr("Copy table"), [&sheet] { QApplication::clipboard()->setText(sheet.copyText()); }},
          {tr("Export as CSV\u2026"), [this, &sheet, fileName] {
             save(fileName + QStringLiteral(".csv"), tr("Figures (*.csv)"), QByteArray::fromStdString(sheet.csv()));
           }}};
}

PageFrame::Exports Page::exportsOf(QTextBrowser& text, const QString& fileName) {
  return {{tr("Copy text"), [&text] { QApplication::clipboard()->setText(text.toPlainText()); }},
          {tr("Export as text\u2026"), [this, &text, fileName] {
             save(fileName + QStringLiteral(".txt"), tr("Text (*.txt)"), text.toPlainText().toUtf8() + '\n');
           }}};
}

void Page::save(const QString& proposed, const QString& kind, const QByteArray& bytes) {
  const QString path = askWhereToSave(this, tr("Export"), proposed, {kind});
  if (path.isEmpty()) return;
  if (const QString problem = saveBytes(path, bytes); !problem.isEmpty()) context_.notify(problem, true);
}

} // namespace vinegar::app

#include "moc_page.cpp"
