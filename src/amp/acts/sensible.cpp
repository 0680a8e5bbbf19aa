#include "amp/acts/sensible.h"

#include "amp/compile/compile.h"
#include "circuit/dc.h"

#include <algorithm>
#include <fmt/format.h>
#include <utility>

namespace vinegar::amp {

const SectionTemplate* templateOf(const Library& library, const SectionUse& use) {
  const auto found = library.sections.find(use.section);
  return found == library.sections.end() ? nullptr : &found->second;
}

std::string freeName(std::string wish, const std::set<std::string>& taken) {
  if (wish.empty()) wish = "section";
  std::string name = wish;
  for (int n = 2; taken.contains(name); ++n)
    name = fmt::format("{}-{}", wish, n);
  return name;
}

std::set<std::string> idsOf(const Design& design, const NameBook& names) {
  auto ids = names.ids;
  for (const auto* use : design.sections())
    ids.insert(use->id);
  return ids;
}

std::string freeRail(const Design& design, const NameBook& names) {
  auto taken = names.rails;
  for (const auto& use : design.supply)
    taken.insert(use.node);
  for (int round = 1;; ++round)
    for (char letter = 'A'; letter <= 'Z'; ++letter)
      if (const auto name = round == 1 ? std::string(1, letter) : fmt::format("{}{}", letter, round);
          !taken.contains(name))
        return name;
}

namespace {

/// The rail of the nearest section beside, which a builder would take it from.
std::string railOf(const SectionUse& use) {
  const auto join = use.joins.find("rail");
  return join == use.joins.end() || join->second.find('.') != std::string::npos ? std::string() : join->second;
}

std::string railFor(const Design& design, const Library& library, const std::vector<SectionUse>& chain,
                    std::size_t index, const std::string& port) {
  const auto& supply = design.supply;
  if (supply.empty()) return {};
  // Plates and screens of output tubes: where they are taken in this amplifier, else the first rail with a capacitor
  // on it and the one after.
  if (port != "rail") {
    for (const auto* use : design.sections())
      if (const auto join = use->joins.find(port); join != use->joins.end()) return join->second;
    std::size_t first = 0;
    const auto hasCapacitor = [&](const SectionUse& use) {
      const auto* section = templateOf(library, use);
      return section && std::any_of(section->parts.begin(), section->parts.end(), [](const PartTemplate& part) {
               return part.kind == PartKind::capacitor || part.kind == PartKind::voltageSource;
             });
    };
    while (first + 1 < supply.size() && !hasCapacitor(supply[first]))
      ++first;
    return supply[std::min(first + (port == "screens" ? 1 : 0), supply.size() - 1)].node;
  }
  for (std::size_t i = index; i-- > 0;)
    if (auto rail = railOf(chain[i]); !rail.empty()) return rail;
  for (std::size_t i = index + 1; i < chain.size(); ++i)
    if (auto rail = railOf(chain[i]); !rail.empty()) return rail;
  return supply.back().node;
}

/// Whether direct volts at its input go nowhere inside: neither to a grid nor to ground.
bool blocksDirectVolts(const SectionTemplate& section) {
  const auto* in = section.port("in");
  if (!in) return true;
  std::set<std::string> reached{in->node};
  for (bool more = true; more;) {
    more = false;
    for (const auto& part : section.parts) {
      const auto touched = [&](const std::string& node) { return reached.contains(node); };
      if (std::none_of(part.nodes.begin(), part.nodes.end(), touched)) continue;
      if (part.kind == PartKind::capacitor && !part.linkWhenAbsent) continue;
      if (isTube(part.kind) || part.kind == PartKind::outputTransformer) return false;
      for (const auto& node : part.nodes)
        more |= reached.insert(node).second;
    }
  }
  return !reached.contains("ground");
}

/// A stage made to hang on the plate before it has no grid leak of its own.
bool isDirectCoupled(const SectionTemplate& section) {
  return std::any_of(section.parts.begin(), section.parts.end(), [](const PartTemplate& part) {
    const auto fitted = part.defaults.find("fitted");
    return part.role == "grid-leak" && part.optional && fitted != part.defaults.end() &&
           !std::get<bool>(fitted->second);
  });
}

} // namespace

void joinSensibly(Design& design, const Library& library, const NameBook& names, const std::string& id) {
  const auto found = find(design, id);
  const auto* section = templateOf(library, found->use());
  if (!section) return; // of a section that nobody has nothing is known
  for (const auto& port : section->railPorts) {
    if (found->use().joins.contains(port)) continue;
    if (design.supply.empty()) { // something to try it on
      SectionUse bench{freeName("bench", idsOf(design, names)), "supply-fixed-reservoir", {}, {}, {}, {}};
      bench.node = freeRail(design, names);
      design.supply.push_back(std::move(bench));
    }
    auto& use = find(design, id)->use();
    use.joins[port] = railFor(design, library, *found->chain, found->index, port);
  }
  const auto taken = takenPorts(design);
  for (const auto& port : section->ports) {
    if (!port.seeks || find(design, id)->use().joins.contains(port.name) || taken.contains(id + "." + port.name))
      continue;
    const auto isThere = [&](const SectionUse& use) {
      const auto* other = templateOf(library, use);
      const auto* end = other && use.id != id ? other->port(port.name) : nullptr;
      return end && !end->seeks && !use.joins.contains(port.name);
    };
    // One that nothing is joined to yet; the mains serve several.
    const SectionUse* found = nullptr;
    for (const auto* use : std::as_const(design).sections())
      if (isThere(*use) &&
          (!found || (taken.contains(found->id + "." + port.name) && !taken.contains(use->id + "." + port.name))))
        found = use;
    if (found) find(design, id)->use().joins[port.name] = found->id + "." + port.name;
  }
  // Grids that want volts below ground take them from the supply where it has them, and not from a bench source.
  const auto* negative = section->port("negative");
  if (!negative || find(design, id)->use().joins.contains("negative")) return;
  for (const auto& other : design.supply) {
    const auto* supply = templateOf(library, other);
    if (!supply || !supply->port("bias")) continue;
    auto& use = find(design, id)->use();
    use.joins["negative"] = other.id + ".bias";
    for (const auto& part : section->parts)
      if (part.kind == PartKind::biasSource && part.optional && part.nodes.front() == negative->node)
        use.parts[part.ref].settings["fitted"] = false;
    return;
  }
}

void coupleSensibly(Design& design, const Library& library, const Design& before) {
  const auto neighbour = [](const auto& found) { return found.after() ? found.after()->id : std::string(); };
  std::vector<SetField> changes;
  for (const auto* use : std::as_const(design).sections()) {
    const auto now = find(std::as_const(design), use->id);
    const auto was = find(before, use->id);
    if (!now->after()) continue;
    const auto *section = templateOf(library, *use), *next = templateOf(library, *now->after());
    const auto sameNext = was && neighbour(*was) == neighbour(*now) && was->use().section == use->section &&
                          was->after()->section == now->after()->section;
    if (!section || !next || sameNext) continue;
    for (const auto& part : section->parts) {
      if (part.role != "coupling" || !part.linkWhenAbsent) continue;
      const auto resolved = resolvePart(*use, part);
      const bool wanted = isDirectCoupled(*next) ? false : resolved.fitted() || !blocksDirectVolts(*next);
      if (wanted != resolved.fitted()) changes.push_back({resolved.name, "fitted", !wanted, wanted});
    }
  }
  design = withChanges(std::move(design), library, changes);
}

void leakSensibly(Design& design, const Library& library) {
  const auto isMissing = [](const ResolvedPart& part) {
    return !part.fitted() && part.part->optional && part.part->role.ends_with("grid-leak");
  };
  const auto parts = resolveParts(design, library);
  if (std::none_of(parts.begin(), parts.end(), isMissing)) return;
  for (bool fitted = true; fitted;) {
    fitted = false;
    const auto circuit = compile(design, library);
    if (!circuit) return;
    for (const auto& group : circuit::floatingGroups(circuit->netlist)) {
      const auto leak = std::find_if(circuit->parts.begin(), circuit->parts.end(), [&](const CompiledPart& part) {
        const auto& resolved = part.resolved;
        if (!isMissing(resolved)) return false;
        return std::any_of(resolved.part->nodes.begin(), resolved.part->nodes.end(), [&](const std::string& local) {
          const auto node = circuit->localNodes.find(resolved.section + "/" + local);
          return node != circuit->localNodes.end() &&
                 std::find(group.begin(), group.end(), node->second) != group.end();
        });
      });
      if (leak == circuit->parts.end()) continue;
      const auto& name = leak->resolved.name;
      design = withChanges(std::move(design), library, {{name, "fitted", false, true}});
      fitted = true;
      break;
    }
  }
}

} // namespace vinegar::amp
