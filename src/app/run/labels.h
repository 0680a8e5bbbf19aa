#pragma once

#include "run/glyphs.h"

#include <QColor>
#include <QPainter>
#include <QString>
#include <vector>

namespace vinegar::app {

/// An ink text and, where it differs, the pencilled one.
struct InkAndPencil {
  QString ink, pencil;
  bool operator==(const InkAndPencil&) const = default;
  [[nodiscard]] bool differs() const { return !pencil.isEmpty() && pencil != ink; }
};

/// `font` at that height, at least a legible one.
QFont pixelFont(QFont font, double pixels);

/// What is written beside a part's symbol: its name and value, in one row or below each other, and where that may be.
/// Grid units; the first place is the part's own, the others are for when something lies there.
class PartLabel {
public:
  PartLabel() = default; ///< no words
  PartLabel(const amp::Drawing::Part& part, const Glyph& glyph, const InkAndPencil& text, bool stressed);

  /// All of them; worked out when they are asked for, since most labels stay where they want to be.
  const std::vector<QRectF>& places();
  [[nodiscard]] QRectF wanted() const { return areas_.empty() ? QRectF() : areas_[0]; }
  void stand(std::size_t place) { place_ = place; }
  /// Where it stands; empty without words.
  [[nodiscard]] QRectF area() const { return areas_.empty() ? QRectF() : areas_[place_]; }
  void paint(QPainter& painter, double unit) const;
  /// Where each line lies when painted at that size, in pixels.
  [[nodiscard]] std::vector<QRectF> lineAreas(QPaintDevice* device, double unit) const;

private:
  enum class Shape { row, leftAligned, rightAligned };
  struct Piece { ///< of a line, with its own look
    enum class Ink { ink, quiet, pencil, danger };
    QString text;
    Ink ink = Ink::ink;
    bool bold = false, struck = false;
  };
  using Line = std::vector<Piece>;
  static double drawLine(QPainter* painter, QPaintDevice* device, QPointF at, const Line& line, double unit);
  static double width(const Line& line);
  template <typename F> void eachLine(QPaintDevice* device, double unit, const F& f) const;
  void addOwnPlace(const amp::Drawing::Part& part, const QRectF& body);
  void addPlacesAround();
  void add(Shape shape, QPointF topLeft);

  std::vector<Line> lines_; ///< below each other
  Line row_;                ///< the same in one
  double rowWidth_ = 0, columnWidth_ = 0, columnHeight_ = 0;
  QRectF body_; ///< of the symbol
  std::vector<QRectF> areas_;
  std::vector<Shape> shapes_;
  std::size_t place_ = 0;
};

} // namespace vinegar::app
