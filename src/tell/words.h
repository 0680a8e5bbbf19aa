// Words that several answers share.
#pragma once

#include "amp/change/change.h"
#include "predict/stages/stages.h"
#include "tell/columns.h"

#include <string>
#include <vector>

namespace vinegar::tell {

/// "R5 4k7, 12AT7": what each part is changed to; both halves of a bottle are told once. `circuit` knows the units of
/// the values, or is null.
std::string changed(const std::vector<amp::SetField>& changes, const amp::Circuit* circuit = nullptr);
/// "V1a +3.2 %": the tube whose current is moved most; empty where none is.
std::string moved(const std::string& tube, double share);
/// "cut-off at -1.8 V": what ends a swing, and how far the grid is then moved from its bias.
Said limited(const std::optional<predict::CrestLimit>& limit);
/// The same, sorted by how far that is.
Cell limitCell(const std::optional<predict::CrestLimit>& limit);
/// "V1a, V1b"
std::string joined(const std::vector<std::string>& names);

} // namespace vinegar::tell
