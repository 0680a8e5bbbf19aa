// What the command line says when something is wrong. Exit codes: 0 done, 1 the design is bad, 2 the call is bad, 3 the
// answer could not be written.
#pragma once

#include "units/place.h"

#include <string>

namespace vinegar::cli {

constexpr int badDesign = 1, badUse = 2, notWritten = 3;

/// One line on standard error; where `format` is "json", {"problem": {"place", "message"}} on standard output too, so
/// that whoever reads that always gets JSON. Returns `code`.
int complain(const Problem& problem, int code, const std::string& format = "text");

} // namespace vinegar::cli
