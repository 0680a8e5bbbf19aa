#pragma once

#include "predict/voice/rank.h"
#include "tell/columns.h"

namespace vinegar::tell {

/// What one step of each part's dial does; the circuit knows the values' units and outlives the columns.
Columns<predict::RankedStep> rankedSteps(const amp::Circuit& circuit);

} // namespace vinegar::tell
