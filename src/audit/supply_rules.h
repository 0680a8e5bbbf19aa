// Room: ratings and safety. One rule, one function, one finding type.
#pragma once

#include "predict/supply_choices.h"

namespace vinegar::audit {

struct Finding {
  std::string part;    ///< where it is; empty: the whole supply
  std::string what;    ///< one sentence with the numbers
  std::string cure;    ///< what to do, one sentence
  bool danger = false; ///< to people, not to parts alone
  bool operator==(const Finding&) const = default;
};

/// Every finding on the supply of a design at idle, in order of danger. Solves the discharge and the state without
/// tubes besides. `point.supply` must be there.
std::vector<Finding> auditSupply(const amp::Circuit& circuit, const amp::Library& library,
                                 const predict::OperatingPoint& point);

/// The safety text, a heading and its paragraphs; the builder's local code and licensed people go before it.
struct SafetyText {
  std::string title;
  std::vector<std::string> paragraphs;
};
const SafetyText& safetyText();

} // namespace vinegar::audit
