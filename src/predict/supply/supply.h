#pragma once

#include "predict/rest/idle.h"

namespace vinegar::predict {

/// A rail in the steady state. Harmonics are of the mains, peak volts, entry k at k times its frequency.
struct RailReading {
  std::string name;
  circuit::Node node = 0;
  double volts = 0, rippleVpp = 0;
  std::vector<double> harmonics;
};

/// One rectifier part; ampere and volts of the plate or diode that works hardest.
struct RectifierReading {
  std::string part, type;
  double peakAmps = 0, rmsAmps = 0, meanAmps = 0;
  double totalAmps = 0;         ///< mean of all its plates together
  double conductionDegrees = 0; ///< of the mains' 360, one plate; while over a hundredth of the peak flows
  double inverseVolts = 0;      ///< largest in reverse
  double meanDropVolts = 0;     ///< current-weighted mean over the conduction
  tubes::Limits limits;
};

/// One winding of the power transformer.
struct WindingReading {
  std::string part, name; ///< "T2", "ht"
  double rmsAmps = 0, ratedAmps = 0, rmsVolts = 0;
  [[nodiscard]] double share() const { return ratedAmps > 0 ? rmsAmps / ratedAmps : 0; }
};

/// What one transformer takes from the mains.
struct PrimaryReading {
  std::string part;
  double rmsAmps = 0, watts = 0, va = 0;
};

struct HeaterReading {
  std::string part;
  double nominalVolts = 0, rmsVolts = 0, rmsAmps = 0;
  double meanVolts = 0; ///< of the string's middle, to ground
};

/// Heater to cathode of one tube.
struct HeaterCathodeReading {
  std::string tube;
  double volts = 0; ///< cathode minus heater
  std::optional<double> limit;
};

/// Whether a rail of a list is one of its own: one that a wire joins to the next is the next one.
template <class Rails> bool isItself(const Rails& rails, std::size_t i) {
  return i + 1 >= rails.size() || rails[i].node != rails[i + 1].node;
}

struct SupplyReport {
  std::vector<RailReading> rails; ///< in the design's order
  std::vector<RectifierReading> rectifiers;
  std::vector<WindingReading> windings;
  std::vector<PrimaryReading> primaries;
  std::vector<HeaterReading> heaters;
  std::vector<HeaterCathodeReading> heaterCathodes;
  std::vector<std::string> withoutHeater;   ///< tubes whose heater volts no winding makes
  std::vector<std::string> sharedFilaments; ///< directly heated tubes without a filament supply of their own
  double primaryAmps = 0, primaryWatts = 0, primaryVa = 0; ///< of all transformers together
  double loadAmps = 0;                                     ///< into the amplifier
};

/// Everything there is to read in a steady state, as `predictOperatingPoint` left it. `point.supply` must be there.
SupplyReport readSupply(const amp::Circuit& circuit, const amp::Library& library, const OperatingPoint& point);
/// The same of a state that is not the idle one: without the tubes' own readings.
SupplyReport readSupply(const amp::Circuit& circuit, const amp::Library& library, const SupplyIdle& idle);

struct SupplyReportQuestion {
  bool operator==(const SupplyReportQuestion&) const = default;
};
/// The same as a question; a design without mains is a Problem. A millisecond or two.
tl::expected<SupplyReport, Problem> predictSupplyReport(const Idle& idle, const amp::Library& library,
                                                        const SupplyReportQuestion& question = {},
                                                        const GoOn& goOn = {});
/// What those answer that have no mains.
Problem noMains();

/// The rail that the first rectifier feeds, and the one that the output stage's plates hang on; without one, the first
/// that the line is joined to.
struct MainRails {
  circuit::Node rectified = 0, fed = 0;
};
MainRails mainRails(const amp::Circuit& circuit);

} // namespace vinegar::predict
