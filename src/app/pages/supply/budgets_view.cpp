#include "pages/supply/budgets_view.h"

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

BudgetsView::BudgetsView(Page& page)
    : TextView(page, tr("budgets"), "budgets", tr("Transformer and heater budgets"),
               tr("This design has no mains, so nothing is taken from a transformer.")) {}

void BudgetsView::draw() {
  const auto* budget = standing(*budget_);
  if (!budget) return;
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
           "22 \u00b5F across the lower one, give %4. A heater-elevation section joins it to the "
           "heaters' foot.")
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

} // namespace vinegar::app

#include "moc_budgets_view.cpp"
