#pragma once

#include "predict/supply/supply.h"

namespace vinegar::predict {

/// A divider that lifts the heaters to about half of the highest cathode.
struct Elevation {
  double wantedVolts = 0, upperOhms = 0, lowerOhms = 0, volts = 0; ///< from the first rail the amplifier is joined to
};

/// The supply with other mains, or with the tubes cold or out.
struct MainsCase {
  double share = 1; ///< of the mains' own volts
  bool tubesIn = true;
  std::optional<Problem> problem; ///< no answer; the rest is then empty
  double mainsVolts = 0, railVolts = 0;
  std::vector<double> heaterVolts; ///< rms, as in the report
};

/// What the transformer carries, what the heaters get, and the same at the mains' ends.
struct SupplyBudget {
  SupplyReport report;
  double mainsVolts = 0, mainsHertz = 0;
  std::optional<Elevation> elevation; ///< where a cathode stands far above its heater
  std::vector<MainsCase> cases;
};

struct BudgetQuestion {
  bool operator==(const BudgetQuestion&) const = default;
};

constexpr double usualHeaterCathodeLimit = 90; ///< V, where no limit is agreed

/// Five solves of the supply, some 20 ms. A design without mains is a Problem.
tl::expected<SupplyBudget, Problem> predictBudget(const Idle& idle, const amp::Library& library,
                                                  const BudgetQuestion& question = {}, const GoOn& goOn = {});

} // namespace vinegar::predict
