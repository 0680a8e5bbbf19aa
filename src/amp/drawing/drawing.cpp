#include "amp/drawing/drawing.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <map>

namespace vinegar::amp {

const Drawing::Part* Drawing::part(const std::string& name) const {
  const auto found = std::find_if(parts.begin(), parts.end(), [&](const Part& p) { return p.name == name; });
  return found == parts.end() ? nullptr : &*found;
}

Design shapeOf(Design design, const Library& library) {
  std::map<std::string, double> positions;
  for (auto* use : design.sections()) {
    const auto section = library.sections.find(use->section);
    for (auto& [ref, own] : use->parts) {
      const auto* part = section == library.sections.end() ? nullptr : section->second.part(ref);
      if (part && part->kind == PartKind::selector) {
        const auto resolved = resolvePart(*use, *part);
        positions[resolved.knob] = knobOf(design, resolved);
      }
      // A bottle and a pair of silicon diodes are drawn differently.
      const bool typed = part && part->kind == PartKind::rectifier;
      for (auto setting = own.settings.begin(); setting != own.settings.end();)
        setting = setting->first == "fitted" || (typed && setting->first == "tube") ? std::next(setting)
                                                                                    : own.settings.erase(setting);
      own.extra.clear();
    }
    use->extra.clear();
  }
  design.knobs = std::move(positions);
  design.name.clear();
  return design;
}

std::string neighbour(const Drawing& drawing, const std::string& name, Direction direction) {
  const auto centre = [](const Drawing::Part& part) {
    Point sum;
    for (const auto& pin : part.pins)
      sum = {sum.x + pin.x, sum.y + pin.y};
    const auto n = static_cast<double>(part.pins.size());
    return Point{sum.x / n, sum.y / n};
  };
  if (drawing.parts.empty()) return {};
  const auto* from = drawing.part(name);
  if (!from) return drawing.parts.front().name;
  const Point start = centre(*from);
  std::string best = name;
  double least = std::numeric_limits<double>::max();
  for (const auto& part : drawing.parts) {
    const Point p = centre(part);
    const double dx = p.x - start.x, dy = p.y - start.y;
    const bool sideways = direction == Direction::left || direction == Direction::right;
    const double along = direction == Direction::right  ? dx
                         : direction == Direction::left ? -dx
                         : direction == Direction::down ? dy
                                                        : -dy;
    const double across = std::abs(sideways ? dy : dx);
    if (along <= 0.1) continue;
    if (const double cost = along + 2.5 * across; cost < least) {
      least = cost;
      best = part.name;
    }
  }
  return best;
}

} // namespace vinegar::amp
