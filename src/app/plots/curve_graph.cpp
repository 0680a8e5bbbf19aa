#include "plots/curve_graph.h"

#include <algorithm>
#include <cmath>

namespace vinegar::app {
namespace {

/// The shares of a line between which it lies in `area`; false where it does not (Y.-D. Liang and B. A. Barsky, ACM
/// Transactions on Graphics, 1984). Far off the picture a line may be millions of pixels long.
bool clip(const QLineF& line, const QRectF& area, double& from, double& to) {
  from = 0;
  to = 1;
  for (const auto& [step, room] : {std::pair{-line.dx(), line.x1() - area.left()},
                                   {line.dx(), area.right() - line.x1()},
                                   {-line.dy(), line.y1() - area.top()},
                                   {line.dy(), area.bottom() - line.y1()}}) {
    if (step == 0) {
      if (room < 0) return false;
      continue;
    }
    const double share = room / step;
    if (step < 0)
      from = std::max(from, share);
    else
      to = std::min(to, share);
  }
  return from < to;
}

/// Draws the line if it is dashed; on paper a dashed line stays one line.
bool drawDashed(QCPPainter* painter, const QVector<QPointF>& lines, const QRect& area) {
  auto pattern = painter->pen().dashPattern();
  if (painter->pen().style() == Qt::SolidLine || pattern.isEmpty() ||
      painter->modes().testFlag(QCPPainter::pmVectorized))
    return false;
  const double width = std::max(painter->pen().widthF(), 1.0);
  for (auto& piece : pattern)
    piece *= width;
  QPen pen = painter->pen();
  pen.setStyle(Qt::SolidLine);
  pen.setCapStyle(Qt::FlatCap);
  painter->setPen(pen);
  painter->drawLines(dashes(lines, pattern, QRectF(area).adjusted(-width, -width, width, width)));
  return true;
}

} // namespace

std::vector<std::size_t> neededPoints(const std::vector<QPointF>& points) {
  constexpr double tolerance = 0.1;
  std::vector<std::size_t> kept;
  std::size_t from = 0;
  while (from < points.size()) {
    kept.push_back(from);
    // The cone of slopes that pass all points seen so far.
    double low = -INFINITY, high = INFINITY;
    std::size_t to = from + 1;
    const bool back = to < points.size() && points[to].x() < points[from].x();
    for (; to < points.size(); ++to) {
      const QPointF d = points[to] - points[from];
      if (!(back ? d.x() < 0 : d.x() > 0)) break;
      const double slope = d.y() / d.x();
      if (slope < low || slope > high) break;
      // Across the line, not down it: a steep line stays as close.
      const double room = tolerance * std::hypot(1, slope) / std::abs(d.x());
      low = std::max(low, slope - room);
      high = std::min(high, slope + room);
    }
    from = std::max(from + 1, to - 1);
  }
  return kept;
}

QVector<QLineF> dashes(const QVector<QPointF>& points, const QVector<double>& pattern, const QRectF& area) {
  constexpr double leastPiece = 1e-3;
  double period = 0;
  for (const double piece : pattern)
    period += std::max(piece, leastPiece);
  QVector<QLineF> drawn;
  double run = 0; // along the whole line, modulo the period
  for (qsizetype i = 0; i + 1 < points.size(); ++i) {
    const QLineF line(points[i], points[i + 1]);
    const double length = line.length();
    double from = 0, to = 0;
    if (!std::isfinite(length) || !(length > 0)) continue;
    if (clip(line, area, from, to)) {
      double phase = std::fmod(run + from * length, period);
      qsizetype piece = 0;
      while (piece + 1 < pattern.size() && phase >= pattern[piece])
        phase -= pattern[piece++];
      for (double at = from * length; at < to * length;) {
        const double end = std::min(at + std::max(pattern[piece] - phase, leastPiece), to * length);
        if (piece % 2 == 0) drawn << QLineF(line.pointAt(at / length), line.pointAt(end / length));
        if (end == at) break; // further off than numbers tell apart
        at = end;
        phase = 0;
        piece = (piece + 1) % pattern.size();
      }
    }
    run = std::fmod(run + length, period);
  }
  return drawn;
}

void CurveGraph::setCurve(const std::vector<double>& keys, const std::vector<double>& values) {
  std::vector<QPointF> points;
  points.reserve(keys.size());
  for (std::size_t k = 0; k < keys.size(); ++k)
    points.emplace_back(keyAxis()->coordToPixel(keys[k]), valueAxis()->coordToPixel(values[k]));
  QVector<double> keptKeys, keptValues;
  for (const std::size_t k : neededPoints(points)) {
    keptKeys.push_back(keys[k]);
    keptValues.push_back(values[k]);
  }
  setData(keptKeys, keptValues, true);
}

void CurveGraph::drawLinePlot(QCPPainter* painter, const QVector<QPointF>& lines) const {
  if (!drawDashed(painter, lines, clipRect())) QCPGraph::drawLinePlot(painter, lines);
}

void PathCurve::drawCurveLine(QCPPainter* painter, const QVector<QPointF>& lines) const {
  if (painter->pen().style() == Qt::NoPen) return;
  QVector<QPointF> needed;
  for (const std::size_t k : neededPoints({lines.begin(), lines.end()}))
    needed.push_back(lines[static_cast<qsizetype>(k)]);
  applyDefaultAntialiasingHint(painter);
  if (!drawDashed(painter, needed, clipRect())) QCPCurve::drawCurveLine(painter, needed);
}

} // namespace vinegar::app
