#pragma once

#include <QRectF>
#include <cstddef>
#include <functional>
#include <vector>

namespace vinegar::app {

/// Areas that are taken, found again by place. Grid units; what lies outside `bounds` is kept at its edge.
class Room {
public:
  explicit Room(const QRectF& bounds);

  enum class Kind { still, mayMove };
  void take(const QRectF& area, Kind kind = Kind::still);
  void giveBack(const QRectF& area); ///< one that was taken and may move
  /// How badly `area` lies on what is taken: 0, or at least 1 for each area that it meets, and far more where that
  /// stands still.
  [[nodiscard]] double overlap(const QRectF& area) const;

private:
  template <typename F> void eachCell(const QRectF& area, const F& f);
  QRectF bounds_;
  double cellWidth_, cellHeight_;
  int columns_, rows_;
  struct Taken {
    QRectF area;
    Kind kind;
  };
  std::vector<std::vector<Taken>> cells_;
};

/// Which of its places each text takes, the first being the one that it would have by itself, so that none lies on
/// another or on what `room` holds; where that cannot be, so that as little as possible does. The same for the same
/// texts. `wanted`: the first of each, empty for no text; `places`: all of one's, asked for only when the first is
/// taken. `room` is as before afterwards. Some hundred microseconds for an amplifier.
std::vector<std::size_t> placeWords(const std::vector<QRectF>& wanted,
                                    const std::function<const std::vector<QRectF>&(std::size_t)>& places, Room& room);

} // namespace vinegar::app
