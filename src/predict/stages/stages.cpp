#include "predict/stages/stages.h"

#include "circuit/dc.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace vinegar::predict {
namespace {

using circuit::Node;
using Complex = std::complex<double>;

constexpr double audible = 1e-6;     ///< of the input: under it a node carries no signal, but for what leaks there
constexpr double sameCurrent = 0.02; ///< two tubes that share theirs differ by grid and leak currents only
constexpr double heldSiemens = 1e3;  ///< holds a node still

const amp::CompiledPart* tubePart(const amp::Circuit& circuit, const std::string& name) {
  const auto* part = circuit.part(name);
  return part && amp::isTube(part->resolved.part->kind) && !part->devices.empty() ? part : nullptr;
}

const TubeReading& readingOf(const OperatingPoint& point, const std::string& name) {
  return *std::find_if(point.tubes.begin(), point.tubes.end(), [&](const auto& t) { return t.name == name; });
}

struct Pins {
  Node plate, grid, cathode;
  explicit Pins(const amp::CompiledPart& part)
      : plate(part.nodes[0]), grid(part.nodes[part.nodes.size() - 2]), cathode(part.nodes.back()) {}
};

/// No tube gives more than its mu: what stands at its plate then comes from elsewhere, as through a mixing resistor.
bool isAnothers(double gain, double mu) { return gain > 1.2 * mu; }

/// Where a tube's signal enters and leaves, by where it is.
struct Use {
  StageKind kind;
  Node in, out;
};
Use useOf(const SmallSignal& signal, const amp::CompiledPart& part, bool onTransformer) {
  const Pins pins(part);
  const auto size = [&](Node node) { return std::abs(signal.volts(node)); };
  const double plate = size(pins.plate), grid = size(pins.grid), cathode = size(pins.cathode);
  // The second of a self-split pair has its grid at rest and is driven by its cathode.
  if (onTransformer) return {StageKind::power, cathode > 2 * grid ? pins.cathode : pins.grid, pins.plate};
  if (cathode > 2 * grid) return {StageKind::groundedGrid, pins.cathode, pins.plate};
  if (cathode > 3 * plate) return {StageKind::follower, pins.grid, pins.cathode};
  if (cathode > plate / 3 && cathode > grid / 2) return {StageKind::cathodyne, pins.grid, pins.plate};
  return {StageKind::commonCathode, pins.grid, pins.plate};
}

/// Capacitors as extras that take them out, as far as `wanted` wants that of a role and its nodes.
template <class Wanted>
std::vector<SmallSignal::Extra> withoutCapacitors(const SmallSignal& signal, const Wanted& wanted) {
  std::vector<SmallSignal::Extra> extras;
  const auto& circuit = *signal.idle().circuit;
  for (const auto& part : circuit.parts)
    for (const int index : part.devices) {
      const auto& device = circuit.netlist.devices()[static_cast<std::size_t>(index)];
      const auto* capacitor = std::get_if<circuit::Capacitor>(&device.law);
      if (capacitor && part.resolved.part->kind == amp::PartKind::capacitor && wanted(part.resolved.part->role, device))
        extras.push_back(
            {device.nodes[0], device.nodes[1], {0, -2 * std::numbers::pi * signal.hertz() * capacitor->farads}});
    }
  return extras;
}

PublishedFigures nearestPublished(const tubes::TubeType& type, const TubeReading& tube) {
  const tubes::PublishedPoint* nearest = nullptr;
  double least = 0;
  for (const auto& point : type.published) {
    if (!point.gm && !point.mu && !point.rp) continue;
    const double far = std::abs(std::log(std::max(tube.plateVolts, 1.0) / std::max(point.plateVolts, 1.0))) +
                       (point.triodeConnected ? 5 : 0);
    if (!nearest || far < least) {
      nearest = &point;
      least = far;
    }
  }
  return nearest ? PublishedFigures{nearest->plateVolts, nearest->gm, nearest->mu, nearest->rp} : PublishedFigures{};
}

class Reader {
public:
  Reader(const SmallSignal& signal, const amp::Library& library) : signal_(signal), library_(library) {}

  void read(const StagePorts& stage, std::vector<StageReadings>& into) const {
    const auto& point = signal_.idle().point;
    const bool heard = signal_.stands() && stage.amps().allFinite() &&
                       stage.amps().norm() > audible * std::abs(signal_.input()) * stage.restSlopes().norm();
    for (std::size_t t = 0; t < stage.tubes().size(); ++t) {
      const auto& tube = stage.tubes()[t];
      StageReadings readings;
      readings.tube = readingOf(point, tube.part->resolved.name);
      if (const auto* type = library_.tubes.find(readings.tube.type)) {
        readings.ratingSystem = type->limits.system;
        readings.screenWattsLimit = type->limits.screenWatts;
        readings.plateVoltsLimit = type->limits.plateVolts;
        readings.screenVoltsLimit = type->limits.screenVolts;
        if (const auto published = nearestPublished(*type, readings.tube); published.plateVolts > 0)
          readings.published = published;
      }
      readNeighbours(*tube.part, readings);
      // What oscillates by itself gets no signal, whatever leaks there.
      if (!heard || library_.role(tube.part->resolved.part->role).oscillates) {
        into.push_back(std::move(readings));
        continue;
      }
      readSignal(stage, *tube.part, readings);
      if (heard) {
        readings.up = crestLimit(stage, t, signal_, true, mostInputPeak);
        readings.down = crestLimit(stage, t, signal_, false, mostInputPeak);
      }
      if (const auto& up = readings.up, &down = readings.down; up && down)
        readings.restBetween = down->inputPeak / (up->inputPeak + down->inputPeak);
      into.push_back(std::move(readings));
    }
  }

private:
  void readNeighbours(const amp::CompiledPart& part, StageReadings& readings) const {
    const auto& circuit = *signal_.idle().circuit;
    const Pins pins(part);
    const auto& own = readings.tube;
    for (const auto& other : signal_.idle().point.tubes) {
      if (other.name == own.name) continue;
      const Pins theirs(*circuit.part(other.name));
      const bool alike = own.plateAmps > 1e-7 && std::abs(other.plateAmps / own.plateAmps - 1) < sameCurrent;
      const auto near = [&](Node a, Node b) { return a == b || besideByResistor(a, b); };
      if (alike && (near(pins.plate, theirs.cathode) || near(pins.cathode, theirs.plate))) readings.shares = other.name;
      if (near(pins.grid, theirs.plate) && theirs.plate != pins.cathode) readings.coupled = other.name;
    }
  }

  /// Whether one resistor joins two nodes.
  [[nodiscard]] bool besideByResistor(Node a, Node b) const {
    if (a <= 0 || b <= 0) return false;
    for (const auto& device : signal_.idle().circuit->netlist.devices())
      if (std::holds_alternative<circuit::Resistor>(device.law) &&
          ((device.nodes[0] == a && device.nodes[1] == b) || (device.nodes[0] == b && device.nodes[1] == a)))
        return true;
    return false;
  }

  void readSignal(const StagePorts& stage, const amp::CompiledPart& part, StageReadings& readings) const {
    const Pins pins(part);
    const auto use = useOf(signal_, part, stage.drivesTransformer());
    const Node in = use.in, out = use.out;
    readings.kind = use.kind == StageKind::power && pushes(stage) ? StageKind::powerPair : use.kind;
    // Driven by its cathode, what drives it stands between that and its grid.
    const auto gainIn = [&](const Eigen::VectorXcd& x) {
      const auto drive = SmallSignal::voltsOf(x, in) - (in == pins.cathode ? SmallSignal::voltsOf(x, pins.grid) : 0);
      return std::abs(SmallSignal::voltsOf(x, out) / drive);
    };
    readings.gain = gainIn(signal_.answerWith({}));
    if (isAnothers(*readings.gain, readings.tube.mu)) {
      readings.gain.reset();
      readings.kind = StageKind::withoutSignal;
      return;
    }
    if (readings.kind == StageKind::commonCathode || readings.kind == StageKind::power ||
        readings.kind == StageKind::powerPair) {
      readings.gainBypassed = gainIn(signal_.answerWith({{pins.cathode, 0, heldSiemens}}));
      readings.gainUnbypassed = gainIn(
          signal_.answerWith(withoutCapacitors(signal_, [&](const std::string& role, const circuit::Device& device) {
            return role == "cathode-bypass" && (device.nodes[0] == pins.cathode || device.nodes[1] == pins.cathode);
          })));
    }
    if (!stage.drivesTransformer()) {
      // What follows hangs on capacitors, be it a grid or a tone network; a bypass and the supply belong to the stage.
      const auto& supply = signal_.idle().circuit->supply.devices;
      const auto load = withoutCapacitors(signal_, [&](const std::string& role, const circuit::Device& device) {
        const auto index = static_cast<int>(&device - signal_.idle().circuit->netlist.devices().data());
        return !role.ends_with("-bypass") && std::find(supply.begin(), supply.end(), index) == supply.end();
      });
      readings.outputOhms = std::abs(signal_.impedanceWith(out, load));
    }
    if (in != pins.grid) return;
    // Its own capacitances at the grid: what they draw for what is there.
    std::vector<SmallSignal::Extra> own;
    Complex drawn = 0;
    for (std::size_t d = 1; d < part.devices.size(); ++d) {
      const auto& device = signal_.idle().circuit->netlist.devices()[static_cast<std::size_t>(part.devices[d])];
      const auto* capacitor = std::get_if<circuit::Capacitor>(&device.law);
      if (!capacitor) continue;
      const Complex siemens(0, 2 * std::numbers::pi * signal_.hertz() * capacitor->farads);
      for (const auto& [from, to] : {std::pair{device.nodes[0], device.nodes[1]}, {device.nodes[1], device.nodes[0]}})
        if (from == pins.grid) drawn += siemens * (signal_.volts(from) - signal_.volts(to));
      if (device.nodes[0] == pins.grid || device.nodes[1] == pins.grid)
        own.push_back({device.nodes[0], device.nodes[1], -siemens});
    }
    if (own.empty()) return;
    readings.inputFarads = (drawn / signal_.volts(pins.grid)).imag() / (2 * std::numbers::pi * signal_.hertz());
    readings.sourceOhms = std::abs(signal_.impedanceWith(pins.grid, own));
    if (*readings.inputFarads > 0)
      readings.millerHertz = 1 / (2 * std::numbers::pi * *readings.sourceOhms * *readings.inputFarads);
  }

  static bool pushes(const StagePorts& stage) {
    const auto amps = stage.amps();
    const auto& tubes = stage.tubes();
    return std::any_of(tubes.begin(), tubes.end(), [&](const auto& tube) {
      return (amps[tube.plate()] * std::conj(amps[tubes.front().plate()])).real() < 0;
    });
  }

  const SmallSignal& signal_;
  const amp::Library& library_;
};

/// One tube's current at volts of its plate and grid, its screen following the plate as it does in the circuit.
class OneTube {
public:
  OneTube(const circuit::Law& law, const TubeReading& rest, double screenFollows)
      : law_(law), rest_(rest), follows_(screenFollows) {}

  [[nodiscard]] double amps(double plate, double grid) const {
    if (const auto* triode = std::get_if<circuit::Triode>(&law_))
      return tubes::triodeCurrent(triode->model, plate, grid).plate;
    const auto& pentode = std::get<circuit::Pentode>(law_);
    const double screen = *rest_.screenVolts + follows_ * (plate - rest_.plateVolts);
    return tubes::pentodeCurrent(pentode.model, plate, grid, screen).plate;
  }

private:
  const circuit::Law& law_;
  const TubeReading& rest_;
  double follows_;
};

/// 1, 2 or 5 times a power of ten, at least this.
double roundStep(double least) {
  const double decade = std::pow(10.0, std::floor(std::log10(least)));
  for (const double step : {1.0, 2.0, 5.0})
    if (step * decade >= least * (1 - 1e-9)) return step * decade;
  return 10 * decade;
}

/// The end of an axis: that which is held where it shows all without losing it in a corner, else a round one.
double endOf(double needed, double held) {
  if (needed <= held && needed > 0.55 * held) return held;
  const double step = roundStep(needed / 20);
  return step * std::ceil(needed / step);
}

/// The volts that the circuit leaves the tube at each current drawn from its plate to its cathode, its screen drawing
/// in proportion: from nothing to where no volts are left.
StageLine dcLine(const Idle& idle, const amp::CompiledPart& part, const TubeReading& rest) {
  StageLine line;
  auto netlist = idle.point.system->netlist();
  const int device = part.devices.front();
  const auto pins = static_cast<Eigen::Index>(part.nodes.size());
  const double screenShare = rest.screenAmps && rest.plateAmps > 0 ? *rest.screenAmps / rest.plateAmps : 0;
  const auto drawing = [&](double amps) {
    circuit::Norton draw{Eigen::VectorXd::Zero(pins), Eigen::MatrixXd::Zero(pins, pins)};
    draw.amps[0] = amps;
    if (pins > 3) draw.amps[1] = amps * screenShare;
    draw.amps[pins - 1] = -amps * (1 + (pins > 3 ? screenShare : 0));
    return draw;
  };
  netlist.replaceLaw(device, drawing(rest.plateAmps));
  circuit::System system(netlist);
  circuit::DcSolver solver(system);
  Eigen::VectorXd x = idle.point.dc.x;
  const auto voltsAt = [&](double amps) -> std::optional<double> {
    system.setLaws({{device, drawing(amps)}});
    const auto dc = solver.solve(&x);
    if (!dc) return std::nullopt;
    x = dc->x;
    return circuit::System::volts(x, part.nodes.front()) - circuit::System::volts(x, part.nodes.back());
  };
  constexpr int points = 12;
  const auto open = voltsAt(0);
  if (!open || !std::isfinite(*open)) return line;
  line = {{*open}, {0}};
  if (!(rest.plateAmps > 1e-9) || *open <= rest.plateVolts) return line;
  // Were the rest of the circuit linear, it would end here.
  const double end = rest.plateAmps * *open / (*open - rest.plateVolts);
  std::vector<double> currents{rest.plateAmps / 2, rest.plateAmps};
  for (int i = 1; i <= points + 4; ++i)
    currents.push_back(end * i / points);
  std::sort(currents.begin(), currents.end());
  for (const double amps : currents) {
    const auto volts = voltsAt(amps);
    if (!volts) break;
    if (*volts <= 0) {
      const double part0 = line.volts.back() / (line.volts.back() - *volts);
      line.amps.push_back(line.amps.back() + part0 * (amps - line.amps.back()));
      line.volts.push_back(0);
      break;
    }
    line.volts.push_back(*volts);
    line.amps.push_back(amps);
  }
  return line;
}

const std::vector<const amp::CompiledPart*>* stageWith(const std::vector<std::vector<const amp::CompiledPart*>>& stages,
                                                       const amp::CompiledPart* part) {
  for (const auto& stage : stages)
    if (std::find(stage.begin(), stage.end(), part) != stage.end()) return &stage;
  return nullptr;
}

Problem noTube(const std::string& name) { return {name, "is no tube at work in this design"}; }

/// The other side of a pair: the first tube whose current goes against this one's; nullptr where there is none.
const StagePorts::Tube* partnerOf(const StagePorts& stage, const std::string& name) {
  const auto amps = stage.amps();
  const auto& tubes = stage.tubes();
  const auto own =
      std::find_if(tubes.begin(), tubes.end(), [&](const auto& t) { return t.part->resolved.name == name; });
  for (const auto& other : tubes)
    if ((amps[other.plate()] * std::conj(amps[own->plate()])).real() < 0) return &other;
  return nullptr;
}

} // namespace

std::string_view words(StageKind kind) {
  constexpr std::array<std::string_view, 7> names{"common cathode", "follower",   "cathodyne",     "grounded grid",
                                                  "power tube",     "power pair", "without signal"};
  return names[static_cast<std::size_t>(kind)];
}

const std::optional<CrestLimit>& firstLimit(const StageReadings& stage) {
  constexpr double together = 1.02; // a pair meets on either side what one of its tubes does with its grid upward
  return stage.up && (!stage.down || stage.up->inputPeak <= together * stage.down->inputPeak) ? stage.up : stage.down;
}

bool hasRoom(const StageReadings& stage) {
  constexpr double nearGridCurrent = 0.85, nearCutOff = 0.03;
  return !stage.up || !stage.down || (stage.restBetween < nearGridCurrent && stage.restBetween > nearCutOff);
}

const StageReadings* Stages::tube(const std::string& name) const {
  const auto found = std::find_if(tubes.begin(), tubes.end(), [&](const auto& t) { return t.tube.name == name; });
  return found == tubes.end() ? nullptr : &*found;
}

tl::expected<Stages, Problem> predictStages(const Idle& idle, const amp::Library& library,
                                            const StagesQuestion& question, const GoOn& goOn) {
  const SmallSignal signal(idle, question.hertz);
  const Reader reader(signal, library);
  Stages stages;
  const auto groups = stagesOf(*idle.circuit);
  for (std::size_t s = 0; s < groups.size(); ++s) {
    if (goOn && !goOn(static_cast<double>(s) / static_cast<double>(groups.size())))
      return tl::unexpected(Problem::stopped());
    const auto asked = [&](const auto* part) { return part->resolved.name == question.tube; };
    if (!question.tube.empty() && std::none_of(groups[s].begin(), groups[s].end(), asked)) continue;
    reader.read(StagePorts(signal, groups[s]), stages.tubes);
  }
  std::stable_sort(stages.tubes.begin(), stages.tubes.end(), [&](const auto& a, const auto& b) {
    return &readingOf(idle.point, a.tube.name) < &readingOf(idle.point, b.tube.name);
  });
  return stages;
}

tl::expected<StageReadings, Problem> predictStage(const Idle& idle, const amp::Library& library,
                                                  const std::string& tube, double hertz) {
  if (!tubePart(*idle.circuit, tube)) return tl::unexpected(noTube(tube));
  const auto stages = predictStages(idle, library, {hertz, tube});
  if (!stages) return tl::unexpected(stages.error());
  return *stages->tube(tube);
}

std::optional<std::pair<Node, Node>> gainSpan(const SmallSignal& signal, const amp::CompiledPart& tube) {
  const auto use = useOf(signal, tube, outputTransformerOf(*signal.idle().circuit, tube));
  if (!(std::abs(signal.volts(use.in)) > audible * std::abs(signal.input()))) return std::nullopt;
  return std::pair{use.in, use.out};
}

std::optional<double> gainOf(const SmallSignal& signal, const amp::CompiledPart& tube) {
  const auto span = gainSpan(signal, tube);
  if (!span) return std::nullopt;
  const Pins pins(tube);
  const auto drive = signal.volts(span->first) - (span->first == pins.cathode ? signal.volts(pins.grid) : 0);
  const double gain = std::abs(signal.volts(span->second) / drive);
  if (isAnothers(gain, readingOf(signal.idle().point, tube.resolved.name).mu)) return std::nullopt;
  return gain;
}

std::optional<std::string> partnerIn(const SmallSignal& signal, const std::string& tube) {
  const auto* part = tubePart(*signal.idle().circuit, tube);
  if (!part || !outputTransformerOf(*signal.idle().circuit, *part)) return std::nullopt;
  const auto groups = stagesOf(*signal.idle().circuit);
  const StagePorts stage(signal, *stageWith(groups, part));
  const auto* partner = partnerOf(stage, tube);
  return partner ? std::optional(partner->part->resolved.name) : std::nullopt;
}

tl::expected<StageCurves, Problem> predictStageCurves(const Idle& idle, const amp::Library&,
                                                      const StageCurvesQuestion& question, const GoOn&) {
  const auto& circuit = *idle.circuit;
  const auto* part = tubePart(circuit, question.tube);
  if (!part) return tl::unexpected(noTube(question.tube));
  const auto& rest = readingOf(idle.point, question.tube);
  const SmallSignal signal(idle, question.hertz);
  const auto groups = stagesOf(circuit);
  const StagePorts stage(signal, *stageWith(groups, part));
  const auto own =
      std::find_if(stage.tubes().begin(), stage.tubes().end(), [&](const auto& t) { return t.part == part; });

  StageCurves curves;
  curves.restVolts = rest.plateVolts;
  curves.restAmps = rest.plateAmps;
  curves.restGridVolts = rest.gridVolts;
  const Complex plateVolts = stage.volts()[own->plate()], plateAmps = stage.amps()[own->plate()];
  const bool heard = signal.stands() && std::abs(plateAmps) > audible * std::abs(signal.input());
  if (own->count > 2) {
    const Complex screen = stage.volts()[own->first + 1];
    if (heard && std::abs(plateVolts) > 0) curves.screenFollows = std::clamp((screen / plateVolts).real(), 0.0, 1.0);
    if (curves.screenFollows < 0.02) curves.screenFollows = 0;
  }
  const auto& law = idle.point.system->netlist().devices()[static_cast<std::size_t>(own->device)].law;
  const OneTube tube(law, rest, curves.screenFollows);
  curves.dcLine = dcLine(idle, *part, rest);
  if (heard) {
    const auto number = static_cast<std::size_t>(own - stage.tubes().begin());
    curves.up = crestLimit(stage, number, signal, true, mostInputPeak);
    curves.down = crestLimit(stage, number, signal, false, mostInputPeak);
  }

  const auto* partner = heard ? partnerOf(stage, question.tube) : nullptr;
  if (partner) curves.partner = partner->part->resolved.name;
  const bool composite = question.composite && partner;
  double open = curves.dcLine.empty() ? rest.plateVolts : curves.dcLine.volts.front();
  // A transformer's primary lets the plate swing as far above the supply as it goes below.
  const double reach =
      std::abs(plateVolts) > 0 && curves.dcLine.volts.size() > 1 && (open - rest.plateVolts) < 0.15 * open
          ? 2 * rest.plateVolts
          : open;
  curves.mostVolts = endOf(std::max({1.06 * reach, 1.2 * rest.plateVolts, 1.0}), question.heldVolts);

  // Where small signals move it: the working amplifier's own ratio, or the circuit's impedance where no signal is.
  Complex siemens =
      heard && std::abs(plateVolts) > 0 ? plateAmps / plateVolts : -1.0 / stage.impedance()(own->plate(), own->plate());
  if (composite) siemens = (plateAmps - stage.amps()[partner->plate()]) / plateVolts;
  const double slope = siemens.real(), restAmps = composite ? 0 : rest.plateAmps;
  if (std::isfinite(slope) && slope < 0) {
    const double left = std::max(0.0, composite ? 0 : rest.plateVolts - 4 * rest.plateVolts);
    const double right = composite ? curves.mostVolts : std::min(curves.mostVolts, rest.plateVolts - restAmps / slope);
    curves.acLine = {{left, right},
                     {restAmps + slope * (left - rest.plateVolts), restAmps + slope * (right - rest.plateVolts)}};
  }

  curves.mostAmps = 0;
  if (!curves.acLine.empty()) curves.mostAmps = std::max(curves.mostAmps, curves.acLine.amps.front());
  if (!composite && curves.dcLine.volts.size() > 2 && reach == open)
    curves.mostAmps = std::max(curves.mostAmps, curves.dcLine.amps.back());
  curves.mostAmps = 1.1 * std::max({curves.mostAmps, 2 * rest.plateAmps, 1e-6});
  if (const double most = tube.amps(curves.mostVolts * 0.6, 0); !composite && most > 0)
    curves.mostAmps = std::min(curves.mostAmps, std::max(1.3 * most, 1.6 * rest.plateAmps));
  curves.mostAmps = endOf(curves.mostAmps, question.heldAmps);

  // Grid lines from a little over 0 down to where nothing flows any more.
  double cutOff = -0.5;
  while (cutOff > -1000 && tube.amps(curves.mostVolts, cutOff) > 0.01 * curves.mostAmps)
    cutOff *= 1.15;
  const double step = roundStep(-cutOff / 10);
  const auto lineAt = [&](double gridVolts) {
    PlateCurve curve{gridVolts, {}};
    constexpr int points = 80;
    for (int i = 0; i <= points; ++i) {
      // Closer where the knee is.
      const double share = static_cast<double>(i) / points;
      const double volts = curves.mostVolts * share * share * (1.6 - 0.6 * share);
      double amps = 0;
      if (composite) {
        const double other = 2 * rest.plateVolts - volts;
        amps = tube.amps(volts, rest.gridVolts + gridVolts) -
               (other > 0 ? tube.amps(other, rest.gridVolts - gridVolts) : 0);
      } else {
        amps = tube.amps(volts, gridVolts);
      }
      curve.line.volts.push_back(volts);
      curve.line.amps.push_back(amps);
    }
    curves.plates.push_back(std::move(curve));
  };
  if (composite)
    for (int quarter = 4; quarter >= -4; --quarter)
      lineAt(-rest.gridVolts * quarter / 4);
  else
    for (int line = 0; line <= static_cast<int>(-cutOff / step) + 1; ++line)
      lineAt(-step * line);

  if (rest.plateWattsLimit && !composite)
    for (const double volts : circuit::logSpaced(curves.mostVolts / 60, curves.mostVolts, 70)) {
      curves.limit.volts.push_back(volts);
      curves.limit.amps.push_back(*rest.plateWattsLimit / volts);
    }
  if (partner)
    for (const auto& limit : localLimits(stage, signal, mostInputPeak))
      if (limit.kind == Limit::Kind::classA)
        curves.classAVolts = rest.plateVolts - limit.inputPeak / std::abs(signal.input()) * std::abs(plateVolts);
  return curves;
}

tl::expected<StageLine, Problem> predictStagePath(const Idle& idle, const amp::Library&,
                                                  const StagePathQuestion& question, const GoOn& goOn) {
  const auto* part = tubePart(*idle.circuit, question.tube);
  if (!part) return tl::unexpected(noTube(question.tube));
  const SmallSignal signal(idle, question.hertz);
  if (!signal.stands()) return StageLine{};
  const auto groups = stagesOf(*idle.circuit);
  const StagePorts stage(signal, *stageWith(groups, part));
  const auto* partner = question.composite ? partnerOf(stage, question.tube) : nullptr;
  const auto wave = driveAmplifier(signal, question.inputPeak, stage.nodes(), goOn);
  if (!wave) return tl::unexpected(wave.error());
  const auto own =
      std::find_if(stage.tubes().begin(), stage.tubes().end(), [&](const auto& t) { return t.part == part; });
  StageLine path;
  Eigen::VectorXd amps;
  Eigen::MatrixXd slopes;
  for (Eigen::Index k = 0; k <= wave->volts.cols(); ++k) { // closed
    const Eigen::VectorXd ports = stage.portsOf(wave->volts.col(k % wave->volts.cols()));
    stage.evaluate(ports, amps, slopes);
    path.volts.push_back(ports[own->plate()]);
    path.amps.push_back(amps[own->plate()] - (partner ? amps[partner->plate()] : 0));
  }
  return path;
}

} // namespace vinegar::predict
