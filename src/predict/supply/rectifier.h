// What a rectifier stands in: the winding it hangs on, the capacitor it charges, the types that could stand there.
#pragma once

#include "amp/change/change.h"
#include "amp/compile/part_devices.h"
#include "predict/rest/supply_idle.h"

namespace vinegar::predict {

/// One thing that the builder may do to the supply, and what comes of it.
struct SupplyChoice {
  std::string title; ///< "5AR4", "47 uF"
  std::vector<amp::SetField> changes;
};

/// All rectifier types of the catalogue that fit the design's rectifier, in the order of falling drop. `current` first
/// where it stands.
std::vector<SupplyChoice> rectifierChoices(const amp::Design& design, const amp::Library& library);

/// The first part of the kind that is fitted; null where there is none.
const amp::CompiledPart* partOfKind(const amp::Circuit& circuit, amp::PartKind kind);

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

} // namespace vinegar::predict
