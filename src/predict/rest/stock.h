// What the dial of a part goes through, and what another value of one does to the tubes at rest.
#pragma once

#include "predict/rest/idle.h"

namespace vinegar::predict {

/// The dial's next value in the part's stock list or preferred series; nothing at the end of a stock list.
std::optional<double> steppedValue(const amp::ResolvedPart& part, const amp::Library& library, bool up);

/// The tube whose plate current another state of the same tubes changes most, and by what share: 0.1 is a tenth more.
/// Empty where none moves by a thousandth.
std::pair<std::string, double> mostMoved(const OperatingPoint& before, const OperatingPoint& after);

} // namespace vinegar::predict
