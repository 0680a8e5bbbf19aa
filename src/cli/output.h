// What the command line says when something is wrong. Exit codes: 0 done, 1 the design is bad, 2 the call is bad, 3 the
// answer could not be written.
#pragma once

#include "amp/change/document.h"
#include "amp/compile/compile.h"
#include "units/place.h"

#include <optional>
#include <string>
#include <vector>

namespace vinegar::cli {

constexpr int badDesign = 1, badUse = 2, notWritten = 3;

/// One line on standard error; where `format` is "json", {"problem": {"place", "message"}} on standard output too, so
/// that whoever reads that always gets JSON. Returns `code`.
int complain(const Problem& problem, int code, const std::string& format = "text");

/// The design that is answered for: "ink", "active" or empty (the active sheet over it), or the sheet of that name.
/// Where the file holds pencil, one line on standard error says which. A name that is no sheet is a Problem.
tl::expected<amp::Design, Problem> sheetOf(const amp::Document& document, const amp::Library& library,
                                           const std::string& wanted, const std::string& file);

/// Sets the design's knobs; what is no control's setting is a Problem.
std::optional<Problem> turnKnobs(amp::Design& design, const amp::Library& library,
                                 const std::vector<std::string>& knobs);

} // namespace vinegar::cli
