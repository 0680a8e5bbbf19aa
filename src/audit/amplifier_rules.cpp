#include "audit/case.h"
#include "predict/rest/grid_leak.h"
#include "predict/stages/stages.h"
#include "predict/wave/feedback.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <set>

namespace vinegar::audit {
namespace {

using amp::PartKind;
using units::Unit;

std::string listed(const std::vector<std::string>& names) {
  std::string all;
  for (std::size_t i = 0; i < names.size(); ++i)
    all += (i == 0 ? "" : i + 1 == names.size() ? " and " : ", ") + names[i];
  return all;
}

void filaments(Case& c) {
  for (const auto& name : c.report.sharedFilaments)
    c.add(name,
          "It is directly heated: its filament is its cathode, and here it shares a heater winding. A winding with a "
          "grounded middle shorts its bias; the rectifier's winding stands at B+.",
          "Give it a filament transformer of its own, joined to its cathode (supply group of the shelf).", true);
}

void reversedFeedback(Case& c) {
  const predict::SmallSignal signal(c.idle, 1000);
  if (!signal.stands()) return;
  const auto feedback = predict::feedbackOf(signal);
  constexpr double worthTelling = -0.05;
  if (!feedback || feedback->returned.real() > worthTelling) return;
  std::string part;
  c.eachPart([&](const auto& one) {
    if (part.empty() && one.resolved.part->role == "feedback" && !one.devices.empty()) part = one.resolved.name;
  });
  c.add(part,
        fmt::format("The feedback comes back in phase with the signal at 1 kHz: it {}.",
                    feedback->returned.real() < -1 ? "howls" : "raises gain and distortion, and can howl"),
        "Swap the secondary's leads of the output transformer (reversed), or the two ends of its primary.");
}

void gridLeaks(Case& c) {
  for (const auto& tube : c.point().tubes) {
    const auto* type = c.library.tubes.find(tube.type);
    if (!type) continue;
    // Bias by its cathode is what its own current makes there.
    const bool byCathode = tube.cathodeVoltsToGround > 0.5 * std::abs(tube.gridVolts);
    const auto limit = byCathode ? type->limits.gridLeakCathodeOhms : type->limits.gridLeakFixedOhms;
    const auto ohms = limit ? predict::gridLeakOhms(c.idle, tube.name) : std::nullopt;
    if (!ohms || *ohms <= 1.05 * *limit) continue;
    c.add(tube.name,
          fmt::format("Its grid has {} to ground; a {} may have {} with {} bias. Grid current then moves its bias, and "
                      "the tube can run away.",
                      read(*ohms, Unit::ohm), tube.type, read(*limit, Unit::ohm), byCathode ? "cathode" : "fixed"),
          "A smaller grid leak, and a larger coupling capacitor where the bass suffers.");
  }
}

/// Transformers that output tubes drive, with those tubes.
template <class F> void eachOutputStage(const Case& c, F f) {
  for (const auto& tubes : predict::stagesOf(c.circuit()))
    if (const auto* transformer = predict::outputTransformerOf(c.circuit(), *tubes.front())) f(tubes, *transformer);
}

void speakerLoad(Case& c, const amp::CompiledPart& transformer, double speakerOhms) {
  constexpr double near = 1.3; // another tap is a factor of two away
  const double made = transformer.resolved.number("secondaryLoad"), share = speakerOhms / made;
  if (share < near && share > 1 / near) return;
  c.add(transformer.resolved.name,
        fmt::format("It is made for {} at this tap and the loudspeaker is {}: its tubes see {:.2g} times the load that "
                    "they are meant to see.",
                    read(made, Unit::ohm, 2), read(speakerOhms, Unit::ohm, 2), share),
        "The tap of the loudspeaker's value, or another loudspeaker. Half the load strains the tubes, twice the load "
        "the transformer.");
}

/// Whether a pentode's screen follows its plate, as in a triode.
bool standsAsTriode(const predict::Idle& idle, const amp::CompiledPart& tube) {
  constexpr double strapOhms = 10e3;
  if (tube.nodes.size() < 4 || tube.nodes[0] == tube.nodes[1]) return true;
  const auto& devices = idle.circuit->netlist.devices();
  return std::any_of(devices.begin(), devices.end(), [&](const circuit::Device& device) {
    const auto* resistor = std::get_if<circuit::Resistor>(&device.law);
    const auto joins = [&](std::size_t a, std::size_t b) {
      return device.nodes[0] == tube.nodes[a] && device.nodes[1] == tube.nodes[b];
    };
    return resistor && resistor->ohms < strapOhms && (joins(0, 1) || joins(1, 0));
  });
}

/// Against the published operation whose plate volts are nearest.
void primaryLoad(Case& c, const std::vector<const amp::CompiledPart*>& tubes, const amp::CompiledPart& transformer,
                 double speakerOhms) {
  constexpr double nearVolts = 1.25, far = 2.2; // times
  const auto& name = tubes.front()->resolved.name;
  const auto& readings = c.point().tubes;
  const auto reading =
      std::find_if(readings.begin(), readings.end(), [&](const auto& tube) { return tube.name == name; });
  const auto* type = reading == readings.end() ? nullptr : c.library.tubes.find(reading->type);
  if (!type) return;
  const bool pushPull = transformer.nodes.size() > 4;
  const double units = static_cast<double>(tubes.size()) / (pushPull ? 2 : 1); // pairs, or single tubes
  const bool triode = standsAsTriode(c.idle, *tubes.front());
  const auto apart = [&](const tubes::PublishedOperation& operation) {
    return std::abs(std::log(operation.plateVolts / std::max(1.0, reading->plateVolts)));
  };
  const tubes::PublishedOperation* nearest = nullptr;
  for (const auto& operation : type->operations)
    if (operation.tubes == (pushPull ? 2 : 1) && triode == !operation.screenVolts && operation.loadOhms > 0 &&
        (!nearest || apart(operation) < apart(*nearest)))
      nearest = &operation;
  if (!nearest || apart(*nearest) > std::log(nearVolts)) return;
  const double load = transformer.resolved.value() * speakerOhms / transformer.resolved.number("secondaryLoad") * units;
  if (load < far * nearest->loadOhms && load > nearest->loadOhms / far) return;
  c.add(transformer.resolved.name,
        fmt::format("{} {}. At {} the data sheet of the {} gives {}.", pushPull ? "Each pair sees" : "Each tube sees",
                    read(load, Unit::ohm), read(nearest->plateVolts, Unit::volt), reading->type,
                    read(nearest->loadOhms, Unit::ohm)),
        "A transformer of another primary impedance, or another secondary tap for the loudspeaker.");
}

/// The secondary's turns over those of the tap that a loudspeaker's node is joined to; nothing where another section
/// stands between.
std::optional<double> turnsTo(const Case& c, circuit::Node speaker, circuit::Node secondary) {
  if (speaker == secondary) return 1;
  for (const auto& tap : c.circuit().parts) {
    if (tap.resolved.part->role != "tap-switch" || tap.devices.empty() || tap.nodes.front() != speaker) continue;
    const auto position = static_cast<std::size_t>(amp::knobOf(*c.circuit().design, tap.resolved)) - 1;
    const auto node = tap.nodes[static_cast<std::size_t>(tap.resolved.part->positions[position].to)];
    if (node == secondary) return 1;
    for (const auto& part : c.circuit().parts)
      if (part.resolved.part->role == "secondary-tap" && !part.devices.empty() && part.nodes[2] == node)
        return part.resolved.value();
  }
  return std::nullopt;
}

void loads(Case& c) {
  eachOutputStage(c, [&](const auto& tubes, const amp::CompiledPart& transformer) {
    const auto out = transformer.nodes[transformer.nodes.size() - 2];
    double siemens = 0;
    c.eachPart([&](const auto& part) {
      if (part.resolved.part->kind != PartKind::speaker || part.devices.empty()) return;
      if (const auto turns = turnsTo(c, part.nodes.front(), out))
        siemens += 1 / (part.resolved.value() * *turns * *turns);
    });
    if (siemens <= 0) return;
    speakerLoad(c, transformer, 1 / siemens);
    primaryLoad(c, tubes, transformer, 1 / siemens);
  });
}

void platesWithoutCapacitor(Case& c) {
  if (!c.point().supply) return;
  std::set<circuit::Node> told;
  eachOutputStage(c, [&](const auto&, const amp::CompiledPart& transformer) {
    const auto* use = c.circuit().design->section(transformer.resolved.section);
    const auto join = use->joins.find("plates");
    const auto node = join == use->joins.end() ? -1 : c.circuit().probe(join->second);
    if (node <= 0 || !told.insert(node).second) return;
    bool held = false, feeds = false;
    std::string resistor;
    c.eachPart([&](const auto& part) {
      if (part.devices.empty() || std::find(part.nodes.begin(), part.nodes.end(), node) == part.nodes.end()) return;
      const auto& role = part.resolved.part->role;
      const auto kind = part.resolved.part->kind;
      held = held || (kind == PartKind::capacitor && (role == "reservoir" || role == "filter"));
      feeds = feeds || kind == PartKind::rectifier || kind == PartKind::diode;
      if (role == "series-resistor") resistor = part.resolved.name;
    });
    if (held || !feeds) return;
    const auto volts = c.point().supply->volts(node);
    c.add(transformer.resolved.name,
          fmt::format("Its plates hang on rail {}, ahead of the reservoir{}, with {} of ripple peak to peak.",
                      join->second, resistor.empty() ? "" : " and of " + resistor,
                      read(volts.size() ? volts.maxCoeff() - volts.minCoeff() : 0, Unit::volt)),
          "Join the plates to the reservoir's rail, or to one behind it.");
  });
}

void unlikeBottles(Case& c) {
  eachOutputStage(c, [&](const auto& tubes, const amp::CompiledPart&) {
    std::set<std::string> types;
    std::vector<std::string> names;
    for (const auto* tube : tubes) {
      types.insert(tube->resolved.text("tube"));
      names.push_back(tube->resolved.name);
    }
    if (types.size() < 2) return;
    c.add(names.front(),
          fmt::format("{} drive one transformer and are not of one type ({}): they share the current and the signal "
                      "unequally.",
                      listed(names), listed({types.begin(), types.end()})),
          "One type in all of them.");
  });
}

/// Tubes that something has cut off: not those that a builder biases cold.
void starvedTubes(Case& c) {
  constexpr double cutOff = 0.02, worthTelling = 5e-4; // of the current without bias; ampere of that
  for (const auto& tube : c.point().tubes) {
    const auto* part = c.circuit().part(tube.name);
    const auto& law = c.point().system->netlist().devices()[static_cast<std::size_t>(part->devices.front())].law;
    double open = 0;
    if (const auto* triode = std::get_if<circuit::Triode>(&law))
      open = tubes::triodeCurrent(triode->model, tube.plateVolts, 0).plate;
    else if (const auto* pentode = std::get_if<circuit::Pentode>(&law))
      open = tubes::pentodeCurrent(pentode->model, tube.plateVolts, 0, *tube.screenVolts).plate;
    if (open < worthTelling || tube.plateAmps > cutOff * open) continue;
    c.add(tube.name,
          fmt::format("It is all but cut off at idle: {} flow, and its grid stands {} below its cathode.",
                      read(tube.plateAmps, Unit::ampere), read(-tube.gridVolts, Unit::volt)),
          "Look at what holds its grid. A section that grounds a grid made for the plate before it needs a coupling "
          "capacitor and a grid leak after it; else a smaller cathode resistor or less negative bias.");
  }
}

} // namespace

void amplifierRules(Case& c) {
  for (const auto rule :
       {filaments, reversedFeedback, gridLeaks, loads, platesWithoutCapacitor, unlikeBottles, starvedTubes})
    if (!c.goOn || c.goOn(0.45)) rule(c);
}

} // namespace vinegar::audit
