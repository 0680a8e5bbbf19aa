#include "predict/supply/warnings.h"

#include "predict/rest/ratings.h"
#include "predict/supply/rectifier.h"

#include <algorithm>
#include <fmt/format.h>

namespace vinegar::predict {

namespace {
using units::Unit;
} // namespace

std::vector<std::string> warningsOf(const amp::Circuit& circuit, const amp::Library& library,
                                    const SupplyReport& report, const std::vector<TubeReading>& tubes) {
  std::vector<std::string> warnings;
  const auto first = circuit.supply.isRectified() ? firstCapacitor(circuit) : std::nullopt;
  for (const auto& rectifier : report.rectifiers) {
    const auto* type = library.tubes.find(rectifier.type);
    if (!type) continue;
    const auto& limits = type->limits;
    if (first && limits.mostFarads && first->farads > 1.001 * *limits.mostFarads)
      warnings.push_back(fmt::format("first capacitor {} of {}", units::reading(first->farads, Unit::farad, 2),
                                     units::reading(*limits.mostFarads, Unit::farad, 2)));
    if (const auto volts = plateSupplyVolts(circuit); volts && first) {
      if (const auto least = leastSourceOhms(*type, *volts); least && plateSourceOhms(circuit) < 0.98 * *least)
        warnings.push_back(fmt::format("{:.0f} of {:.0f} ohm per plate", plateSourceOhms(circuit), *least));
    }
    if (limits.peakAmps && rectifier.peakAmps > *limits.peakAmps)
      warnings.push_back(fmt::format("peak {} of {}", units::reading(rectifier.peakAmps, Unit::ampere, 3),
                                     units::reading(*limits.peakAmps, Unit::ampere, 3)));
    if (limits.directAmps && rectifier.totalAmps > *limits.directAmps)
      warnings.push_back(fmt::format("DC {} of {}", units::reading(rectifier.totalAmps, Unit::ampere, 3),
                                     units::reading(*limits.directAmps, Unit::ampere, 3)));
    if (limits.inverseVolts && rectifier.inverseVolts > *limits.inverseVolts)
      warnings.push_back(fmt::format("reverse {} of {}", units::reading(rectifier.inverseVolts, Unit::volt, 3),
                                     units::reading(*limits.inverseVolts, Unit::volt, 3)));
  }
  for (const auto& winding : report.windings)
    if (winding.share() > 1.02)
      warnings.push_back(fmt::format("{} winding {:.0f} %", winding.name, 100 * winding.share()));
  for (const auto& bottle : report.withoutHeater)
    warnings.push_back(fmt::format("no heater winding for {}", bottle));
  for (const auto& name : report.sharedFilaments)
    warnings.push_back(fmt::format("{} has no filament winding of its own", name));
  // Tubes that stand alike are told once.
  std::vector<std::pair<std::string, std::string>> over; // what, and whose
  for (const auto& tube : tubes) {
    const auto* type = library.tubes.find(tube.type);
    if (!type) continue;
    for (const auto& one : overRatings(tube, type->limits)) {
      const auto what = fmt::format("{} {} of {}", one.electrode, units::reading(one.value, one.unit),
                                    units::reading(one.limit, one.unit));
      const auto known = std::find_if(over.begin(), over.end(), [&](const auto& o) { return o.first == what; });
      if (known == over.end())
        over.emplace_back(what, tube.name);
      else
        known->second += ", " + tube.name;
    }
  }
  for (const auto& [what, whose] : over)
    warnings.push_back(whose + " " + what);
  return warnings;
}

} // namespace vinegar::predict
