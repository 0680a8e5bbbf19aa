#pragma once

#include "amp/compile/compile.h"
#include "circuit/monte_carlo.h"
#include "circuit/sensitivity.h"

namespace vinegar::predict {

/// A part's value as something that can be a little more or less.
struct PartVariation {
  std::string name;
  double value = 0;
  circuit::Parameter parameter; ///< in the value's own unit
};

/// Every fitted part with a value above zero, tubes and the Zeners of a rectified supply left out, each stepped by
/// `relativeStep` of its value.
std::vector<PartVariation> partVariations(const amp::Circuit& circuit, const amp::Library& library,
                                          double relativeStep = 1e-4);
/// Their parameters alone, as the circuit's sensitivities take them.
std::vector<circuit::Parameter> parametersOf(const std::vector<PartVariation>& variations);

/// Every fitted part within the same tolerance, tubes by their emission.
std::vector<circuit::Spread> partSpreads(const amp::Circuit& circuit, double tolerance);

} // namespace vinegar::predict
