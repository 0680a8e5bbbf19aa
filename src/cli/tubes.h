#pragma once

#include <string>
#include <vector>

namespace vinegar::cli {

/// Lists the catalogue; `check` compares it with its published points instead. 0, or 1 when a figure misses its bar
/// without a stated reason.
int printTubes(bool check, const std::string& format);

/// Fits the named catalogue files, or all when none is named, and writes their model parameters back.
int fitTubes(const std::vector<std::string>& files);

} // namespace vinegar::cli
