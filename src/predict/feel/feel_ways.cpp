#include "predict/feel/feel_ways.h"

#include "amp/compile/part_devices.h"
#include "predict/choices/consequences.h"
#include "predict/supply/rectifier.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <numbers>

namespace vinegar::predict {
namespace {

/// Parts of the supply that are fitted, by kind: what feeds the rails, not a bias or a heater.
std::vector<const amp::CompiledPart*> supplyParts(const amp::Circuit& circuit, amp::PartKind kind) {
  std::vector<const amp::CompiledPart*> parts;
  const auto& own = circuit.supply.devices;
  for (const auto& part : circuit.parts)
    if (part.resolved.part->kind == kind && !part.devices.empty() &&
        std::find(own.begin(), own.end(), part.devices.front()) != own.end())
      parts.push_back(&part);
  return parts;
}

FeelWay makerOf(const amp::CompiledPart& part, std::string about,
                std::function<circuit::Law(const circuit::Law&)> perfect) {
  FeelWay way{part.resolved.name, std::move(about), {}, {}, {}, 0, part.resolved.name};
  way.edit = [devices = part.devices, perfect = std::move(perfect)](amp::Circuit& circuit) {
    for (const int d : devices)
      circuit.netlist.replaceLaw(d, perfect(circuit.netlist.devices()[static_cast<std::size_t>(d)].law));
  };
  return way;
}

std::vector<FeelWay> makers(const Idle& idle) {
  std::vector<FeelWay> ways;
  const auto& circuit = *idle.circuit;
  constexpr double hardly = 0.01;
  for (const auto* part : supplyParts(circuit, amp::PartKind::rectifier)) {
    const auto isVacuum = std::any_of(part->devices.begin(), part->devices.end(), [&](int d) {
      return std::holds_alternative<circuit::VacuumDiode>(circuit.netlist.devices()[static_cast<std::size_t>(d)].law);
    });
    if (!isVacuum) continue;
    ways.push_back(makerOf(
        *part, "the rectifier's drop, which bends: as silicon instead", [](const circuit::Law& law) -> circuit::Law {
          return std::holds_alternative<circuit::VacuumDiode>(law) ? circuit::Law{circuit::Diode{1e-9, 1.8}} : law;
        }));
  }
  for (const auto* part : supplyParts(circuit, amp::PartKind::powerTransformer)) {
    const auto winding = [&](bool primary) {
      return [primary](const circuit::Law& law) -> circuit::Law {
        auto other = law;
        if (auto* transformer = std::get_if<circuit::Transformer>(&other))
          for (Eigen::Index w = 0; w < transformer->ohms.size(); ++w)
            if ((w == 0) == primary) transformer->ohms[w] *= hardly;
        return other;
      };
    };
    ways.push_back(makerOf(*part, "the resistance of its HT winding", winding(false)));
    ways.back().title += " HT";
    ways.push_back(makerOf(*part, "its primary's resistance, as the winding sees it", winding(true)));
    ways.back().title += " primary";
  }
  for (const auto kind : {amp::PartKind::resistor, amp::PartKind::inductor})
    for (const auto* part : supplyParts(circuit, kind)) {
      if (!isInTheWay(*part, idle)) continue;
      const bool choke = kind == amp::PartKind::inductor;
      ways.push_back(makerOf(*part, choke ? "the choke's resistance" : "the resistor in the way",
                             [](const circuit::Law& law) -> circuit::Law {
                               auto other = law;
                               if (auto* inductor = std::get_if<circuit::Inductor>(&other)) inductor->ohms *= hardly;
                               if (auto* resistor = std::get_if<circuit::Resistor>(&other)) resistor->ohms *= hardly;
                               return other;
                             }));
    }
  if (const auto first = firstCapacitor(circuit))
    for (const auto& name : first->parts)
      if (const auto* part = circuit.part(name))
        ways.push_back(makerOf(*part, "the reservoir running empty between the mains' crests: ten times as large",
                               [](const circuit::Law& law) -> circuit::Law {
                                 return std::holds_alternative<circuit::Capacitor>(law) ? circuit::varied(law, 10)
                                                                                        : law;
                               }));
  return ways;
}

/// A capacitor at half its value with a resistance in series.
void tire(amp::Circuit& circuit, const std::vector<int>& capacitors) {
  constexpr double lossNew = 0.1; // of an electrolytic at twice the mains
  constexpr double times = 5;
  circuit::Netlist other;
  const auto& names = circuit.netlist.nodeNames();
  for (std::size_t n = 1; n < names.size(); ++n)
    other.node(names[n]);
  std::vector<std::tuple<circuit::Node, circuit::Node, double>> losses;
  const auto& devices = circuit.netlist.devices();
  for (std::size_t d = 0; d < devices.size(); ++d) {
    const auto* capacitor = std::get_if<circuit::Capacitor>(&devices[d].law);
    if (!capacitor || std::find(capacitors.begin(), capacitors.end(), static_cast<int>(d)) == capacitors.end()) {
      other.add(devices[d].id, devices[d].nodes, devices[d].law);
      continue;
    }
    const auto inner = other.node(fmt::format("{}:loss", devices[d].id));
    other.add(devices[d].id, {inner, devices[d].nodes[1]}, circuit::Capacitor{capacitor->farads / 2});
    losses.emplace_back(devices[d].nodes[0], inner,
                        times * lossNew / (2 * std::numbers::pi * 2 * circuit.supply.hertz * capacitor->farads));
  }
  for (const auto& [a, b, ohms] : losses)
    circuit.supply.devices.push_back(other.add("loss", {a, b}, circuit::Resistor{ohms}));
  circuit.netlist = std::move(other);
}

std::vector<FeelWay> conditions(const Idle& idle) {
  std::vector<FeelWay> ways;
  const auto& circuit = *idle.circuit;
  const auto mains = [&](const char* title, const char* about, double volts, double hertz) {
    ways.push_back({title,
                    about,
                    {},
                    [=](amp::Circuit& c) {
                      c.supply.volts *= volts;
                      if (hertz > 0) c.supply.hertz = hertz;
                    },
                    {},
                    0});
  };
  mains("mains 10 % low", "every winding gives a tenth less; heaters too, which is not counted in the tubes", 0.9, 0);
  mains("mains 10 % high", "every winding gives a tenth more", 1.1, 0);
  if (circuit.supply.hertz < 55)
    mains("mains of 60 Hz", "the reservoir is filled more often", 1, 60);
  else
    mains("mains of 50 Hz", "the reservoir is filled less often", 1, 50);
  if (const auto first = firstCapacitor(circuit)) {
    std::vector<int> capacitors;
    for (const auto& name : first->parts)
      if (const auto* part = circuit.part(name))
        capacitors.insert(capacitors.end(), part->devices.begin(), part->devices.end());
    ways.push_back({"a tired reservoir",
                    "half its value, and five times the loss of a new one",
                    {},
                    [capacitors](amp::Circuit& c) { tire(c, capacitors); },
                    {},
                    0});
  }
  for (const auto* part : supplyParts(circuit, amp::PartKind::rectifier)) {
    auto way = makerOf(*part, "half the emission: worn, or a heater that runs low", [](const circuit::Law& law) {
      auto other = law;
      if (auto* vacuum = std::get_if<circuit::VacuumDiode>(&other)) vacuum->perveance /= 2;
      return other;
    });
    way.title = "a weak " + part->resolved.text("tube");
    if (std::any_of(part->devices.begin(), part->devices.end(), [&](int d) {
          return std::holds_alternative<circuit::VacuumDiode>(
              circuit.netlist.devices()[static_cast<std::size_t>(d)].law);
        }))
      ways.push_back(std::move(way));
  }
  return ways;
}

std::vector<FeelWay> rectifiers(const Idle& idle, const amp::Library& library) {
  std::vector<FeelWay> ways;
  for (auto& choice : rectifierChoices(*idle.circuit->design, library))
    if (!choice.changes.empty()) ways.push_back({choice.title, {}, std::move(choice.changes), {}, choice.title, 0});
  return ways;
}

/// Silicon with the stock resistor in its series resistor's place that brings idling nearest to the design's own tube;
/// nothing where there is no such place, or no tube.
std::optional<FeelWay> imitation(const Idle& idle, const amp::Library& library, const std::vector<FeelWay>& types) {
  const auto& design = *idle.circuit->design;
  const auto tubes = supplyParts(*idle.circuit, amp::PartKind::rectifier);
  const auto* own = tubes.empty() ? nullptr : library.tubes.find(tubes.front()->resolved.text("tube"));
  if (!own || own->isSilicon()) return std::nullopt;
  const auto silicon = std::find_if(types.rbegin(), types.rend(), [&](const FeelWay& way) {
    const auto* type = library.tubes.find(way.group);
    return type && type->isSilicon();
  });
  const auto parts = amp::resolveParts(design, library);
  const auto place = std::find_if(parts.begin(), parts.end(), [](const auto& part) {
    return part.part->role == "series-resistor" && part.part->kind == amp::PartKind::resistor;
  });
  if (silicon == types.rend() || place == parts.end()) return std::nullopt;
  const double wanted = idle.point.volts(mainRails(*idle.circuit).fed);
  auto warmth = warmthOf(idle);
  std::optional<FeelWay> best;
  double nearest = std::numeric_limits<double>::infinity();
  std::vector<double> stock;
  for (const double decade : {10.0, 100.0, 1000.0})
    for (const double mantissa : units::mantissas(units::Series::e12))
      stock.push_back(decade * mantissa);
  // Volts fall as the resistor rises: halves of the list.
  for (std::size_t low = 0, high = stock.size(); low < high;) {
    const auto middle = (low + high) / 2;
    FeelWay way{
        fmt::format("{} with {}", silicon->title, units::schematic(stock[middle], units::Unit::ohm)),
        fmt::format("idles as the {}. The tube's drop bends and the resistor's does not, so they part when much or "
                    "little is drawn; silicon gives its volts before the other tubes are warm",
                    own->name),
        silicon->changes,
        {},
        silicon->group,
        0};
    if (!place->fitted()) way.changes.push_back({place->name, "fitted", place->settings.at("fitted"), true});
    way.changes.push_back({place->name, "value", place->settings.at("value"), stock[middle]});
    const auto with = predictIdle(amp::withChanges(design, library, way.changes), library, &warmth);
    if (!with) return best;
    const double over = with->point.volts(mainRails(*with->circuit).fed) - wanted;
    if (std::abs(over) < nearest) {
      nearest = std::abs(over);
      best = std::move(way);
    }
    if (over > 0)
      low = middle + 1;
    else
      high = middle;
  }
  return best;
}

/// Another transformer: its HT winding of more or less copper, told as the design tells it.
std::vector<FeelWay> windings(const Idle& idle) {
  std::vector<FeelWay> ways;
  const auto winding = plateWinding(*idle.circuit);
  const auto transformers = supplyParts(*idle.circuit, amp::PartKind::powerTransformer);
  if (!winding || transformers.empty()) return ways;
  const auto& part = transformers.front()->resolved;
  const bool measured = part.text("given") == amp::transformerGivens[0];
  const std::string field = measured ? winding->name + "Ohms" : "regulation";
  const double now = part.number(field);
  if (!(now > 0)) return ways;
  for (const double times : {0.35, 0.5, 0.7, 1.4, 2.0, 2.8}) {
    const double to =
        measured ? units::nearest(units::Series::e24, now * times) : std::round(1000 * now * times) / 1000;
    ways.push_back({measured ? fmt::format("{} of {}", part.name, units::reading(to, units::Unit::ohm, 2))
                             : fmt::format("{} of {:.1f} %", part.name, 100 * to),
                    measured ? "another transformer, its HT winding of this resistance, all else alike"
                             : "another transformer, its volts falling so far from no load to full load",
                    {{part.name, field, now, to}},
                    {},
                    {},
                    0});
  }
  return ways;
}

/// Another choke: half and twice the copper.
std::vector<FeelWay> chokes(const amp::ResolvedPart& part) {
  std::vector<FeelWay> ways;
  const double now = part.number("ohms");
  if (!(now > 0)) return ways;
  for (const double times : {0.5, 2.0, 4.0}) {
    const double to = units::nearest(units::Series::e24, now * times);
    ways.push_back({fmt::format("{} of {}", part.name, units::reading(to, units::Unit::ohm, 2)),
                    "another choke of as many henries, its wire of this resistance",
                    {{part.name, "ohms", now, to}},
                    {},
                    {},
                    0});
  }
  return ways;
}

/// Stock values around those of what shapes the feel: reservoir and filter capacitors, series resistors, chokes and the
/// transformer's winding; one that is left out is tried too.
std::vector<FeelWay> values(const Idle& idle, const amp::Library& library, int each) {
  std::vector<FeelWay> ways;
  const auto& design = *idle.circuit->design;
  for (const auto& part : amp::resolveParts(design, library)) {
    const auto& role = part.part->role;
    if (role == "series-resistor" && !part.fitted()) {
      for (const double ohms : {47.0, 100.0, 150.0, 220.0, 330.0, 470.0})
        ways.push_back({fmt::format("{} {}", part.name, units::schematic(ohms, units::Unit::ohm)),
                        {},
                        {{part.name, "fitted", part.settings.at("fitted"), true},
                         {part.name, "value", part.settings.at("value"), ohms}},
                        {},
                        {},
                        0});
      continue;
    }
    if (!part.fitted() ||
        (role != "reservoir" && role != "filter" && role != "series-resistor" && role != "dropper" && role != "choke"))
      continue;
    if (role == "choke")
      for (auto& way : chokes(part))
        ways.push_back(std::move(way));
    for (auto& choice : valueChoices(design, library, part.name, each))
      if (!choice.changes.empty())
        ways.push_back({fmt::format("{} {}", part.name, choice.title), {}, std::move(choice.changes), {}, {}, 0});
  }
  return ways;
}

/// Reservoir values with the design's own rectifier and two that differ from it most.
std::vector<FeelWay> balance(const Idle& idle, const amp::Library& library) {
  const auto& design = *idle.circuit->design;
  const auto first = firstCapacitor(*idle.circuit);
  std::vector<FeelWay> ways;
  if (!first || first->parts.empty()) return ways;
  auto types = rectifiers(idle, library);
  std::string own = "as it is";
  for (const auto* part : supplyParts(*idle.circuit, amp::PartKind::rectifier))
    own = part->resolved.text("tube");
  std::vector<FeelWay> groups{{own, {}, {}, {}, own, 0}};
  if (!types.empty()) groups.push_back(types.front());
  if (types.size() > 1) groups.push_back(types.back());
  auto reservoirs = valueChoices(design, library, first->parts.front(), 4);
  for (const auto& group : groups)
    for (const auto& reservoir : reservoirs) {
      auto way = group;
      way.changes.insert(way.changes.end(), reservoir.changes.begin(), reservoir.changes.end());
      way.title = fmt::format("{}, {}", group.group, reservoir.title);
      const auto* part = idle.circuit->part(first->parts.front());
      way.farads = reservoir.changes.empty() ? part->resolved.value() : std::get<double>(reservoir.changes.front().to);
      ways.push_back(std::move(way));
    }
  return ways;
}

} // namespace

bool isInTheWay(const amp::CompiledPart& part, const Idle& idle) {
  constexpr double some = 0.2; // V
  return part.nodes.size() == 2 && part.nodes[0] != 0 && part.nodes[1] != 0 &&
         std::abs(idle.point.volts(part.nodes[0]) - idle.point.volts(part.nodes[1])) > some &&
         std::min(idle.point.volts(part.nodes[0]), idle.point.volts(part.nodes[1])) > 20; // a bias stands below ground
}

std::vector<FeelWay> feelWays(FeelSubject subject, const Idle& idle, const amp::Library& library) {
  std::vector<FeelWay> ways;
  const auto more = [&](std::vector<FeelWay> others) {
    std::move(others.begin(), others.end(), std::back_inserter(ways));
  };
  switch (subject) {
  case FeelSubject::rectifiers: {
    auto types = rectifiers(idle, library);
    if (auto alike = imitation(idle, library, types)) ways.push_back(std::move(*alike));
    more(std::move(types));
    break;
  }
  case FeelSubject::conditions:
    more(conditions(idle));
    break;
  case FeelSubject::makers:
    more(makers(idle));
    break;
  case FeelSubject::balance:
    more(balance(idle, library));
    break;
  case FeelSubject::sag:
    more(rectifiers(idle, library));
    more(values(idle, library, 3));
    more(windings(idle));
    break;
  }
  return ways;
}

} // namespace vinegar::predict
