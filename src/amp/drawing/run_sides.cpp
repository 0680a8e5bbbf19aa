// The chains beside the line: feedback, and what is sent and brought back.
#include "amp/drawing/run_layout.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <tuple>
#include <utility>

namespace vinegar::amp {
namespace {

constexpr double longest = 90;                        ///< of a wire back to the line; further away both ends get a name
constexpr double wordsAbove = 2.6, wordsBeside = 2.5; ///< room for what is written at a part

/// Half of the widest symbol of two pins, a capacitor, and a little.
constexpr double halfBody = 1.5;

bool isVertical(Direction direction) { return direction == Direction::down || direction == Direction::up; }

} // namespace

void RunLayout::placeSides() {
  std::vector<const Chain*> loops, others;
  for (const auto& side : design_.sides) {
    if (side.sections.empty()) continue;
    const auto* section = sectionOf(side.sections.front());
    const bool loop = section && section->port("from") && section->port("to") && side.sections.size() == 1;
    (loop && !isSupplyPort(side.from) && !isSupplyPort(side.to) ? loops : others).push_back(&side);
  }
  // The shortest loop innermost, so that none crosses another.
  const auto footX = [&](const Chain* loop) {
    const auto foot = ports_.find(loop->to);
    return foot == ports_.end() ? 0.0 : foot->second.x;
  };
  std::stable_sort(loops.begin(), loops.end(), [&](const auto* a, const auto* b) { return footX(a) > footX(b); });
  for (const auto* loop : loops)
    placeFeedback(*loop, *sectionOf(loop->sections.front()));
  for (const auto* chain : others)
    placeChain(*chain);
}

void RunLayout::placeFeedback(const Chain& chain, const SectionTemplate& section) {
  const auto& lane = chain.sections.front();
  const auto* to = section.port("to");
  const auto target = ports_.find(chain.to);
  const Point foot = target != ports_.end() ? target->second : Point{0, lineBottom_};
  const auto source = ports_.find(chain.from);
  const auto* from = section.port("from");
  // Where a wire down would run through something, names at both ends stand for it.
  const double lowest = bottomOf(-1e9, 1e9) + 5;
  const auto down = source != ports_.end()
                        ? freeColumn(source->second, source->second.x + gap_ / 4, source->second.y, lowest)
                        : std::optional<double>();
  const bool wired = target != ports_.end() && freeColumn(foot, foot.x, foot.y, lowest) == foot.x;
  const double drop = down.value_or(foot.x + section.width);
  // Round a single section the lane is the longer: it then stands further left.
  const double aside = std::max(0.0, foot.x - to->at.x + from->at.x - drop);
  const double x = foot.x - to->at.x - aside;
  const double left = x - gap_, end = std::max(drop + gap_, x + section.width);
  // The way across to the foot runs over the lane and what is written there.
  const double over = aside > 0 ? wordsAbove + 1 : 0;
  double y = std::max(foot.y + 1 + over - to->at.y, clearOf(x + section.width, drop, 1) - from->at.y);
  if (over > 0) y = std::max(y, clearOf(x, foot.x - 0.1, 1) + over - to->at.y);
  for (const auto& part : section.parts) {
    Extent own{std::numeric_limits<double>::max(), 0};
    double first = part.place.at.x, last = first;
    for (const auto& pin : pinPlaces(part.kind, part.place, part.nodes.size())) {
      own.take(pin, isVertical(part.place.direction) ? 0 : wordsAbove);
      first = std::min(first, pin.x);
      last = std::max(last, pin.x);
    }
    y = std::max(y, clearOf(x + first - wordsBeside, x + last + wordsBeside, 1) - own.top);
  }
  y = onGrid(y);
  const Point origin{x, y}, head = origin + to->at;
  addSection(lane, section, origin);
  addFlagsAndGrounds(lane, section, origin);
  std::vector<Point> there, back;
  if (wired && aside > 0)
    there = {foot, {foot.x, head.y - over}, {head.x, head.y - over}, head};
  else if (wired)
    there = {foot, head};
  if (down) back = {origin + from->at, {drop, origin.y + from->at.y}, {drop, source->second.y}, source->second};
  if (target != ports_.end()) wireOrName(lane, *to, chain.to, chain.id + " return", std::move(there));
  if (source != ports_.end()) wireOrName(lane, *from, chain.from, chain.id + " send", std::move(back));
  rows_.push_back({left, end, y + extentOf(section).bottom});
}

void RunLayout::wireOrName(const SectionUse& use, const Port& port, const std::string& other, const std::string& name,
                           std::vector<Point> points) {
  if (!points.empty() && runsFree(points)) return addLine(nodeKey(use, port.node), std::move(points));
  flagJoin(use.id + "." + port.name, other, name);
}

bool RunLayout::runsFree(const std::vector<Point>& points) const {
  constexpr double within = 0.3, beside = halfBody; // a wire may end at the pin of a part with two
  for (const auto& part : drawing_.parts) {
    if (part.pins.empty()) continue;
    auto [left, right] = std::pair{part.pins.front().x, part.pins.front().x};
    auto [top, bottom] = std::pair{part.pins.front().y, part.pins.front().y};
    for (const auto& pin : part.pins) {
      std::tie(left, right) = std::pair{std::min(left, pin.x), std::max(right, pin.x)};
      std::tie(top, bottom) = std::pair{std::min(top, pin.y), std::max(bottom, pin.y)};
    }
    // A tube is as wide on the side where it has no pin.
    if (isTube(part.kind)) right = std::max(right, 2 * part.pins.front().x - left);
    const bool two = part.pins.size() < 3;
    const double wide = two && right > left ? -within : beside, high = two && bottom > top ? -within : beside;
    for (std::size_t i = 0; i + 1 < points.size(); ++i) {
      const auto [a, b] = std::pair{points[i], points[i + 1]};
      if (std::max(a.x, b.x) > left - wide && std::min(a.x, b.x) < right + wide && std::max(a.y, b.y) > top - high &&
          std::min(a.y, b.y) < bottom + high)
        return false;
    }
  }
  return true;
}

double RunLayout::clearOf(double left, double right, double below) const {
  double lowest = 0;
  const auto take = [&](double from, double to, double bottom) {
    if (from < right && left < to) lowest = std::max(lowest, bottom);
  };
  for (const auto& part : drawing_.parts)
    for (const auto& pin : part.pins)
      take(pin.x - 1, pin.x + 1, pin.y);
  for (const auto& line : drawing_.lines)
    for (std::size_t i = 0; i + 1 < line.points.size(); ++i) {
      const auto [a, b] = std::pair{line.points[i], line.points[i + 1]};
      take(std::min(a.x, b.x), std::max(a.x, b.x) + 0.01, std::max(a.y, b.y));
    }
  for (const auto& ground : drawing_.grounds)
    take(ground.x - 1.3, ground.x + 1.3, ground.y + 1.6);
  return lowest + below;
}

double RunLayout::bottomOf(double left, double right) const {
  double bottom = 0;
  for (const auto& frame : drawing_.frames)
    if (frame.left < right && left < frame.right) bottom = std::max(bottom, frame.bottom);
  for (const auto& row : rows_)
    if (row.left < right && left < row.right) bottom = std::max(bottom, row.bottom);
  return bottom;
}

void RunLayout::placeChain(const Chain& chain) {
  const auto& uses = chain.sections;
  Extent extent;
  double width = 0;
  for (const auto& use : uses)
    if (const auto* section = sectionOf(use)) {
      const auto own = extentOf(*section);
      extent.take({0, own.top});
      extent.take({0, own.bottom});
      width += section->width + gap_;
    }
  const auto send = ports_.find(chain.from);
  const auto returnPort = returnOf(chain);
  const auto back = ports_.find(returnPort);
  const auto isDrawn = [&](auto port) { return port != ports_.end(); };
  const double lowest = bottomOf(-1e9, 1e9) + 5;
  std::optional<double> sendX;
  if (isDrawn(send) && !isSupplyPort(chain.from))
    sendX = freeColumn(send->second, dropOf(send->second), send->second.y, lowest);
  double x = sendX           ? *sendX
             : isDrawn(send) ? std::max(0.0, send->second.x)
             : isDrawn(back) ? std::max(0.0, back->second.x - width)
                             : 0;
  const double backX = isDrawn(back) ? back->second.x : x;
  const double left = std::min(x, backX) - gap_, right = std::max(x + width, backX + gap_);
  const double above = bottomOf(left, right);
  const double y = onGrid(above + 5.5 - extent.top); // room for rail flags and for a return that runs back
  const double returnY = onGrid(y + extent.top - 4.5);
  const SectionUse* before = nullptr;
  for (const auto& use : uses) {
    const auto* section = sectionOf(use);
    if (!section) continue;
    addSection(use, *section, {x, y});
    addFlagsAndGrounds(use, *section, {x, y});
    joinToPrevious(before, use);
    x += section->width + gap_;
    before = &use;
  }
  if (!before) return;
  if (const auto* in = entryOf(uses.front(), "in", "from"); in && isDrawn(send)) {
    const Point at = ports_.at(uses.front().id + "." + in->name);
    std::vector<Point> points;
    if (sendX) points = {at, {*sendX, at.y}, {*sendX, send->second.y}, send->second};
    wireOrName(uses.front(), *in, chain.from, chain.id + " send", std::move(points));
  }
  if (const auto* out = entryOf(*before, "out", "to"); out && isDrawn(back)) {
    const Point at = ports_.at(before->id + "." + out->name), to = back->second;
    std::optional<double> rise;
    if (!isSupplyPort(returnPort) && std::abs(to.x - at.x) < longest)
      rise = freeColumn(to, to.x, to.y + 1, std::max(at.y, returnY));
    std::vector<Point> points;
    const auto go = [&](double toX, double toY) { points.push_back({toX, toY}); };
    if (rise) {
      points.push_back(at);
      if (at.x > *rise) {
        go(at.x + gap_ / 4, at.y);
        go(at.x + gap_ / 4, returnY);
      }
      go(*rise, points.back().y);
      if (*rise != to.x) {
        go(*rise, to.y + 1);
        go(to.x, to.y + 1);
      }
      points.push_back(to);
    }
    wireOrName(*before, *out, returnPort, chain.id + " return", std::move(points));
  }
  rows_.push_back({left, right, y + extent.bottom});
}

const Port* RunLayout::entryOf(const SectionUse& use, const std::string& name, const std::string& other) const {
  const auto* section = sectionOf(use);
  const auto* port = section ? section->port(name) : nullptr;
  return port || !section ? port : section->port(other);
}

std::optional<double> RunLayout::freeColumn(Point port, double wanted, double row, double bottom) {
  const double from = port.x, top = std::max(port.y, row);
  for (; columnLines_ < drawing_.lines.size(); ++columnLines_)
    for (const auto& p : drawing_.lines[columnLines_].points)
      columns_[p.x].insert(p.y);
  for (; columnParts_ < drawing_.parts.size(); ++columnParts_)
    for (const auto& p : drawing_.parts[columnParts_].pins)
      columns_[p.x].insert(p.y);
  const auto touched = [&](double x) {
    // On the way down, or aside to there.
    const double near = std::min(x, from) + 0.1, far = std::max(x, from) - 0.1;
    for (const auto& part : drawing_.parts) {
      const auto [left, right] = std::minmax_element(part.pins.begin(), part.pins.end(),
                                                     [](const Point& a, const Point& b) { return a.x < b.x; });
      const auto [high, low] = std::minmax_element(part.pins.begin(), part.pins.end(),
                                                   [](const Point& a, const Point& b) { return a.y < b.y; });
      if (left->x - halfBody < x && x < right->x + halfBody && high->y < bottom && top < low->y) return true;
      if (left->x < far && near < right->x && high->y - 1 < row && row < low->y + 1) return true;
    }
    const auto column = columns_.find(x);
    if (column == columns_.end()) return false;
    const auto at = column->second.upper_bound(top);
    return at != column->second.end() && *at <= bottom;
  };
  for (int aside = 0; aside < 8; ++aside)
    for (const double x : {wanted + 0.75 * aside, wanted - 0.75 * aside})
      if (!touched(x)) return x;
  return std::nullopt;
}

double RunLayout::dropOf(Point port) const {
  for (const auto& frame : drawing_.frames)
    if (std::abs(frame.right - port.x) < 1e-9) return port.x + gap_ / 4;
  return port.x;
}

std::string RunLayout::returnOf(const Chain& chain) {
  const auto taker = joinedFrom_.find(chain.sections.back().id + ".out");
  if (taker == joinedFrom_.end()) return chain.to;
  drawnJoins_.insert(taker->second);
  return taker->second;
}

} // namespace vinegar::amp
