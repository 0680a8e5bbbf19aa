#pragma once

#include "amp/change.h"
#include "amp/part_devices.h"
#include "predict/supply.h"

namespace vinegar::predict {

/// One thing that the builder may do to the supply, and what comes of it.
struct SupplyChoice {
  std::string title; ///< "5AR4", "47 uF"
  std::vector<amp::SetField> changes;
};

struct TubeConsequence {
  std::string name;
  double plateAmps = 0, gridVolts = 0, plateWatts = 0;
  std::optional<double> plateWattsLimit, plateVoltsLimit;
  double plateVolts = 0;
  [[nodiscard]] bool over() const {
    return (plateWattsLimit && plateWatts > *plateWattsLimit) || (plateVoltsLimit && plateVolts > *plateVoltsLimit);
  }
};

struct Consequence {
  SupplyChoice choice;
  std::optional<Problem> problem; ///< no answer; the rest is then empty
  SupplyReport report;
  std::vector<TubeConsequence> tubes;
  std::vector<std::string> warnings; ///< each a short sentence; empty: nothing against it
  /// The stock value that has the output tubes dissipate as they do now; empty where none is needed or none does.
  std::vector<amp::SetField> rebias;
  std::string rebiased; ///< it in words: "R28 330"
};

/// What in an amplifier at rest is over its rating or its budget, each in a few words: first capacitor, rectifiers,
/// windings, heaters, filaments, plates and screens; tubes that stand alike together.
std::vector<std::string> warningsOf(const amp::Circuit& circuit, const amp::Library& library,
                                    const SupplyReport& report, const std::vector<TubeReading>& tubes);

/// All rectifier types of the catalogue that fit the design's rectifier, in the order of falling drop. `current` first
/// where it stands.
std::vector<SupplyChoice> rectifierChoices(const amp::Design& design, const amp::Library& library);
/// Values around a part's own, from its stock list or series: `each` on both sides, its own among them.
std::vector<SupplyChoice> valueChoices(const amp::Design& design, const amp::Library& library, const std::string& part,
                                       int each = 3);

/// Each choice made in `design` and solved whole. Those that have no answer say so in their row.
std::vector<Consequence> predictConsequences(const amp::Design& design, const amp::Library& library,
                                             const std::vector<SupplyChoice>& choices, const GoOn& goOn = {},
                                             Warmth warmth = {});
/// Of a rectifier all types, of any other part the values around its own.
struct ConsequencesQuestion {
  std::string part;
  bool rebias = false; ///< find those values too, some 20 ms a row more on two threads
  bool operator==(const ConsequencesQuestion&) const = default;
};
struct Consequences {
  std::string part;
  std::vector<Consequence> rows;
};
/// Some 5 ms a row.
tl::expected<Consequences, Problem> predictConsequences(const Idle& idle, const amp::Library& library,
                                                        const ConsequencesQuestion& question, const GoOn& goOn);

/// Fills in `rebias` of rows that move the output tubes' dissipation by over a fourteenth; false when stopped.
bool findRebias(std::vector<Consequence>& rows, const Idle& idle, const amp::Library& library, const GoOn& goOn = {});

/// The first capacitor that a rectifier charges: nothing stands between them but wires and resistors. Farads, with the
/// ohms in between; nothing for a choke-input supply.
struct FirstCapacitor {
  std::vector<std::string> parts;
  double farads = 0, seriesOhms = 0;
};
std::optional<FirstCapacitor> firstCapacitor(const amp::Circuit& circuit);
/// Unloaded volts rms of the winding that feeds the rectifier's plates, a half where it has a centre tap; nothing
/// without a transformer.
std::optional<double> plateSupplyVolts(const amp::Circuit& circuit);
/// The winding that a rectifier's plate hangs on, whatever the section calls it; the first one where none does. Nothing
/// without a transformer.
std::optional<amp::TransformerWinding> plateWinding(const amp::Circuit& circuit);
/// A resistor's usual rating of at least twice these watts.
double ratingFor(double watts);
/// Mean watts of a supply's resistor over the mains' period: charging pulses heat it by their root mean square.
double resistorWatts(const SupplyIdle& supply, const amp::CompiledPart& resistor);
/// Ohms in series with each plate as the rectifier sees them: winding, reflected primary, series resistor.
double plateSourceOhms(const amp::Circuit& circuit);
/// The least of those that the published operations of a type allow at these volts rms; nothing is published for some.
std::optional<double> leastSourceOhms(const tubes::TubeType& type, double voltsRms);

struct RegulationCurve {
  std::string type;
  std::vector<double> amps, volts; ///< into the load, of the first rail
};
/// Volts of the first rail the amplifier is joined to against a steady current drawn there, tubes out.
tl::expected<RegulationCurve, Problem> predictRegulation(const amp::Design& design, const amp::Library& library,
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
tl::expected<SeriesResistorAnswer, Problem>
predictSeriesResistor(const amp::Design& design, const amp::Library& library, const SeriesResistorQuestion& question);

tl::expected<SeriesResistorAnswer, Problem> predictSeriesResistor(const Idle& idle, const amp::Library& library,
                                                                  const SeriesResistorQuestion& question,
                                                                  const GoOn& goOn);

} // namespace vinegar::predict
