#include "support/random_builder.h"

#include "support/samples.h"

#include <gtest/gtest.h>
#include <utility>

namespace vinegar::testing_support {

using namespace amp;

namespace {

std::optional<Design> sound(tl::expected<Design, Problem> design) {
  if (!design || !check(*design, library()).empty() || design->sections().size() > 40) return std::nullopt;
  return std::move(*design);
}

} // namespace

Design must(tl::expected<Design, Problem> design) {
  EXPECT_TRUE(design) << design.error().line();
  return design ? *design : Design{};
}

std::string problemsOf(const Design& design) {
  std::string all;
  for (const auto& problem : check(design, library()))
    all += problem.line() + "\n";
  return all;
}

std::optional<Design> RandomBuilder::act(const Document& document) {
  auto design = pencilled(document, library());
  const NameBook names(document);
  const auto uses = std::as_const(design).sections();
  const auto& use = *uses[pick(uses.size())];
  switch (pick(10)) {
  case 0:
  case 1: { // what the shelf offers as fitting must fit
    const auto spot = anySpot(design);
    auto offered = candidatesFor(design, library(), spot);
    std::erase_if(offered, [](const Candidate& one) { return !one.why.empty(); });
    if (offered.empty()) return std::nullopt;
    const auto next = must(insertSection(design, library(), names, spot, offered[pick(offered.size())].section->id));
    const auto problems = problemsOf(next);
    // A second mains is the one thing that the neighbours do not tell; a chain's first section may be a source.
    if (problems.find("mains") == std::string::npos && problems.find("no port for that") == std::string::npos &&
        problems.find("joined to nothing") == std::string::npos) {
      EXPECT_EQ(problems, "") << spot.chain << " after " << spot.after;
    }
    return sound(next);
  }
  case 2:
    return sound(removeSection(design, library(), use.id));
  case 3: {
    auto offered = replacementsFor(design, library(), use.id);
    std::erase_if(offered, [](const Candidate& one) { return !one.why.empty(); });
    if (offered.empty()) return std::nullopt;
    return sound(replaceSection(design, library(), names, use.id, offered[pick(offered.size())].section->id));
  }
  case 4:
    return sound(moveSection(design, library(), use.id, anySpot(design)));
  case 5:
    return sound(duplicateSection(design, library(), names, use.id));
  case 6: {
    const auto& section = library().sections.at(use.section);
    if (section.ports.empty()) return std::nullopt;
    const auto port = use.id + "." + section.ports[pick(section.ports.size())].name;
    const auto places = joinsFor(design, library(), port);
    if (places.empty()) return std::nullopt;
    return sound(joinPort(design, library(), port, places[pick(places.size())]));
  }
  case 7: {
    if (design.sides.size() > 2)
      return sound(removeChain(design, library(), design.sides[pick(design.sides.size())].id));
    const auto any = [&] {
      const auto& one = *uses[pick(uses.size())];
      const auto& ports = library().sections.at(one.section).ports;
      return one.id + "." + ports[pick(ports.size())].name;
    };
    constexpr const char* kinds[] = {"feedback-to-cathode", "triode-common-cathode", "volume", "spring-tank"};
    return sound(insertChain(design, library(), names, "side", {kinds[pick(4)]}, any(), any()));
  }
  case 8: {
    if (design.supply.empty()) return std::nullopt;
    auto name = "rail" + std::to_string(pick(9));
    return sound(renameRail(design, design.supply[pick(design.supply.size())].id, name));
  }
  default: {
    const auto parts = resolveParts(design, library());
    const auto& part = parts[pick(parts.size())];
    const auto field = part.settings.find("value");
    if (field == part.settings.end()) return std::nullopt;
    const double value = std::get<double>(field->second) * (pick(2) ? 1.5 : 0.5);
    if (checkSetting(part, "value", value, library())) return std::nullopt;
    return withChanges(design, library(), changesFor(design, library(), part.name, "value", value));
  }
  }
}

Spot RandomBuilder::anySpot(const Design& design) {
  std::vector<std::pair<std::string, const std::vector<SectionUse>*>> chains{{"line", &design.line},
                                                                             {"supply", &design.supply}};
  for (const auto& side : design.sides)
    chains.emplace_back(side.id, &side.sections);
  const auto& [chain, uses] = chains[pick(chains.size())];
  const auto at = pick(uses->size() + 1);
  return {chain, at == 0 ? std::string() : (*uses)[at - 1].id};
}

} // namespace vinegar::testing_support
