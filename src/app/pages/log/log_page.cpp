#include "pages/log/log_page.h"

#include "plots/response_picture.h"
#include "predict/rest/places.h"
#include "theme/text.h"
#include "widgets/figure_sheet.h"

#include <QDateTime>
#include <QLabel>
#include <QLocale>
#include <QVBoxLayout>

namespace vinegar::app {

extern const PageFacts logPage;
const PageFacts logPage{"Log", QT_TRANSLATE_NOOP("Page", "Log"),
                        QT_TRANSLATE_NOOP("Page", "what did I change, when and why?"), makePage<LogPage>};

namespace {

QString shortDate(const std::string& iso) {
  const auto when = QDateTime::fromString(QString::fromStdString(iso), Qt::ISODate);
  return when.isValid() ? QLocale().toString(when.toLocalTime(), QStringLiteral("d MMM yyyy HH:mm"))
                        : QString::fromStdString(iso);
}

} // namespace

LogPage::LogPage(const PageContext& context, const PageFacts& facts) : Page(context, facts) {
  auto* content = new QWidget;
  auto* column = new QVBoxLayout(content);
  column->setContentsMargins(0, 0, 0, 0);
  table_ = new FigureSheet;
  table_->setObjectName(QStringLiteral("revisions"));
  table_->setAccessibleName(tr("Revisions"));
  table_->setStretched({2, 3});
  column->addWidget(table_, 2);
  detail_ = new Label;
  detail_->setObjectName(QStringLiteral("revisionDetail"));
  detail_->setWordWrap(true);
  detail_->setProperty("quiet", true);
  column->addWidget(detail_);
  plot_ = new CurvePlot;
  plot_->addFit();
  column->addWidget(plot_, 3);
  frame().setContent(content);
  auto exports = exportsOf(*table_, tr("log"));
  for (auto& other : exportsOf(*plot_, tr("revision")))
    exports.push_back(std::move(other));
  frame().setExports(exports);
  connect(table_, &FigureSheet::rowChosen, this, &LogPage::ask);
}

void LogPage::followDocument() {
  const auto& document = session().document();
  if (document.log.empty()) {
    startAfresh();
    return frame().state().say(
        tr("Nothing has been inked yet. Turn a value to pencil it in; \u201cInk it\u201d makes it "
           "a revision, and it appears here with your reason."));
  }
  frame().state().showContent();
  const bool sameLog = shown_ == document.log;
  if (sameLog && knobs_ == document.ink.knobs) return;
  knobs_ = document.ink.knobs;
  if (sameLog) return ask();
  shown_ = document.log;
  std::vector<FigureSheet::Row> rows;
  auto after = document.ink;
  for (auto revision = document.log.rbegin(); revision != document.log.rend(); ++revision) {
    QStringList changes;
    const auto before = amp::settle(after, session().library(), amp::inverse(revision->marks)).design;
    for (const auto& mark : revision->marks)
      changes << QString::fromStdString(amp::describe(mark, before, after, session().library()));
    after = before;
    const QStringList texts{QString::number(revision->number), shortDate(revision->date),
                            changes.join(QStringLiteral(", ")), QString::fromStdString(revision->reason)};
    FigureSheet::Row row;
    for (const auto& text : texts)
      row.cells.push_back({text, text, false, false, true});
    row.cells[0].order = revision->number;
    row.cells[1].order = static_cast<double>(
        QDateTime::fromString(QString::fromStdString(revision->date), Qt::ISODate).toSecsSinceEpoch());
    rows.push_back(std::move(row));
  }
  table_->setSheet({tr("Rev"), tr("Date"), tr("Changes"), tr("Reason")}, std::move(rows));
  table_->choose(0);
  ask();
}

void LogPage::startAfresh() {
  response_.rest();
  shown_.clear();
  table_->clear();
  detail_->clear();
  plot_->clear();
}

/// What its curve ends at is known now.
void LogPage::followIdle(const Answers<predict::Idle>& idle) {
  if (const auto* any = idle.any(); any && QString::fromStdString(predict::endOf(*any->circuit)) != to_) ask();
}

void LogPage::ask() {
  const int row = table_->chosen();
  if (row < 0 || static_cast<std::size_t>(row) >= shown_.size()) return;
  asked_ = shown_[shown_.size() - 1 - static_cast<std::size_t>(row)].number;
  const auto designAt = [&](int revision) {
    return amp::atRevision(session().document(), session().library(), revision);
  };
  const auto before = designAt(asked_ - 1), after = designAt(asked_);
  if (const auto* problem = !after ? &after.error() : !before ? &before.error() : nullptr) {
    response_.rest();
    plot_->clear();
    return detail_->setText(QString::fromStdString(problem->line()));
  }
  const auto side = [](const amp::Design& design, const QString& name, Side::Look look) {
    return Side{name, look, Side::besides, std::make_shared<const amp::Design>(design)};
  };
  const auto* idle = context().asker.idle().any();
  const auto end = idle ? predict::endOf(*idle->circuit) : std::string("speaker");
  to_ = QString::fromStdString(end);
  response_.ask(responseOver(QStringLiteral("jack"), to_),
                {++editions_,
                 {side(*before, tr("before"), Side::Look::ink),
                  side(*after, tr("after revision %1").arg(asked_), Side::Look::active)}});
}

void LogPage::draw() {
  const auto& answers = *response_;
  for (const auto& answer : answers.sides)
    if (!answer.value) {
      detail_->setText(tr("No answer: %1").arg(QString::fromStdString(answer.value.error().line())));
      return plot_->clear();
    }
  plot_->show(responsePicture(answers, {tr("jack to %1").arg(to_), false, false}));
  const auto before = predict::describeGain(*answers.inkValue()), after = predict::describeGain(*answers.pencilValue());
  detail_->setText(tr("Revision %1: gain at 1 kHz %2 to %3 dB, E2 %4 to %5 dB, at the knobs as they stand now.")
                       .arg(asked_)
                       .arg(before.at1kHz, 0, 'f', 1)
                       .arg(after.at1kHz, 0, 'f', 1)
                       .arg(before.atE2, 0, 'f', 1)
                       .arg(after.atE2, 0, 'f', 1));
}

void LogPage::restyle() { plot_->restyle(); }

} // namespace vinegar::app

#include "moc_log_page.cpp"
