#include "pages/supply/texts_view.h"

#include "predict/supply/held.h"
#include "theme/text.h"
#include "theme/theme.h"
#include "widgets/readings.h"

#include <QDialog>
#include <QDialogButtonBox>
#include <QVBoxLayout>
#include <cmath>

namespace vinegar::app {
namespace {

using units::Unit;

/// Tables of plain text on a page: every word is escaped here, since names are the builder's.
class Tables {
public:
  struct Cell {
    QString text;
    bool bad;
    Cell(QString words, bool isBad = false) : text(std::move(words)), bad(isBad) {}
  };
  using Line = std::vector<Cell>;

  void add(const QStringList& head, const std::vector<Line>& lines) {
    html_ += QStringLiteral("<table cellpadding='3' width='100%'>");
    Line titles;
    for (const auto& title : head)
      titles.emplace_back(title);
    row(titles, theme().quiet);
    for (const auto& line : lines)
      row(line, theme().ink);
    html_ += QStringLiteral("</table>");
  }
  void addParagraph(const QString& text) { html_ += QStringLiteral("<p>%1</p>").arg(text.toHtmlEscaped()); }
  [[nodiscard]] const QString& html() const { return html_; }

private:
  void row(const Line& line, const QColor& colour) {
    html_ += QStringLiteral("<tr>");
    for (const auto& cell : line)
      html_ += QStringLiteral("<td style='color:%1'>").arg((cell.bad ? theme().danger : colour).name()) +
               (cell.bad ? warned(cell.text) : cell.text).toHtmlEscaped() + QStringLiteral("</td>");
    html_ += QStringLiteral("</tr>");
  }
  QString html_;
};

} // namespace

TextView::TextView(Page& page, const QString& fileName, const char* name, const QString& accessible,
                   const QString& withoutMains)
    : SupplyView(page, withoutMains), text_(new PageBrowser), fileName_(fileName) {
  text_->setObjectName(QLatin1String(name));
  text_->setAccessibleName(accessible);
  setContent(text_);
}

PageFrame::Exports TextView::exports() { return page().exportsOf(*text_, fileName_); }
void TextView::clear() { text_->clear(); }

BudgetsView::BudgetsView(Page& page)
    : TextView(page, tr("budgets"), "budgets", tr("Transformer and heater budgets"),
               tr("This design has no mains, so nothing is taken from a transformer.")),
      asking_(page.context().asker, predict::predictBudget, Weight::heavy, Of::now) {
  own(asking_);
  asking_.answered = [this](const auto& answers) {
    answers_ = answers;
    draw();
  };
}

void BudgetsView::ask(const Answers<predict::Idle>&) { asking_.ask({}); }

void BudgetsView::clear() {
  TextView::clear();
  answers_ = {};
}

void BudgetsView::draw() {
  if (answers_.problem()) return sayProblem(*answers_.problem());
  const auto* budget = answers_.nowValue();
  if (!budget) return;
  state().showContent();
  const auto& report = budget->report;
  Tables tables;
  std::vector<Tables::Line> lines;
  for (const auto& w : report.windings)
    lines.push_back({QString::fromStdString(w.part + " " + w.name),
                     readingOf(w.rmsVolts, Unit::volt),
                     readingOf(w.rmsAmps, Unit::ampere),
                     readingOf(w.ratedAmps, Unit::ampere),
                     {percent(w.share()), predict::ratingOf(w).over()}});
  lines.push_back({tr("mains"), readingOf(budget->mainsVolts, Unit::volt), readingOf(report.primaryAmps, Unit::ampere),
                   QString(),
                   tr("%1, %2 VA").arg(readingOf(report.primaryWatts, Unit::watt)).arg(report.primaryVa, 0, 'f', 0)});
  tables.add({tr("winding"), tr("volts rms"), tr("ampere rms"), tr("rated"), tr("load")}, lines);
  lines.clear();
  for (const auto& h : report.heaters)
    lines.push_back({QString::fromStdString(h.part),
                     readingOf(h.nominalVolts, Unit::volt, 2),
                     {readingOf(h.rmsVolts, Unit::volt), std::abs(h.rmsVolts / h.nominalVolts - 1) > 0.1},
                     readingOf(h.rmsAmps, Unit::ampere),
                     meterReading(h.meanVolts, Unit::volt)});
  tables.add({tr("heaters"), tr("made for"), tr("get"), tr("draw"), tr("above ground")}, lines);
  lines.clear();
  for (const auto& hk : report.heaterCathodes)
    lines.push_back(
        {QString::fromStdString(hk.tube),
         meterReading(hk.volts, Unit::volt),
         {hk.limit
              ? readingOf(*hk.limit, Unit::volt)
              : tr("not agreed; %1 is a usual limit").arg(readingOf(predict::usualHeaterCathodeLimit, Unit::volt, 2)),
          std::abs(hk.volts) > hk.limit.value_or(predict::usualHeaterCathodeLimit)}});
  tables.add({tr("tube"), tr("cathode over heater"), tr("limit")}, lines);
  if (const auto& e = budget->elevation)
    tables.addParagraph(
        tr("To lift the heaters by about half of that, %1: %2 from the first rail and %3 to ground, with "
           "22 \u00b5F across the lower one, give %4. A heater-elevation lane joins it to the heaters' "
           "foot.")
            .arg(readingOf(e->wantedVolts, Unit::volt, 2), schematicValue(e->upperOhms, Unit::ohm),
                 schematicValue(e->lowerOhms, Unit::ohm), readingOf(e->volts, Unit::volt, 2)));
  lines.clear();
  for (const auto& one : budget->cases) {
    const auto mains = one.share == 1 ? tr("as it is")
                                      : tr("%1%2 %").arg(one.share > 1 ? QStringLiteral("+") : QStringLiteral("\u2212"),
                                                         QString::number(std::lround(100 * std::abs(one.share - 1))));
    Tables::Line line;
    line.emplace_back(one.tubesIn ? mains : tr("%1, tubes cold or out").arg(mains));
    if (one.problem) {
      line.emplace_back(QString::fromStdString(one.problem->line()), true);
    } else {
      line.emplace_back(readingOf(one.mainsVolts, Unit::volt));
      line.emplace_back(readingOf(one.railVolts, Unit::volt));
      for (const double volts : one.heaterVolts)
        line.emplace_back(readingOf(volts, Unit::volt));
    }
    lines.push_back(std::move(line));
  }
  QStringList head{tr("mains"), tr("volts"), tr("first rail")};
  for (const auto& h : report.heaters)
    head << QString::fromStdString(h.part);
  tables.add(head, lines);
  lines.clear();
  QStringList harmonics{tr("ripple, peak")};
  for (const int k : {1, 2, 4, 6})
    harmonics << tr("%1 Hz").arg(k * budget->mainsHertz, 0, 'f', 0);
  for (std::size_t r = 0; r < report.rails.size(); ++r) {
    if (!predict::isItself(report.rails, r)) continue;
    Tables::Line line{QString::fromStdString(report.rails[r].name)};
    for (const std::size_t k : {1, 2, 4, 6})
      line.emplace_back(readingOf(report.rails[r].harmonics[k], Unit::volt, 2));
    lines.push_back(std::move(line));
  }
  tables.add(harmonics, lines);
  text().setHtml(tables.html());
}

FindingsView::FindingsView(Page& page) : TextView(page, tr("findings"), "supplyFindings", tr("Findings"), {}) {
  connect(&text(), &QTextBrowser::anchorClicked, this, &FindingsView::open);
  connect(&page.context().findings, &FindingsDesk::changed, this, &FindingsView::draw);
}

void FindingsView::open(const QUrl& link) {
  if (link.scheme() == QStringLiteral("safety")) return showSafety();
  // By number: a part may be called anything, and a link may not.
  const auto index = static_cast<std::size_t>(link.path().toUInt());
  const auto& findings = page().context().findings.findings();
  if (index < findings.size()) page().context().selection.select(findings[index].part);
}

void FindingsView::draw() {
  const auto& desk = page().context().findings;
  const auto* now = page().context().asker.idle().nowValue();
  const auto& t = theme();
  QString html;
  QString unchecked;
  if (desk.problem())
    unchecked = tr("Nothing was checked, since this design has no answer. %1")
                    .arg(QString::fromStdString(desk.problem()->line()));
  else if (now && !now->point.supply)
    unchecked = tr("Only the parts' own ratings were checked: this design has no mains.");
  if (!unchecked.isEmpty())
    html += QStringLiteral("<p style='color:%1'><b>").arg(t.danger.name()) + warned(unchecked).toHtmlEscaped() +
            QStringLiteral("</b></p>");
  else if (desk.unplayed())
    html += QStringLiteral("<p>%1</p>")
                .arg(tr("What a hard chord does is not known: %1")
                         .arg(QString::fromStdString(desk.unplayed()->line()))
                         .toHtmlEscaped());
  else if (desk.findings().empty())
    html += QStringLiteral("<p>%1</p>")
                .arg(tr("Nothing found at idle, with the tubes out, after switch-off, and under a hard chord of %1 "
                        "peak at the jack.")
                         .arg(readingOf(audit::loudestPeak, Unit::volt, 2)));
  for (std::size_t i = 0; i < desk.findings().size(); ++i) {
    const auto& finding = desk.findings()[i];
    const auto name = finding.part.empty() ? tr("Supply") : QString::fromStdString(finding.part);
    if (finding.danger)
      html += QStringLiteral("<p><span style='color:%1'><b>%2</b></span> ").arg(t.danger.name(), warned(tr("Danger")));
    else
      html += QStringLiteral("<p>");
    // The builder's words last, so that no "%1" in them is filled in.
    html += QStringLiteral("<a href='finding:%1' style='color:%2'><b>").arg(QString::number(i), t.ink.name()) +
            name.toHtmlEscaped() + QStringLiteral("</b></a> ") + QString::fromStdString(finding.what).toHtmlEscaped() +
            QStringLiteral("<br/><span style='color:%1'>").arg(t.quiet.name()) +
            QString::fromStdString(finding.cure).toHtmlEscaped() + QStringLiteral("</span></p>");
  }
  html += QStringLiteral("<p><a href='safety:' style='color:%1'>%2</a></p>")
              .arg(t.signal.name(), tr("Before your hands go in: the safety rules"));
  text().setHtml(html);
}

void FindingsView::showSafety() {
  auto* dialog = new QDialog(this);
  dialog->setAttribute(Qt::WA_DeleteOnClose);
  dialog->setObjectName(QStringLiteral("safety"));
  const auto& safety = audit::safetyText();
  dialog->setWindowTitle(QString::fromStdString(safety.title));
  auto* column = new QVBoxLayout(dialog);
  for (const auto& paragraph : safety.paragraphs) {
    auto* text = new Label(QString::fromStdString(paragraph));
    text->setWordWrap(true);
    column->addWidget(text);
  }
  auto* buttons = new QDialogButtonBox(QDialogButtonBox::Close);
  connect(buttons, &QDialogButtonBox::rejected, dialog, &QDialog::close);
  column->addWidget(buttons);
  dialog->resize(520, 380);
  dialog->open();
}

} // namespace vinegar::app

#include "moc_texts_view.cpp"
