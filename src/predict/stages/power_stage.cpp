#include "predict/stages/power_stage.h"

#include "amp/change/change.h"

#include <algorithm>
#include <cmath>
#include <utility>

namespace vinegar::predict {
namespace {

constexpr double bridged = 0.1; ///< ohms of what has failed to a short
constexpr double biasing = 5;   ///< ohms: under it a cathode resistor senses and does not bias

PowerIdle idleOf(const OperatingPoint& point, const std::string& tube) {
  for (const auto& reading : point.tubes)
    if (reading.name == tube) return {reading.plateAmps, reading.plateWatts, reading.gridVolts};
  return {};
}

} // namespace

IdleHeat heatOf(double share) {
  // Customary, no rule: class AB from 55 to 72 %, class A up to nine tenths.
  constexpr std::pair<double, IdleHeat> from[] = {
      {1, IdleHeat::over}, {0.9, IdleHeat::hot}, {0.72, IdleHeat::classA}, {0.55, IdleHeat::classAb}};
  for (const auto& [least, heat] : from)
    if (share > least) return heat;
  return IdleHeat::cool;
}

tl::expected<PowerStages, Problem> predictPowerStages(const Idle& idle, const amp::Library& library,
                                                      const PowerStageQuestion&, const GoOn& goOn) {
  PowerStages stages;
  const auto& circuit = *idle.circuit;
  for (const auto& tubes : stagesOf(circuit)) {
    const auto& first = *tubes.front();
    if (!outputTransformerOf(circuit, first)) continue;
    if (goOn && !goOn(0.2)) return tl::unexpected(Problem::stopped());
    PowerStage stage;
    for (const auto* tube : tubes)
      stage.tubes.push_back(tube->resolved.name);
    const auto& name = first.resolved.name;
    stage.idle = idleOf(idle.point, name);
    stage.wattsLimit = first.plateWattsLimit;
    const amp::CompiledPart *cathode = nullptr, *range = nullptr, *adjuster = nullptr;
    bool shared = false;
    for (const auto& part : circuit.parts) {
      if (part.devices.empty()) continue;
      const auto& own = part.resolved;
      if (own.part->kind == amp::PartKind::resistor && part.nodes.front() == first.nodes.back()) {
        if (own.part->role == "sense-resistor") stage.senseVolts = std::abs(idle.point.part(own.name)->volts);
        if (!cathode) cathode = &part;
        shared = tubes.size() > 1 && tubes.back()->nodes.back() == first.nodes.back();
      }
      if (own.section != first.resolved.section) continue;
      if (own.part->role == "bias-range") range = &part;
      if (own.part->role == "bias-adjust") adjuster = &part;
    }
    const double cathodeOhms = cathode ? cathode->resolved.value() : 0;
    if (cathode) stage.cathodeOhms = cathodeOhms;
    using Bias = PowerStage::Bias;
    const bool isFixed = adjuster || range;
    stage.bias = isFixed  ? (cathodeOhms > biasing ? Bias::mixed : Bias::fixed)
                 : shared ? Bias::cathodeShared
                          : Bias::cathodeSeparate;

    auto warmth = warmthOf(idle);
    const auto with = [&](const amp::Design& design) -> tl::expected<PowerIdle, Problem> {
      const auto other = predictIdle(design, library, &warmth);
      if (!other) return tl::unexpected(other.error());
      return idleOf(other->point, name);
    };
    if (adjuster) {
      stage.adjuster = adjuster->resolved.knob;
      std::vector<PowerIdle> ends;
      for (const double turn : {0.0, 1.0}) {
        auto design = *circuit.design;
        design.knobs[stage.adjuster] = turn;
        if (const auto end = with(design)) ends.push_back(*end);
      }
      if (ends.size() == 2) {
        const bool inOrder = ends[0].plateAmps <= ends[1].plateAmps;
        stage.least = ends[inOrder ? 0 : 1];
        stage.most = ends[inOrder ? 1 : 0];
      }
    }
    // Fixed bias is lost where its feed opens; a cathode's where its bypass goes short.
    const auto* weak = isFixed && range ? range : cathode;
    if (weak && (isFixed || cathodeOhms > biasing)) {
      stage.failure = weak->resolved.name;
      const double value = isFixed ? 1e9 : bridged;
      const auto failed = with(
          amp::withChanges(*circuit.design, library, {{weak->resolved.name, "value", weak->resolved.value(), value}}));
      if (failed)
        stage.failed = *failed;
      else
        stage.failedProblem = failed.error();
    }
    stages.all.push_back(std::move(stage));
  }
  return stages;
}

} // namespace vinegar::predict
