// More headroom before one stage clips, or that stage made the first to break up: which stock changes do it.
#pragma once

#include "amp/change/change.h"
#include "predict/wave/clipping.h"

namespace vinegar::predict {

struct HeadroomQuestion {
  std::string tube;        ///< of the stage that is meant
  bool breakFirst = false; ///< it is to clip before all others; else it is to take more input before it clips
  double hertz = 1000;     ///< 0: `worstHertz` of the design as it stands
  bool operator==(const HeadroomQuestion&) const = default;
};

struct HeadroomChange {
  std::vector<amp::SetField> changes; ///< one or two parts
  double stagePeak = 0;               ///< input at which the stage then clips, volts
  double gainDecibels = 0;            ///< what the whole amplifier's gain changes by at that frequency
  std::string firstTube;              ///< what then clips first
  double firstPeak = 0;
};
struct HeadroomChanges {
  double hertz = 0;
  double stagePeak = 0;  ///< as the design stands
  std::string firstTube; ///< what clips first, and at what input
  double firstPeak = 0;
  std::vector<HeadroomChange> best; ///< the most helpful first, at most eight
};

/// One and two steps of every dial in the amplifier's chains are tried, each by the stages' own limits; what helps most
/// is verified by waves of the whole amplifier. About a second on a large one. A tube that is not there, or whose stage
/// meets no limit, is a Problem.
tl::expected<HeadroomChanges, Problem> predictHeadroom(const Idle& idle, const amp::Library& library,
                                                       const HeadroomQuestion& question, const GoOn& goOn = {});

} // namespace vinegar::predict
