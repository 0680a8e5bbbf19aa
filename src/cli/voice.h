// The questions of the Voice page without a window.
#pragma once

#include "files/design_file.h"
#include "predict/stages/stage_spread.h"

namespace vinegar::cli {

struct VoiceAsked {
  std::string file, format, from = "jack", to; ///< `to` empty: as `endOf`
  std::string control, band, target, other;
  std::vector<std::string> parts;
  amp::Design otherDesign;                    ///< of the file `other`
  std::map<std::string, amp::Target> targets; ///< that the design keeps, by name
  predict::Tolerances tolerances;
  int builds = 500;
  bool cures = false;
};
/// Sets the design's knobs; what is no control's setting is a Problem.
std::optional<Problem> turnKnobs(amp::Design& design, const amp::Library& library,
                                 const std::vector<std::string>& knobs);

// Each fills in the end of the span where it was left out.
int printReadouts(VoiceAsked& asked, const amp::Design& design, const amp::Library& library);
int printRanking(VoiceAsked& asked, const amp::Design& design, const amp::Library& library);
int printSweep(VoiceAsked& asked, const amp::Design& design, const amp::Library& library);
int printTolerance(VoiceAsked& asked, const amp::Design& design, const amp::Library& library);
int printFit(VoiceAsked& asked, const amp::Design& design, const amp::Library& library);
int printComparison(VoiceAsked& asked, const amp::Design& design, const amp::Library& library);
int printNoise(VoiceAsked& asked, const amp::Design& design, const amp::Library& library);

} // namespace vinegar::cli
