// The same stage in many builds: what tolerances do to it, and what matched tubes are worth.
#pragma once

#include "predict/rest/builds.h"
#include "predict/stages/stages.h"

namespace vinegar::predict {

struct SpreadQuestion {
  std::string tube;
  Tolerances tolerances;
  double hertz = 1000;
  int builds = 500;
  bool operator==(const SpreadQuestion&) const = default;
};

struct StageSpread {
  Band plateVolts; ///< to the cathode
  Band plateAmps, plateWatts;
  std::optional<Band> gain;        ///< times; of a tube that no signal comes to, none
  std::optional<double> overShare; ///< of the builds whose plate is over its rating
  std::optional<double> wattsLimit;
  std::vector<double> builtVolts, builtAmps; ///< where each build with an answer stands
  int builds = 0, failures = 0;              ///< failures: builds without an operating point
};
/// Monte Carlo with a fixed seed; the rectifiers stand as in the average build. Some 0.1 s for 500 builds.
tl::expected<StageSpread, Problem> predictSpread(const Idle& idle, const amp::Library& library,
                                                 const SpreadQuestion& question, const GoOn& goOn = {});

/// Two tubes that push and pull, given the currents that a meter read in them, or nothing where they are alike.
struct PairQuestion {
  std::string tube;                     ///< either of them
  double firstAmps = 0, secondAmps = 0; ///< idle plate currents; the tube itself first
  bool operator==(const PairQuestion&) const = default;
};
struct PairState {
  double firstAmps = 0, secondAmps = 0, firstWatts = 0, secondWatts = 0;
  double secondHarmonic = 0; ///< at the speaker, of the fundamental, with half the drive that first clips
};
struct PairAnswer {
  std::string first, second;
  PairState matched, asRead;
  std::optional<double> wattsLimit;
};
/// Each tube given the emission that makes it draw its current, then the whole amplifier solved and played. Two waves
/// and some DC solutions. A tube that is no half of a pair, or currents that no emission between a tenth and ten
/// reaches, are Problems.
tl::expected<PairAnswer, Problem> predictPair(const Idle& idle, const amp::Library& library,
                                              const PairQuestion& question, const GoOn& goOn = {});

} // namespace vinegar::predict
