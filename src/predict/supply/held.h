#pragma once

#include "predict/rest/ratings.h"
#include "predict/supply/supply.h"

namespace vinegar::predict {

/// All that an amplifier at rest holds against a limit, those that are well within it among them: the first capacitor
/// and the ohms that each rectifier sees, its currents and reverse volts, windings, heaters to cathodes, plates and
/// screens. `report` is empty without mains.
std::vector<Rating> ratingsAtRest(const amp::Circuit& circuit, const amp::Library& library, const SupplyReport& report,
                                  const std::vector<TubeReading>& tubes);
Rating ratingOf(const WindingReading& winding);

/// What of them is over, each in a few words, tubes that stand alike together; and tubes without a heater or a filament
/// winding.
std::vector<std::string> warningsOf(const amp::Circuit& circuit, const amp::Library& library,
                                    const SupplyReport& report, const std::vector<TubeReading>& tubes);
/// Of an idle state.
std::vector<std::string> warningsOf(const Idle& idle, const amp::Library& library);

} // namespace vinegar::predict
