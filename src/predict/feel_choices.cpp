#include "predict/feel_choices.h"

#include "amp/part_devices.h"
#include "predict/parallel.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <numbers>
#include <numeric>

namespace vinegar::predict {
namespace {

using What = Track::What;

constexpr double coarseRate = 6000;
constexpr std::size_t shown = 16; ///< of many, those nearest to what is wished

/// A way the amplifier could be: other settings, or a circuit that is edited after it is compiled.
struct Way {
  std::string title, about;
  std::vector<amp::SetField> changes;
  std::function<void(amp::Circuit&)> edit;
  std::string group;
  double farads = 0;
  std::string part = {};
};

tl::expected<Idle, Problem> idleOf(const Way& way, const amp::Design& design, const amp::Library& library,
                                   Warmth& warmth) {
  const auto changed = amp::withChanges(design, library, way.changes);
  if (!way.edit) return predictIdle(changed, library, &warmth);
  auto compiled = amp::compile(changed, library);
  if (!compiled) return tl::unexpected(compiled.error());
  way.edit(*compiled);
  Idle idle;
  idle.circuit = std::make_shared<const amp::Circuit>(std::move(*compiled));
  auto point = predictOperatingPoint(*idle.circuit);
  if (!point) return tl::unexpected(point.error());
  idle.point = std::move(*point);
  return idle;
}

FeelRow rowOf(const Way& way, const Idle& idle, const Feel& feel) {
  FeelRow row;
  const auto& dip = feel.rails[static_cast<std::size_t>(feel.fed)];
  row.dip = dip;
  row.rippleVolts = feel.rippleVolts;
  row.rippleAtRest = feel.rippleAtRest;
  row.outputWatts = feel.outputWatts;
  row.recovers = dip.back63;
  row.group = way.group;
  row.farads = way.farads;
  for (const auto& part : idle.circuit->parts) {
    if (!amp::isTube(part.resolved.part->kind) || part.devices.empty() || !part.plateWattsLimit) continue;
    const auto amps = idle.point.system->pinCurrents(part.devices.front(), idle.point.dc.x);
    const double watts = amps[0] * (idle.point.volts(part.nodes.front()) - idle.point.volts(part.nodes.back()));
    if (const double share = watts / *part.plateWattsLimit; share > row.hottestShare) {
      row.hottestShare = share;
      row.hottest = part.resolved.name;
    }
  }
  const auto* track = feel.burst.track(What::rail, dip.rail);
  row.fed = overPeriods(track->mean);
  for (std::size_t k = 0; k < row.fed.size(); ++k)
    row.seconds.push_back(feel.burst.secondsOf(k));
  // What a burst asks of parts besides what idling does.
  for (const auto& stress : feel.stresses)
    if (stress.share() > 1 && !stress.inWatts)
      row.against.push_back(stress.what == "HT winding"
                                ? fmt::format("{} winding {:.0f} % while played", stress.part, 100 * stress.share())
                                : fmt::format("{} {} {} of {} while played", stress.part, stress.what,
                                              units::reading(stress.most, units::Unit::ampere, 3),
                                              units::reading(*stress.limit, units::Unit::ampere, 3)));
  return row;
}

/// Parts of the supply that are fitted, by kind.
std::vector<const amp::CompiledPart*> supplyParts(const amp::Circuit& circuit, amp::PartKind kind) {
  std::vector<const amp::CompiledPart*> parts;
  const auto& own = circuit.supply.devices;
  for (const auto& part : circuit.parts)
    if (part.resolved.part->kind == kind && !part.devices.empty() &&
        std::find(own.begin(), own.end(), part.devices.front()) != own.end())
      parts.push_back(&part);
  return parts;
}

/// What current on its way to a rail goes through: neither end at ground, and volts stand over it.
bool isInTheWay(const amp::CompiledPart& part, const Idle& idle) {
  constexpr double some = 0.2; // V
  return part.nodes.size() == 2 && part.nodes[0] != 0 && part.nodes[1] != 0 &&
         std::abs(idle.point.volts(part.nodes[0]) - idle.point.volts(part.nodes[1])) > some &&
         std::abs(idle.point.volts(part.nodes[0])) > 20;
}

/// What the resistors that a way changes dissipate, at idle and with what the burst draws at its most held, and what to
/// buy; empty where it changes none that current goes through.
std::string wattsOf(const Way& way, const Idle& idle, const Feel& feel) {
  std::string words;
  for (const auto& change : way.changes) {
    const auto* part = change.field == "value" ? idle.circuit->part(change.part) : nullptr;
    if (!part || part->resolved.part->kind != amp::PartKind::resistor || part->devices.empty() ||
        !isInTheWay(*part, idle))
      continue;
    const double resting = resistorWatts(*idle.point.supply, *part);
    double most = resting;
    for (const auto& stress : feel.stresses)
      if (stress.what == "direct current" && stress.most > stress.idle)
        if (const auto played =
                predictSupplyIdle(*idle.circuit, nullptr, {0, stress.most - stress.idle, mainRails(*idle.circuit).fed}))
          most = std::max(most, resistorWatts(*played, *part));
    words += fmt::format("{}{} dissipates {} at idle, {} while played; buy {}", words.empty() ? "" : "; ", change.part,
                         units::reading(resting, units::Unit::watt, 2), units::reading(most, units::Unit::watt, 2),
                         units::reading(ratingFor(most), units::Unit::watt, 0));
  }
  return words;
}

Way makerOf(const amp::CompiledPart& part, std::string about,
            std::function<circuit::Law(const circuit::Law&)> perfect) {
  Way way{part.resolved.name, std::move(about), {}, {}, {}, 0, part.resolved.name};
  way.edit = [devices = part.devices, perfect = std::move(perfect)](amp::Circuit& circuit) {
    for (const int d : devices)
      circuit.netlist.replaceLaw(d, perfect(circuit.netlist.devices()[static_cast<std::size_t>(d)].law));
  };
  return way;
}

std::vector<Way> makers(const Idle& idle) {
  std::vector<Way> ways;
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

std::vector<Way> conditions(const Idle& idle) {
  std::vector<Way> ways;
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

std::vector<Way> rectifiers(const Idle& idle, const amp::Library& library) {
  std::vector<Way> ways;
  for (auto& choice : rectifierChoices(*idle.circuit->design, library))
    if (!choice.changes.empty()) ways.push_back({choice.title, {}, std::move(choice.changes), {}, choice.title, 0});
  return ways;
}

/// Silicon with the stock resistor in its series resistor's place that brings idling nearest to the design's own tube;
/// nothing where there is no such place, or no tube.
std::optional<Way> imitation(const Idle& idle, const amp::Library& library, const std::vector<Way>& types) {
  const auto& design = *idle.circuit->design;
  const auto tubes = supplyParts(*idle.circuit, amp::PartKind::rectifier);
  const auto* own = tubes.empty() ? nullptr : library.tubes.find(tubes.front()->resolved.text("tube"));
  if (!own || own->isSilicon()) return std::nullopt;
  const auto silicon = std::find_if(types.rbegin(), types.rend(), [&](const Way& way) {
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
  std::optional<Way> best;
  double nearest = std::numeric_limits<double>::infinity();
  std::vector<double> stock;
  for (const double decade : {10.0, 100.0, 1000.0})
    for (const double mantissa : units::mantissas(units::Series::e12))
      stock.push_back(decade * mantissa);
  // Volts fall as the resistor rises: halves of the list.
  for (std::size_t low = 0, high = stock.size(); low < high;) {
    const auto middle = (low + high) / 2;
    Way way{fmt::format("{} with {}", silicon->title, units::schematic(stock[middle], units::Unit::ohm)),
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
std::vector<Way> windings(const Idle& idle) {
  std::vector<Way> ways;
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
std::vector<Way> chokes(const amp::ResolvedPart& part) {
  std::vector<Way> ways;
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
std::vector<Way> values(const Idle& idle, const amp::Library& library, int each) {
  std::vector<Way> ways;
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
std::vector<Way> balance(const Idle& idle, const amp::Library& library) {
  const auto& design = *idle.circuit->design;
  const auto first = firstCapacitor(*idle.circuit);
  std::vector<Way> ways;
  if (!first || first->parts.empty()) return ways;
  auto types = rectifiers(idle, library);
  std::string own = "as it is";
  for (const auto* part : supplyParts(*idle.circuit, amp::PartKind::rectifier))
    own = part->resolved.text("tube");
  std::vector<Way> groups{{own, {}, {}, {}, own, 0}};
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

tl::expected<FeelRows, Problem> predictFeelRows(const Idle& idle, const amp::Library& library,
                                                const FeelRowsQuestion& question, const GoOn& goOn) {
  if (!idle.point.supply) return tl::unexpected(noMains());
  const auto& design = *idle.circuit->design;
  FeelRows answer;
  answer.subject = question.subject;
  const Way asItIs{"as it is", {}, {}, {}, {}, 0};
  std::vector<Way> ways{asItIs};
  const auto more = [&](std::vector<Way> others) { std::move(others.begin(), others.end(), std::back_inserter(ways)); };
  switch (question.subject) {
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
  const bool many = question.subject == FeelSubject::sag;
  const auto play = [&](const std::vector<Way>& all, std::vector<FeelRow>& rows, double from, double to,
                        double samplesPerSecond, bool last) {
    rows.resize(all.size());
    auto burst = question.burst;
    burst.samplesPerSecond = samplesPerSecond;
    std::array<Warmth, 2> warmths{warmthOf(idle), warmthOf(idle)};
    std::array<std::mutex, 2> used;
    const GoOn part = [&](double share) { return !goOn || goOn(from + (to - from) * share); };
    return inTwoThreads(all.size(), part, [&](std::size_t i, const GoOn& goes) {
      const auto& way = all[i];
      auto& row = rows[i];
      const auto fail = [&](const Problem& problem) {
        row = FeelRow{};
        row.problem = problem;
      };
      std::unique_lock lock(used[0], std::try_to_lock);
      const std::size_t mine = lock.owns_lock() ? 0 : 1;
      if (mine == 1) lock = std::unique_lock(used[1]);
      const auto own = way.changes.empty() && !way.edit ? tl::expected<Idle, Problem>(idle)
                                                        : idleOf(way, design, library, warmths[mine]);
      if (!own) return fail(own.error());
      if (!own->point.supply) return fail(noMains());
      const auto feel = predictFeel(*own, library, burst, goes);
      if (!feel) return fail(feel.error());
      if (feel->fed < 0) return fail(Problem{"the supply", "feeds no rail of the amplifier"});
      row = rowOf(way, *own, *feel);
      if (many && last) row.watts = wattsOf(way, *own, *feel);
    });
  };
  // Many are looked through coarsely, and those that are left played as asked.
  const double looking = many ? std::min(coarseRate, question.burst.samplesPerSecond) : question.burst.samplesPerSecond;
  if (!play(ways, answer.rows, 0, many ? 0.5 : 1, looking, looking == question.burst.samplesPerSecond))
    return tl::unexpected(Problem::stopped());
  if (answer.rows.front().problem) return tl::unexpected(*answer.rows.front().problem);
  answer.rail = answer.rows.front().dip.rail;
  const auto missOf = [&](const FeelRow& row) {
    if (row.problem) return std::numeric_limits<double>::infinity();
    double miss = std::abs(std::log(std::max(row.dip.share(), 1e-4) / std::max(question.wantedShare, 1e-4)));
    if (question.wantedBack > 0)
      miss += std::isfinite(row.recovers) ? std::abs(std::log(row.recovers / question.wantedBack)) : 3;
    return miss;
  };
  if (many) {
    // Pairs of the nearest, of different parts.
    constexpr std::size_t each = 5;
    std::vector<std::size_t> order(ways.size() - 1);
    for (std::size_t i = 0; i < order.size(); ++i)
      order[i] = i + 1;
    std::sort(order.begin(), order.end(),
              [&](std::size_t a, std::size_t b) { return missOf(answer.rows[a]) < missOf(answer.rows[b]); });
    order.resize(std::min(order.size(), each));
    std::vector<Way> pairs;
    for (std::size_t a = 0; a < order.size(); ++a)
      for (std::size_t b = a + 1; b < order.size(); ++b) {
        const auto &one = ways[order[a]], &other = ways[order[b]];
        if (one.changes.front().part == other.changes.front().part) continue;
        auto both = one;
        both.title += ", " + other.title;
        both.changes.insert(both.changes.end(), other.changes.begin(), other.changes.end());
        pairs.push_back(std::move(both));
      }
    std::vector<FeelRow> rows;
    if (!play(pairs, rows, 0.5, 0.7, looking, looking == question.burst.samplesPerSecond))
      return tl::unexpected(Problem::stopped());
    std::move(pairs.begin(), pairs.end(), std::back_inserter(ways));
    std::move(rows.begin(), rows.end(), std::back_inserter(answer.rows));
  }
  if (many) {
    // The design's own first, then the nearest; what is far off is left out.
    std::vector<std::size_t> order(ways.size());
    std::iota(order.begin(), order.end(), std::size_t{0});
    std::stable_sort(order.begin() + 1, order.end(),
                     [&](std::size_t x, std::size_t y) { return missOf(answer.rows[x]) < missOf(answer.rows[y]); });
    order.resize(std::min(order.size(), shown));
    std::vector<Way> nearest;
    nearest.reserve(order.size());
    for (const auto at : order)
      nearest.push_back(ways[at]);
    ways = std::move(nearest);
    if (looking < question.burst.samplesPerSecond) {
      if (!play(ways, answer.rows, 0.7, 1, question.burst.samplesPerSecond, true))
        return tl::unexpected(Problem::stopped());
    } else {
      std::vector<FeelRow> kept;
      kept.reserve(order.size());
      for (const auto at : order)
        kept.push_back(std::move(answer.rows[at]));
      answer.rows = std::move(kept);
    }
  }
  std::vector<SupplyChoice> choices;
  for (std::size_t i = 0; i < ways.size(); ++i) {
    auto& row = answer.rows[i];
    row.title = ways[i].title;
    row.about = ways[i].about;
    if (!row.watts.empty()) row.about += (row.about.empty() ? "" : "; ") + row.watts;
    row.part = ways[i].part;
    row.changes = ways[i].changes;
    row.now = i == 0;
    choices.push_back({row.title, row.changes});
  }
  // The same judgement of ratings and budgets as the Supply page's.
  if (question.subject != FeelSubject::makers && question.subject != FeelSubject::conditions) {
    auto consequences = predictConsequences(design, library, choices, goOn, warmthOf(idle));
    if (question.subject == FeelSubject::rectifiers && question.burst.samplesPerSecond > coarseRate &&
        !findRebias(consequences, idle, library, goOn))
      return tl::unexpected(Problem::stopped());
    if (consequences.size() == answer.rows.size())
      for (std::size_t i = 0; i < choices.size(); ++i) {
        answer.rows[i].rebias = consequences[i].rebias;
        answer.rows[i].rebiased = consequences[i].rebiased;
        auto& against = answer.rows[i].against;
        against.insert(against.begin(), consequences[i].warnings.begin(), consequences[i].warnings.end());
      }
  }
  if (many)
    std::stable_sort(answer.rows.begin() + 1, answer.rows.end(), [&](const FeelRow& a, const FeelRow& b) {
      if (a.against.empty() != b.against.empty()) return a.against.empty(); // what nothing speaks against first
      return missOf(a) < missOf(b);
    });
  return answer;
}

} // namespace vinegar::predict
