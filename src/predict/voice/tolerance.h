// Two amplifiers built alike need not sound alike: by how much, and which part has most to do with it?
#pragma once

#include "predict/rest/builds.h"

namespace vinegar::predict {

struct ToleranceQuestion {
  std::string from = "jack", to = "speaker";
  Tolerances tolerances;
  int builds = 500;
  bool operator==(const ToleranceQuestion&) const = default;
};
struct Tolerance {
  std::vector<double> hertz, low, middle, high; ///< dB: nine of ten builds lie between `low` and `high`
  /// A part and its share of the variance between 40 Hz and 10 kHz, from the sensitivities.
  struct Culprit {
    std::string part;
    double share = 0;
  };
  std::vector<Culprit> culprits; ///< the worst first, at most five
  Band level;                    ///< dB between two builds, their mean between 40 Hz and 10 kHz
  Band voice;                    ///< dB root mean square between two builds over that range, the level set alike
  int builds = 0, failures = 0;
};
/// Of the direct sound, springs silent. Monte Carlo with a fixed seed; rectifiers stand as in the average build. Half a
/// second for 500 builds of a large amplifier on two cores. No build with an answer is a Problem.
tl::expected<Tolerance, Problem> predictTolerance(const Idle& idle, const amp::Library& library,
                                                  const ToleranceQuestion& question, const GoOn& goOn = {});

} // namespace vinegar::predict
