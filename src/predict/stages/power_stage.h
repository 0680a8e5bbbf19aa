// The output stage's bias: how hot it idles, what its adjuster can do, and what happens when the bias is lost.
#pragma once

#include "predict/stages/stages.h"

namespace vinegar::predict {

struct PowerStageQuestion {
  bool operator==(const PowerStageQuestion&) const = default;
};

/// One tube in one state.
struct PowerIdle {
  double plateAmps = 0, plateWatts = 0, gridVolts = 0; ///< grid to cathode
};

struct PowerStage {
  enum class Bias { cathodeShared, cathodeSeparate, fixed, mixed };
  std::vector<std::string> tubes;
  Bias bias = Bias::cathodeShared;
  PowerIdle idle; ///< of the first tube
  std::optional<double> wattsLimit, cathodeOhms;
  std::optional<double> senseVolts;     ///< across the first tube's sense resistor: plate and screen current both
  std::string adjuster;                 ///< knob; empty: none
  std::optional<PowerIdle> least, most; ///< at the ends of its travel, the cold one first
  std::string failure;                  ///< what is taken to fail, by part: "C21", shorted; "R28", bridged
  std::optional<PowerIdle> failed;      ///< what the first tube then does, with all else as it is
  std::optional<Problem> failedProblem;
};
/// What builders call an idle power of such a share of the plate's rating.
enum class IdleHeat { cool, classAb, classA, hot, over };
IdleHeat heatOf(double share);

struct PowerStages {
  std::vector<PowerStage> all;
};

/// Four whole solutions a stage with an adjuster, two without: some ten milliseconds.
tl::expected<PowerStages, Problem> predictPowerStages(const Idle& idle, const amp::Library& library,
                                                      const PowerStageQuestion& question = {}, const GoOn& goOn = {});

} // namespace vinegar::predict
