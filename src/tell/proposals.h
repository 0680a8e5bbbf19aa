#pragma once

#include "predict/stages/propose.h"
#include "tell/columns.h"

namespace vinegar::tell {

/// Stock values that reach what was wanted, which is told in `unit`; the circuit outlives the columns.
Columns<predict::Proposal> proposals(units::Unit unit, const amp::Circuit& circuit);
/// "R28 330, Bias to 0.62"
std::string words(const predict::Proposal& proposal, const amp::Circuit& circuit);

} // namespace vinegar::tell
