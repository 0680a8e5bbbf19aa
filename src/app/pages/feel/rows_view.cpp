#include "pages/feel/rows_view.h"

#include "tell/feel.h"
#include "theme/text.h"
#include "widgets/readings.h"
#include "widgets/told.h"

#include <QLabel>
#include <cmath>

namespace vinegar::app {
namespace {

using predict::FeelRow;
using predict::FeelSubject;
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

void RowsView::fillSheet() {
  Told<FeelRow> told{true};
  told.cells["with"] = [](const FeelRow& row, FigureSheet::Cell& cell) {
    cell.tip = tr(row.about.c_str());
    cell.strong = row.now;
  };
  told.cells["against_count"] = [](const FeelRow& row, FigureSheet::Cell& cell) {
    if (row.problem || row.against.empty()) cell = {};
    cell.tip = againstOf(row);
  };
  told.cells["droop_share"] = [](const FeelRow&, FigureSheet::Cell& cell) { cell.strong = true; };
  told.cells["hottest_share"] = [](const FeelRow& row, FigureSheet::Cell& cell) {
    cell.tip = tr("The hottest plate at idle, %1's, of its rating").arg(QString::fromStdString(row.hottest));
  };
  told.cells["rebias"] = [](const FeelRow& row, FigureSheet::Cell& cell) {
    if (row.rebiased.empty()) cell.text.clear();
    cell.tip = row.rebias.empty()
                   ? QString()
                   : tr("Keeps the output tubes' idle dissipation. A click pencils %1 with it").arg(titleOf(row));
  };
  told.finish = [this](const FeelRow& row, FigureSheet::Row& line) {
    if (!row.changes.empty()) letPencil(line, page().session(), row.changes, titleOf(row));
    if (row.now) line.stands = tr("now");
  };
  const auto columns = tell::feelRows(subject_);
  showTold(sheet(), columns, rows()->rows, told);
  rebiasColumn_ = toldColumn(columns, "rebias");
  sheet().setStretched({toldColumn(columns, "against") + 1}); // after the buttons
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
