#pragma once

#include "predict/rest/stock.h"

namespace vinegar::predict {

/// What one step of a part's dial would do, solved in this circuit.
struct StepEffect {
  double value = 0;
  std::optional<Problem> problem;          ///< the stepped circuit has no answer
  double atE2 = 0, at1kHz = 0, at5kHz = 0; ///< change in dB over the asked span
  double volts = 0;                        ///< change of the part's own DC volts
};

struct StepsQuestion {
  std::string part, from = "jack", to = "speaker";
  bool operator==(const StepsQuestion&) const = default;
};

/// Both empty for a part without a dial, or where the span has no answer.
struct Steps {
  std::optional<StepEffect> up, down;
};

/// Two DC solves; of a part of the supply, two whole ones: up to 20 ms.
tl::expected<Steps, Problem> predictSteps(const Idle& idle, const amp::Library& library, const StepsQuestion& question,
                                          const GoOn& goOn = {});

} // namespace vinegar::predict
