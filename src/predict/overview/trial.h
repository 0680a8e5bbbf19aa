#pragma once

#include "predict/overview/vitals.h"

namespace vinegar::predict {

struct TrialQuestion {
  bool operator==(const TrialQuestion&) const = default;
};

/// What a builder asks of an amplifier before a section is put in: what it gives, and what it takes from transformer
/// and chassis.
struct Trial {
  Vitals vitals;
  int bottles = 0, spareHalves = 0;
  double heaterWatts = 0; ///< of all tubes, as their catalogue says
};

/// About a millisecond.
tl::expected<Trial, Problem> predictTrial(const Idle& idle, const amp::Library& library,
                                          const TrialQuestion& question = {}, const GoOn& goOn = {});

} // namespace vinegar::predict
