// What the rules of this room look at.
#pragma once

#include "audit/supply_rules.h"
#include "predict/wave/stage_ports.h"

#include <memory>

namespace vinegar::audit {

struct Case {
  const predict::Idle& idle;
  const amp::Library& library;
  predict::SupplyReport report;
  std::optional<predict::SupplyIdle> unloaded; ///< tubes cold or pulled; nothing where there is no answer
  std::vector<predict::Rating> ratings;        ///< at rest, over their limits or not
  std::vector<Finding> findings;
  predict::GoOn goOn = {};

  [[nodiscard]] const amp::Circuit& circuit() const { return *idle.circuit; }
  [[nodiscard]] const predict::OperatingPoint& point() const { return idle.point; }
  void add(std::string part, std::string what, std::string cure, bool danger = false) {
    findings.push_back({std::move(part), std::move(what), std::move(cure), danger});
  }
  void add(const predict::Rating& rating, std::string what, std::string cure, bool danger = false) {
    findings.push_back({rating.part, std::move(what), std::move(cure), danger, rating});
  }
  template <class F> void eachPart(F f) const {
    for (const auto& part : circuit().parts)
      f(part);
  }
};

std::string read(double value, units::Unit unit, int digits = 3);

/// What stands in the signal's way: feedback, output stages, grids, filaments.
void amplifierRules(Case& c);

} // namespace vinegar::audit
