// The question of the Feel page without a window.
#pragma once

#include "files/design_file.h"

namespace vinegar::cli {

struct FeelAsked {
  std::string file, format, phrase = "chord", instrument = "guitar", recording, compare;
  double inputRms = 0.1; ///< of a sine with the phrase's largest peak
  std::optional<std::string> rectifier;
};
int printFeel(const FeelAsked& asked, const amp::Design& design, const amp::Library& library);

} // namespace vinegar::cli
