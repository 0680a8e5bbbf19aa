#include "predict/overview.h"

#include "predict/supply.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <functional>

namespace vinegar::predict {
namespace {

constexpr std::array<double, 3> stepHertz{82.4, 1000, 5000};

Vitals readVitals(const amp::Circuit& circuit, const OperatingPoint& point, const Response* whole) {
  Vitals vitals;
  if (whole) vitals.gain = describeGain(*whole);
  if (!circuit.rails.empty()) vitals.reservoirVolts = point.volts(mainRails(circuit).fed);
  if (point.supply) vitals.reservoirAmps = point.supply->loadAmps;
  for (const auto& part : circuit.parts)
    if (part.resolved.part->kind == amp::PartKind::voltageSource && !part.devices.empty())
      vitals.reservoirAmps -= point.part(part.resolved.name)->amps;
  double highest = 0;
  for (const auto& tube : point.tubes) {
    if (!tube.plateWattsLimit) continue;
    const double share = tube.plateWatts / *tube.plateWattsLimit;
    if (share > highest) {
      highest = share;
      vitals.hottestTube = tube.name;
      vitals.hottestWatts = tube.plateWatts;
      vitals.hottestLimit = *tube.plateWattsLimit;
    }
    if (share > 1)
      vitals.findings.push_back({tube.name, fmt::format("{} dissipates {} at idle, over its rating of {}", tube.type,
                                                        units::reading(tube.plateWatts, units::Unit::watt),
                                                        units::reading(*tube.plateWattsLimit, units::Unit::watt))});
  }
  return vitals;
}

void readDifference(StepEffect& effect, const amp::CompiledPart& part, const Response& response, const Response& now,
                    double voltsNow, const std::function<double(circuit::Node)>& volts) {
  effect.atE2 = response.decibels[0] - now.decibels[0];
  effect.at1kHz = response.decibels[1] - now.decibels[1];
  effect.at5kHz = response.decibels[2] - now.decibels[2];
  effect.volts = volts(part.nodes.front()) - (part.nodes.size() > 1 ? volts(part.nodes.back()) : 0) - voltsNow;
}

StepEffect readWholeStep(const amp::Circuit& circuit, const amp::Library& library, const OverviewQuestion& question,
                         const amp::CompiledPart& part, double value, const Response& now, const OperatingPoint& point,
                         Warmth warmth) {
  StepEffect effect;
  effect.value = value;
  const auto& name = part.resolved.name;
  const auto stepped = amp::compile(
      amp::withChanges(*circuit.design, library, {{name, "value", part.resolved.value(), value}}), library);
  const auto other = stepped ? predictOperatingPoint(*stepped, &warmth) : tl::unexpected(stepped.error());
  const auto response =
      other ? predictResponse(*stepped, *other, {question.from, question.to, {stepHertz.begin(), stepHertz.end()}},
                              &warmth)
            : tl::unexpected(other.error());
  if (!response) {
    effect.problem = response.error();
    return effect;
  }
  readDifference(effect, part, *response, now, point.part(name)->volts,
                 [&](circuit::Node node) { return other->volts(node); });
  return effect;
}

StepEffect readStep(const amp::Circuit& circuit, const amp::Library& library, const OverviewQuestion& question,
                    const amp::CompiledPart& part, double value, const Response& now, const OperatingPoint& point,
                    const Warmth& warmth) {
  StepEffect effect;
  effect.value = value;
  // What stands before the rails moves the rectifier's own averages, so the whole is asked anew.
  const auto& ofSupply = circuit.supply.devices;
  if (point.supply && std::find(ofSupply.begin(), ofSupply.end(), part.devices.front()) != ofSupply.end())
    return readWholeStep(circuit, library, question, part, value, now, point, warmth);
  auto plan = warmth.plan;
  const auto laws = circuit.lawsWith(part.resolved.name, "value", value, library);
  if (!laws) {
    effect.problem = Problem{part.resolved.name, "this value would make another circuit"};
    return effect;
  }
  circuit::System system = *point.system;
  system.setLaws(*laws);
  const auto dc = circuit::solveDc(system, &point.dc.x);
  const auto responses = dc ? predictResponses(circuit, system, dc->x, {{question.from, question.to}},
                                               {stepHertz.begin(), stepHertz.end()}, &plan)
                            : tl::unexpected(dc.error());
  if (!responses) {
    effect.problem = responses.error();
    return effect;
  }
  readDifference(effect, part, responses->front(), now, point.part(part.resolved.name)->volts,
                 [&](circuit::Node node) { return circuit::System::volts(dc->x, node); });
  return effect;
}

} // namespace

std::optional<double> steppedValue(const amp::ResolvedPart& part, const amp::Library& library, bool up) {
  if (!amp::hasValue(part.part->kind)) return std::nullopt;
  const double value = part.value();
  const auto& role = library.role(part.part->role);
  if (!role.stock.empty()) {
    auto stock = role.stock;
    std::sort(stock.begin(), stock.end());
    const auto next = up ? std::upper_bound(stock.begin(), stock.end(), value * (1 + 1e-6))
                         : std::lower_bound(stock.begin(), stock.end(), value * (1 - 1e-6));
    if (up) return next == stock.end() ? std::nullopt : std::optional(*next);
    return next == stock.begin() ? std::nullopt : std::optional(*(next - 1));
  }
  if (part.part->kind == amp::PartKind::voltageSource) return std::max(0.0, value + (up ? 5 : -5));
  if (part.part->kind == amp::PartKind::biasSource) return std::max(0.0, value + (up ? 1 : -1));
  if (value <= 0) return std::nullopt;
  const auto series = role.series.value_or(units::Series::e12);
  const double next = up ? units::nextUp(series, value) : units::nextDown(series, value);
  if (amp::checkSetting(part, "value", amp::Setting{next}, library)) return std::nullopt;
  return next;
}

tl::expected<Overview, Problem> predictOverview(const amp::Design& design, const amp::Library& library,
                                                const OverviewQuestion& question, Warmth* warmth) {
  Warmth cold;
  Warmth& kept = warmth ? *warmth : cold;
  auto compiled = amp::compile(design, library);
  if (!compiled) return tl::unexpected(compiled.error());
  Overview overview;
  overview.circuit = std::make_shared<const amp::Circuit>(std::move(*compiled));
  const auto& circuit = *overview.circuit;
  auto point = predictOperatingPoint(circuit, &kept);
  if (!point) return tl::unexpected(point.error());
  overview.point = std::move(*point);

  const bool hasWhole = circuit.probe("jack") >= 0 && circuit.probe("speaker") >= 0;
  std::vector<std::pair<std::string, std::string>> spans{{question.from, question.to}};
  if (hasWhole) spans.emplace_back("jack", "speaker");
  auto responses = predictResponses(circuit, overview.point, spans, question.hertz, &kept);
  if (!responses) return tl::unexpected(responses.error());
  overview.response = std::move(responses->front());
  overview.vitals = readVitals(circuit, overview.point, hasWhole ? &responses->back() : nullptr);

  const auto* part = question.part.empty() ? nullptr : circuit.part(question.part);
  if (!part || !amp::hasValue(part->resolved.part->kind) || part->devices.empty()) return overview;
  const auto now = predictResponse(circuit, overview.point,
                                   {question.from, question.to, {stepHertz.begin(), stepHertz.end()}}, &kept);
  if (!now) return overview;
  for (const bool up : {true, false})
    if (const auto value = steppedValue(part->resolved, library, up))
      (up ? overview.up : overview.down) =
          readStep(circuit, library, question, *part, *value, *now, overview.point, kept);
  return overview;
}

} // namespace vinegar::predict
