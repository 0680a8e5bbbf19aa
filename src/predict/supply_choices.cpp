#include "predict/supply_choices.h"

#include "predict/parallel.h"
#include "predict/propose.h"
#include "predict/ratings.h"
#include "predict/stage_ports.h"
#include "predict/steps.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>

namespace vinegar::predict {
namespace {

using amp::PartKind;
using units::Unit;

constexpr double regulationSpan = 2.5; ///< of the idle current
constexpr int regulationPoints = 9;

const amp::CompiledPart* partOfKind(const amp::Circuit& circuit, PartKind kind) {
  for (const auto& part : circuit.parts)
    if (part.resolved.part->kind == kind && !part.devices.empty()) return &part;
  return nullptr;
}

const amp::CompiledPart* partOfRole(const amp::Circuit& circuit, const char* role) {
  for (const auto& part : circuit.parts)
    if (part.resolved.part->role == role) return &part;
  return nullptr;
}

} // namespace

namespace {

struct PlateSupply {
  const amp::CompiledPart* transformer;
  amp::TransformerWinding winding;
};

/// The winding that a rectifier's plate hangs on; the first one of the first transformer where none does.
std::optional<PlateSupply> plateSupply(const amp::Circuit& circuit) {
  std::optional<PlateSupply> first;
  const auto* rectifier = partOfKind(circuit, PartKind::rectifier);
  if (!rectifier) rectifier = partOfKind(circuit, PartKind::diode);
  for (const auto& part : circuit.parts) {
    if (part.resolved.part->kind != PartKind::powerTransformer || part.devices.empty()) continue;
    std::size_t pin = 2;
    for (const auto& winding : amp::transformerWindings(part.resolved)) {
      if (!first) first = PlateSupply{&part, winding};
      for (std::size_t tap = 0; tap < winding.taps; ++tap)
        if (rectifier && part.nodes[pin + tap] == rectifier->nodes.front()) return PlateSupply{&part, winding};
      pin += winding.taps;
    }
  }
  return first;
}

} // namespace

std::optional<amp::TransformerWinding> plateWinding(const amp::Circuit& circuit) {
  const auto supply = plateSupply(circuit);
  return supply ? std::optional(supply->winding) : std::nullopt;
}

std::vector<std::string> warningsOf(const amp::Circuit& circuit, const amp::Library& library,
                                    const SupplyReport& report, const std::vector<TubeReading>& tubes) {
  std::vector<std::string> warnings;
  const auto first = circuit.supply.isRectified() ? firstCapacitor(circuit) : std::nullopt;
  for (const auto& rectifier : report.rectifiers) {
    const auto* type = library.tubes.find(rectifier.type);
    if (!type) continue;
    const auto& limits = type->limits;
    if (first && limits.mostFarads && first->farads > 1.001 * *limits.mostFarads)
      warnings.push_back(fmt::format("first capacitor {} of {}", units::reading(first->farads, Unit::farad, 2),
                                     units::reading(*limits.mostFarads, Unit::farad, 2)));
    if (const auto volts = plateSupplyVolts(circuit); volts && first) {
      if (const auto least = leastSourceOhms(*type, *volts); least && plateSourceOhms(circuit) < 0.98 * *least)
        warnings.push_back(fmt::format("{:.0f} of {:.0f} ohm per plate", plateSourceOhms(circuit), *least));
    }
    if (limits.peakAmps && rectifier.peakAmps > *limits.peakAmps)
      warnings.push_back(fmt::format("peak {} of {}", units::reading(rectifier.peakAmps, Unit::ampere, 3),
                                     units::reading(*limits.peakAmps, Unit::ampere, 3)));
    if (limits.directAmps && rectifier.totalAmps > *limits.directAmps)
      warnings.push_back(fmt::format("DC {} of {}", units::reading(rectifier.totalAmps, Unit::ampere, 3),
                                     units::reading(*limits.directAmps, Unit::ampere, 3)));
    if (limits.inverseVolts && rectifier.inverseVolts > *limits.inverseVolts)
      warnings.push_back(fmt::format("reverse {} of {}", units::reading(rectifier.inverseVolts, Unit::volt, 3),
                                     units::reading(*limits.inverseVolts, Unit::volt, 3)));
  }
  for (const auto& winding : report.windings)
    if (winding.share() > 1.02)
      warnings.push_back(fmt::format("{} winding {:.0f} %", winding.name, 100 * winding.share()));
  for (const auto& bottle : report.withoutHeater)
    warnings.push_back(fmt::format("no heater winding for {}", bottle));
  for (const auto& name : report.sharedFilaments)
    warnings.push_back(fmt::format("{} has no filament winding of its own", name));
  // Tubes that stand alike are told once.
  std::vector<std::pair<std::string, std::string>> over; // what, and whose
  for (const auto& tube : tubes) {
    const auto* type = library.tubes.find(tube.type);
    if (!type) continue;
    for (const auto& one : overRatings(tube, type->limits)) {
      const auto what = fmt::format("{} {} of {}", one.electrode, units::reading(one.value, one.unit),
                                    units::reading(one.limit, one.unit));
      const auto known = std::find_if(over.begin(), over.end(), [&](const auto& o) { return o.first == what; });
      if (known == over.end())
        over.emplace_back(what, tube.name);
      else
        known->second += ", " + tube.name;
    }
  }
  for (const auto& [what, whose] : over)
    warnings.push_back(whose + " " + what);
  return warnings;
}

std::vector<SupplyChoice> rectifierChoices(const amp::Design& design, const amp::Library& library) {
  std::vector<amp::ResolvedPart> rectifiers;
  for (const auto& part : amp::resolveParts(design, library))
    if (part.part->kind == PartKind::rectifier && part.fitted()) rectifiers.push_back(part);
  std::vector<SupplyChoice> choices;
  if (rectifiers.empty()) return choices;
  std::vector<const tubes::TubeType*> types;
  for (const auto& [name, type] : library.tubes.types())
    if (amp::fits(PartKind::rectifier, type) && type.offered) types.push_back(&type);
  const auto dropAt = [](const tubes::TubeType& type) { // at 100 mA, by its own law
    const auto& model = std::get<tubes::RectifierModel>(type.model);
    return model.silicon ? type.dropVolts : std::pow(0.1 / model.perveance, 2.0 / 3);
  };
  std::sort(types.begin(), types.end(), [&](const auto* a, const auto* b) { return dropAt(*a) > dropAt(*b); });
  for (const auto* type : types) {
    SupplyChoice choice{type->name, {}};
    for (const auto& part : rectifiers)
      if (part.text("tube") != type->name) choice.changes.push_back({part.name, "tube", part.text("tube"), type->name});
    choices.push_back(std::move(choice));
  }
  return choices;
}

std::vector<SupplyChoice> valueChoices(const amp::Design& design, const amp::Library& library, const std::string& name,
                                       int each) {
  const auto part = amp::findPart(design, library, name);
  std::vector<SupplyChoice> choices;
  if (!part || !amp::hasValue(part->part->kind)) return choices;
  const auto add = [&](double value) {
    SupplyChoice choice{units::reading(value, amp::valueUnit(part->part->kind), 0), {}};
    if (value != part->value()) choice.changes.push_back({name, "value", part->value(), value});
    if (!part->fitted()) choice.changes.push_back({name, "fitted", false, true});
    choices.push_back(std::move(choice));
  };
  std::vector<double> values{part->value()};
  for (const bool up : {false, true}) {
    auto stepped = *part;
    for (int k = 0; k < each; ++k) {
      const auto next = steppedValue(stepped, library, up);
      if (!next) break;
      values.push_back(*next);
      stepped.settings["value"] = *next;
    }
  }
  std::sort(values.begin(), values.end());
  if (part->part->optional) {
    SupplyChoice without{"none", {}};
    if (part->fitted()) without.changes.push_back({name, "fitted", true, false});
    choices.push_back(std::move(without));
  }
  for (const double value : values)
    add(value);
  return choices;
}

std::vector<Consequence> predictConsequences(const amp::Design& design, const amp::Library& library,
                                             const std::vector<SupplyChoice>& choices, const GoOn& goOn,
                                             Warmth warmth) {
  std::vector<Consequence> rows;
  for (const auto& choice : choices) {
    if (goOn && !goOn(static_cast<double>(rows.size()) / static_cast<double>(choices.size()))) break;
    Consequence row;
    row.choice = choice;
    const auto circuit = amp::compile(amp::withChanges(design, library, choice.changes), library);
    const auto point = circuit ? predictOperatingPoint(*circuit, &warmth) : tl::unexpected(circuit.error());
    if (!point || !point->supply) {
      row.problem = point ? Problem{"the supply", "has no mains"} : point.error();
    } else {
      row.report = readSupply(*circuit, library, *point);
      for (const auto& tube : point->tubes) {
        const auto* type = library.tubes.find(tube.type);
        row.tubes.push_back({tube.name, tube.plateAmps, tube.gridVolts, tube.plateWatts, tube.plateWattsLimit,
                             type ? type->limits.plateVolts : std::nullopt, tube.plateVolts});
      }
      row.warnings = warningsOf(*circuit, library, row.report, point->tubes);
    }
    rows.push_back(std::move(row));
  }
  return rows;
}

bool findRebias(std::vector<Consequence>& rows, const Idle& idle, const amp::Library& library, const GoOn& goOn) {
  constexpr double much = 0.07;
  const auto& tubes = idle.circuit->parts;
  const auto tube = std::find_if(tubes.begin(), tubes.end(), [&](const auto& part) {
    return amp::isTube(part.resolved.part->kind) && !part.devices.empty() && outputTransformerOf(*idle.circuit, part);
  });
  if (tube == tubes.end()) return true;
  const auto& name = tube->resolved.name;
  const auto standsIn = [&](const OperatingPoint& point) {
    const auto found =
        std::find_if(point.tubes.begin(), point.tubes.end(), [&](const auto& one) { return one.name == name; });
    return found == point.tubes.end() ? nullptr : &*found;
  };
  const auto* now = standsIn(idle.point);
  if (!now || !(now->plateWatts > 0)) return true;
  return inTwoThreads(rows.size(), goOn, [&](std::size_t i, const GoOn&) {
    auto& row = rows[i];
    if (row.problem || row.choice.changes.empty()) return;
    auto warmth = warmthOf(idle);
    std::vector<amp::SetField> changes;
    // Once more from the value that is found: the rails there are not those of before.
    for (const bool again : {false, true}) {
      auto all = row.choice.changes;
      all.insert(all.end(), changes.begin(), changes.end());
      const auto other = predictIdle(amp::withChanges(*idle.circuit->design, library, all), library, &warmth);
      if (!other) return;
      const auto* then = standsIn(other->point);
      if (!then || !(then->plateAmps > 0)) return;
      if (!again && std::abs(then->plateWatts / now->plateWatts - 1) < much) return;
      auto found = rebias(*other, library, name, now->plateWatts / (then->plateWatts / then->plateAmps));
      if (!found || found->empty()) break;
      const auto alike = [](const amp::SetField& a, const amp::SetField& b) {
        return a.part == b.part && a.field == b.field;
      };
      if (again && !std::equal(found->begin(), found->end(), changes.begin(), changes.end(), alike)) break;
      for (std::size_t c = 0; again && c < changes.size(); ++c)
        (*found)[c].from = changes[c].from;
      changes = std::move(*found);
    }
    std::erase_if(changes, [](const amp::SetField& change) { return change.from == change.to; });
    for (const auto& change : changes) {
      const auto* part = idle.circuit->part(change.part);
      const auto* value = std::get_if<double>(&change.to);
      row.rebiased += (row.rebiased.empty() ? "" : ", ") + change.part +
                      (part && value && change.field == "value"
                           ? " " + units::schematic(*value, amp::valueUnit(part->resolved.part->kind))
                           : "");
    }
    row.rebias = std::move(changes);
  });
}

tl::expected<Consequences, Problem> predictConsequences(const Idle& idle, const amp::Library& library,
                                                        const ConsequencesQuestion& question, const GoOn& goOn) {
  if (!idle.point.supply) return tl::unexpected(noMains());
  const auto* part = idle.circuit->part(question.part);
  if (!part) return Consequences{};
  const auto& design = *idle.circuit->design;
  const auto choices = part->resolved.part->kind == PartKind::rectifier ? rectifierChoices(design, library)
                                                                        : valueChoices(design, library, question.part);
  Consequences answer{question.part, predictConsequences(design, library, choices, goOn, warmthOf(idle))};
  if (answer.rows.size() < choices.size()) return tl::unexpected(Problem::stopped());
  if (question.rebias && !findRebias(answer.rows, idle, library, goOn)) return tl::unexpected(Problem::stopped());
  return answer;
}

double ratingFor(double watts) {
  constexpr std::array<double, 9> stock{0.5, 1, 2, 3, 5, 7, 10, 25, 50};
  const auto rating = std::lower_bound(stock.begin(), stock.end(), 2 * watts);
  return rating == stock.end() ? std::ceil(2 * watts) : *rating;
}

double resistorWatts(const SupplyIdle& supply, const amp::CompiledPart& resistor) {
  const Eigen::VectorXd across = supply.volts(resistor.nodes[0]) - supply.volts(resistor.nodes[1]);
  return across.size() == 0 ? 0 : across.squaredNorm() / static_cast<double>(across.size()) / resistor.resolved.value();
}

std::optional<FirstCapacitor> firstCapacitor(const amp::Circuit& circuit) {
  const auto rails = mainRails(circuit);
  FirstCapacitor first;
  // From the cathode through resistors of the supply; the first node with capacitors ends the walk.
  circuit::Node node = rails.rectified;
  std::vector<circuit::Node> seen;
  for (int hop = 0; hop < 8; ++hop) {
    seen.push_back(node);
    circuit::Node next = -1;
    for (const auto& part : circuit.parts) {
      if (part.devices.empty() || part.nodes.size() != 2) continue;
      const auto& devices = circuit.supply.devices;
      if (std::find(devices.begin(), devices.end(), part.devices.front()) == devices.end()) continue;
      const bool here = part.nodes[0] == node || part.nodes[1] == node;
      if (!here) continue;
      const auto other = part.nodes[0] == node ? part.nodes[1] : part.nodes[0];
      if (part.resolved.part->kind == PartKind::capacitor) {
        double farads = part.resolved.value();
        if (other != 0) // a pair in series: the partner from there to ground
          for (const auto& below : circuit.parts)
            if (!below.devices.empty() && below.resolved.part->kind == PartKind::capacitor && below.nodes[0] == other &&
                below.nodes[1] == 0)
              farads = 1 / (1 / farads + 1 / below.resolved.value());
        first.farads += farads;
        first.parts.push_back(part.resolved.name);
      } else if (part.resolved.part->role == "series-resistor" &&
                 std::find(seen.begin(), seen.end(), other) == seen.end()) {
        next = other;
        first.seriesOhms += part.resolved.value();
      }
    }
    if (first.farads > 0) return first;
    if (next < 0) return std::nullopt;
    node = next;
  }
  return std::nullopt;
}

std::optional<double> plateSupplyVolts(const amp::Circuit& circuit) {
  const auto winding = plateWinding(circuit);
  return winding ? std::optional(winding->unloadedVolts) : std::nullopt;
}

double plateSourceOhms(const amp::Circuit& circuit) {
  double ohms = 0;
  if (const auto supply = plateSupply(circuit)) {
    const auto& transformer = supply->transformer->resolved;
    const double ratio = supply->winding.unloadedVolts / transformer.value();
    ohms = supply->winding.ohms + ratio * ratio * amp::transformerPrimaryOhms(transformer);
  }
  if (const auto first = firstCapacitor(circuit)) ohms += first->seriesOhms;
  return ohms;
}

std::optional<double> leastSourceOhms(const tubes::TubeType& type, double voltsRms) {
  std::vector<std::pair<double, double>> published;
  for (const auto& operation : type.rectifierOperations)
    if (operation.sourceOhms) published.emplace_back(operation.plateVoltsRms, *operation.sourceOhms);
  if (published.empty()) return std::nullopt;
  std::sort(published.begin(), published.end());
  if (voltsRms <= published.front().first) return published.front().second * voltsRms / published.front().first;
  for (std::size_t i = 1; i < published.size(); ++i) {
    const auto [v0, r0] = published[i - 1];
    const auto [v1, r1] = published[i];
    if (voltsRms <= v1) return v1 > v0 ? r0 + (r1 - r0) * (voltsRms - v0) / (v1 - v0) : r1;
  }
  return published.back().second * voltsRms / published.back().first;
}

tl::expected<RegulationCurve, Problem> predictRegulation(const amp::Design& design, const amp::Library& library,
                                                         const std::vector<amp::SetField>& changes,
                                                         const std::vector<double>& amps) {
  const auto circuit = amp::compile(amp::withChanges(design, library, changes), library);
  if (!circuit) return tl::unexpected(circuit.error());
  RegulationCurve curve;
  if (const auto* rectifier = partOfKind(*circuit, PartKind::rectifier)) curve.type = rectifier->resolved.text("tube");
  const auto rail = mainRails(*circuit).fed;
  std::optional<SupplyIdle> before;
  for (const double load : amps) {
    auto idle = predictSupplyIdle(*circuit, before ? &*before : nullptr, {0, load, rail});
    if (!idle) return tl::unexpected(idle.error());
    curve.amps.push_back(load);
    curve.volts.push_back(idle->meanVolts(rail));
    before = std::move(*idle);
  }
  return curve;
}

tl::expected<RegulationAnswer, Problem> predictRegulation(const Idle& idle, const amp::Library& library,
                                                          const RegulationQuestion& question, const GoOn& goOn) {
  if (!idle.point.supply) return tl::unexpected(noMains());
  const auto& design = *idle.circuit->design;
  RegulationAnswer answer;
  answer.idleAmps = idle.point.supply->loadAmps;
  std::vector<double> amps;
  amps.reserve(regulationPoints);
  for (int k = 0; k < regulationPoints; ++k)
    amps.push_back(std::max(regulationSpan * answer.idleAmps * k / (regulationPoints - 1), 1e-3));
  std::vector<SupplyChoice> choices{{"", {}}};
  if (question.everyRectifier)
    for (const auto& choice : rectifierChoices(design, library))
      if (!choice.changes.empty()) choices.push_back(choice);
  for (std::size_t c = 0; c < choices.size(); ++c) {
    if (goOn && !goOn(static_cast<double>(c) / static_cast<double>(choices.size())))
      return tl::unexpected(Problem::stopped());
    auto curve = predictRegulation(design, library, choices[c].changes, amps);
    if (!curve && c == 0) return tl::unexpected(curve.error());
    if (curve)
      answer.curves.push_back(std::move(*curve));
    else
      answer.without.push_back(choices[c].title);
  }
  return answer;
}

tl::expected<SeriesResistorAnswer, Problem> predictSeriesResistor(const Idle& idle, const amp::Library& library,
                                                                  const SeriesResistorQuestion& question, const GoOn&) {
  return predictSeriesResistor(*idle.circuit->design, library, question);
}

tl::expected<SeriesResistorAnswer, Problem>
predictSeriesResistor(const amp::Design& design, const amp::Library& library, const SeriesResistorQuestion& question) {
  SeriesResistorAnswer answer;
  const auto now = amp::compile(design, library);
  if (!now) return tl::unexpected(now.error());
  const auto* place = partOfRole(*now, "series-resistor");
  if (!place)
    return tl::unexpected(
        Problem{"the supply", "has no place for a series resistor; use a reservoir section that has one"});
  answer.part = place->resolved.name;
  const auto idle = predictSupplyIdle(*now);
  if (!idle) return tl::unexpected(idle.error());
  const auto rail = mainRails(*now).fed;
  answer.idleVoltsBefore = idle->meanVolts(rail);
  answer.idleAmps = idle->loadAmps;
  if (!(question.extraDropVolts > 0)) return tl::unexpected(Problem{"extra drop", "must be above 0 V"});
  if (!(question.fullAmps > answer.idleAmps))
    return tl::unexpected(Problem{"full current", fmt::format("must be above the idle current of {}",
                                                              units::reading(answer.idleAmps, Unit::ampere))});
  answer.exactOhms = question.extraDropVolts / (question.fullAmps - answer.idleAmps);
  answer.ohms = units::nearest(units::Series::e12, answer.exactOhms);
  if (!place->resolved.fitted()) answer.changes.push_back({answer.part, "fitted", false, true});
  if (answer.ohms != place->resolved.value())
    answer.changes.push_back({answer.part, "value", place->resolved.value(), answer.ohms});
  const auto with = amp::compile(amp::withChanges(design, library, answer.changes), library);
  if (!with) return tl::unexpected(with.error());
  const auto idleWith = predictSupplyIdle(*with);
  if (!idleWith) return tl::unexpected(idleWith.error());
  // At full drive the amplifier is that current and nothing else.
  const auto fullWith = predictSupplyIdle(*with, nullptr, {0, question.fullAmps, rail});
  if (!fullWith) return tl::unexpected(fullWith.error());
  const auto* part = with->part(answer.part);
  const auto across = [&](const SupplyIdle& state) -> Eigen::VectorXd {
    return state.volts(part->nodes[0]) - state.volts(part->nodes[1]);
  };
  answer.idleDrop = across(*idleWith).mean();
  const auto full = across(*fullWith);
  answer.fullDrop = full.mean();
  answer.wattsFull = resistorWatts(*fullWith, *part);
  answer.wattsToBuy = ratingFor(answer.wattsFull);
  answer.idleVolts = idleWith->meanVolts(rail);
  return answer;
}

} // namespace vinegar::predict
