// From a wanted plate voltage, current or gain to stock values that reach it.
#pragma once

#include "amp/change/change.h"
#include "predict/stages/stages.h"

#include <map>

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
  std::map<std::string, double> knobs; ///< controls that are set at the bench, as the bias is, by where they stand then
  double reached = 0;                  ///< of what was wanted, solved in the whole amplifier
  StageReadings stage;                 ///< what becomes of the tube
};
struct Proposals {
  double now = 0;                 ///< of what was wanted, as the design stands
  std::vector<Proposal> sets;     ///< best first, at most five; none where no stock values come near
  std::vector<std::string> tried; ///< the parts that move it
};

/// At most five sets of stock values of the resistors that stand round the tube, or of the bias control, one or two
/// changed. Parts of one role and value, as the loads of a pair, change together, and so do both halves of a splitter.
/// Each set is within a twentieth of what is wanted, puts nothing over its rating and leaves the grid room to swing.
/// Some ten milliseconds for volts and current, a few times that for gain. A tube that is not there is a Problem.
tl::expected<Proposals, Problem> predictProposals(const Idle& idle, const amp::Library& library,
                                                  const ProposeQuestion& question, const GoOn& goOn = {});

/// The single-part stock change of the tube's bias that brings its plate current nearest to `amps`; nothing where it
/// has no resistor that sets it. Some milliseconds.
std::optional<std::vector<amp::SetField>> rebias(const Idle& idle, const amp::Library& library, const std::string& tube,
                                                 double amps);

} // namespace vinegar::predict
