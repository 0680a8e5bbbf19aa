#pragma once

#include <qcustomplot.h>
#include <vector>

namespace vinegar::app {

/// A graph that costs by what is seen of it: it holds the points that a drawn curve needs, and draws its own dashes as
/// separate lines, since the painter's stroker takes five times as long over a dashed polyline.
class CurveGraph : public QCPGraph {
public:
  using QCPGraph::QCPGraph;

  /// Of a curve, on the axes as they stand now; after another range or size it must be given anew.
  void setCurve(const std::vector<double>& keys, const std::vector<double>& values);

protected:
  void drawLinePlot(QCPPainter* painter, const QVector<QPointF>& lines) const override;
};

/// The same for a way over a plane, which may turn back.
class PathCurve : public QCPCurve {
public:
  using QCPCurve::QCPCurve;

protected:
  void drawCurveLine(QCPPainter* painter, const QVector<QPointF>& lines) const override;
};

/// The points without which a curve would be drawn elsewhere: between two that are kept, the straight line passes
/// within a tenth of a pixel of every one left out, within an eighth where the curve bends sharply.
std::vector<std::size_t> neededPoints(const std::vector<QPointF>& points);
/// The drawn pieces of a dashed line as far as they lie in `area`; `pattern` in pixels, drawn and left out in turn.
/// Their number is bounded by what `area` holds, however far the line runs.
QVector<QLineF> dashes(const QVector<QPointF>& line, const QVector<double>& pattern, const QRectF& area);

} // namespace vinegar::app
