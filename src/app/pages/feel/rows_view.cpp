#include "pages/feel/rows_view.h"

#include "theme/text.h"
#include "widgets/readings.h"

#include <QLabel>
#include <cmath>

namespace vinegar::app {
namespace {

using predict::FeelRow;
using predict::FeelSubject;
using units::Unit;
using CurveLook = CurvePlot::Look;

QString againstOf(const FeelRow& row) { return joined(row.against, QStringLiteral("; ")); }

} // namespace

QString titleOf(const FeelRow& row) { return tr(row.title.c_str()); }

QString percentOf(double share) { return QStringLiteral("%1 %").arg(100 * share, 0, 'f', 1); }

RowsView::RowsView(Page& page, PhraseBox& phrases, FeelSubject subject, const Names& names)
    : FeelView(page, phrases, names), subject_(subject) {
  setShares(1, 2);
  const auto look = [this](int row) {
    if (row < 0 || row == looked_) return;
    looked_ = row;
    if (rows()) drawCurves();
  };
  connect(&sheet(), &FigureSheet::rowChosen, this, look);
  connect(&sheet(), &FigureSheet::rowHovered, this, look);
  connect(&sheet(), &FigureSheet::cellTaken, this, [this](int at, int column) {
    if (column != rebiasColumn_ || !rows() || static_cast<std::size_t>(at) >= rows()->rows.size()) return;
    const auto& row = rows()->rows[static_cast<std::size_t>(at)];
    if (row.rebias.empty()) return;
    auto both = row.changes;
    both.insert(both.end(), row.rebias.begin(), row.rebias.end());
    this->page().session().pencil(both, titleOf(row));
  });
}

void RowsView::draw() {
  if (!standing(*rows_)) return;
  fillSheet();
  say(said(), rows_.isCoarse());
  drawCurves();
}

QString RowsView::refusal(const predict::Idle& idle) const {
  return idle.point.supply
             ? QString()
             : tr("This design has no mains and rectifier: its rails come from a bench supply, which holds "
                  "them. Put in a transformer and rectifier to see how it would sag.");
}

void RowsView::addCells(FigureSheet::Row& line, const FeelRow& row) {
  const auto put = [&](const QString& text, double order, bool strong = false) {
    line.cells.push_back({text, {}, false, strong, false, order});
  };
  put(readingOf(row.dip.before, Unit::volt), row.dip.before);
  put(percentOf(row.dip.share()), row.dip.share(), true);
  put(secondsWords(row.recovers), std::isfinite(row.recovers) ? row.recovers : 1e9);
  put(readingOf(row.rippleVolts, Unit::volt, 2), row.rippleVolts);
  put(readingOf(row.outputWatts, Unit::watt), row.outputWatts);
}

void RowsView::fillSheet() {
  std::vector<FigureSheet::Row> lines;
  const bool rebiases = subject_ == FeelSubject::rectifiers;
  for (const auto& row : rows()->rows) {
    const auto title = titleOf(row);
    auto line = row.changes.empty() ? FigureSheet::Row{} : pencilRow(page().session(), row.changes, title);
    if (row.now) line.stands = tr("now");
    line.cells.push_back({title, tr(row.about.c_str()), false, row.now, true});
    if (row.problem) {
      const auto why = QString::fromStdString(row.problem->line());
      for (int i = 0; i < (rebiases ? 8 : 7); ++i)
        line.cells.push_back({noReading()});
      line.cells.push_back({warned(why), why, true, false, true});
    } else {
      const auto against = againstOf(row);
      const auto count = row.against.size();
      line.cells.push_back({count == 0 ? QString() : warned(QString::number(count)), against, count > 0, false, false,
                            static_cast<double>(count)});
      addCells(line, row);
      line.cells.push_back(
          {percent(row.hottestShare),
           tr("The hottest plate at idle, %1's, of its rating").arg(QString::fromStdString(row.hottest)),
           row.hottestShare > 1, false, false, row.hottestShare});
      if (rebiases)
        line.cells.push_back(
            {QString::fromStdString(row.rebiased),
             row.rebias.empty()
                 ? QString()
                 : tr("Keeps the output tubes' idle dissipation. A click pencils %1 with it").arg(title)});
      line.cells.push_back({against.isEmpty() ? tr("nothing") : warned(against), against, !against.isEmpty(), false,
                            true, static_cast<double>(row.against.size())});
    }
    lines.push_back(std::move(line));
  }
  // How much speaks against a row is seen before its words, which stand where there is room.
  QStringList heads{tr("with"), tr("against"), tr("B+"),      tr("droop"),
                    tr("back"), tr("ripple"),  tr("loudest"), tr("idle")};
  rebiasColumn_ = rebiases ? static_cast<int>(heads.size()) : -1;
  if (rebiases) heads << tr("re-bias");
  heads << tr("what is against it");
  sheet().setStretched({static_cast<int>(heads.size())});
  sheet().setSheet(heads, std::move(lines), true);
}

QString RowsView::said() const {
  const auto& all = rows()->rows;
  const auto* most = &all.front();
  const auto* least = most;
  for (const auto& row : all) {
    if (row.problem) continue;
    if (row.dip.share() > most->dip.share()) most = &row;
    if (row.dip.share() < least->dip.share()) least = &row;
  }
  auto text = tr("%1 sags by %2").arg(railWords(rows()->rail), droopWords(all.front().dip));
  if (!most->now) text += tr("; most with %1, %2").arg(titleOf(*most), percentOf(most->dip.share()));
  if (!least->now) text += tr("; least with %1, %2").arg(titleOf(*least), percentOf(least->dip.share()));
  return text;
}

void RowsView::drawCurves() {
  CurvePlot::Picture picture;
  picture.title = tr("Others");
  picture.xLabel = tr("seconds");
  picture.xUnit = tr("s");
  picture.panes.push_back(
      {tr("%1, V").arg(QString::fromStdString(rows()->rail)), tr("V"), CurvePlot::Pane::Scale::tight});
  const auto& all = rows()->rows;
  const auto looked = static_cast<std::size_t>(std::max(0, looked_));
  for (std::size_t i = 0; i < all.size(); ++i) {
    const auto& row = all[i];
    if (row.problem || row.now || i == looked) continue;
    if (subject_ == FeelSubject::sag && i > 5) break; // the nearest
    picture.curves.push_back({titleOf(row), row.seconds, row.fed, CurveLook::ground});
  }
  picture.curves.push_back(
      {titleOf(all.front()), all.front().seconds, all.front().fed, CurveLook::ink, 0, tr("now"), 0.98});
  if (looked > 0 && looked < all.size() && !all[looked].problem)
    picture.curves.push_back(
        {titleOf(all[looked]), all[looked].seconds, all[looked].fed, CurveLook::other, 0, titleOf(all[looked]), 0.98});
  curves().show(std::move(picture));
}

} // namespace vinegar::app

#include "moc_rows_view.cpp"
