#pragma once

#include "amp/change/document.h"

namespace vinegar::amp {

/// The names that parts get when their numbers follow the signal: V1 is the first tube it meets and R1 the first
/// resistor, a chain beside the line comes before the section that it returns to, the supply comes last. By the present
/// name; only those that change. A bottle's halves stay in one bottle. Controls, and names of the builder's own, stay.
std::map<std::string, std::string> numbersBySignal(const Design& design, const Library& library);

/// Numbers the ink's parts so, as a revision; pencil marks and measured volts go with their parts. The new names, or
/// none when all is numbered so already.
std::map<std::string, std::string> renumber(Document& document, const Library& library, const std::string& date);

} // namespace vinegar::amp
