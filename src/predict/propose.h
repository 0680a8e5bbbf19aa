// From a wanted plate voltage, current or gain to stock values that reach it.
#pragma once

#include "amp/change.h"
#include "predict/stages.h"

namespace vinegar::predict {

struct ProposeQuestion {
  enum class Wanted {
    plateVolts, ///< plate to ground, as a meter reads it
    plateAmps,
    gain, ///< times, as StageReadings::gain
  };
  std::string tube;
  Wanted wanted = Wanted::plateVolts;
  double value = 0;
  double hertz = 1000;
  bool operator==(const ProposeQuestion&) const = default;
};

struct Proposal {
  std::vector<amp::SetField> changes;
  double reached = 0;  ///< of what was wanted, solved in the whole amplifier
  StageReadings stage; ///< what becomes of the tube
};
struct Proposals {
  double now = 0;                 ///< of what was wanted, as the design stands
  std::vector<Proposal> sets;     ///< best first, at most five; none where no stock values come near
  std::vector<std::string> tried; ///< the parts that move it
};

/// At most five sets of stock values of the resistors that stand round the tube, one or two parts changed; parts of one
/// role and value, as the loads of a pair, change together. Each set is as near as its parts' stock steps allow. Some
/// ten milliseconds for volts and current, a few times that for gain. A tube that is not there is a Problem.
tl::expected<Proposals, Problem> predictProposals(const Idle& idle, const amp::Library& library,
                                                  const ProposeQuestion& question, const GoOn& goOn = {});

/// The single-part stock change of the tube's bias that brings its plate current nearest to `amps`; nothing where it
/// has no resistor that sets it. Some milliseconds.
std::optional<std::vector<amp::SetField>> rebias(const Idle& idle, const amp::Library& library, const std::string& tube,
                                                 double amps);

} // namespace vinegar::predict
