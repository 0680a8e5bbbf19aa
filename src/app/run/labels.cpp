#include "run/labels.h"

#include "theme/theme.h"

#include <QFontMetricsF>
#include <QImage>
#include <algorithm>
#include <cmath>

namespace vinegar::app {
namespace {

using amp::PartKind;

constexpr double size = 1.62, leading = 1.85; ///< of the letters, in grid steps
constexpr double cap = 0.75 * size;           ///< from a baseline to the top of its letters
constexpr double tall = 0.8 * size;

/// Letters are whole pixels high, so that at another size they may be a little wider than measured.
constexpr double spare = 1.05;

QImage& paper() {
  static thread_local QImage image(1, 1, QImage::Format_ARGB32);
  return image;
}

bool isVertical(const amp::Drawing::Part& part) {
  return part.place.direction == amp::Direction::down || part.place.direction == amp::Direction::up;
}

} // namespace

QFont pixelFont(QFont font, double pixels) {
  font.setPixelSize(std::max(6, static_cast<int>(std::lround(pixels))));
  return font;
}

PartLabel::PartLabel(const amp::Drawing::Part& part, const Glyph& glyph, const InkAndPencil& text, bool stressed) {
  using Ink = Piece::Ink;
  InkAndPencil label = text;
  if (part.kind == PartKind::selector && part.fitted) label = {QString::fromStdString(part.positionTitle), {}};
  // A wire in place of a part needs no words.
  if (!part.fitted && part.linkWhenAbsent && !label.differs()) return;
  const QString name = (stressed ? QStringLiteral("! ") : QString()) + QString::fromStdString(part.name);
  lines_.push_back({{name, stressed ? Ink::danger : part.fitted ? Ink::ink : Ink::quiet, true}});
  const bool tube = amp::hasType(part.kind) && part.kind != PartKind::diode;
  if (label.differs()) {
    if (!label.ink.isEmpty()) lines_.push_back({{label.ink, Ink::quiet, false, true}});
    lines_.push_back({{label.pencil, Ink::pencil, true}});
  } else {
    lines_.push_back(
        {{part.fitted ? label.ink : QStringLiteral("\u2014"), part.fitted && !tube ? Ink::ink : Ink::quiet}});
  }
  for (const auto& line : lines_)
    for (const auto& piece : line) {
      // A space of its own, which struck text must not strike.
      if (!row_.empty()) row_.push_back({QStringLiteral(" ")});
      row_.push_back(piece);
    }
  rowWidth_ = width(row_);
  for (const auto& line : lines_)
    columnWidth_ = std::max(columnWidth_, width(line));
  columnHeight_ = tall + leading * static_cast<double>(lines_.size() - 1);
  body_ = glyph.body;
  addOwnPlace(part, body_);
}

const std::vector<QRectF>& PartLabel::places() {
  if (areas_.size() == 1) addPlacesAround();
  return areas_;
}

void PartLabel::add(Shape shape, QPointF topLeft) {
  shapes_.push_back(shape);
  const auto area = shape == Shape::row ? QSizeF(rowWidth_, tall) : QSizeF(columnWidth_, columnHeight_);
  areas_.emplace_back(topLeft, area);
}

void PartLabel::addOwnPlace(const amp::Drawing::Part& part, const QRectF& body) {
  const bool isTwoPin = part.pins.size() == 2;
  if (isTwoPin && !isVertical(part) && part.kind != PartKind::selector) {
    const double baseline = part.place.labelLeft ? body.bottom() + 0.5 + size * 0.8 : body.top() - 0.55;
    return add(Shape::row, {body.center().x() - rowWidth_ / 2, baseline - cap});
  }
  const double height = leading * static_cast<double>(lines_.size());
  QPointF start; // left end of the first baseline
  if (part.kind == PartKind::pot)
    start = {part.place.at.x + (part.place.mirrored ? 1.7 : 3.5), part.place.at.y + (part.place.mirrored ? -0.2 : 2.3)};
  else if (part.kind == PartKind::springTank || (part.kind == PartKind::selector && !isVertical(part)))
    start = {body.left(), part.place.labelLeft ? body.bottom() + 0.4 + size : body.top() - 0.5 - height + leading};
  else if (part.kind == PartKind::pentode) // clear of the screen's lead at the right
    start = {body.right() + 0.75, body.center().y() + (part.place.direction == amp::Direction::up ? 1.65 : -2.35)};
  else if (part.kind == PartKind::powerTransformer) // below the primary
    start = {part.pins[0].x + 1, std::max(part.pins[0].y, part.pins[1].y) + 2.6};
  else if (part.kind == PartKind::rectifier)
    start = {body.left(), body.bottom() + 0.8 + size};
  else if (amp::hasType(part.kind) && part.kind != PartKind::diode)
    start = {body.right() + 0.75, body.top() + 0.5};
  else
    start = {body.right() + 1.0, body.center().y() - height / 2 + leading * 0.78};
  if (isTwoPin && isVertical(part) && part.place.labelLeft)
    return add(Shape::rightAligned, {body.left() - 0.9 - columnWidth_, start.y() - cap});
  add(Shape::leftAligned, {start.x(), start.y() - cap});
}

/// Beside it, above it and below it, the nearest first.
void PartLabel::addPlacesAround() {
  const auto& body = body_;
  const double x = body.center().x(), y = body.center().y();
  for (const double away : {0.0, 1.2, 2.4}) {
    for (const double aside : {0.0, -1.0, 1.0, -2.0, 2.0, -3.0, 3.0, -4.0, 4.0}) {
      if (std::abs(aside) > body.height() / 2 + columnHeight_ / 2) continue;
      add(Shape::leftAligned, {body.right() + 0.95 + away, y - columnHeight_ / 2 + aside});
      add(Shape::rightAligned, {body.left() - 0.95 - away - columnWidth_, y - columnHeight_ / 2 + aside});
    }
    const double above = body.top() - 0.95 - away, below = body.bottom() + 0.95 + away;
    for (const double aside : {0.0, -1.0, 1.0, -2.0, 2.0, -3.0, 3.0, -4.5, 4.5, -6.0, 6.0}) {
      if (std::abs(aside) <= body.width() / 2 + rowWidth_ / 2) {
        add(Shape::row, {x - rowWidth_ / 2 + aside, above - tall});
        add(Shape::row, {x - rowWidth_ / 2 + aside, below});
      }
      if (std::abs(aside) <= body.width() / 2 + columnWidth_ / 2) {
        add(Shape::leftAligned, {x - columnWidth_ / 2 + aside, above - columnHeight_});
        add(Shape::leftAligned, {x - columnWidth_ / 2 + aside, below});
      }
    }
    for (const double aside : {0.0, -1.0, 1.0, -2.0, 2.0, -3.0, 3.0}) {
      add(Shape::row, {body.right() + 0.95 + away, y - tall / 2 + aside});
      add(Shape::row, {body.left() - 0.95 - away - rowWidth_, y - tall / 2 + aside});
    }
  }
}

double PartLabel::drawLine(QPainter* painter, QPaintDevice* device, QPointF at, const Line& line, double unit) {
  const Theme& t = theme();
  const auto colour = [&](Piece::Ink ink) {
    switch (ink) {
    case Piece::Ink::quiet:
      return t.quiet;
    case Piece::Ink::pencil:
      return t.pencil;
    case Piece::Ink::danger:
      return t.danger;
    case Piece::Ink::ink:
      break;
    }
    return t.ink;
  };
  double x = at.x();
  for (const auto& piece : line) {
    auto font = pixelFont(textFont(9, piece.bold ? QFont::DemiBold : QFont::Normal), size * unit);
    font.setStrikeOut(piece.struck);
    if (painter) {
      painter->setFont(font);
      painter->setPen(colour(piece.ink));
      painter->drawText(QPointF(x, at.y()), piece.text);
    }
    x += QFontMetricsF(font, device).horizontalAdvance(piece.text);
  }
  return x - at.x();
}

double PartLabel::width(const Line& line) {
  constexpr double unit = 12;
  const auto metrics = [](QFont::Weight weight) {
    return QFontMetricsF(pixelFont(textFont(9, weight), size * unit), &paper());
  };
  // Never destroyed: at the end they would outlive the application that their fonts belong to.
  static const auto& normal = *new QFontMetricsF(metrics(QFont::Normal));
  static const auto& bold = *new QFontMetricsF(metrics(QFont::DemiBold));
  double sum = 0;
  for (const auto& piece : line)
    sum += (piece.bold ? bold : normal).horizontalAdvance(piece.text);
  return spare * sum / unit;
}

template <typename F> void PartLabel::eachLine(QPaintDevice* device, double unit, const F& f) const {
  if (areas_.empty()) return;
  const auto& area = areas_[place_];
  const auto shape = shapes_[place_];
  double baseline = (area.top() + cap) * unit;
  const auto put = [&](const Line& line) {
    double left = area.left() * unit;
    if (shape != Shape::leftAligned)
      left += (area.width() * unit - drawLine(nullptr, device, {}, line, unit)) * (shape == Shape::row ? 0.5 : 1);
    f(QPointF(left, baseline), line);
    baseline += leading * unit;
  };
  if (shape == Shape::row) return put(row_);
  for (const auto& line : lines_)
    put(line);
}

void PartLabel::paint(QPainter& painter, double unit) const {
  eachLine(painter.device(), unit,
           [&](QPointF at, const Line& line) { drawLine(&painter, painter.device(), at, line, unit); });
}

std::vector<QRectF> PartLabel::lineAreas(QPaintDevice* device, double unit) const {
  std::vector<QRectF> all;
  eachLine(device, unit, [&](QPointF at, const Line& line) {
    all.emplace_back(at.x(), at.y() - cap * unit, drawLine(nullptr, device, {}, line, unit), tall * unit);
  });
  return all;
}

} // namespace vinegar::app
