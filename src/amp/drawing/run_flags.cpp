// What no wire shows: rails and joins by their names, and grounds.
#include "amp/drawing/run_layout.h"

#include <algorithm>

namespace vinegar::amp {

void RunLayout::addFlagsAndGrounds(const SectionUse& use, const SectionTemplate& section, Point origin) {
  for (const auto& port : section.ports)
    addFlagOrGround(use, section, port, origin);
}

void RunLayout::addFlagOrGround(const SectionUse& use, const SectionTemplate& section, const Port& port, Point origin) {
  const auto join = use.joins.find(port.name);
  const std::string target = join != use.joins.end() ? join->second : port.join;
  const Point at = origin + port.at;
  if (target == "ground") {
    if (!taken_.contains(use.id + "." + port.name)) drawing_.grounds.push_back(at);
  } else if (railIndex(target) >= 0) {
    const auto& taps = taps_[static_cast<std::size_t>(railIndex(target))];
    const bool wired = std::any_of(taps.begin(), taps.end(), [&](const Tap& t) { return t.x == at.x && t.y == at.y; });
    if (!wired) addFlag(target, nodeKey(use, port.node), port, section, at, !port.flag);
  } else if (isSupplyPort(target)) {
    addFlag(joinName(target), nodeKey(use, port.node), port, section, at);
  } else if (const auto own = use.id + "." + port.name; isSupplyPort(own) && wanted(own)) {
    addFlag(joinName(own), nodeKey(use, port.node), port, section, at);
  }
}

bool RunLayout::isSupplyPort(const std::string& target) const {
  const auto dot = target.find('.');
  const auto use = dot == std::string::npos ? supplyById_.end() : supplyById_.find(target.substr(0, dot));
  const auto* section = use == supplyById_.end() ? nullptr : sectionOf(*use->second);
  return section && section->port(target.substr(dot + 1));
}

std::string RunLayout::joinName(const std::string& target) const {
  const auto dot = target.find('.');
  const auto words = portWords(target.substr(dot + 1));
  const auto alike = std::count_if(taken_.begin(), taken_.end(), [&](const std::string& other) {
    return other.ends_with(target.substr(dot)) && isSupplyPort(other);
  });
  const auto* use = design_.section(target.substr(0, dot));
  if (!use || (isSupplyPort(target) && alike == 1)) return words;
  if (!use->node.empty()) return words + " " + use->node;
  const auto* section = sectionOf(*use);
  for (const auto& part : section ? section->parts : std::vector<PartTemplate>{})
    if (const auto own = use->parts.find(part.ref); hasType(part.kind) && own != use->parts.end())
      return words + " " + own->second.name;
  return words + " " + use->id;
}

void RunLayout::flagJoin(const std::string& end, const std::string& target, const std::string& name) {
  // Where several joins end they share the name that is there first.
  auto known = flagged_.find(target);
  if (known == flagged_.end()) known = flagged_.find(end);
  const auto shared = known == flagged_.end() ? name : known->second;
  flagEnd(end, shared);
  flagEnd(target, shared);
}

void RunLayout::flagEnd(const std::string& end, const std::string& name) {
  const auto dot = end.find('.');
  const auto* use = design_.section(end.substr(0, dot));
  const auto* section = use ? sectionOf(*use) : nullptr;
  const auto* port = section ? section->port(end.substr(dot + 1)) : nullptr;
  const auto at = ports_.find(end);
  if (port && at != ports_.end() && flagged_.try_emplace(end, name).second)
    addFlag(name, nodeKey(*use, port->node), *port, *section, at->second);
}

void RunLayout::flagOtherJoins() {
  for (const auto* use : design_.sections())
    for (const auto& [port, target] : use->joins) {
      const auto end = use->id + "." + port;
      if (target.find('.') == std::string::npos || isSupplyPort(target) || drawnJoins_.contains(end)) continue;
      flagJoin(end, target, joinName(target));
    }
}

void RunLayout::addFlag(const std::string& name, const std::string& node, const Port& port,
                        const SectionTemplate& section, Point at, bool above) {
  using Side = Drawing::RailFlag::Side;
  if (above) return drawing_.flags.push_back({name, node, at, Side::above});
  bool fromRight = false;
  for (const auto& wire : section.wires)
    for (std::size_t i = 0; i < wire.points.size(); ++i)
      if (wire.points[i] == port.at)
        for (const auto next : {i - 1, i + 1}) // wraps at the start: no point
          if (next < wire.points.size() && wire.points[next].x > port.at.x) fromRight = true;
  drawing_.flags.push_back({name, node, at, fromRight ? Side::left : Side::right});
}

} // namespace vinegar::amp
