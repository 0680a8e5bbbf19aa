#include "amp/compile/compile.h"

#include "amp/compile/part_devices.h"
#include "circuit/dc.h"

#include <algorithm>
#include <memory>
#include <unordered_map>
#include <unordered_set>

namespace vinegar::amp {
namespace {

using circuit::Node;

/// Joined ports become one node: union-find over "section/local" keys and the supply nodes' names.
class Joints {
public:
  const std::string& root(const std::string& key) {
    auto [entry, isNew] = parent_.try_emplace(key, key);
    if (isNew || entry->second == key) return entry->first;
    const auto& up = root(entry->second);
    if (entry->second != up) entry->second = up;
    return up;
  }
  /// The first key's root names the node afterwards.
  void join(const std::string& keep, const std::string& other) {
    const std::string a = root(keep), b = root(other);
    if (a == b) return;
    // Ground swallows whatever touches it.
    if (b == ground)
      parent_[a] = b;
    else
      parent_[b] = a;
  }
  static inline const std::string ground = "0";

private:
  std::unordered_map<std::string, std::string> parent_;
};

std::string key(const SectionUse& use, const std::string& local) {
  return local == "ground" ? Joints::ground : use.id + "." + local;
}

class Compiler {
public:
  Compiler(Design design, const Library& library) : library_(library) {
    circuit_.design = std::make_shared<const Design>(std::move(design));
  }

  Circuit run() {
    const Design& design = *circuit_.design;
    joinPorts(design);
    for (const auto* use : design.sections())
      for (const auto& part : sectionOf(*use).parts)
        if (part.linkWhenAbsent && !resolvePart(*use, part).fitted())
          joints_.join(key(*use, part.nodes.front()), key(*use, part.nodes.back()));
    const auto add = [&](const std::vector<SectionUse>& list) {
      for (const auto& use : list)
        addSection(use);
    };
    add(design.line);
    for (const auto& side : design.sides)
      add(side.sections);
    add(design.supply);
    tieLooseEnds();
    for (const auto& use : design.supply)
      circuit_.rails.push_back({use.node, circuit_.netlist.find(joints_.root(use.node))});
    return std::move(circuit_);
  }

private:
  const SectionTemplate& sectionOf(const SectionUse& use) const { return library_.sections.at(use.section); }

  void joinPortTo(const SectionUse& use, const std::string& port, const std::string& otherKey) {
    joints_.join(otherKey, key(use, sectionOf(use).port(port)->node));
  }

  void joinNeighbours(const std::vector<SectionUse>& chain) {
    for (std::size_t i = 0; i + 1 < chain.size(); ++i)
      for (const auto& [from, to] : {std::pair{"out", "in"}, {"outB", "inB"}})
        if (const auto* out = sectionOf(chain[i]).port(from))
          if (sectionOf(chain[i + 1]).port(to)) joinPortTo(chain[i + 1], to, key(chain[i], out->node));
  }

  void joinPorts(const Design& design) {
    joinNeighbours(design.line);
    for (const auto& side : design.sides)
      joinNeighbours(side.sections);
    // The supply runs from the reservoir down: each node's section takes the one before it as its "from".
    for (std::size_t i = 0; i < design.supply.size(); ++i) {
      joinPortTo(design.supply[i], "node", design.supply[i].node);
      // A branch says where it comes from; all others follow the one before.
      if (i > 0 && sectionOf(design.supply[i]).port("from") && !design.supply[i].joins.contains("from"))
        joinPortTo(design.supply[i], "from", design.supply[i - 1].node);
    }
    const auto taken = takenPorts(design);
    std::unordered_map<std::string, const SectionUse*> byId;
    for (const auto* use : design.sections())
      byId[use->id] = use;
    const auto join = [&](const SectionUse& use, const std::string& port, const std::string& target) {
      if (target == "ground") {
        if (!taken.contains(use.id + "." + port)) joinPortTo(use, port, Joints::ground);
      } else if (const auto dot = target.find('.'); dot != std::string::npos) {
        const auto& other = *byId.at(target.substr(0, dot));
        joinPortTo(use, port, key(other, sectionOf(other).port(target.substr(dot + 1))->node));
      } else if (!target.empty() && target != "open") {
        joinPortTo(use, port, target);
      }
    };
    for (const auto* use : design.sections())
      for (const auto& port : sectionOf(*use).ports) {
        const auto own = use->joins.find(port.name);
        join(*use, port.name, own != use->joins.end() ? own->second : port.join);
      }
    for (const auto& side : design.sides) {
      if (const auto* head = headOf(sectionOf(side.sections.front())))
        join(side.sections.front(), head->name, side.from);
      if (const auto* tail = tailOf(sectionOf(side.sections.back()))) join(side.sections.back(), tail->name, side.to);
    }
  }

  /// What hangs on capacitors alone, as the output of a stage that drives nothing yet or what stands between two
  /// coupling capacitors, has volts that only its leakage tells: it is given some. A grid there is a mistake, which the
  /// DC analysis names.
  void tieLooseEnds() {
    constexpr double leakage = 1e10;
    auto& netlist = circuit_.netlist;
    const auto groups = circuit::floatingGroups(netlist);
    if (groups.empty()) return;
    std::vector<bool> needsPath(static_cast<std::size_t>(netlist.nodeCount()));
    for (const auto& device : netlist.devices()) {
      const bool passive = std::holds_alternative<circuit::Resistor>(device.law) ||
                           std::holds_alternative<circuit::Capacitor>(device.law) ||
                           std::holds_alternative<circuit::Inductor>(device.law) ||
                           std::holds_alternative<circuit::Transformer>(device.law) ||
                           std::holds_alternative<circuit::Switch>(device.law) ||
                           std::holds_alternative<circuit::VoltageSource>(device.law);
      if (!passive)
        for (const auto node : device.nodes)
          needsPath[static_cast<std::size_t>(node)] = true;
    }
    for (const auto& group : groups) {
      if (std::any_of(group.begin(), group.end(), [&](Node n) { return needsPath[static_cast<std::size_t>(n)]; }))
        continue;
      const auto& name = netlist.nodeNames()[static_cast<std::size_t>(group.front())];
      netlist.add("leakage." + name, {group.front(), 0}, circuit::Resistor{leakage});
    }
  }

  Node nodeOf(const SectionUse& use, const std::string& local) {
    return circuit_.netlist.node(joints_.root(key(use, local)));
  }

  void addSection(const SectionUse& use) {
    const auto& section = sectionOf(use);
    // Nodes that only unfitted parts touch would float, so nodes are made as fitted parts need them.
    for (const auto& part : section.parts) {
      CompiledPart compiled{resolvePart(use, part), {}, {}, {}, {}};
      if (compiled.resolved.fitted()) {
        for (const auto& local : part.nodes)
          compiled.nodes.push_back(nodeOf(use, local));
        addDevices(compiled, section.deck == "supply" || section.deck == "supply-lane");
      } else {
        compiled.nodes.assign(part.nodes.size(), -1);
      }
      circuit_.parts.push_back(std::move(compiled));
    }
    for (const auto& part : section.parts)
      for (const auto& local : part.nodes)
        circuit_.localNodes[use.id + "/" + local] = circuit_.netlist.find(joints_.root(key(use, local)));
    for (const auto& [name, local] : section.probes)
      addProbe(name, circuit_.localNodes[use.id + "/" + local]);
    for (const char* port : {"in", "out"})
      if (const auto* p = section.port(port))
        addProbe(use.id + "." + port, circuit_.localNodes[use.id + "/" + p->node]);
  }

  void addProbe(const std::string& name, Node node) {
    if (node < 0) return;
    std::string unique = name;
    for (int& n = probeCounts_[name]; !probeNames_.insert(unique).second;)
      unique = name + std::to_string(n = std::max(n + 1, 2));
    circuit_.probes.push_back({unique, node});
  }

  void addDevices(CompiledPart& compiled, bool ofSupply) {
    auto& netlist = circuit_.netlist;
    const auto& part = compiled.resolved;
    for (const auto& name : innerNodeNames(part))
      compiled.inner.push_back(netlist.node(name));
    if (isTube(part.part->kind)) compiled.plateWattsLimit = library_.tubes.find(part.text("tube"))->limits.plateWatts;
    for (auto& device : devicesOf(compiled, *circuit_.design, library_))
      compiled.devices.push_back(netlist.add(std::move(device.id), std::move(device.nodes), std::move(device.law)));
    auto& supply = circuit_.supply;
    if (ofSupply) supply.devices.insert(supply.devices.end(), compiled.devices.begin(), compiled.devices.end());
    if (part.part->kind == PartKind::rectifier || part.part->kind == PartKind::diode)
      supply.rectifiers.insert(supply.rectifiers.end(), compiled.devices.begin(), compiled.devices.end());
    if (part.part->kind == PartKind::mains) {
      supply.mains = compiled.devices.front();
      supply.volts = part.value();
      supply.hertz = part.number("hertz");
    }
  }

  const Library& library_;
  Circuit circuit_;
  Joints joints_;
  std::unordered_set<std::string> probeNames_;
  std::unordered_map<std::string, int> probeCounts_; ///< how far a name's numbers have gone
};

} // namespace

const CompiledPart* Circuit::part(const std::string& name) const {
  const auto found = std::find_if(parts.begin(), parts.end(), [&](const auto& p) { return p.resolved.name == name; });
  return found == parts.end() ? nullptr : &*found;
}

circuit::Node Circuit::probe(const std::string& name) const {
  const auto found = std::find_if(probes.begin(), probes.end(), [&](const auto& p) { return p.name == name; });
  if (found != probes.end()) return found->node;
  const auto rail = std::find_if(rails.begin(), rails.end(), [&](const RailNode& r) { return r.name == name; });
  return rail == rails.end() ? netlist.find(name) : rail->node;
}

std::optional<DeviceLaws> Circuit::lawsWith(const std::string& name, const std::string& field, const Setting& to,
                                            const Library& library) const {
  const auto* found = part(name);
  if (!found || found->devices.empty() || !found->resolved.settings.contains(field)) return std::nullopt;
  CompiledPart other = *found;
  other.resolved.settings[field] = to;
  if (!other.resolved.fitted() || innerNodeNames(other.resolved).size() != found->inner.size()) return std::nullopt;
  auto devices = devicesOf(other, *design, library);
  if (devices.size() != found->devices.size()) return std::nullopt;
  DeviceLaws laws;
  for (std::size_t i = 0; i < devices.size(); ++i) {
    const auto& now = netlist.devices()[static_cast<std::size_t>(found->devices[i])];
    if (now.law.index() != devices[i].law.index() || now.id != devices[i].id) return std::nullopt;
    laws.emplace_back(found->devices[i], std::move(devices[i].law));
  }
  return laws;
}

tl::expected<Circuit, Problem> compile(const Design& design, const Library& library) {
  Design named = design;
  nameParts(named, library);
  const auto problems = check(named, library);
  if (!problems.empty()) return tl::unexpected(problems.front());
  return Compiler(std::move(named), library).run();
}

} // namespace vinegar::amp
