#include "predict/steps.h"

#include "amp/change.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <functional>

namespace vinegar::predict {
namespace {

constexpr std::array<double, 3> stepHertz{82.4, 1000, 5000};

void readDifference(StepEffect& effect, const amp::CompiledPart& part, const Response& response, const Response& now,
                    double voltsNow, const std::function<double(circuit::Node)>& volts) {
  effect.atE2 = response.decibels[0] - now.decibels[0];
  effect.at1kHz = response.decibels[1] - now.decibels[1];
  effect.at5kHz = response.decibels[2] - now.decibels[2];
  effect.volts = volts(part.nodes.front()) - (part.nodes.size() > 1 ? volts(part.nodes.back()) : 0) - voltsNow;
}

StepEffect readWholeStep(const amp::Circuit& circuit, const amp::Library& library, const StepsQuestion& question,
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

StepEffect readStep(const amp::Circuit& circuit, const amp::Library& library, const StepsQuestion& question,
                    const amp::CompiledPart& part, double value, const Response& now, const OperatingPoint& point,
                    const Warmth& warmth) {
  StepEffect effect;
  effect.value = value;
  // What stands before the rails moves the rectifier's own averages, so the whole is asked anew.
  const auto& ofSupply = circuit.supply.devices;
  if (point.supply && std::find(ofSupply.begin(), ofSupply.end(), part.devices.front()) != ofSupply.end())
    return readWholeStep(circuit, library, question, part, value, now, point, warmth);
  const auto laws = circuit.lawsWith(part.resolved.name, "value", value, library);
  if (!laws) {
    effect.problem = Problem{part.resolved.name, "this value would make another circuit"};
    return effect;
  }
  circuit::System system = *point.system;
  system.setLaws(*laws);
  const auto dc = circuit::solveDc(system, &point.dc.x);
  const auto responses = dc ? predictResponses(circuit, system, dc->x, {{question.from, question.to}},
                                               {stepHertz.begin(), stepHertz.end()}, warmth.plan.get())
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

std::pair<std::string, double> mostMoved(const OperatingPoint& before, const OperatingPoint& after) {
  constexpr double still = 1e-3, nothing = 1e-9; // a share, and ampere
  std::pair<std::string, double> most{"", 0};
  for (std::size_t t = 0; t < std::min(before.tubes.size(), after.tubes.size()); ++t) {
    const double amps = before.tubes[t].plateAmps;
    const double share = amps > nothing ? after.tubes[t].plateAmps / amps - 1 : 0;
    if (std::abs(share) > std::max(still, std::abs(most.second))) most = {before.tubes[t].name, share};
  }
  return most;
}

tl::expected<Steps, Problem> predictSteps(const Idle& idle, const amp::Library& library, const StepsQuestion& question,
                                          const GoOn& goOn) {
  Steps steps;
  const auto& circuit = *idle.circuit;
  const auto* part = question.part.empty() ? nullptr : circuit.part(question.part);
  if (!part || !amp::hasValue(part->resolved.part->kind) || part->devices.empty()) return steps;
  const auto now =
      predictResponse(idle, library, {question.from, question.to, {stepHertz.begin(), stepHertz.end()}}, {});
  if (!now) return steps;
  const auto warmth = warmthOf(idle);
  for (const bool up : {true, false}) {
    if (goOn && !goOn(up ? 0 : 0.5)) return tl::unexpected(Problem::stopped());
    if (const auto value = steppedValue(part->resolved, library, up))
      (up ? steps.up : steps.down) = readStep(circuit, library, question, *part, *value, *now, idle.point, warmth);
  }
  return steps;
}

} // namespace vinegar::predict
