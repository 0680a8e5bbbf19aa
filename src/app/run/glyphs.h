#pragma once

#include "amp/drawing/drawing.h"
#include "document/settings.h"

#include <QPainterPath>
#include <QRectF>

namespace vinegar::app {

inline QPointF at(const amp::Point& p) { return {p.x, p.y}; }

/// The outline of a part's symbol in grid units, leads included, and what of it is filled.
struct Glyph {
  QPainterPath outline;
  QPainterPath filled;
  QRectF body; ///< the symbol without its leads
};

Glyph glyphFor(const amp::Drawing::Part& part, ResistorStyle style);
QPainterPath groundGlyph(const amp::Point& at);

} // namespace vinegar::app
