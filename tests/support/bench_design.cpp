#include "support/bench_design.h"

#include <stdexcept>

namespace vinegar::testing_support {

amp::SectionUse use(const std::string& id, const std::string& section, const Settings& settings) {
  amp::SectionUse result{id, section, {}, {}, {}, {}};
  const auto& type = library().sections.at(section);
  for (const auto& [ref, fields] : settings) {
    if (!type.part(ref)) throw std::runtime_error(section + " has no part " + ref);
    result.parts[ref].settings = fields;
  }
  for (const auto& rail : type.railPorts)
    result.joins[rail] = "A";
  return result;
}

amp::Design benchDesign(std::vector<amp::SectionUse> line, double volts) {
  amp::Design design;
  design.name = "on the bench";
  design.line.push_back(use("source", "line-input"));
  for (auto& section : line)
    design.line.push_back(std::move(section));
  design.supply = {use("reservoir", "supply-fixed-reservoir", {{"B", {{"value", volts}}}})};
  design.supply[0].node = "A";
  amp::nameParts(design, library());
  return design;
}

predict::Idle atRest(const amp::Design& design) {
  auto idle = predict::predictIdle(design, library());
  if (!idle) throw std::runtime_error(idle.error().line());
  return std::move(*idle);
}

predict::Idle sampleAtRest(const std::string& name) { return atRest(sample(name).ink); }

std::vector<double> levels(const predict::Idle& idle, const std::vector<double>& hertz, const std::string& from,
                           const std::string& to) {
  auto response = predict::predictResponse(idle, library(), {from, to, hertz});
  if (!response) throw std::runtime_error(response.error().line());
  return std::move(response->decibels);
}

predict::Idle changed(const predict::Idle& idle, const std::vector<amp::SetField>& changes) {
  return atRest(amp::withChanges(*idle.circuit->design, library(), changes));
}

amp::SetField valued(const predict::Idle& idle, const std::string& part, double value) {
  return {part, "value", idle.circuit->part(part)->resolved.value(), value};
}

} // namespace vinegar::testing_support
