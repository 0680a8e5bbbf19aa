#pragma once

#include "files/design_file.h"

#include <string>
#include <vector>

namespace vinegar::cli {

struct ArrangeAsked {
  std::string file, format = "text";
  std::vector<std::string> acts; ///< each as `arrangeHelp` tells
  std::string out;               ///< the file to write; empty: the design goes to standard output
  std::string reason;            ///< not empty: the pencil is inked with it
};

extern const char* const arrangeHelp;

/// Does the acts in pencil on the active sheet, one after another; the first that cannot be done ends it and nothing is
/// written, nor over a file of a newer version. Returns the exit code.
int arrange(const ArrangeAsked& asked, files::LoadedDesign loaded, const amp::Library& library);

} // namespace vinegar::cli
