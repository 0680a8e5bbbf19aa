#pragma once

#include <string>
#include <string_view>

namespace vinegar::units {

/// A name as one line that a terminal shows and obeys in nothing: control characters, line ends and marks that turn the
/// direction of writing become "\x1b", "\n" and the like. UTF-8.
std::string printable(std::string_view text);

} // namespace vinegar::units
