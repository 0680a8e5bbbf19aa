#include "predict/overview/steps.h"

#include "amp/change/change.h"

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
      other ? responseOf(*stepped, *other, {question.from, question.to, {stepHertz.begin(), stepHertz.end()}}, &warmth)
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
