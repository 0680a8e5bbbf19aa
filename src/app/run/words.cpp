#include "run/words.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace vinegar::app {
namespace {
constexpr double still = 100; ///< what stands still weighs more than a text, which can make way
constexpr double cell = 4;    ///< least size of one, grid steps
constexpr double mostColumns = 1000,
                 mostRows = 200; ///< of a run that is larger than any amplifier's the cells are larger
} // namespace

Room::Room(const QRectF& bounds)
    : bounds_(bounds), cellWidth_(std::max(cell, bounds.width() / mostColumns)),
      cellHeight_(std::max(cell, bounds.height() / mostRows)),
      columns_(std::max(1, static_cast<int>(std::ceil(bounds.width() / cellWidth_)))),
      rows_(std::max(1, static_cast<int>(std::ceil(bounds.height() / cellHeight_)))),
      cells_(static_cast<std::size_t>(columns_) * static_cast<std::size_t>(rows_)) {}

template <typename F> void Room::eachCell(const QRectF& area, const F& f) {
  const auto index = [](double aside, double size, int count) {
    return static_cast<int>(std::clamp(std::floor(aside / size), 0.0, count - 1.0));
  };
  const int left = index(area.left() - bounds_.left(), cellWidth_, columns_),
            right = index(area.right() - bounds_.left(), cellWidth_, columns_),
            top = index(area.top() - bounds_.top(), cellHeight_, rows_),
            bottom = index(area.bottom() - bounds_.top(), cellHeight_, rows_);
  for (int row = top; row <= bottom; ++row)
    for (int column = left; column <= right; ++column)
      f(cells_[static_cast<std::size_t>(row) * static_cast<std::size_t>(columns_) + static_cast<std::size_t>(column)]);
}

void Room::take(const QRectF& area, Kind kind) {
  eachCell(area, [&](std::vector<Taken>& taken) { taken.push_back({area, kind}); });
}

void Room::giveBack(const QRectF& area) {
  eachCell(area, [&](std::vector<Taken>& taken) {
    const auto found = std::find_if(taken.begin(), taken.end(),
                                    [&](const Taken& one) { return one.kind == Kind::mayMove && one.area == area; });
    if (found != taken.end()) taken.erase(found);
  });
}

double Room::overlap(const QRectF& area) const {
  double sum = 0;
  // An area that spans cells is met in each of them, which only makes it count the more.
  const_cast<Room*>(this)->eachCell(area, [&](const std::vector<Taken>& taken) {
    for (const auto& other : taken)
      if (const auto both = other.area.intersected(area); both.width() > 0 && both.height() > 0)
        sum += (other.kind == Kind::still ? still : 1) + both.width() * both.height();
  });
  return sum;
}

std::vector<std::size_t> placeWords(const std::vector<QRectF>& wanted,
                                    const std::function<const std::vector<QRectF>&(std::size_t)>& places, Room& room) {
  std::vector<std::size_t> chosen(wanted.size(), 0);
  auto now = wanted;
  for (const auto& area : now)
    if (!area.isEmpty()) room.take(area, Room::Kind::mayMove);
  // Each that lies on something looks for a better place; who is in its way may then find one in the next round.
  constexpr int rounds = 8;
  for (int round = 0; round < rounds; ++round) {
    bool moved = false;
    for (std::size_t i = 0; i < now.size(); ++i) {
      if (now[i].isEmpty()) continue;
      room.giveBack(now[i]);
      if (double least = room.overlap(now[i]); least > 0) {
        const auto& choices = places(i);
        for (std::size_t choice = 0; choice < choices.size() && least > 0; ++choice)
          if (const double overlap = room.overlap(choices[choice]); overlap < least) {
            least = overlap;
            chosen[i] = choice;
            moved = true;
          }
        now[i] = choices[chosen[i]];
      }
      room.take(now[i], Room::Kind::mayMove);
    }
    if (!moved) break;
  }
  for (const auto& area : now)
    if (!area.isEmpty()) room.giveBack(area);
  return chosen;
}

} // namespace vinegar::app
