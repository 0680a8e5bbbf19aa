#pragma once

#include "predict/quiet/hiss.h"
#include "tell/columns.h"

namespace vinegar::tell {

/// Whose hiss it is.
const Columns<predict::HissSource>& hissSources();
/// What would quieten it; the circuit knows the values' units and outlives the columns.
Columns<predict::HissCure> hissCures(const amp::Circuit& circuit);

} // namespace vinegar::tell
