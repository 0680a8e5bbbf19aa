// Curves as texts of columns, as measuring programs write them.
#pragma once

#include "amp/design/target.h"
#include "units/place.h"

#include <filesystem>
#include <tl/expected.hpp>

namespace vinegar::files {

/// Frequency and value of each line, parted by blanks, commas, semicolons or tabs; lines that begin with #, * or ",
/// heads, and further columns, as a phase, are passed over. Where semicolons or tabs part the columns a comma is a
/// decimal one; a line whose commas may be either is refused. Rising in frequency in the end, whatever the order.
/// `what`: the second column in words, for what is wrong. Ten thousand points at most.
tl::expected<std::vector<amp::CurvePoint>, Problem> parseColumns(const std::string& text, const std::string& place,
                                                                 const std::string& what);
tl::expected<std::vector<amp::CurvePoint>, Problem> readColumns(const std::filesystem::path& path,
                                                                const std::string& what);

} // namespace vinegar::files
