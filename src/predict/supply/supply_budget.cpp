#include "predict/supply/supply_budget.h"

#include "amp/change/change.h"

#include <cmath>

namespace vinegar::predict {
namespace {

constexpr double farAbove = 45;     ///< V from heater to cathode that are worth lifting the heaters for
constexpr double lowerOhms = 47000; ///< of the divider

} // namespace

tl::expected<SupplyBudget, Problem> predictBudget(const Idle& idle, const amp::Library& library, const BudgetQuestion&,
                                                  const GoOn& goOn) {
  if (!idle.point.supply) return tl::unexpected(noMains());
  const auto& circuit = *idle.circuit;
  SupplyBudget budget;
  budget.report = readSupply(circuit, library, idle.point);
  budget.mainsVolts = circuit.supply.volts;
  budget.mainsHertz = circuit.supply.hertz;
  double most = 0;
  for (const auto& hk : budget.report.heaterCathodes)
    if (std::abs(hk.volts) > std::abs(most)) most = hk.volts;
  if (most > farAbove) {
    const double rail = idle.point.volts(mainRails(circuit).fed), wanted = most / 2;
    const double upper = units::nearest(units::Series::e12, lowerOhms * (rail - wanted) / wanted);
    budget.elevation = Elevation{wanted, upper, lowerOhms, rail * lowerOhms / (lowerOhms + upper)};
  }
  for (auto one :
       {MainsCase{0.9, true, {}, 0, 0, {}}, MainsCase{1, true, {}, 0, 0, {}}, MainsCase{1.1, true, {}, 0, 0, {}},
        MainsCase{1, false, {}, 0, 0, {}}, MainsCase{1.1, false, {}, 0, 0, {}}}) {
    if (goOn && !goOn(static_cast<double>(budget.cases.size()) / 5)) return tl::unexpected(Problem::stopped());
    auto design = *circuit.design;
    for (const auto& part : circuit.parts)
      if (part.resolved.part->kind == amp::PartKind::mains)
        design = amp::withChanges(
            design, library, {{part.resolved.name, "value", part.resolved.value(), one.share * part.resolved.value()}});
    const auto other = amp::compile(design, library);
    const auto state = other ? predictSupplyIdle(*other, idle.point.supply.get(), {one.tubesIn ? 1.0 : 0.0, 0, 0})
                             : tl::unexpected(other.error());
    if (state) {
      one.mainsVolts = other->supply.volts;
      one.railVolts = state->meanVolts(mainRails(*other).fed);
      for (const auto& heater : readSupply(*other, library, *state).heaters)
        one.heaterVolts.push_back(heater.rmsVolts);
    } else {
      one.problem = state.error();
    }
    budget.cases.push_back(std::move(one));
  }
  return budget;
}

} // namespace vinegar::predict
