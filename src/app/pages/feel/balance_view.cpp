#include "pages/feel/balance_view.h"

#include "widgets/readings.h"

#include <algorithm>

namespace vinegar::app {

using predict::FeelSubject;
using units::Unit;
using CurveLook = CurvePlot::Look;

BalanceView::BalanceView(Page& page, PhraseBox& phrases)
    : RowsView(page, phrases, FeelSubject::balance,
               {"balanceAnswer", "balance", tr("Ripple and droop by reservoir"), tr("balance"), tr("balance-table")}) {
  setShares(3, 2);
}

QString BalanceView::said() const {
  const auto& now = rows()->rows.front();
  return tr("%1: ripple %2 pp while played, droop %3. Lower: less ripple. Left: stiffer. \u00d7: over a rating")
      .arg(titleOf(now), readingOf(now.rippleVolts, Unit::volt, 2), percentOf(now.dip.share()));
}

void BalanceView::drawCurves() {
  CurvePlot::Picture picture;
  picture.title = tr("Balance");
  picture.xLabel = tr("droop, % of B+");
  picture.xUnit = tr("%");
  picture.silent = true;
  picture.panes.push_back({tr("ripple, V pp"), tr("V")});
  const auto& all = rows()->rows;
  std::vector<std::string> groups;
  for (const auto& row : all)
    if (!row.group.empty() && std::find(groups.begin(), groups.end(), row.group) == groups.end())
      groups.push_back(row.group);
  double left = 1e9, right = 0, top = 0;
  for (std::size_t g = 0; g < groups.size(); ++g) {
    CurvePlot::Path path;
    path.name = QString::fromStdString(groups[g]);
    path.look = g == 0 ? CurveLook::ink : g == 1 ? CurveLook::other : CurveLook::another;
    if (g > 0) path.label = path.name;
    path.labelAt = 0;
    std::size_t last = 0;
    for (std::size_t i = 0; i < all.size(); ++i)
      if (!all[i].problem && all[i].group == groups[g]) last = i;
    for (const auto& row : all) {
      if (row.problem || row.group != groups[g]) continue;
      const double x = 100 * row.dip.share();
      path.x.push_back(x);
      path.y.push_back(row.rippleVolts);
      left = std::min(left, x);
      right = std::max(right, x);
      top = std::max(top, row.rippleVolts);
      CurvePlot::Dot dot;
      dot.x = x;
      dot.y = row.rippleVolts;
      dot.look = path.look;
      const bool allowed = row.against.empty();
      // The first and the last of the design's own: between them they are in the order of the stock list.
      if (g == 0 && (path.x.size() == 1 || &row == &all[last])) dot.word = readingOf(row.farads, Unit::farad, 2);
      if (!allowed) dot.word = g == 0 ? QStringLiteral("\u2715 %1").arg(dot.word) : QStringLiteral("\u2715");
      dot.bare = !allowed;
      picture.dots.push_back(dot);
    }
    picture.paths.push_back(std::move(path));
  }
  CurvePlot::Dot now;
  now.x = 100 * all.front().dip.share();
  now.y = all.front().rippleVolts;
  now.word = tr("now");
  now.below = true;
  picture.dots.push_back(now);
  const double wide = std::max(right - left, 0.5);
  picture.axes = QRectF(left - 0.15 * wide, 0, 1.3 * wide, 1.15 * std::max(top, 1e-3));
  curves().show(std::move(picture));
}

} // namespace vinegar::app

#include "moc_balance_view.cpp"
