#include "run/glyphs.h"

#include <QTransform>
#include <cmath>

namespace vinegar::app {
namespace {

using amp::PartKind;

/// Two-pin symbols are made pointing right from (0, 0) to (6, 0), then turned into place.
Glyph resistor(ResistorStyle style) {
  Glyph g;
  QPainterPath p;
  p.moveTo(0, 0);
  p.lineTo(1.4, 0);
  if (style == ResistorStyle::zigzag) {
    const double step = 3.2 / 12;
    for (int i = 0; i < 6; ++i)
      p.lineTo(1.4 + step * (2 * i + 1), i % 2 ? 0.75 : -0.75);
    p.lineTo(4.6, 0);
  } else {
    p.addRect(1.4, -0.65, 3.2, 1.3);
    p.moveTo(4.6, 0);
  }
  p.lineTo(6, 0);
  g.outline = p;
  g.body = {1.4, -0.75, 3.2, 1.5};
  return g;
}

Glyph capacitor() {
  Glyph g;
  g.outline.moveTo(0, 0);
  g.outline.lineTo(2.65, 0);
  g.outline.moveTo(2.65, -1.3);
  g.outline.lineTo(2.65, 1.3);
  g.outline.moveTo(3.35, -1.3);
  g.outline.lineTo(3.35, 1.3);
  g.outline.moveTo(3.35, 0);
  g.outline.lineTo(6, 0);
  g.body = {2.4, -1.3, 1.2, 2.6};
  return g;
}

void coil(QPainterPath& path, double from, double to, int turns) {
  const double width = (to - from) / turns;
  for (int i = 0; i < turns; ++i)
    path.arcTo(QRectF(from + i * width, -width / 2, width, width), 180, -180);
}

Glyph inductor() {
  Glyph g;
  g.outline.moveTo(0, 0);
  g.outline.lineTo(1, 0);
  coil(g.outline, 1, 5, 4);
  g.outline.lineTo(6, 0);
  g.body = {1, -0.8, 4, 1.2};
  return g;
}

Glyph speaker() {
  Glyph g;
  g.outline.moveTo(0, 0);
  g.outline.lineTo(1.8, 0);
  g.outline.addRect(1.8, -0.7, 2.4, 1.4);
  g.outline.moveTo(4.2, 0);
  g.outline.lineTo(6, 0);
  // The horn opens to the upper side, which stands right once the symbol points down.
  g.outline.moveTo(1.8, -0.7);
  g.outline.lineTo(0.6, -2.3);
  g.outline.lineTo(5.4, -2.3);
  g.outline.lineTo(4.2, -0.7);
  g.body = {0.6, -2.3, 4.8, 3};
  return g;
}

Glyph pot(const amp::Place& place, ResistorStyle style) {
  Glyph g = resistor(style);
  QTransform down;
  down.translate(place.at.x, place.at.y - 3);
  down.rotate(90);
  g.outline = down.map(g.outline);
  const double side = place.mirrored ? -1 : 1;
  const QPointF wiper(place.at.x + 3 * side, place.at.y), tip(place.at.x + 0.75 * side, place.at.y);
  g.outline.moveTo(wiper);
  g.outline.lineTo(tip);
  g.filled.addPolygon(QPolygonF{tip, tip + QPointF(1.0 * side, -0.5), tip + QPointF(1.0 * side, 0.5), tip});
  g.body = {place.at.x - 0.75, place.at.y - 1.6, 1.5, 3.2};
  return g;
}

Glyph tube(const amp::Drawing::Part& part) {
  Glyph g;
  const QPointF c = at(part.place.at);
  const bool pentode = part.kind == PartKind::pentode;
  const double up = part.place.direction == amp::Direction::up ? -1 : 1; // -1: plate at the bottom
  auto& p = g.outline;
  p.addEllipse(c, 3, 3);
  const auto y = [&](double offset) { return c.y() + up * offset; };
  p.moveTo(c.x(), y(-4)); // plate
  p.lineTo(c.x(), y(-1.8));
  p.moveTo(c.x() - 1.6, y(-1.8));
  p.lineTo(c.x() + 1.6, y(-1.8));
  const auto dashed = [&](double row, double pinX) {
    for (const double x : {-1.5, -0.4, 0.7}) {
      p.moveTo(c.x() + x, row);
      p.lineTo(c.x() + x + 0.8, row);
    }
    p.moveTo(c.x() + pinX, c.y());
    if (row == c.y())
      p.lineTo(c.x() + (pinX < 0 ? -1.9 : 1.9), row);
    else {
      p.lineTo(c.x() + (pinX < 0 ? -2.3 : 2.3), c.y());
      p.lineTo(c.x() + (pinX < 0 ? -1.9 : 1.9), row);
    }
  };
  if (pentode) {
    dashed(y(-0.55), 4);
    dashed(y(0.65), -4);
  } else {
    dashed(c.y(), -4);
  }
  p.moveTo(c.x(), y(4)); // cathode
  p.lineTo(c.x(), y(2.0));
  p.moveTo(c.x() - 1.5, y(2.3));
  p.lineTo(c.x() - 1.5, y(1.9));
  p.lineTo(c.x() + 1.5, y(1.9));
  p.lineTo(c.x() + 1.5, y(2.3));
  g.body = {c.x() - 3, c.y() - 3, 6, 6};
  return g;
}

/// A winding from `top` to `bottom` at x, its turns bulging to the side of `bulge`.
void winding(QPainterPath& p, double x, double top, double bottom, double bulge) {
  const int turns = 4;
  const double lead = (bottom - top) * 0.12;
  p.moveTo(x, top);
  p.lineTo(x, top + lead);
  const double pitch = (bottom - top - 2 * lead) / turns;
  for (int i = 0; i < turns; ++i) {
    const QRectF turn(x - pitch / 2, top + lead + i * pitch, pitch, pitch);
    p.arcTo(turn, 90, bulge > 0 ? -180 : 180);
  }
  p.lineTo(x, bottom);
}

Glyph outputTransformer(const amp::Drawing::Part& part) {
  Glyph g;
  const QPointF c = at(part.place.at);
  auto& p = g.outline;
  const int windings = part.pins.size() == 7 ? 4 : part.pins.size() == 5 ? 2 : 1;
  const double half = windings > 1 ? 8 : 4;
  const double length = 2 * half / windings;
  for (int w = 0; w < windings; ++w) {
    const double top = c.y() - half + w * length;
    winding(p, c.x(), top, top + length, 1);
    if (w == 0) continue;
    p.moveTo(c.x() - 2, top);
    p.lineTo(c.x(), top);
  }
  winding(p, c.x() + 6, c.y() - 4, c.y() + 4, -1);
  const double core = half - 1;
  for (const double x : {2.7, 3.3}) {
    p.moveTo(c.x() + x, c.y() - core);
    p.lineTo(c.x() + x, c.y() + core);
  }
  g.body = {c.x() - 0.5, c.y() - half + 0.5, 6.5, 2 * half - 1};
  return g;
}

Glyph powerTransformer(const amp::Drawing::Part& part) {
  Glyph g;
  auto& p = g.outline;
  const double x = part.place.at.x;
  winding(p, x + 6, part.pins[0].y, part.pins[1].y, -1);
  double top = part.pins[0].y, bottom = part.pins[1].y;
  std::size_t pin = 2;
  for (const auto taps : part.windingTaps)
    for (std::size_t tap = 0; tap < taps; ++tap, ++pin) {
      top = std::min(top, part.pins[pin].y);
      bottom = std::max(bottom, part.pins[pin].y);
      if (tap > 0) winding(p, x, part.pins[pin - 1].y, part.pins[pin].y, 1);
    }
  for (const double core : {2.7, 3.3}) {
    p.moveTo(x + core, top + 0.5);
    p.lineTo(x + core, bottom - 0.5);
  }
  g.body = {x + 1.2, top + 0.5, 3.6, bottom - top - 1};
  return g;
}

/// The common at the left, the lever lying on the throw it stands at.
Glyph selector(const amp::Drawing::Part& part) {
  Glyph g;
  auto& p = g.outline;
  const auto throws = static_cast<int>(part.pins.size()) - 1;
  const auto y = [&](int t) { return 4.0 * (t - (throws - 1) / 2.0); };
  p.lineTo(1.2, 0);
  p.addEllipse(QPointF(1.5, 0), 0.3, 0.3);
  for (int t = 0; t < throws; ++t) {
    p.addEllipse(QPointF(4.5, y(t)), 0.3, 0.3);
    p.moveTo(4.8, y(t));
    p.lineTo(6, y(t));
  }
  p.moveTo(1.5, -0.3);
  if (part.standsAt > 0)
    p.lineTo(4.4, y(part.standsAt - 1) + (y(part.standsAt - 1) > 0 ? -0.4 : y(part.standsAt - 1) < 0 ? 0.4 : -0.3));
  else
    p.lineTo(3.9, -1.8 + (throws % 2 ? 0 : 1.8));
  g.body = QRectF(QPointF(1.2, std::min(y(0), -1.8) - 0.3), QPointF(4.8, y(throws - 1) + 0.5));
  return g;
}

Glyph zener() {
  Glyph g;
  auto& p = g.outline;
  p.lineTo(2.2, 0);
  p.moveTo(3.9, -1.3); // the bar's ends turn
  p.lineTo(3.6, -1);
  p.lineTo(3.6, 1);
  p.lineTo(3.3, 1.3);
  p.moveTo(3.6, 0);
  p.lineTo(6, 0);
  g.filled.addPolygon(QPolygonF{{2.2, -1}, {3.6, 0}, {2.2, 1}, {2.2, -1}});
  g.body = {2.2, -1.3, 1.7, 2.6};
  return g;
}

Glyph diode() {
  Glyph g;
  auto& p = g.outline;
  p.lineTo(2.2, 0);
  p.moveTo(3.6, -1);
  p.lineTo(3.6, 1);
  p.moveTo(3.6, 0);
  p.lineTo(6, 0);
  g.filled.addPolygon(QPolygonF{{2.2, -1}, {3.6, 0}, {2.2, 1}, {2.2, -1}});
  g.body = {2.2, -1, 1.5, 2};
  return g;
}

/// A wire in its tube.
Glyph fuse() {
  Glyph g;
  g.outline.lineTo(6, 0);
  g.outline.addRect(1.5, -0.6, 3, 1.2);
  g.body = {1.5, -0.7, 3, 1.4};
  return g;
}

Glyph mains() {
  Glyph g;
  auto& p = g.outline;
  p.lineTo(1.2, 0);
  p.addEllipse(QPointF(3, 0), 1.8, 1.8);
  p.moveTo(4.8, 0);
  p.lineTo(6, 0);
  p.moveTo(3, 1.1);
  p.cubicTo(1.6, 0.55, 2.3, 0.1, 3, 0);
  p.cubicTo(3.7, -0.1, 4.4, -0.55, 3, -1.1);
  g.body = {1.2, -1.8, 3.6, 3.6};
  return g;
}

/// The folded wire of a heater.
Glyph heaters() {
  Glyph g;
  auto& p = g.outline;
  p.lineTo(1.6, 0);
  p.lineTo(3, -1.6);
  p.lineTo(4.4, 0);
  p.lineTo(6, 0);
  g.body = {1.5, -1.7, 3, 2};
  return g;
}

/// Two plates at the right, the cathode that is common at the left.
Glyph rectifier(const amp::Drawing::Part& part) {
  Glyph g;
  const double x = part.place.at.x, y = part.place.at.y;
  auto& p = g.outline;
  if (part.silicon) {
    for (const double row : {-2.0, 2.0}) {
      p.moveTo(x + 4, y + row);
      p.lineTo(x + 0.7, y + row);
      p.moveTo(x - 0.7, y + row - 1);
      p.lineTo(x - 0.7, y + row + 1);
      p.moveTo(x - 0.7, y + row);
      p.lineTo(x - 2.4, y + row);
      g.filled.addPolygon(
          QPolygonF{{x + 0.7, y + row - 1}, {x - 0.7, y + row}, {x + 0.7, y + row + 1}, {x + 0.7, y + row - 1}});
    }
    p.moveTo(x - 2.4, y - 2);
    p.lineTo(x - 2.4, y + 2);
    p.moveTo(x - 2.4, y);
  } else {
    p.addEllipse(QPointF(x, y), 3, 3);
    for (const double row : {-1.0, 1.0}) {
      p.moveTo(x + 4, y + 2 * row);
      p.lineTo(x + 1.5, y + 2 * row);
      p.lineTo(x + 1.5, y + 1.4 * row);
      p.moveTo(x + 0.9, y + 1.4 * row - 0.9);
      p.lineTo(x + 0.9, y + 1.4 * row + 0.9);
      p.moveTo(x + 0.9, y + 1.4 * row);
      p.lineTo(x + 1.5, y + 1.4 * row);
    }
    p.moveTo(x - 1.2, y - 1.7);
    p.lineTo(x - 1.6, y - 1.7);
    p.lineTo(x - 1.6, y + 1.7);
    p.lineTo(x - 1.2, y + 1.7);
    p.moveTo(x - 1.6, y);
  }
  p.lineTo(x - 4, y);
  g.body = {x - 3, y - 3, 6, 6};
  return g;
}

/// A pan with a spring in it.
Glyph springTank(const amp::Point& pin) {
  Glyph g;
  auto& p = g.outline;
  p.addRect(pin.x + 1, pin.y - 3, 10, 6);
  for (const double y : {-2.0, 2.0}) {
    p.moveTo(pin.x, pin.y + y);
    p.lineTo(pin.x + 1, pin.y + y);
    p.moveTo(pin.x + 11, pin.y + y);
    p.lineTo(pin.x + 12, pin.y + y);
  }
  for (const double y : {-1.0, 1.0}) {
    p.moveTo(pin.x + 2.5, pin.y + y);
    for (int i = 0; i < 14; ++i)
      p.lineTo(pin.x + 2.75 + 0.5 * i, pin.y + y + (i % 2 ? 0.5 : -0.5));
    p.lineTo(pin.x + 9.5, pin.y + y);
  }
  g.body = {pin.x + 1, pin.y - 3, 10, 6};
  return g;
}

Glyph source(const amp::Point& pin, bool dc, bool negative = false) {
  Glyph g;
  auto& p = g.outline;
  const double x = pin.x, y = pin.y;
  p.moveTo(x, y);
  p.lineTo(x, y + 1.8);
  p.addEllipse(QPointF(x, y + 3.6), 1.8, 1.8);
  p.moveTo(x, y + 5.4);
  p.lineTo(x, y + 6);
  if (dc) {
    const double plus = negative ? 4.4 : 3, minus = negative ? 2.8 : 4.6;
    p.moveTo(x - 0.7, y + plus);
    p.lineTo(x + 0.7, y + plus);
    p.moveTo(x, y + plus - 0.7);
    p.lineTo(x, y + plus + 0.7);
    p.moveTo(x - 0.7, y + minus);
    p.lineTo(x + 0.7, y + minus);
  } else {
    p.moveTo(x - 1.1, y + 3.6);
    p.cubicTo(x - 0.5, y + 1.9, x - 0.1, y + 2.6, x, y + 3.6);
    p.cubicTo(x + 0.1, y + 4.6, x + 0.5, y + 5.3, x + 1.1, y + 3.6);
  }
  p.addPath(groundGlyph({x, y + 6}));
  g.body = {x - 1.8, y + 1.8, 3.6, 3.6};
  return g;
}

} // namespace

Glyph glyphFor(const amp::Drawing::Part& part, ResistorStyle style) {
  switch (part.kind) {
  case PartKind::pot:
    return pot(part.place, style);
  case PartKind::triode:
  case PartKind::pentode:
    return tube(part);
  case PartKind::outputTransformer:
  case PartKind::transformer:
    return outputTransformer(part);
  case PartKind::powerTransformer:
    return powerTransformer(part);
  case PartKind::rectifier:
    return rectifier(part);
  case PartKind::springTank:
    return springTank(part.place.at);
  case PartKind::signalSource:
    return source(part.place.at, false);
  case PartKind::voltageSource:
    return source(part.place.at, true);
  case PartKind::biasSource:
    return source(part.place.at, true, true);
  default:
    break;
  }
  Glyph g = part.kind == PartKind::resistor    ? resistor(style)
            : part.kind == PartKind::capacitor ? capacitor()
            : part.kind == PartKind::inductor  ? inductor()
            : part.kind == PartKind::selector  ? selector(part)
            : part.kind == PartKind::zener     ? zener()
            : part.kind == PartKind::diode     ? diode()
            : part.kind == PartKind::fuse      ? fuse()
            : part.kind == PartKind::mains     ? mains()
            : part.kind == PartKind::heaters   ? heaters()
                                               : speaker();
  if (!part.fitted && part.linkWhenAbsent) {
    g.outline = QPainterPath();
    g.outline.lineTo(6, 0);
  }
  QTransform turn;
  turn.translate(part.place.at.x, part.place.at.y);
  constexpr double angles[] = {0, 90, 180, 270};
  turn.rotate(angles[static_cast<int>(part.place.direction)]);
  g.outline = turn.map(g.outline);
  g.filled = turn.map(g.filled);
  g.body = turn.mapRect(g.body);
  return g;
}

QPainterPath groundGlyph(const amp::Point& at) {
  QPainterPath p;
  constexpr double widths[] = {1.3, 0.8, 0.35};
  for (int i = 0; i < 3; ++i) {
    p.moveTo(at.x - widths[i], at.y + 0.5 * i + 0.1);
    p.lineTo(at.x + widths[i], at.y + 0.5 * i + 0.1);
  }
  return p;
}

} // namespace vinegar::app
