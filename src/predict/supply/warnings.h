#pragma once

#include "predict/supply/supply.h"

namespace vinegar::predict {

/// What in an amplifier at rest is over its rating or its budget, each in a few words: first capacitor, rectifiers,
/// windings, heaters, filaments, plates and screens; tubes that stand alike together.
std::vector<std::string> warningsOf(const amp::Circuit& circuit, const amp::Library& library,
                                    const SupplyReport& report, const std::vector<TubeReading>& tubes);

} // namespace vinegar::predict
