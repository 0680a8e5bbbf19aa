#include "predict/rest/builds.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace vinegar::predict {

Band bandOf(std::vector<double> values) {
  std::erase_if(values, [](double v) { return !std::isfinite(v); });
  if (values.empty()) return {};
  std::sort(values.begin(), values.end());
  const auto at = [&](double share) {
    return values[static_cast<std::size_t>(std::lround(share * static_cast<double>(values.size() - 1)))];
  };
  return {at(0.05), at(0.5), at(0.95)};
}

double toleranceOf(const amp::CompiledPart& part, const Tolerances& tolerances) {
  constexpr double electrolytic = 1e-6; // farads; film ends about there
  switch (part.resolved.part->kind) {
  case amp::PartKind::resistor:
    return tolerances.resistors;
  case amp::PartKind::capacitor:
    return part.resolved.value() < electrolytic ? tolerances.film : tolerances.electrolytic;
  case amp::PartKind::pot:
    return tolerances.pots;
  case amp::PartKind::triode:
  case amp::PartKind::pentode:
    return tolerances.tubes;
  default:
    return 0;
  }
}

std::string words(const Tolerances& t) {
  return fmt::format("{:g} % resistors, {:g} % film and {:g} % electrolytic capacitors, {:g} % pots, tubes {:g} % in "
                     "current and {:g} % in mu",
                     100 * t.resistors, 100 * t.film, 100 * t.electrolytic, 100 * t.pots, 100 * t.tubes, 100 * t.mu);
}

std::vector<circuit::Spread> spreadsWithin(const amp::Circuit& circuit, const Tolerances& tolerances) {
  std::vector<circuit::Spread> spreads;
  for (const auto& part : circuit.parts) {
    if (part.devices.empty()) continue;
    const auto kind = part.resolved.part->kind;
    if (amp::isTube(kind))
      spreads.push_back({{part.devices.front()}, tolerances.tubes, tolerances.mu});
    else if (kind == amp::PartKind::resistor || kind == amp::PartKind::capacitor || kind == amp::PartKind::pot)
      spreads.push_back({part.devices, toleranceOf(part, tolerances), 0});
  }
  return spreads;
}

} // namespace vinegar::predict
