#pragma once

#include "predict/supply/supply.h"

namespace vinegar::predict {

/// Volts over time, one point per period of the mains: its mean, least and greatest.
struct RailTrace {
  std::string name;
  circuit::Node node = 0;
  std::vector<double> mean, least, greatest;
  double highest = 0, highestAt = 0; ///< volts, s
};

constexpr double offSeconds = 0.25; ///< a flick of the switch; after a second or two the tubes have emptied most

struct SwitchOnQuestion {
  enum class From {
    cold,    ///< everything cold and empty
    standby, ///< heaters warm, capacitors empty, the high volts switched on
    hot      ///< after `offSeconds` without mains: cathodes still hot, capacitors as they have run down by then
  };
  From from = From::cold;
  double seconds = 30;
  bool operator==(const SwitchOnQuestion&) const = default;
};

struct SwitchOnAnswer {
  std::vector<double> seconds;
  std::vector<RailTrace> rails;
  circuit::Node fed = 0;               ///< the first rail that the amplifier is joined to
  std::vector<std::string> rectifiers; ///< parts
  std::vector<double> peakAmps;        ///< of each, the largest of any plate, over the whole time
  double primaryPeakAmps = 0;
  double settledAt = 0; ///< s, the last time any rail was 2 % from its end
};

/// From the moment the switch closes, at the mains' zero, through every cycle of the mains. Cathodes warm as their
/// catalogue entry says: emission grows from nothing to all along a smooth step that ends at `warmSeconds`. The
/// amplifier draws what its DC equations say at each moment's volts, asked ten times a second. Heaters count as hot
/// loads: their own surge of some six times, for under a second, is left out.
tl::expected<SwitchOnAnswer, Problem> switchOnOf(const amp::Circuit& circuit, const amp::Library& library,
                                                 const SwitchOnQuestion& question = {}, const GoOn& goOn = {});
/// Thirty seconds take some tenths of one.
tl::expected<SwitchOnAnswer, Problem> predictSwitchOn(const Idle& idle, const amp::Library& library,
                                                      const SwitchOnQuestion& question, const GoOn& goOn);

struct DischargeAnswer {
  struct Rail {
    std::string name;
    circuit::Node node = 0;
    std::vector<double> volts;
    std::optional<double> secondsTo50; ///< nothing when it takes longer than was asked for
  };
  std::vector<double> seconds;
  std::vector<Rail> rails;
  circuit::Node fed = 0; ///< the first rail that the amplifier is joined to
  Eigen::VectorXd lastX; ///< unknowns of the supply at the end

  /// The rail that is last under 50 V, which says when an amplifier may be touched; nullptr without rails.
  [[nodiscard]] const Rail* slowest() const;
};

/// After the plug is pulled, from the supply's steady state `from`: the amplifier draws what its DC equations say of
/// each moment's rails, or without tubes what its resistors do. Signal capacitors count for nothing here: `discharge`
/// below is the one to be told.
tl::expected<DischargeAnswer, Problem> dischargeFrom(const amp::Circuit& circuit, const SupplyIdle& from, bool tubesIn,
                                                     double seconds = 1200, const GoOn& goOn = {});
/// The supply with its tubes cold or pulled: the highest that its rails can hold.
tl::expected<SupplyIdle, Problem> unloadedSupply(const amp::Circuit& circuit, const SupplyIdle& idle);

struct DischargeQuestion {
  bool tubesIn = false;
  bool operator==(const DischargeQuestion&) const = default;
};
/// After the plug is pulled. Without tubes: from the highest that the rails can hold, through bleeders and leakage
/// alone. With them: from idle, the whole amplifier in motion, cathodes hot all the time; coupling capacitors that run
/// down with their plates cut the output tubes off, so that the rails fall later than their currents at rest suggest.
tl::expected<DischargeAnswer, Problem> predictDischarge(const Idle& idle, const amp::Library& library,
                                                        const DischargeQuestion& question, const GoOn& goOn);

/// Share of full emission `seconds` after the heater is switched on.
double emissionAfter(double warmSeconds, double seconds);

} // namespace vinegar::predict
