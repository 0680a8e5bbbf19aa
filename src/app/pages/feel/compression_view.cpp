#include "pages/feel/compression_view.h"

#include "pages/kit/input_box.h"
#include "tell/compression.h"
#include "theme/text.h"
#include "widgets/readings.h"
#include "widgets/told.h"

#include <QLabel>
#include <cmath>

namespace vinegar::app {
namespace {

using predict::Compression;
using Look = CurvePlot::Look;

constexpr double noticed = 1; ///< dB

QString decibels(double value) { return QStringLiteral("%1 dB").arg(std::abs(value) < 0.05 ? 0 : value, 0, 'f', 1); }

} // namespace

CompressionView::CompressionView(Page& page, PhraseBox& phrases)
    : FeelView(page, phrases,
               {"compressionAnswer", "compression", tr("Output against input"), tr("compression"),
                tr("compression-table")}) {
  setShares(4, 5);
}

void CompressionView::draw() {
  const auto *now = standing(*compression_), *ink = compression_->inkValue();
  if (!now) return;
  say(said(*now, ink != now ? ink : nullptr), compression_.isCoarse());
  CurvePlot::Picture picture;
  picture.title = tr("Compression");
  picture.xLabel = tr("input, dB over what is played now");
  picture.xUnit = tr("dB");
  picture.panes.push_back({tr("under a straight line, dB"), tr("dB")});
  const double standing = now->rows[now->now].inputPeak;
  for (const auto& side : compression_->sides) {
    const auto* all = side.get();
    if (!all || (side.side.look != Side::Look::ink && side.side.look != Side::Look::active)) continue;
    const bool inked = side.side.look == Side::Look::ink;
    CurvePlot::Curve attack{tr("struck, %1").arg(side.side.name), {}, {}, inked ? Look::inkThin : Look::pencilThin};
    CurvePlot::Curve late{tr("late, %1").arg(side.side.name), {}, {}, inked ? Look::ink : Look::pencil};
    for (const auto& row : all->rows) {
      if (row.problem) continue;
      attack.x.push_back(20 * std::log10(row.inputPeak / standing));
      attack.y.push_back(row.attack);
      late.x.push_back(attack.x.back());
      late.y.push_back(row.late);
    }
    if (inked) {
      attack.label = tr("struck");
      late.label = tr("late");
      attack.labelAt = 0.75;
      late.labelAt = 0.9;
    }
    picture.curves.push_back(std::move(attack));
    picture.curves.push_back(std::move(late));
  }
  picture.marks.push_back({0, tr("now"), true});
  picture.cursorAt = 0;
  curves().show(std::move(picture));
  fillSheet(*now, ink != now ? ink : nullptr);
}

QString CompressionView::said(const Compression& now, const Compression* ink) const {
  const auto& row = now.rows[now.now];
  if (row.problem) return QString::fromStdString(row.problem->line());
  auto text = tr("At %1 rms in: %2 of compression sustained, %3 on the attack")
                  .arg(InputBox::level(row.inputPeak), decibels(row.late), decibels(row.attack));
  if (now.hasSupply) text += tr("; the supply's part %1").arg(decibels(row.bySupply));
  if (ink && !ink->rows[ink->now].problem) text += tr("; in ink %1").arg(decibels(ink->rows[ink->now].late));
  if (const auto from = now.passes(noticed))
    text += tr(". It passes %1 dB from %2 on").arg(noticed).arg(InputBox::level(*from));
  return text;
}

void CompressionView::fillSheet(const Compression& now, const Compression* ink) {
  Told<predict::CompressionRow> told;
  told.besides(ink ? &ink->rows : nullptr, [](const auto& a, const auto& b) { return a.inputPeak == b.inputPeak; });
  told.finish = [&](const predict::CompressionRow& row, FigureSheet::Row& line) {
    line.cells.front().strong = &row == &now.rows[now.now];
  };
  showTold(sheet(), tell::compressionRows(now.hasSupply), now.rows, told);
  sheet().setStretched({sheet().columnCount() - 1});
}

} // namespace vinegar::app

#include "moc_compression_view.cpp"
