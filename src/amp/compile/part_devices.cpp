#include "amp/compile/part_devices.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <numbers>
#include <set>

namespace vinegar::amp {
namespace {

using circuit::Node;

/// Springs of a tank, each a little slower than the one before so that their echoes do not fall together.
constexpr std::array<double, 2> springPace{1, 1.23};
constexpr double tankLowHertz = 60; ///< below, the transducers do nothing

/// Leakage of an electrolytic: its charge lasts this long by itself, about 3 uA for 1,000 uF V.
constexpr double leakSeconds = 333;

constexpr double insulationOhms = 22e6, zenerLeakOhms = 20e6;

/// The linear share of a transformer whose core bends: so much larger than the whole that the core decides.
constexpr double linearExcess = 20;

constexpr double benchOhms = 0.1;

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
      if (part_.part->role == "reservoir" || part_.part->role == "filter")
        add(".leak", n, circuit::Resistor{leakSeconds / part_.value()});
      break;
    case PartKind::inductor:
      add("", n, circuit::Inductor{part_.value(), part_.number("ohms")});
      break;
    case PartKind::pot:
      addPot();
      break;
    case PartKind::selector:
      addSelector();
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
    case PartKind::zener:
      add("", n, circuit::Zener{part_.value(), part_.number("testAmps"), part_.number("ohms")});
      add(".leak", n, circuit::Resistor{zenerLeakOhms});
      break;
    case PartKind::outputTransformer:
      addOutputTransformer();
      break;
    case PartKind::transformer:
      addTransformer();
      break;
    case PartKind::speaker:
      addSpeaker();
      break;
    case PartKind::springTank:
      addSpringTank();
      break;
    case PartKind::signalSource:
      add("", {n[0], 0}, circuit::VoltageSource{0, part_.value()});
      break;
    case PartKind::voltageSource:
      add("", {n[0], 0}, circuit::VoltageSource{part_.value()});
      break;
    case PartKind::mains:
      add("", n, circuit::VoltageSource{0});
      // The neutral is earthed at the substation.
      if (n[1] != 0) add(".neutral", {n[1], 0}, circuit::Resistor{1});
      break;
    case PartKind::fuse:
      add("", n, circuit::Resistor{part_.number("ohms")});
      break;
    case PartKind::powerTransformer:
      addPowerTransformer();
      break;
    case PartKind::rectifier:
      add(".1", {n[0], n[2]}, rectifierLaw());
      add(".2", {n[1], n[2]}, rectifierLaw());
      break;
    case PartKind::diode:
      add("", n, rectifierLaw());
      break;
    case PartKind::heaters:
      add("", n, circuit::Resistor{heaterOhms(part_, design_, library_)});
      break;
    case PartKind::biasSource:
      // A bench supply gives way a little, so that one on a node which another supply feeds has an answer too.
      add("", {inner_[0], 0}, circuit::VoltageSource{-part_.value()});
      add(".inside", {n[0], inner_[0]}, circuit::Resistor{benchOhms});
      break;
    }
    return std::move(devices_);
  }

private:
  void add(const std::string& suffix, std::vector<Node> nodes, circuit::Law law) {
    devices_.push_back({part_.name + suffix, std::move(nodes), std::move(law)});
  }

  void addPot() {
    const auto halves = circuit::potHalves(
        part_.value(), circuit::taperShare(*taperNamed(part_.text("taper")), knobOf(design_, part_)));
    add(".upper", {nodes_[0], nodes_[1]}, halves.first);
    add(".lower", {nodes_[1], nodes_[2]}, halves.second);
  }

  void addSelector() {
    const int to = part_.part->positions[static_cast<std::size_t>(knobOf(design_, part_)) - 1].to;
    for (std::size_t t = 1; t < nodes_.size(); ++t)
      add(fmt::format(".{}", t), {nodes_[0], nodes_[t]}, circuit::Switch{static_cast<int>(t) == to});
  }

  void addCapacitances(const tubes::TubeType& tube, Node plate, Node grid, Node cathode) {
    const auto& c = tube.capacitance;
    for (const auto& [suffix, a, b, farads] : {std::tuple{".cgp", grid, plate, c.gridPlate},
                                               {".cgk", grid, cathode, c.gridCathode},
                                               {".cpk", plate, cathode, c.plateCathode}})
      if (farads > 0) add(suffix, {a, b}, circuit::Capacitor{farads});
  }

  [[nodiscard]] circuit::Law rectifierLaw() const {
    const auto& model = std::get<tubes::RectifierModel>(library_.tubes.find(part_.text("tube"))->model);
    if (model.silicon) return circuit::Diode{model.saturationAmps, model.emission};
    return circuit::VacuumDiode{model.perveance};
  }

  void addPowerTransformer() {
    const auto& n = nodes_;
    const auto ratings = transformerWindings(part_);
    std::vector<circuit::Winding> windings{{1, transformerPrimaryOhms(part_)}};
    std::vector<Node> nodes{n[0], n[1]};
    std::size_t pin = 2;
    for (const auto& winding : ratings)
      for (std::size_t tap = 0; tap < winding.taps; ++tap, ++pin) {
        if (tap == 0) continue;
        windings.push_back({winding.unloadedVolts / part_.value(), winding.ohms});
        nodes.insert(nodes.end(), {n[pin - 1], n[pin]});
      }
    add("", nodes, circuit::wind(windings, 1, part_.number("primaryInductance"), 0));
    // Insulation: without it a winding between four blocking diodes would have no volts of its own.
    pin = 2;
    for (const auto& winding : ratings) {
      const auto last = pin + winding.taps - 1;
      for (const auto& [end, tap] : {std::pair{"first", pin}, {"last", last}})
        add(fmt::format(".{}.{}", winding.name, end), {n[tap], 0}, circuit::Resistor{insulationOhms});
      pin = last + 1;
    }
  }

  /// Primary windings in series along nodes 0, 1, 2...; then the secondary.
  void addOutputTransformer() {
    const auto& n = nodes_;
    const std::size_t primaries = n.size() - 3;
    const double tap = part_.settings.contains("tapShare") ? part_.number("tapShare") : 0; // from the rail's end
    const auto turns = primaries == 1   ? std::vector<double>{1}
                       : primaries == 4 ? std::vector<double>{(1 - tap) / 2, tap / 2, tap / 2, (1 - tap) / 2}
                       : tap > 0        ? std::vector<double>{tap, 1 - tap} // single-ended
                                        : std::vector<double>{0.5, 0.5};
    std::vector<circuit::Winding> windings;
    std::vector<Node> nodes;
    for (std::size_t w = 0; w < primaries; ++w) {
      windings.push_back({turns[w], part_.number("primaryOhms") * turns[w]});
      nodes.insert(nodes.end(), {n[w], n[w + 1]});
    }
    // Reversed: the secondary's leads are swapped, as a builder does when feedback turns out to be the wrong way round.
    const double sign = std::get<bool>(part_.settings.at("reversed")) ? -1 : 1;
    windings.push_back(
        {sign * std::sqrt(part_.number("secondaryLoad") / part_.value()), part_.number("secondaryOhms")});
    nodes.insert(nodes.end(), {n[primaries + 1], n[primaries + 2]});
    addWindings(nodes, windings, primaries, n[0], n[primaries]);
  }

  void addTransformer() {
    const auto& n = nodes_;
    addWindings(n, {{1, part_.number("primaryOhms")}, {1 / part_.value(), part_.number("secondaryOhms")}}, 1, n[0],
                n[1]);
  }

  void addWindings(const std::vector<Node>& nodes, const std::vector<circuit::Winding>& windings, std::size_t primaries,
                   Node top, Node bottom) {
    const double bend = part_.number("bendFlux");
    const double total = part_.number("primaryInductance");
    const double linear = total * (bend > 0 ? linearExcess : 1);
    add("", nodes,
        circuit::wind(windings, primaries, linear, std::min(part_.number("leakageInductance") / linear, 0.5)));
    add(".shunt", {top, bottom}, circuit::Capacitor{part_.number("shuntFarads")});
    add(".core", {top, bottom}, circuit::Resistor{part_.number("coreLossOhms")});
    if (bend > 0) {
      add(".magnetising", {top, bottom, inner_[0], 0},
          circuit::SaturableInductor{total * linearExcess / (linearExcess - 1), bend});
      add(".flux", {inner_[0], 0}, circuit::Capacitor{circuit::fluxFarads});
    }
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

  /// A coil drives springs by its current; each spring's wave runs to the far end in `delay` and comes back weaker and
  /// duller; the far ends induce their sum in the output coil. The wave's dispersion, which makes the lowest notes
  /// arrive first, is left out (J. S. Abel, D. P. Berners et al., Spring reverb emulation using dispersive allpass
  /// filters in a waveguide structure, AES convention 121, 2006, tells how much that colours).
  void addSpringTank() {
    const double atKilohertz = 2 * std::numbers::pi * 1000;
    const auto coil = [&](double ohms, double& henries, double& dc) {
      dc = ohms / 10; // a tenth of the impedance at 1 kHz is copper
      henries = std::sqrt(ohms * ohms - dc * dc) / atKilohertz;
    };
    double inHenries = 0, inOhms = 0, outHenries = 0, outOhms = 0;
    coil(part_.value(), inHenries, inOhms);
    coil(part_.number("outputOhms"), outHenries, outOhms);
    const Node wound = inner_[0], force = inner_[1], wave = inner_[2], emf = inner_[3];
    const auto lowPass = [&](const std::string& name, Node from, Node to) {
      add(name + "r", {from, to}, circuit::Resistor{1e3});
      add(name + "c", {to, 0}, circuit::Capacitor{1 / (2 * std::numbers::pi * part_.number("trebleHertz") * 1e3)});
    };
    add(".rin", {nodes_[0], wound}, circuit::Resistor{inOhms});
    add(".lin", {wound, nodes_[1]}, circuit::Inductor{inHenries, 0});
    add(".force", {force, 0, nodes_[0], wound}, circuit::Vcvs{part_.number("transferOhms") / inOhms});
    add(".low", {force, wave}, circuit::Capacitor{1 / (2 * std::numbers::pi * tankLowHertz * 1e4)});
    add(".load", {wave, 0}, circuit::Resistor{1e4});
    Node stack = nodes_[3];
    for (std::size_t s = 0; s < springPace.size(); ++s) {
      const double delay = part_.number("delayMilliseconds") / 1000 * springPace[s];
      const double kept = std::pow(10, -3 * 2 * delay / part_.number("decaySeconds"));
      const auto name = fmt::format(".spring{}", s + 1);
      const auto* own = &inner_[4 + 7 * s]; // sent, echo, far, farDull, back, backDull, top
      add(name + ".send", {own[0], own[1], wave, 0}, circuit::Vcvs{1});
      add(name + ".echo", {own[1], 0, own[5], 0}, circuit::Vcvs{-kept});
      add(name + ".far", {own[2], 0, own[0], 0}, circuit::Delay{1, delay});
      lowPass(name + ".dull", own[2], own[3]);
      add(name + ".back", {own[4], 0, own[0], 0}, circuit::Delay{1, 2 * delay});
      lowPass(name + ".loss", own[4], own[5]);
      const Node top = s + 1 == springPace.size() ? emf : own[6];
      add(name + ".emf", {top, stack, own[3], 0}, circuit::Vcvs{s % 2 ? -1.0 : 1.0});
      stack = top;
    }
    add(".out", {emf, nodes_[2]}, circuit::Inductor{outHenries, outOhms});
  }

  const ResolvedPart& part_;
  const std::vector<Node>& nodes_;
  const std::vector<Node>& inner_;
  const Design& design_;
  const Library& library_;
  std::vector<circuit::Device> devices_;
};

} // namespace

std::vector<std::string> innerNodeNames(const ResolvedPart& part) {
  std::vector<std::string> names;
  const auto add = [&](const std::string& suffix) { names.push_back(part.name + "." + suffix); };
  switch (part.part->kind) {
  case PartKind::speaker:
    for (const char* name : {"coil", "motional"})
      add(name);
    break;
  case PartKind::outputTransformer:
  case PartKind::transformer:
    if (part.number("bendFlux") > 0) add("flux");
    break;
  case PartKind::biasSource:
    add("emf");
    break;
  case PartKind::springTank:
    for (const char* name : {"coil", "force", "wave", "emf"})
      add(name);
    for (std::size_t s = 0; s < springPace.size(); ++s)
      for (const char* name : {"sent", "echo", "far", "farDull", "back", "backDull", "top"})
        if (s + 1 < springPace.size() || std::string_view(name) != "top") add(fmt::format("spring{}.{}", s + 1, name));
    break;
  default:
    break;
  }
  return names;
}

Heating::Heating(const Design& design, const Library& library) {
  constexpr std::string_view port = ".filament";
  for (const auto* use : design.sections())
    if (const auto join = use->joins.find("filament"); join != use->joins.end() && join->second.ends_with(port)) {
      const auto other = join->second.substr(0, join->second.size() - port.size());
      filaments_.insert({use->id, other});
      filaments_.insert({other, use->id});
    }
  forEachPart(design, library, [&](const SectionUse& use, const PartTemplate& ofSection) {
    if (ofSection.kind != PartKind::heaters) return;
    if (const auto part = resolvePart(use, ofSection); part.fitted())
      heaters_.push_back({part.name, use.id, part.value(), ofSection.role == "filament"});
  });
}

bool Heating::sharesFilament(const ResolvedPart& tube, const tubes::TubeType& type) const {
  return type.heatedDirectly && !type.isRectifier() &&
         std::none_of(heaters_.begin(), heaters_.end(), [&](const Heaters& heaters) {
           return heaters.isFilament && filaments_.contains({heaters.section, tube.section});
         });
}

std::vector<std::string> Heating::of(const ResolvedPart& tube, const tubes::TubeType& type) const {
  std::vector<std::string> names;
  if (type.heaterVolts <= 0) return names;
  const bool own = type.heatedDirectly && !type.isRectifier() && !sharesFilament(tube, type);
  for (const auto& heaters : heaters_)
    if (heaters.isFilament == own && (!own || filaments_.contains({heaters.section, tube.section})) &&
        takesHeaterVolts(type, heaters.volts))
      names.push_back(heaters.name);
  return names;
}

double heaterWatts(const ResolvedPart& heaters, const Design& design, const Library& library) {
  std::map<std::string, double> bottles; // both halves share one heater
  const Heating heating(design, library);
  forEachPart(design, library, [&](const SectionUse& use, const PartTemplate& ofSection) {
    if (!hasType(ofSection.kind)) return;
    const auto part = resolvePart(use, ofSection);
    if (!part.fitted()) return;
    const auto* type = library.tubes.find(part.text("tube"));
    if (!type || !takesHeaterVolts(*type, heaters.value())) return;
    const auto by = heating.of(part, *type);
    if (std::find(by.begin(), by.end(), heaters.name) == by.end()) return;
    bottles[bottleOf(part.name)] = type->heaterVolts * type->heaterAmps;
  });
  double watts = 0;
  for (const auto& [name, power] : bottles)
    watts += power;
  return watts;
}

bool takesHeaterVolts(const tubes::TubeType& type, double volts) {
  // A heater of 12.6 V with a middle tap also runs on 6.3 V at twice the current.
  return std::abs(type.heaterVolts - volts) < 0.05 * volts ||
         (std::abs(type.heaterVolts - 12.6) < 0.1 && std::abs(volts - 6.3) < 0.2);
}

double heaterOhms(const ResolvedPart& heaters, const Design& design, const Library& library) {
  const double watts = heaterWatts(heaters, design, library);
  return watts > 0 ? heaters.value() * heaters.value() / watts : 1e6;
}

std::vector<TransformerWinding> transformerWindings(const ResolvedPart& part) {
  std::vector<TransformerWinding> windings;
  const auto& given = part.text("given");
  for (const auto& winding : part.part->windings) {
    const double volts = part.number(winding.name + "Volts"), amps = part.number(winding.name + "Amps");
    TransformerWinding read{winding.name, winding.taps.size(), volts, amps, part.number(winding.name + "Ohms")};
    if (given != transformerGivens[0]) {
      // Half of the fall from no load to rated current is the winding's own, half the primary's.
      const double regulation = part.number("regulation");
      if (given == transformerGivens[2]) read.unloadedVolts = volts * (1 + regulation);
      read.ohms = 0.5 * regulation * volts / amps;
    }
    windings.push_back(std::move(read));
  }
  return windings;
}

double transformerPrimaryOhms(const ResolvedPart& part) {
  if (part.text("given") == transformerGivens[0]) return part.number("primaryOhms");
  double ratedWatts = 0;
  for (const auto& winding : transformerWindings(part))
    ratedWatts += winding.unloadedVolts * winding.ratedAmps * (winding.taps == 3 ? 1.4 : 1);
  return 0.5 * part.number("regulation") * part.value() * part.value() / ratedWatts;
}

std::vector<circuit::Device> devicesOf(const CompiledPart& part, const Design& design, const Library& library) {
  return PartDevices(part, design, library).take();
}

} // namespace vinegar::amp
