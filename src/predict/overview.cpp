#include "predict/overview.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>

namespace vinegar::predict {
namespace {

constexpr std::array<double, 3> stepHertz{82.4, 1000, 5000};

Vitals readVitals(const amp::Circuit& circuit, const OperatingPoint& point, const Response* whole) {
  Vitals vitals;
  if (whole) vitals.gain = describeGain(*whole);
  if (!circuit.rails.empty()) vitals.reservoirVolts = point.volts(circuit.rails.front().node);
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

StepEffect readStep(const amp::Circuit& circuit, const amp::Library& library, const OverviewQuestion& question,
                    const amp::CompiledPart& part, double value, const Response& now, const OperatingPoint& point,
                    circuit::AcPlan plan) {
  StepEffect effect;
  effect.value = value;
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
  const auto& level = responses->front().decibels;
  effect.atE2 = level[0] - now.decibels[0];
  effect.at1kHz = level[1] - now.decibels[1];
  effect.at5kHz = level[2] - now.decibels[2];
  const auto last = part.nodes.size() > 1 ? part.nodes.back() : 0;
  effect.volts = circuit::System::volts(dc->x, part.nodes.front()) - circuit::System::volts(dc->x, last) -
                 point.part(part.resolved.name)->volts;
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
          readStep(circuit, library, question, *part, *value, *now, overview.point, kept.plan);
  return overview;
}

} // namespace vinegar::predict
