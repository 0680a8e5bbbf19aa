// The questions of the Stages and Levels pages without a window.
#pragma once

#include "files/design_file.h"

namespace vinegar::cli {

struct StagesAsked {
  std::string file, format, tube;
  double hertz = 1000, inputRms = 0.1;     ///< volts at the jack
  std::optional<double> plate, amps, gain; ///< wanted of `propose`
};
int printStages(const StagesAsked& asked, const amp::Design& design, const amp::Library& library);
int printSwaps(const StagesAsked& asked, const amp::Design& design, const amp::Library& library);
int printLevels(const StagesAsked& asked, const amp::Design& design, const amp::Library& library);
int printProposals(const StagesAsked& asked, const amp::Design& design, const amp::Library& library);

} // namespace vinegar::cli
