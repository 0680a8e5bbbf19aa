#include "amp/drawing/drawing_finish.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <map>
#include <set>
#include <unordered_map>

namespace vinegar::amp {
namespace {

/// A dot where three or more ends meet; a wire passing through counts twice.
void findJunctions(Drawing& drawing) {
  struct Meeting {
    std::set<std::pair<int, int>> directions;
    std::size_t pins = 0;
  };
  std::map<std::pair<double, double>, Meeting> meetings;
  // Every corner, with the wires through it found along its row and its column.
  struct Segment {
    double low, high;
    Point a, b;
  };
  std::map<double, std::vector<Segment>> rows, columns;
  for (const auto& line : drawing.lines)
    for (std::size_t i = 0; i < line.points.size(); ++i) {
      const Point a = line.points[i];
      meetings[{a.x, a.y}];
      if (i + 1 == line.points.size()) continue;
      const Point b = line.points[i + 1];
      if (a.x == b.x) columns[a.x].push_back({std::min(a.y, b.y), std::max(a.y, b.y), a, b});
      if (a.y == b.y) rows[a.y].push_back({std::min(a.x, b.x), std::max(a.x, b.x), a, b});
    }
  for (const auto& part : drawing.parts)
    if (part.fitted || part.linkWhenAbsent)
      for (const auto& pin : part.pins)
        if (const auto found = meetings.find({pin.x, pin.y}); found != meetings.end()) ++found->second.pins;
  const auto sweep = [](std::map<double, std::vector<Segment>>& tracks, auto along, const auto& order) {
    for (auto& [at, segments] : tracks)
      std::sort(segments.begin(), segments.end(), [](const auto& l, const auto& r) { return l.low < r.low; });
    std::size_t next = 0;
    const std::vector<Segment>* track = nullptr;
    std::vector<const Segment*> over; // those that the sweep is above now
    double trackAt = std::numeric_limits<double>::quiet_NaN();
    for (auto* meeting : order) {
      const auto [at, position] = along(meeting->first);
      if (!(at == trackAt)) {
        const auto found = tracks.find(at);
        track = found == tracks.end() ? nullptr : &found->second;
        trackAt = at;
        next = 0;
        over.clear();
      }
      if (!track) continue;
      while (next < track->size() && (*track)[next].low <= position)
        over.push_back(&(*track)[next++]);
      std::erase_if(over, [p = position](const Segment* s) { return s->high < p; });
      const auto [x, y] = meeting->first;
      for (const auto* segment : over)
        for (const Point to : {segment->a, segment->b})
          if (to.x != x || to.y != y)
            meeting->second.directions.insert({(to.x > x) - (to.x < x), (to.y > y) - (to.y < y)});
    }
  };
  std::vector<decltype(meetings)::value_type*> order;
  order.reserve(meetings.size());
  for (auto& meeting : meetings)
    order.push_back(&meeting);
  sweep(
      columns,
      [](const auto& p) {
        return std::pair{p.first, p.second};
      },
      order); // by x, then y, as the map is
  std::sort(order.begin(), order.end(), [](const auto* l, const auto* r) {
    return std::pair{l->first.second, l->first.first} < std::pair{r->first.second, r->first.first};
  });
  sweep(
      rows,
      [](const auto& p) {
        return std::pair{p.second, p.first};
      },
      order);
  for (const auto& [at, meeting] : meetings)
    if (meeting.directions.size() + meeting.pins >= 3) drawing.junctions.push_back({at.first, at.second});
}

/// Which way the node of each volt tag lies, so that its text grows away from it.
void turnTags(Drawing& drawing) {
  std::unordered_map<std::string, std::vector<Point>> points;
  for (const auto& tag : drawing.tags)
    points[tag.node];
  const auto take = [&](const std::string& node, Point p) {
    if (const auto found = points.find(node); found != points.end()) found->second.push_back(p);
  };
  for (const auto& line : drawing.lines)
    for (const auto& p : line.points)
      take(line.node, p);
  for (const auto& part : drawing.parts)
    for (std::size_t i = 0; i < part.pins.size(); ++i)
      take(part.nodes[i], part.pins[i]);
  for (auto& tag : drawing.tags) {
    Point nearest = tag.at;
    double least = std::numeric_limits<double>::max();
    for (const auto& p : points.at(tag.node))
      if (const double distance = std::hypot(p.x - tag.at.x, p.y - tag.at.y); distance < least) {
        least = distance;
        nearest = p;
      }
    tag.growsLeft = nearest.x > tag.at.x;
  }
}

void measure(Drawing& drawing) {
  double left = 0, right = 0, top = 0, bottom = 0;
  const auto take = [&](Point p) {
    top = std::min(top, p.y);
    bottom = std::max(bottom, p.y);
    left = std::min(left, p.x);
    right = std::max(right, p.x);
  };
  for (const auto& line : drawing.lines)
    for (const auto& p : line.points)
      take(p);
  for (const auto& frame : drawing.frames) {
    take({frame.left, frame.top});
    take({frame.right, frame.bottom});
  }
  drawing.left = left - 1;
  drawing.right = right + 1;
  drawing.top = top - 3.5;
  drawing.bottom = bottom + 1;
}

} // namespace

void finish(Drawing& drawing) {
  findJunctions(drawing);
  turnTags(drawing);
  measure(drawing);
}

} // namespace vinegar::amp
