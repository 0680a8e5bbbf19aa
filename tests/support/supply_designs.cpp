#include "support/supply_designs.h"

namespace vinegar::testing_support {

amp::SectionUse supplyUse(const std::string& id, const std::string& section, const std::string& node,
                          const std::map<std::string, amp::Settings>& parts) {
  amp::SectionUse made{id, section, {}, {}, node, {}};
  for (const auto& [ref, settings] : parts)
    made.parts[ref].settings = settings;
  return made;
}

amp::Design onSupply(std::vector<amp::SectionUse> supply) {
  auto design = sample("slipway").ink;
  const std::string last = supply.back().node;
  for (auto* section : design.sections())
    for (auto& [port, target] : section->joins)
      if (target.size() == 1) target = last;
  design.supply = std::move(supply);
  return design;
}

std::vector<amp::SectionUse> sectionsOf(const TestSupply& s) {
  std::map<std::string, amp::Settings> front;
  front["T"] = {{"htVolts", s.volts}, {"htOhms", s.ohms}, {"primaryOhms", 1e-3}};
  front["M"] = {{"hertz", s.hertz}};
  if (s.section == "supply-full-wave") front["V"] = {{"tube", s.rectifier}};
  if (s.section == "supply-doubler")
    for (const char* ref : {"C1", "C2"})
      front[ref] = {{"value", s.farads}};
  if (s.section == "supply-doubler")
    for (const char* ref : {"R1", "R2"})
      front[ref] = {{"fitted", false}};
  std::vector<amp::SectionUse> supply{supplyUse("front", s.section, "K", front)};
  if (s.farads > 0 && s.section != "supply-doubler") {
    std::map<std::string, amp::Settings> reservoir{{"C", {{"value", s.farads}}}, {"Rbl", {{"fitted", false}}}};
    if (s.seriesOhms > 0) reservoir["R"] = {{"fitted", true}, {"value", s.seriesOhms}};
    supply.push_back(supplyUse("reservoir", "supply-reservoir", "N0", reservoir));
  }
  for (std::size_t i = 0; i < s.sections.size(); ++i) {
    const auto& part = s.sections[i];
    const auto id = "N" + std::to_string(i + 1);
    if (part.henries > 0)
      supply.push_back(
          supplyUse(id, "supply-choke-node", id,
                    {{"L", {{"value", part.henries}, {"ohms", part.ohms}}}, {"C", {{"value", part.farads}}}}));
    else
      supply.push_back(
          supplyUse(id, "supply-rc-node", id, {{"R", {{"value", part.ohms}}}, {"C", {{"value", part.farads}}}}));
  }
  return supply;
}

SolvedSupply solveSupply(const amp::Design& design, const predict::SupplyQuestion& question, const std::string& rail) {
  auto circuit = amp::compile(design, library());
  if (!circuit) throw std::runtime_error(circuit.error().line());
  auto asked = question;
  if (!rail.empty()) asked.extraFrom = circuit->probe(rail);
  auto idle = predict::predictSupplyIdle(*circuit, nullptr, asked);
  if (!idle) throw std::runtime_error(idle.error().line());
  auto report = predict::readSupply(*circuit, library(), *idle);
  return {std::move(*circuit), std::move(*idle), std::move(report)};
}

} // namespace vinegar::testing_support
