#pragma once

#include "plots/curve_plot.h"

#include <QPen>

namespace vinegar::app {

bool isPencil(CurvePlot::Look look);
QPen penFor(CurvePlot::Look look);
/// How its line goes, for a line of text.
QString markFor(CurvePlot::Look look);

/// What is drawn above all else and alone while a value is turned: the pencil, and what follows it.
inline bool isLive(const CurvePlot::Curve& curve) { return isPencil(curve.look); }
inline bool isLive(const CurvePlot::Path& path) { return path.signal || isPencil(path.look); }
inline bool isLive(const CurvePlot::Dot& dot) { return isPencil(dot.look); }

} // namespace vinegar::app
