#include "predict/rest/variation.h"

#include <algorithm>

namespace vinegar::predict {

std::vector<PartVariation> partVariations(const amp::Circuit& circuit, const amp::Library& library,
                                          double relativeStep) {
  std::vector<PartVariation> variations;
  // What rectifies is a slope and a mean in the solved amplifier, and no Zener any more.
  const auto isAveraged = [&](int device) {
    const auto& own = circuit.supply.devices;
    return circuit.supply.isRectified() &&
           circuit::isNonlinear(circuit.netlist.devices()[static_cast<std::size_t>(device)].law) &&
           std::find(own.begin(), own.end(), device) != own.end();
  };
  for (const auto& part : circuit.parts) {
    const auto& resolved = part.resolved;
    if (std::any_of(part.devices.begin(), part.devices.end(), isAveraged)) continue;
    if (part.devices.empty() || !amp::hasValue(resolved.part->kind) || resolved.value() <= 0) continue;
    const double step = resolved.value() * relativeStep;
    auto up = circuit.lawsWith(resolved.name, "value", resolved.value() + step, library);
    auto down = circuit.lawsWith(resolved.name, "value", resolved.value() - step, library);
    if (up && down) variations.push_back({resolved.name, resolved.value(), {std::move(*up), std::move(*down), step}});
  }
  return variations;
}

std::vector<circuit::Parameter> parametersOf(const std::vector<PartVariation>& variations) {
  std::vector<circuit::Parameter> parameters;
  parameters.reserve(variations.size());
  for (const auto& variation : variations)
    parameters.push_back(variation.parameter);
  return parameters;
}

std::vector<circuit::Spread> partSpreads(const amp::Circuit& circuit, double tolerance) {
  std::vector<circuit::Spread> spreads;
  for (const auto& part : circuit.parts)
    if (!part.devices.empty()) spreads.push_back({part.devices, tolerance, 0});
  return spreads;
}

} // namespace vinegar::predict
