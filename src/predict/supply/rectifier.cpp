#include "predict/supply/rectifier.h"

#include "predict/supply/supply.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace vinegar::predict {

namespace {
using amp::PartKind;
} // namespace

const amp::CompiledPart* partOfKind(const amp::Circuit& circuit, PartKind kind) {
  for (const auto& part : circuit.parts)
    if (part.resolved.part->kind == kind && !part.devices.empty()) return &part;
  return nullptr;
}

namespace {

struct PlateSupply {
  const amp::CompiledPart* transformer;
  amp::TransformerWinding winding;
};

/// The winding that a rectifier's plate hangs on; the first one of the first transformer where none does.
std::optional<PlateSupply> plateSupply(const amp::Circuit& circuit) {
  std::optional<PlateSupply> first;
  const auto* rectifier = partOfKind(circuit, PartKind::rectifier);
  if (!rectifier) rectifier = partOfKind(circuit, PartKind::diode);
  for (const auto& part : circuit.parts) {
    if (part.resolved.part->kind != PartKind::powerTransformer || part.devices.empty()) continue;
    std::size_t pin = 2;
    for (const auto& winding : amp::transformerWindings(part.resolved)) {
      if (!first) first = PlateSupply{&part, winding};
      for (std::size_t tap = 0; tap < winding.taps; ++tap)
        if (rectifier && part.nodes[pin + tap] == rectifier->nodes.front()) return PlateSupply{&part, winding};
      pin += winding.taps;
    }
  }
  return first;
}

} // namespace

std::optional<amp::TransformerWinding> plateWinding(const amp::Circuit& circuit) {
  const auto supply = plateSupply(circuit);
  return supply ? std::optional(supply->winding) : std::nullopt;
}

std::vector<SupplyChoice> rectifierChoices(const amp::Design& design, const amp::Library& library) {
  std::vector<amp::ResolvedPart> rectifiers;
  for (const auto& part : amp::resolveParts(design, library))
    if (part.part->kind == PartKind::rectifier && part.fitted()) rectifiers.push_back(part);
  std::vector<SupplyChoice> choices;
  if (rectifiers.empty()) return choices;
  std::vector<const tubes::TubeType*> types;
  for (const auto& [name, type] : library.tubes.types())
    if (amp::fits(PartKind::rectifier, type) && type.offered) types.push_back(&type);
  const auto dropAt = [](const tubes::TubeType& type) { // at 100 mA, by its own law
    const auto& model = std::get<tubes::RectifierModel>(type.model);
    return model.silicon ? type.dropVolts : std::pow(0.1 / model.perveance, 2.0 / 3);
  };
  std::sort(types.begin(), types.end(), [&](const auto* a, const auto* b) { return dropAt(*a) > dropAt(*b); });
  for (const auto* type : types) {
    SupplyChoice choice{type->name, {}};
    for (const auto& part : rectifiers)
      if (part.text("tube") != type->name) choice.changes.push_back({part.name, "tube", part.text("tube"), type->name});
    choices.push_back(std::move(choice));
  }
  return choices;
}

double ratingFor(double watts) {
  constexpr std::array<double, 9> stock{0.5, 1, 2, 3, 5, 7, 10, 25, 50};
  const auto rating = std::lower_bound(stock.begin(), stock.end(), 2 * watts);
  return rating == stock.end() ? std::ceil(2 * watts) : *rating;
}

double resistorWatts(const SupplyIdle& supply, const amp::CompiledPart& resistor) {
  const Eigen::VectorXd across = supply.volts(resistor.nodes[0]) - supply.volts(resistor.nodes[1]);
  return across.size() == 0 ? 0 : across.squaredNorm() / static_cast<double>(across.size()) / resistor.resolved.value();
}

std::optional<FirstCapacitor> firstCapacitor(const amp::Circuit& circuit) {
  const auto rails = mainRails(circuit);
  FirstCapacitor first;
  // From the cathode through resistors of the supply; the first node with capacitors ends the walk.
  circuit::Node node = rails.rectified;
  std::vector<circuit::Node> seen;
  for (int hop = 0; hop < 8; ++hop) {
    seen.push_back(node);
    circuit::Node next = -1;
    for (const auto& part : circuit.parts) {
      if (part.devices.empty() || part.nodes.size() != 2) continue;
      const auto& devices = circuit.supply.devices;
      if (std::find(devices.begin(), devices.end(), part.devices.front()) == devices.end()) continue;
      const bool here = part.nodes[0] == node || part.nodes[1] == node;
      if (!here) continue;
      const auto other = part.nodes[0] == node ? part.nodes[1] : part.nodes[0];
      if (part.resolved.part->kind == PartKind::capacitor) {
        double farads = part.resolved.value();
        if (other != 0) // a pair in series: the partner from there to ground
          for (const auto& below : circuit.parts)
            if (!below.devices.empty() && below.resolved.part->kind == PartKind::capacitor && below.nodes[0] == other &&
                below.nodes[1] == 0)
              farads = 1 / (1 / farads + 1 / below.resolved.value());
        first.farads += farads;
        first.parts.push_back(part.resolved.name);
      } else if (part.resolved.part->role == "series-resistor" &&
                 std::find(seen.begin(), seen.end(), other) == seen.end()) {
        next = other;
        first.seriesOhms += part.resolved.value();
      }
    }
    if (first.farads > 0) return first;
    if (next < 0) return std::nullopt;
    node = next;
  }
  return std::nullopt;
}

std::optional<double> plateSupplyVolts(const amp::Circuit& circuit) {
  const auto winding = plateWinding(circuit);
  return winding ? std::optional(winding->unloadedVolts) : std::nullopt;
}

double plateSourceOhms(const amp::Circuit& circuit) {
  double ohms = 0;
  if (const auto supply = plateSupply(circuit)) {
    const auto& transformer = supply->transformer->resolved;
    const double ratio = supply->winding.unloadedVolts / transformer.value();
    ohms = supply->winding.ohms + ratio * ratio * amp::transformerPrimaryOhms(transformer);
  }
  if (const auto first = firstCapacitor(circuit)) ohms += first->seriesOhms;
  return ohms;
}

std::optional<double> leastSourceOhms(const tubes::TubeType& type, double voltsRms) {
  std::vector<std::pair<double, double>> published;
  for (const auto& operation : type.rectifierOperations)
    if (operation.sourceOhms) published.emplace_back(operation.plateVoltsRms, *operation.sourceOhms);
  if (published.empty()) return std::nullopt;
  std::sort(published.begin(), published.end());
  if (voltsRms <= published.front().first) return published.front().second * voltsRms / published.front().first;
  for (std::size_t i = 1; i < published.size(); ++i) {
    const auto [v0, r0] = published[i - 1];
    const auto [v1, r1] = published[i];
    if (voltsRms <= v1) return v1 > v0 ? r0 + (r1 - r0) * (voltsRms - v0) / (v1 - v0) : r1;
  }
  return published.back().second * voltsRms / published.back().first;
}

} // namespace vinegar::predict
