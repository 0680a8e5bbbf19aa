#pragma once

#include "predict/rest/idle.h"

namespace vinegar::predict {

struct VitalsQuestion {
  bool operator==(const VitalsQuestion&) const = default;
};

/// The numbers along the bottom of the window, for the whole amplifier, from its jack to its end.
struct Vitals {
  std::optional<Gain> gain;  ///< nothing where the amplifier has no jack or no end, or no answer between them
  std::string end;           ///< the speaker, or where the main line ends, by the probe's name
  std::string reservoirPart; ///< the capacitor or source that holds the first rail which the amplifier is joined to
  double reservoirVolts = 0, reservoirAmps = 0; ///< idle
  std::string hottestTube;                      ///< by share of its plate rating; empty when no rating is known
  double hottestWatts = 0, hottestLimit = 0;
};

/// Well under a millisecond.
tl::expected<Vitals, Problem> predictVitals(const Idle& idle, const amp::Library& library,
                                            const VitalsQuestion& question = {}, const GoOn& goOn = {});

} // namespace vinegar::predict
