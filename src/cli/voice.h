// The questions of the Voice page without a window.
#pragma once

#include "files/design_file.h"

namespace vinegar::cli {

struct VoiceAsked {
  std::string file, format, from = "jack", to = "speaker";
  std::vector<std::string> knobs; ///< "Treble=0.7", "Bright=2"
  std::string control, band, target, other;
  std::vector<std::string> parts;
  std::map<std::string, amp::Target> targets; ///< that the design keeps, by name
  int builds = 500;
  bool cures = false;
};
/// Sets the design's knobs; what is no control's setting is a Problem.
std::optional<Problem> turnKnobs(amp::Design& design, const amp::Library& library,
                                 const std::vector<std::string>& knobs);

int printReadouts(const VoiceAsked& asked, const amp::Design& design, const amp::Library& library);
int printRanking(const VoiceAsked& asked, const amp::Design& design, const amp::Library& library);
int printSweep(const VoiceAsked& asked, const amp::Design& design, const amp::Library& library);
int printTolerance(const VoiceAsked& asked, const amp::Design& design, const amp::Library& library);
int printFit(const VoiceAsked& asked, const amp::Design& design, const amp::Library& library);
int printComparison(const VoiceAsked& asked, const amp::Design& design, const amp::Library& library);
int printNoise(const VoiceAsked& asked, const amp::Design& design, const amp::Library& library);

} // namespace vinegar::cli
