// What a meter's reading would mean: which one part, off its value, explains it best.
#pragma once

#include "predict/rest/idle.h"

namespace vinegar::predict {

struct ExplainQuestion {
  std::string tube;
  std::map<std::string, double> volts; ///< by electrode, "plate", "screen", "grid", "cathode": read, to ground
  bool operator==(const ExplainQuestion&) const = default;
};
struct Suspect {
  std::string part;
  double off = 0;  ///< as a share: 0.12 is twelve hundredths more than its value; of a tube, its current
  double rest = 0; ///< what it leaves unexplained, as a share of the whole difference: 0 all explained
};
struct Explanation {
  std::map<std::string, double> predicted; ///< volts to ground, of the electrodes that were read
  bool agrees = true;                      ///< everything reads as predicted
  std::vector<Suspect> suspects; ///< the likeliest first, at most three; none where no single part explains it
};
/// From the DC sensitivities of every part and of every tube's emission, as if one were off and all others true; one
/// that is further off than fits the reading, or than twice its value, is none. A millisecond or two. A tube that is
/// not there is a Problem.
tl::expected<Explanation, Problem> explainReadings(const Idle& idle, const amp::Library& library,
                                                   const ExplainQuestion& question, const GoOn& goOn = {});

} // namespace vinegar::predict
