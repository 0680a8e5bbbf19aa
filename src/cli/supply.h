#pragma once

#include "audit/supply_rules.h"
#include "files/design_file.h"

namespace vinegar::cli {

struct SupplyAsked {
  std::optional<std::string> rectifier; ///< another type
  std::optional<double> mains;          ///< other volts
  double seconds = 30;
  std::string from = "cold"; ///< "cold", "standby" or "hot"
};

/// The design with the mains and the rectifier that were asked for; a part that it does not have is the Problem.
tl::expected<amp::Design, Problem> asAsked(const SupplyAsked& asked, amp::Design design, const amp::Library& library);

} // namespace vinegar::cli
