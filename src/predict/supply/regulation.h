// How stiff the supply is, and the resistor that makes it softer.
#pragma once

#include "predict/supply/rectifier.h"
#include "predict/supply/supply.h"

namespace vinegar::predict {

struct RegulationCurve {
  std::string type;
  std::vector<double> amps, volts; ///< into the load, of the first rail
};
/// Volts of the first rail the amplifier is joined to against a steady current drawn there, tubes out.
tl::expected<RegulationCurve, Problem> regulationOf(const amp::Design& design, const amp::Library& library,
                                                    const std::vector<amp::SetField>& changes,
                                                    const std::vector<double>& amps);

/// From nothing to two and a half times the idle current, with the design's own rectifier first.
struct RegulationQuestion {
  bool everyRectifier = true; ///< and every other that fits
  bool operator==(const RegulationQuestion&) const = default;
};
struct RegulationAnswer {
  double idleAmps = 0;
  std::vector<RegulationCurve> curves;
  std::vector<std::string> without; ///< types that have no answer here
};
/// Some 20 ms a curve. A design of which the own curve has no answer is a Problem.
tl::expected<RegulationAnswer, Problem> predictRegulation(const Idle& idle, const amp::Library& library,
                                                          const RegulationQuestion& question, const GoOn& goOn);

struct SeriesResistorQuestion {
  double extraDropVolts = 0; ///< wanted between idle and full current
  double fullAmps = 0;       ///< from the first rail at full drive
  bool operator==(const SeriesResistorQuestion&) const = default;
};
struct SeriesResistorAnswer {
  std::string part;
  double idleAmps = 0;
  double exactOhms = 0, ohms = 0;            ///< asked for, and the stock value nearest to it
  double idleDrop = 0, fullDrop = 0;         ///< volts over the stock value, solved
  double wattsFull = 0, wattsToBuy = 0;      ///< at full current; the rating, at least twice that
  double idleVolts = 0, idleVoltsBefore = 0; ///< of the first rail
  std::vector<amp::SetField> changes;        ///< what pencils it in
};
/// From a wanted extra drop to a resistor between rectifier and reservoir: ohms = volts / rise of current, rounded to
/// E12, then the whole supply solved with it. A design without a place for one, or a full current that is not above the
/// idle one, is a Problem.
tl::expected<SeriesResistorAnswer, Problem> seriesResistorOf(const amp::Design& design, const amp::Library& library,
                                                             const SeriesResistorQuestion& question);

tl::expected<SeriesResistorAnswer, Problem> predictSeriesResistor(const Idle& idle, const amp::Library& library,
                                                                  const SeriesResistorQuestion& question,
                                                                  const GoOn& goOn);

} // namespace vinegar::predict
