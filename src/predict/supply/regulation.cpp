#include "predict/supply/regulation.h"

#include <algorithm>
#include <fmt/format.h>

namespace vinegar::predict {

namespace {

using amp::PartKind;
using units::Unit;

constexpr double regulationSpan = 2.5; ///< of the idle current
constexpr int regulationPoints = 9;

const amp::CompiledPart* partOfRole(const amp::Circuit& circuit, const char* role) {
  for (const auto& part : circuit.parts)
    if (part.resolved.part->role == role) return &part;
  return nullptr;
}

} // namespace

tl::expected<RegulationCurve, Problem> regulationOf(const amp::Design& design, const amp::Library& library,
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
    auto curve = regulationOf(design, library, choices[c].changes, amps);
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
  return seriesResistorOf(*idle.circuit->design, library, question);
}

tl::expected<SeriesResistorAnswer, Problem> seriesResistorOf(const amp::Design& design, const amp::Library& library,
                                                             const SeriesResistorQuestion& question) {
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
