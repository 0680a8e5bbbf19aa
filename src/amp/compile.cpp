#include "amp/compile.h"

#include <algorithm>
#include <cmath>
#include <memory>
#include <numbers>

namespace vinegar::amp {
namespace {

using circuit::Node;

/// Joined ports become one node: union-find over "section/local" keys and the supply nodes' names.
class Joints {
public:
  const std::string& root(const std::string& key) {
    auto [entry, isNew] = parent_.try_emplace(key, key);
    if (isNew || entry->second == key) return entry->first;
    const std::string up = root(entry->second);
    return parent_[key] = up;
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
  std::map<std::string, std::string> parent_;
};

std::string key(const SectionUse& use, const std::string& local) {
  return local == "ground" ? Joints::ground : use.id + "." + local;
}

/// Coupling factor between every two windings such that a transformer of two equal primary halves and a secondary shows
/// `share` of its primary inductance as leakage with the secondary shorted: 1 - 2k^2/(1+k) = share.
double couplingFor(double share) {
  const double s = 1 - share;
  return (s + std::sqrt(s * s + 8 * s)) / 4;
}

/// The devices that a part is made of, in an order that its settings do not change.
class PartDevices {
public:
  PartDevices(const CompiledPart& part, const Design& design, const Library& library)
      : part_(part.resolved), nodes_(part.nodes), inner_(part.inner), design_(design), library_(library) {}

  std::vector<circuit::Device> take() {
    const auto& n = nodes_;
    switch (part_.part->kind) {
    case PartKind::resistor:
      add("", n, circuit::Resistor{part_.value()});
      break;
    case PartKind::capacitor:
      add("", n, circuit::Capacitor{part_.value()});
      break;
    case PartKind::inductor:
      add("", n, circuit::Inductor{part_.value(), part_.number("ohms")});
      break;
    case PartKind::pot:
      addPot();
      break;
    case PartKind::triode: {
      const auto& tube = *library_.tubes.find(part_.text("tube"));
      add("", n, circuit::Triode{std::get<tubes::TriodeModel>(tube.model), tube.grid});
      addCapacitances(tube, n[0], n[1], n[2]);
      break;
    }
    case PartKind::pentode: {
      const auto& tube = *library_.tubes.find(part_.text("tube"));
      add("", n, circuit::Pentode{std::get<tubes::PentodeModel>(tube.model), tube.grid});
      addCapacitances(tube, n[0], n[2], n[3]);
      break;
    }
    case PartKind::outputTransformer:
      addTransformer();
      break;
    case PartKind::speaker:
      addSpeaker();
      break;
    case PartKind::signalSource:
      add("", {n[0], 0}, circuit::VoltageSource{0, part_.value()});
      break;
    case PartKind::voltageSource:
      add("", {n[0], 0}, circuit::VoltageSource{part_.value()});
      break;
    }
    return std::move(devices_);
  }

private:
  void add(const char* suffix, std::vector<Node> nodes, circuit::Law law) {
    devices_.push_back({part_.name + suffix, std::move(nodes), std::move(law)});
  }

  void addPot() {
    const auto knob = design_.knobs.find(part_.name);
    const double rotation = knob == design_.knobs.end() ? 0.5 : knob->second;
    const auto halves =
        circuit::potHalves(part_.value(), circuit::taperShare(*taperNamed(part_.text("taper")), rotation));
    add(".upper", {nodes_[0], nodes_[1]}, halves.first);
    add(".lower", {nodes_[1], nodes_[2]}, halves.second);
  }

  void addCapacitances(const tubes::TubeType& tube, Node plate, Node grid, Node cathode) {
    const auto& c = tube.capacitance;
    for (const auto& [suffix, a, b, farads] : {std::tuple{".cgp", grid, plate, c.gridPlate},
                                               {".cgk", grid, cathode, c.gridCathode},
                                               {".cpk", plate, cathode, c.plateCathode}})
      if (farads > 0) add(suffix, {a, b}, circuit::Capacitor{farads});
  }

  void addTransformer() {
    const auto& n = nodes_;
    const double primary = part_.number("primaryInductance");
    const double share = std::min(part_.number("leakageInductance") / primary, 0.5);
    const double secondary = primary * part_.number("secondaryLoad") / part_.value();
    const bool tapped = n.size() == 5;
    // Reversed: the secondary's leads are swapped, as a builder does when feedback turns out to be the wrong way round.
    const double sign = std::get<bool>(part_.settings.at("reversed")) ? -1 : 1;
    circuit::Transformer law;
    if (tapped) {
      const double k = couplingFor(share);
      const double half = primary / (2 * (1 + k));
      const double mutual = sign * k * std::sqrt(half * secondary);
      law.henries.resize(3, 3);
      law.henries << half, k * half, mutual, k * half, half, mutual, mutual, mutual, secondary;
      law.ohms.resize(3);
      law.ohms << part_.number("primaryOhms") / 2, part_.number("primaryOhms") / 2, part_.number("secondaryOhms");
      add("", {n[0], n[1], n[1], n[2], n[3], n[4]}, law);
    } else {
      const double mutual = sign * std::sqrt((1 - share) * primary * secondary);
      law.henries.resize(2, 2);
      law.henries << primary, mutual, mutual, secondary;
      law.ohms.resize(2);
      law.ohms << part_.number("primaryOhms"), part_.number("secondaryOhms");
      add("", {n[0], n[1], n[2], n[3]}, law);
    }
    const Node bottom = tapped ? n[2] : n[1];
    add(".shunt", {n[0], bottom}, circuit::Capacitor{part_.number("shuntFarads")});
    add(".core", {n[0], bottom}, circuit::Resistor{part_.number("coreLossOhms")});
  }

  /// Voice coil in series with the motional branch (A. N. Thiele, Loudspeakers in vented boxes, 1971; R. H. Small,
  /// 1972). Eddy currents in the pole piece shunt the coil's inductance (J. Vanderkooy, A model of loudspeaker driver
  /// impedance incorporating eddy currents in the pole structure, Journal of the Audio Engineering Society, 1989),
  /// here as one resistance.
  void addSpeaker() {
    const double coil = part_.value() * part_.number("voiceCoilShare");
    const double omega = 2 * std::numbers::pi * part_.number("resonanceHertz");
    const double motional = coil * part_.number("mechanicalQ") / part_.number("electricalQ");
    const Node wound = inner_[0], moving = inner_[1];
    add(".rdc", {nodes_[0], wound}, circuit::Resistor{coil});
    add(".le", {wound, moving}, circuit::Inductor{part_.number("voiceCoilInductance"), 0});
    add(".re", {wound, moving}, circuit::Resistor{part_.number("eddyOhms")});
    add(".rm", {moving, nodes_[1]}, circuit::Resistor{motional});
    add(".lm", {moving, nodes_[1]}, circuit::Inductor{motional / (omega * part_.number("mechanicalQ")), 0});
    add(".cm", {moving, nodes_[1]}, circuit::Capacitor{part_.number("mechanicalQ") / (omega * motional)});
  }

  const ResolvedPart& part_;
  const std::vector<Node>& nodes_;
  const std::vector<Node>& inner_;
  const Design& design_;
  const Library& library_;
  std::vector<circuit::Device> devices_;
};

std::vector<circuit::Device> devicesOf(const CompiledPart& part, const Design& design, const Library& library) {
  return PartDevices(part, design, library).take();
}

class Compiler {
public:
  Compiler(const Design& design, const Library& library) : library_(library) {
    circuit_.design = std::make_shared<const Design>(design);
  }

  Circuit run() {
    const Design& design = *circuit_.design;
    joinPorts(design);
    for (const auto* use : design.sections())
      for (const auto& part : sectionOf(*use).parts)
        if (part.linkWhenAbsent && !resolvePart(*use, part).fitted())
          joints_.join(key(*use, part.nodes.front()), key(*use, part.nodes.back()));
    for (const auto& use : design.line)
      addSection(use);
    for (const auto& use : design.lanes)
      addSection(use);
    for (const auto& use : design.supply)
      addSection(use);
    for (const auto& use : design.supply)
      circuit_.rails.push_back({use.node, circuit_.netlist.find(joints_.root(use.node))});
    return std::move(circuit_);
  }

private:
  const SectionTemplate& sectionOf(const SectionUse& use) const { return library_.sections.at(use.section); }

  void joinPortTo(const SectionUse& use, const std::string& port, const std::string& otherKey) {
    joints_.join(otherKey, key(use, sectionOf(use).port(port)->node));
  }

  void joinPorts(const Design& design) {
    for (std::size_t i = 0; i + 1 < design.line.size(); ++i)
      for (const auto& [from, to] : {std::pair{"out", "in"}, {"outB", "inB"}})
        if (const auto* out = sectionOf(design.line[i]).port(from))
          if (sectionOf(design.line[i + 1]).port(to))
            joinPortTo(design.line[i + 1], to, key(design.line[i], out->node));
    // The supply runs from the reservoir down: each node's section takes the one before it as its "from".
    for (std::size_t i = 0; i < design.supply.size(); ++i) {
      joinPortTo(design.supply[i], "node", design.supply[i].node);
      if (i > 0 && sectionOf(design.supply[i]).port("from"))
        joinPortTo(design.supply[i], "from", design.supply[i - 1].node);
    }
    for (const auto* use : design.sections())
      for (const auto& port : sectionOf(*use).ports) {
        const auto own = use->joins.find(port.name);
        const std::string target = own != use->joins.end() ? own->second : port.join;
        if (target == "ground") {
          if (!joinedByLane(design, *use, port.name)) joinPortTo(*use, port.name, Joints::ground);
        } else if (const auto dot = target.find('.'); dot != std::string::npos) {
          for (const auto& other : design.line)
            if (other.id == target.substr(0, dot))
              joinPortTo(*use, port.name, key(other, sectionOf(other).port(target.substr(dot + 1))->node));
        } else if (!target.empty() && target != "open") {
          joinPortTo(*use, port.name, target);
        }
      }
  }

  /// A lane that joins this port takes the place of the port's own default.
  static bool joinedByLane(const Design& design, const SectionUse& use, const std::string& port) {
    const std::string target = use.id + "." + port;
    return std::any_of(design.lanes.begin(), design.lanes.end(), [&](const SectionUse& lane) {
      return std::any_of(lane.joins.begin(), lane.joins.end(), [&](const auto& j) { return j.second == target; });
    });
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
        addDevices(compiled);
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
    const auto taken = [&] {
      return std::any_of(circuit_.probes.begin(), circuit_.probes.end(),
                         [&](const Probe& p) { return p.name == unique; });
    };
    for (int n = 2; taken(); ++n)
      unique = name + std::to_string(n);
    circuit_.probes.push_back({unique, node});
  }

  void addDevices(CompiledPart& compiled) {
    auto& netlist = circuit_.netlist;
    const auto& part = compiled.resolved;
    if (part.part->kind == PartKind::speaker)
      compiled.inner = {netlist.node(part.name + ".coil"), netlist.node(part.name + ".motional")};
    if (isTube(part.part->kind)) compiled.plateWattsLimit = library_.tubes.find(part.text("tube"))->limits.plateWatts;
    for (auto& device : devicesOf(compiled, *circuit_.design, library_))
      compiled.devices.push_back(netlist.add(std::move(device.id), std::move(device.nodes), std::move(device.law)));
  }

  const Library& library_;
  Circuit circuit_;
  Joints joints_;
};

} // namespace

const CompiledPart* Circuit::part(const std::string& name) const {
  const auto found = std::find_if(parts.begin(), parts.end(), [&](const auto& p) { return p.resolved.name == name; });
  return found == parts.end() ? nullptr : &*found;
}

circuit::Node Circuit::probe(const std::string& name) const {
  const auto found = std::find_if(probes.begin(), probes.end(), [&](const auto& p) { return p.name == name; });
  return found == probes.end() ? netlist.find(name) : found->node;
}

std::optional<DeviceLaws> Circuit::lawsWith(const std::string& name, const std::string& field, const Setting& to,
                                            const Library& library) const {
  const auto* found = part(name);
  if (!found || found->devices.empty() || !found->resolved.settings.contains(field)) return std::nullopt;
  CompiledPart other = *found;
  other.resolved.settings[field] = to;
  if (!other.resolved.fitted()) return std::nullopt;
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
  return Compiler(named, library).run();
}

} // namespace vinegar::amp
