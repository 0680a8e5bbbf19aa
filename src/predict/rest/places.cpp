#include "predict/rest/places.h"

namespace vinegar::predict {

std::vector<Place> placesOf(const amp::Circuit& circuit, const amp::Library& library) {
  std::vector<Place> places;
  const auto add = [&](const std::string& chain, const std::vector<amp::SectionUse>& uses) {
    for (const auto& use : uses) {
      const auto found = library.sections.find(use.section);
      if (found == library.sections.end()) continue;
      const auto nodeOf = [&](const amp::Port* port) {
        const auto local = port ? circuit.localNodes.find(use.id + "/" + port->node) : circuit.localNodes.end();
        return local == circuit.localNodes.end() ? circuit::Node(-1) : local->second;
      };
      Place place{chain, &use, &found->second, nodeOf(amp::headOf(found->second)), nodeOf(amp::tailOf(found->second))};
      if (place.out <= 0) place.out = place.in;
      if (found->second.out == amp::Carries::balanced) place.second = nodeOf(found->second.port("outB"));
      if (place.out > 0) places.push_back(place);
    }
  };
  add("line", circuit.design->line);
  for (const auto& side : circuit.design->sides)
    add(side.id, side.sections);
  return places;
}

std::string endOf(const amp::Circuit& circuit) {
  if (circuit.probe("speaker") > 0) return "speaker";
  const auto& line = circuit.design->line;
  for (auto use = line.rbegin(); use != line.rend(); ++use)
    if (circuit.probe(use->id + ".out") > 0) return use->id + ".out";
  return {};
}

} // namespace vinegar::predict
