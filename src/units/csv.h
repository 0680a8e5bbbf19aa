#pragma once

#include <string>
#include <string_view>

namespace vinegar::units {

/// A cell of a CSV line, quoted where it must be (RFC 4180); what a spreadsheet would work out as a formula is marked
/// as text by an apostrophe.
std::string csvCell(std::string_view text);

} // namespace vinegar::units
