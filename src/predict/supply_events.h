#pragma once

#include "predict/supply.h"

namespace vinegar::predict {

/// Volts over time, one point per period of the mains: its mean, least and greatest.
struct RailTrace {
  std::string name;
  std::vector<double> mean, least, greatest;
  double highest = 0, highestAt = 0; ///< volts, s
};

struct SwitchOnQuestion {
  enum class From {
    cold,    ///< everything cold and empty
    standby, ///< heaters warm, capacitors empty, the high volts switched on
    hot      ///< switched off and on again: cathodes still hot, capacitors empty
  };
  From from = From::cold;
  double seconds = 30;
  std::function<bool(double share)> progress; ///< false cancels
};

struct SwitchOnAnswer {
  std::vector<double> seconds;
  std::vector<RailTrace> rails;
  std::vector<std::string> rectifiers; ///< parts
  std::vector<double> peakAmps;        ///< of each, the largest of any plate, over the whole time
  double primaryPeakAmps = 0;
  double settledAt = 0; ///< s, the last time any rail was 2 % from its end
};

/// From the moment the switch closes, at the mains' zero, through every cycle of the mains. Cathodes warm as their
/// catalogue entry says: emission grows from nothing to all along a smooth step that ends at `warmSeconds`. The
/// amplifier draws what its DC equations say at each moment's volts, asked ten times a second. Heaters count as hot
/// loads: their own surge of some six times, for under a second, is left out.
tl::expected<SwitchOnAnswer, Problem> predictSwitchOn(const amp::Circuit& circuit, const amp::Library& library,
                                                      const SwitchOnQuestion& question = {});

struct DischargeAnswer {
  struct Rail {
    std::string name;
    std::vector<double> volts;
    std::optional<double> secondsTo50; ///< nothing when it takes longer than was asked for
  };
  std::vector<double> seconds;
  std::vector<Rail> rails;
};

/// After the plug is pulled: the rails fall from their idle volts through the tubes (which go on conducting while their
/// cathodes cool, here for `tubesIn` all the time) or without them through bleeders and leakage alone.
tl::expected<DischargeAnswer, Problem> predictDischarge(const amp::Circuit& circuit, const SupplyIdle& idle,
                                                        bool tubesIn, double seconds = 1200);

/// Share of full emission `seconds` after the heater is switched on.
double emissionAfter(double warmSeconds, double seconds);

} // namespace vinegar::predict
