// The resistance that a grid's current finds.
#pragma once

#include "predict/rest/idle.h"

namespace vinegar::predict {

/// Ohms from a tube's grid to ground for direct current, through leaks, stoppers, bias supply and controls as they
/// stand, tubes taken out. Nothing for a grid without a way to ground, or a tube that is not there. A millisecond.
std::optional<double> gridLeakOhms(const Idle& idle, const std::string& tube);

} // namespace vinegar::predict
