#pragma once

#include "units/place.h"

#include <cstddef>
#include <filesystem>
#include <string>

namespace vinegar::units {

/// No file that the program reads or writes is larger, in bytes.
constexpr std::size_t largestFile = std::size_t{32} << 20U;

/// Whole file as text, or why not. Ordinary files only: a pipe or device would never end.
tl::expected<std::string, Problem> readFile(const std::filesystem::path& path);

} // namespace vinegar::units
