#include "pages/feel/causes_view.h"

#include "widgets/readings.h"

#include <cmath>

namespace vinegar::app {

using predict::FeelRow;
using predict::FeelSubject;
using units::Unit;
using CurveLook = CurvePlot::Look;

CausesView::CausesView(Page& page, PhraseBox& phrases)
    : RowsView(page, phrases, FeelSubject::makers,
               {"causesAnswer", "causes", tr("What the droop is made of"), tr("causes"), tr("causes-table")}) {
  setShares(2, 3);
  connect(&sheet(), &FigureSheet::cellTaken, this, [this](int at, int) {
    const auto* all = rows();
    if (!all || static_cast<std::size_t>(at) >= all->rows.size()) return;
    if (const auto& part = all->rows[static_cast<std::size_t>(at)].part; !part.empty()) select(part);
  });
}

void CausesView::put() {
  RowsView::put();
  blame_.askAfresh(burst(middling));
}

void CausesView::fillSheet() {
  const auto& all = rows()->rows;
  const double droop = all.front().dip.droop();
  std::vector<FigureSheet::Row> lines;
  for (const auto& row : all) {
    FigureSheet::Row line;
    line.cells.push_back({titleOf(row), tr(row.about.c_str()), false, row.now, true});
    line.cells.push_back(
        {row.now ? tr("the whole droop") : tr(row.about.c_str()), tr(row.about.c_str()), false, false, true});
    if (row.problem) {
      line.cells.push_back({noReading(), QString::fromStdString(row.problem->line())});
      line.cells.push_back({noReading()});
    } else {
      line.cells.push_back({readingOf(row.dip.droop(), Unit::volt), {}, false, false, false, row.dip.droop()});
      const double takes = droop - row.dip.droop();
      line.cells.push_back(row.now ? FigureSheet::Cell{QString()}
                                   : FigureSheet::Cell{signedVolts(takes), tr("What the droop loses without it"), false,
                                                       true, false, takes});
    }
    lines.push_back(std::move(line));
  }
  sheet().setStretched({1});
  sheet().setSheet({tr("part"), tr("as if it were perfect"), tr("droop"), tr("part of the droop")}, std::move(lines));
}

QString CausesView::said() const {
  const auto& all = rows()->rows;
  const FeelRow* most = nullptr;
  for (const auto& row : all)
    if (!row.problem && !row.now && (!most || row.dip.droop() < most->dip.droop())) most = &row;
  auto text = tr("%1 sags by %2").arg(railWords(rows()->rail), droopWords(all.front().dip));
  if (most)
    text += tr("; most of it is %1's: without, %2").arg(titleOf(*most), readingOf(most->dip.droop(), Unit::volt));
  if (const auto* blame = blame_->nowValue()) {
    const auto at = [&](const std::vector<double>& of) {
      double most = 0;
      for (const double one : of)
        if (std::isfinite(one)) most = std::max(most, one);
      return QString::number(most, 'f', 1);
    };
    text += tr(". Of the sound, the supply takes up to %1 dB, bias %2, blocking %3")
                .arg(at(blame->supply), at(blame->bias), at(blame->blocking));
  }
  return text;
}

void CausesView::drawCurves() {
  const auto* blame = blame_->nowValue();
  if (!blame) return;
  CurvePlot::Picture picture;
  picture.title = tr("Blame");
  picture.xLabel = tr("seconds");
  picture.xUnit = tr("s");
  picture.panes.push_back({tr("taken from the output, dB"), tr("dB")});
  const auto add = [&](const QString& name, const std::vector<double>& decibels, CurveLook look, double at) {
    CurvePlot::Curve curve{name, {}, {}, look, 0, name, at};
    for (std::size_t k = 0; k < decibels.size(); ++k)
      if (std::isfinite(decibels[k])) {
        curve.x.push_back(blame->seconds[k]);
        curve.y.push_back(decibels[k]);
      }
    if (!curve.x.empty()) picture.curves.push_back(std::move(curve));
  };
  add(tr("supply"), blame->supply, CurveLook::ink, 0.9);
  if (blame->holdsBias) add(tr("bias"), blame->bias, CurveLook::inkThin, 0.7);
  add(tr("blocking"), blame->blocking, CurveLook::ground, 0.5);
  curves().show(std::move(picture));
}

} // namespace vinegar::app

#include "moc_causes_view.cpp"
