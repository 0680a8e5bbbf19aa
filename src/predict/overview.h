#pragma once

#include "predict/prediction.h"

namespace vinegar::predict {

/// The numbers along the bottom of the window, for the whole amplifier, jack to speaker.
struct Vitals {
  Gain gain;
  double reservoirVolts = 0, reservoirAmps = 0; ///< idle
  std::string hottestTube;                      ///< by share of its plate rating; empty when no rating is known
  double hottestWatts = 0, hottestLimit = 0;
  std::vector<Problem> findings; ///< tubes over their plate rating at idle
};

/// What one step of a part's dial would do, solved in this circuit.
struct StepEffect {
  double value = 0;
  std::optional<Problem> problem;          ///< the stepped circuit has no answer
  double atE2 = 0, at1kHz = 0, at5kHz = 0; ///< change in dB over the asked span
  double volts = 0;                        ///< change of the part's own DC volts
};

struct OverviewQuestion {
  std::string from = "jack", to = "speaker";
  std::vector<double> hertz;
  std::string part; ///< the part whose steps are wanted, or empty
};

/// Everything one screen shows of one design.
struct Overview {
  std::shared_ptr<const amp::Circuit> circuit;
  OperatingPoint point;
  Response response;
  Vitals vitals;
  std::optional<StepEffect> up, down;
};

/// `warmth` may hold what a former call on a like design left.
tl::expected<Overview, Problem> predictOverview(const amp::Design& design, const amp::Library& library,
                                                const OverviewQuestion& question, Warmth* warmth = nullptr);

/// The dial's next value in the part's stock list or preferred series; nothing at the end of a stock list.
std::optional<double> steppedValue(const amp::ResolvedPart& part, const amp::Library& library, bool up);

} // namespace vinegar::predict
