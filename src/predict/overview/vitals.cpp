#include "predict/overview/vitals.h"

#include "predict/rest/places.h"
#include "predict/supply/supply.h"

#include <algorithm>

namespace vinegar::predict {

tl::expected<Vitals, Problem> predictVitals(const Idle& idle, const amp::Library& library, const VitalsQuestion&,
                                            const GoOn&) {
  const auto& circuit = *idle.circuit;
  const auto& point = idle.point;
  Vitals vitals;
  vitals.end = endOf(circuit);
  if (circuit.probe("jack") >= 0 && !vitals.end.empty())
    if (const auto whole = predictResponse(idle, library, {"jack", vitals.end, {82.4, 1000, 5000}}))
      vitals.gain = Gain{whole->decibels[1], whole->decibels[0], whole->decibels[2]};
  const auto fed = mainRails(circuit).fed;
  const auto& ofSupply = circuit.supply.devices;
  if (!circuit.rails.empty()) vitals.reservoirVolts = point.volts(fed);
  for (const auto& part : circuit.parts)
    if (fed > 0 && vitals.reservoirPart.empty() && !part.devices.empty() && part.nodes.front() == fed &&
        (part.resolved.part->kind == amp::PartKind::capacitor ||
         part.resolved.part->kind == amp::PartKind::voltageSource) &&
        std::find(ofSupply.begin(), ofSupply.end(), part.devices.front()) != ofSupply.end())
      vitals.reservoirPart = part.resolved.name;
  if (point.supply) vitals.reservoirAmps = point.supply->loadAmps;
  for (const auto& part : circuit.parts)
    if (part.resolved.part->kind == amp::PartKind::voltageSource && !part.devices.empty())
      vitals.reservoirAmps -= point.part(part.resolved.name)->amps;
  double highest = 0;
  for (const auto& tube : point.tubes) {
    if (!tube.plateWattsLimit) continue;
    const double share = tube.plateWatts / *tube.plateWattsLimit;
    if (share > highest) {
      highest = share;
      vitals.hottestTube = tube.name;
      vitals.hottestWatts = tube.plateWatts;
      vitals.hottestLimit = *tube.plateWattsLimit;
    }
  }
  return vitals;
}

} // namespace vinegar::predict
