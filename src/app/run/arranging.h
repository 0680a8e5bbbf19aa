#pragma once

#include "amp/drawing/drawing.h"
#include "document/selection.h"

#include <QPainter>

namespace vinegar::app {

/// The run's arranging form: every section in its bracket, and a place to put something in before, between and after.
/// Areas are in grid units.
class Arranging {
public:
  Arranging(const amp::Drawing& drawing, const amp::Design& design);

  struct Placed {
    Piece piece;
    QRectF area;
    QString title; ///< of a section
    std::size_t chain;
    QRectF frame = {}; ///< of a section: what its parts and wires take
  };
  /// Brackets take in the words, by section's id, as far as the places beside them allow.
  void takeIn(const std::map<std::string, QRectF>& words);
  [[nodiscard]] const std::vector<Placed>& all() const { return all_; }
  /// The place or section under a point; none between them.
  [[nodiscard]] Piece at(QPointF grid) const;
  [[nodiscard]] QRectF area(const Piece& piece) const;
  /// Along the chain, or to the nearest of the chain above or below. The first when nothing is in hand.
  [[nodiscard]] Piece neighbour(const Piece& piece, amp::Direction direction) const;

  void paint(QPainter& painter, double unit, const Piece& inHand, bool focused) const;

private:
  [[nodiscard]] const Placed* find(const Piece& piece) const;
  std::vector<Placed> all_; ///< chain by chain, each from left to right
};

} // namespace vinegar::app
