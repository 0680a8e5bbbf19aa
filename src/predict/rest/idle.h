// The state that questions start from, and their one shape: a pure function of an idle amplifier, the library, a
// question that can be compared with another, and somebody who may stop it.
#pragma once

#include "predict/rest/prediction.h"

namespace vinegar::predict {

/// A design compiled and at rest. Never changed after it is made, so any number of threads may ask of it.
struct Idle {
  std::shared_ptr<const amp::Circuit> circuit;
  OperatingPoint point;
  std::shared_ptr<PlanKeeper> plan; ///< shared with like designs; see PlanKeeper
};

/// Compiles and finds the operating point: 1 to 10 ms on a large amplifier with a supply, by what `warmth` holds of a
/// like design; it is left for the next call.
tl::expected<Idle, Problem> predictIdle(const amp::Design& design, const amp::Library& library,
                                        Warmth* warmth = nullptr);
/// What an idle state can leave for a like design's.
Warmth warmthOf(const Idle& idle);

/// The same with every spring tank silent: the direct sound, whose curve has no comb. Itself where there is none.
Idle withoutEchoes(const Idle& idle);

/// The amplifier at rest with the mains rising through nothing; unknowns as those of the
/// circuit's own netlist. `idle` must have a supply.
Eigen::VectorXd startOfCycle(const Idle& idle);

/// As responseOf the idle circuit; some 1 ms for 300 frequencies.
tl::expected<Response, Problem> predictResponse(const Idle& idle, const amp::Library& library,
                                                const ResponseQuestion& question, const GoOn& goOn = {});

} // namespace vinegar::predict
