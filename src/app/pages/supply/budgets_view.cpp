#include "pages/supply/budgets_view.h"

#include "tell/supply.h"
#include "theme/text.h"
#include "theme/theme.h"
#include "widgets/readings.h"
#include "widgets/told.h"

#include <algorithm>
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
  /// As it is told everywhere; `after`: what only stands here.
  void add(const tell::Sheet& sheet, const std::vector<Line>& after = {}) {
    std::vector<Line> lines;
    for (const auto& cells : sheet.rows) {
      auto& line = lines.emplace_back();
      for (std::size_t c = 0; c < cells.size(); ++c)
        if (!sheet.heads[c].title.empty()) line.emplace_back(toldCell(sheet.heads[c], cells[c]).text, cells[c].over);
    }
    lines.insert(lines.end(), after.begin(), after.end());
    add(toldTitles(sheet.heads, false), lines);
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

BudgetsView::BudgetsView(Page& page)
    : TextView(page, tr("budgets"), "budgets", tr("Transformer and heater budgets"),
               tr("This design has no mains, so nothing is taken from a transformer.")) {}

void BudgetsView::draw() {
  const auto* budget = standing(*budget_);
  if (!budget) return;
  const auto& report = budget->report;
  Tables tables;
  using tell::sheetOf;
  tables.add(sheetOf(tell::windings(), report.windings));
  if (report.primaries.size() > 1) tables.add(sheetOf(tell::primaries(), report.primaries));
  tables.addParagraph(tr("From the mains of %1: %2, %3, %4 VA.")
                          .arg(readingOf(budget->mainsVolts, Unit::volt), readingOf(report.primaryAmps, Unit::ampere),
                               readingOf(report.primaryWatts, Unit::watt))
                          .arg(report.primaryVa, 0, 'f', 0));
  tables.add(sheetOf(tell::heaters(), report.heaters));
  tables.add(sheetOf(tell::heaterCathodes(), report.heaterCathodes));
  if (std::any_of(report.heaterCathodes.begin(), report.heaterCathodes.end(), [](const auto& h) { return !h.limit; }))
    tables.addParagraph(tr("Where no limit is agreed, %1 is a usual one.")
                            .arg(readingOf(predict::usualHeaterCathodeLimit, Unit::volt, 2)));
  if (const auto& e = budget->elevation)
    tables.addParagraph(
        tr("To lift the heaters by about half of that, %1: %2 from the first rail and %3 to ground, with "
           "22 \u00b5F across the lower one, give %4. A heater-elevation section joins it to the "
           "heaters' foot.")
            .arg(readingOf(e->wantedVolts, Unit::volt, 2), schematicValue(e->upperOhms, Unit::ohm),
                 schematicValue(e->lowerOhms, Unit::ohm), readingOf(e->volts, Unit::volt, 2)));
  std::vector<Tables::Line> lines;
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
  tables.add(sheetOf(tell::rails(budget->mainsHertz), tell::rowsOf(report.rails)));
  text().setHtml(tables.html());
}

} // namespace vinegar::app

#include "moc_budgets_view.cpp"
