#include "predict/supply/held.h"

#include "predict/supply/rectifier.h"

#include <algorithm>
#include <fmt/format.h>

namespace vinegar::predict {

using Quantity = Rating::Quantity;

Rating ratingOf(const WindingReading& winding) {
  const auto rated = winding.ratedAmps > 0 ? std::optional(winding.ratedAmps) : std::nullopt;
  return {winding.part, Quantity::windingAmps, winding.rmsAmps, rated, Rating::Condition::idle, winding.name};
}

std::vector<Rating> ratingsAtRest(const amp::Circuit& circuit, const amp::Library& library, const SupplyReport& report,
                                  const std::vector<TubeReading>& tubes) {
  std::vector<Rating> ratings;
  const auto first = circuit.supply.isRectified() ? firstCapacitor(circuit) : std::nullopt;
  for (const auto& rectifier : report.rectifiers) {
    const auto add = [&](const std::string& part, Quantity quantity, double value, std::optional<double> limit) {
      ratings.push_back({part, quantity, value, limit, Rating::Condition::idle, rectifier.type});
    };
    const auto& limits = rectifier.limits;
    if (first) {
      add(first->parts.front(), Quantity::firstFarads, first->farads, limits.mostFarads);
      const auto* type = library.tubes.find(rectifier.type);
      if (const auto volts = plateSupplyVolts(circuit); volts && type)
        add(rectifier.part, Quantity::plateOhms, plateSourceOhms(circuit), leastSourceOhms(*type, *volts));
    }
    add(rectifier.part, Quantity::peakAmps, rectifier.peakAmps, limits.peakAmps);
    add(rectifier.part, Quantity::directAmps, rectifier.totalAmps, limits.directAmps);
    add(rectifier.part, Quantity::inverseVolts, rectifier.inverseVolts, limits.inverseVolts);
  }
  for (const auto& winding : report.windings)
    ratings.push_back(ratingOf(winding));
  for (const auto& one : report.heaterCathodes)
    ratings.push_back({one.tube, Quantity::heaterCathodeVolts, std::abs(one.volts), one.limit});
  for (const auto& tube : tubes)
    if (const auto* type = library.tubes.find(tube.type)) {
      const auto own = tubeRatings(tube, type->limits);
      ratings.insert(ratings.end(), own.begin(), own.end());
    }
  return ratings;
}

std::vector<std::string> warningsOf(const amp::Circuit& circuit, const amp::Library& library,
                                    const SupplyReport& report, const std::vector<TubeReading>& tubes) {
  std::vector<std::string> warnings;
  std::vector<std::pair<std::string, std::string>> ofTubes; // what, and whose
  for (const auto& rating : ratingsAtRest(circuit, library, report, tubes)) {
    if (!rating.over()) continue;
    if (std::none_of(tubes.begin(), tubes.end(), [&](const auto& tube) { return tube.name == rating.part; })) {
      warnings.push_back(words(rating));
      continue;
    }
    const auto what = words(rating);
    const auto known = std::find_if(ofTubes.begin(), ofTubes.end(), [&](const auto& one) { return one.first == what; });
    if (known == ofTubes.end())
      ofTubes.emplace_back(what, rating.part);
    else
      known->second += ", " + rating.part;
  }
  for (const auto& bottle : report.withoutHeater)
    warnings.push_back(fmt::format("no heater winding for {}", bottle));
  for (const auto& name : report.sharedFilaments)
    warnings.push_back(fmt::format("{} has no filament winding of its own", name));
  for (const auto& [what, whose] : ofTubes)
    warnings.push_back(fmt::format("{} {}", whose, what));
  return warnings;
}

std::vector<std::string> warningsOf(const Idle& idle, const amp::Library& library) {
  return warningsOf(*idle.circuit, library,
                    idle.point.supply ? readSupply(*idle.circuit, library, idle.point) : SupplyReport{},
                    idle.point.tubes);
}

} // namespace vinegar::predict
