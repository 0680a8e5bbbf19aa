#pragma once

#include "audit/supply_rules.h"
#include "files/design_file.h"

namespace vinegar::cli {

/// `format`: "text", "json" or "csv". Each returns the exit code: 0, or 1 when the design has no answer.
struct SupplyAsked {
  std::string file, format;
  std::string rectifier; ///< another type, or empty
  double mains = 0;      ///< other volts, or 0
  double seconds = 30;
  std::string from = "cold"; ///< "cold", "standby" or "hot"
};
int printSupply(const SupplyAsked& asked, const amp::Design& design, const amp::Library& library);
int printSwitchOn(const SupplyAsked& asked, const amp::Design& design, const amp::Library& library);
int printDischarge(const SupplyAsked& asked, const amp::Design& design, const amp::Library& library);

} // namespace vinegar::cli
