// From a wanted curve to stock values that come near it.
#pragma once

#include "amp/change/change.h"
#include "amp/design/target.h"
#include "predict/rest/idle.h"

namespace vinegar::predict {

using TargetPoint = amp::CurvePoint;
using FitQuestion = amp::Target;

struct FitSet {
  std::vector<amp::SetField> changes;
  double distance = 0;          ///< root mean square over the target's range, dB, solved whole
  double offset = 0;            ///< dB that the curve lies over the target; taken out of the distance unless `level`
  std::vector<double> decibels; ///< at Fit::hertz
  double at1kHz = 0;            ///< change of the level there, dB
  std::string movedTube;        ///< as RankedStep
  double movedShare = 0;
  std::optional<double>
      clipsAt; ///< the input, volts peak at 1 kHz, at which anything clips; nothing where nothing does
};
struct Fit {
  std::vector<double> hertz;
  std::vector<double> now;       ///< dB of the span as it stands
  double distance = 0;           ///< as it stands
  std::optional<double> clipsAt; ///< likewise
  std::vector<FitSet> sets;      ///< the nearest first, at most five, no two of one curve; none where nothing comes
                                 ///< nearer than the design does
  std::size_t tried = 0;
  /// The values that each part was given: from the lowest to the highest.
  struct Searched {
    std::string part;
    double from = 0, to = 0;
  };
  std::vector<Searched> searched;
};

/// Of the direct sound, springs silent. A search over stock values themselves, two and a half decades to either side of
/// each part's own, as far as its role's stock goes: every combination where there are up to some hundred thousand,
/// else from many starts by one and two dials at a time. Seconds, on two threads. Parts that carry direct current are
/// tried too, each of their values solved anew. A part that is not there or is no resistor, capacitor or pot, more than
/// six of them or none, and a target of fewer than two points, are Problems.
tl::expected<Fit, Problem> predictFit(const Idle& idle, const amp::Library& library, const FitQuestion& question,
                                      const GoOn& goOn = {});

} // namespace vinegar::predict
