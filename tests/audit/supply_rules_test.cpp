// What the rules find, and that they keep still where nothing is wrong.
#include "audit/supply_rules.h"
#include "files/data_folder.h"
#include "predict/supply/rectifier.h"
#include "support/bench_design.h"
#include "support/samples.h"
#include "support/temporary_folder.h"
#include "units/file.h"

#include <algorithm>
#include <cmath>
#include <fstream>
#include <gtest/gtest.h>
#include <optional>

namespace vinegar::audit {
namespace {

using testing_support::library;
using testing_support::sample;

std::vector<Finding> findingsOf(const amp::Design& design) {
  return auditIdle(testing_support::atRest(design), library());
}

TEST(SupplyRules, KeepStillOnTheSamples) {
  for (const char* name : {"slipway", "net-loft", "harbour-office", "chandlery"})
    for (const auto& finding : findingsOf(sample(name).ink))
      ADD_FAILURE() << name << " " << finding.part << ": " << finding.what;
}

struct Miswired {
  const char* what;
  std::vector<amp::SetField> changes;
  const char *part, *says;
  bool danger;
};

class SupplyRules : public testing::TestWithParam<Miswired> {};

TEST_P(SupplyRules, FindWhatIsWrongWhereItIs) {
  const auto& wrong = GetParam();
  const auto findings = findingsOf(amp::withChanges(sample("slipway").ink, library(), wrong.changes));
  const auto found = std::find_if(findings.begin(), findings.end(), [&](const Finding& f) {
    return f.part == wrong.part && f.what.find(wrong.says) != std::string::npos;
  });
  ASSERT_NE(found, findings.end()) << findings.size();
  EXPECT_EQ(found->danger, wrong.danger);
  EXPECT_FALSE(found->cure.empty());
  // Its values stand beside the sentence, and are those of the sentence.
  int rated = 0;
  for (const auto& finding : findings) {
    if (!finding.rating) continue;
    ++rated;
    EXPECT_TRUE(finding.rating->over()) << finding.what;
    EXPECT_EQ(finding.rating->part, finding.part);
    const auto said = [&](int digits) {
      const auto number = units::reading(finding.rating->value, predict::unitOf(finding.rating->quantity), digits);
      return finding.what.find(number.substr(0, number.find(' '))) != std::string::npos;
    };
    EXPECT_TRUE(said(3) || said(2)) << finding.what << " without " << finding.rating->value;
  }
  for (const char* words : {"No fuse", "protects little", "stays above 50 V", "too much"})
    if (std::string_view(wrong.says) == words) return;
  EXPECT_GT(rated, 0);
}

amp::Setting text(const char* word) { return std::string(word); }

INSTANTIATE_TEST_SUITE_P(
    All, SupplyRules,
    testing::Values(Miswired{"fuse", {{"F1", "fitted", true, false}}, "Mains", "No fuse", true},
                    Miswired{"smallFuse", {{"F1", "value", 0.63, 0.1}}, "F1", "will open", false},
                    Miswired{"largeFuse", {{"F1", "value", 0.63, 5.0}}, "F1", "protects little", false},
                    Miswired{"bleeder", {{"R34", "fitted", true, false}}, "", "stays above 50 V", true},
                    Miswired{"reservoir", {{"C15", "value", 16e-6, 100e-6}}, "C15", "more than the", false},
                    Miswired{"rating", {{"C15", "ratedVolts", 500.0, 350.0}}, "C15", "is rated", true},
                    Miswired{"hot dropper", {{"R18", "ratedWatts", 2.0, 0.25}}, "R18", "dissipates", false},
                    Miswired{"plates", {{"R28", "value", 270.0, 100.0}}, "V3", "dissipates", false},
                    Miswired{"screens", {{"T2", "htVolts", 300.0, 330.0}}, "V3", "between screen and cathode", false},
                    Miswired{"winding", {{"T2", "htAmps", 0.15, 0.05}}, "T2", "ht winding", false},
                    Miswired{"high mains", {{"Mains", "value", 230.0, 260.0}}, "H2", "too much", false},
                    Miswired{"peak",
                             {{"V5", "tube", text("5Y3GT"), text("6X4")}, {"C15", "value", 16e-6, 100e-6}},
                             "V5",
                             "Peak plate current",
                             false},
                    Miswired{"source",
                             {{"V5", "tube", text("5Y3GT"), text("EZ81")}, {"T2", "htOhms", 82.0, 20.0}},
                             "V5",
                             "in series with each plate",
                             false}),
    [](const auto& info) {
      std::string name = info.param.what;
      std::erase(name, ' ');
      return name;
    });

TEST(SupplyRules, WantBalancingResistorsOnAPair) {
  auto design = sample("slipway").ink;
  auto& reservoir = design.supply[1];
  reservoir.section = "supply-reservoir-pair";
  reservoir.parts.clear();
  EXPECT_TRUE(findingsOf(design).empty() ||
              findingsOf(design).front().what.find("nothing to keep") == std::string::npos);
  for (const char* ref : {"R1", "R2"})
    reservoir.parts[ref].settings["fitted"] = false;
  const auto findings = findingsOf(design);
  EXPECT_TRUE(std::any_of(findings.begin(), findings.end(), [](const Finding& f) {
    return f.danger && f.what.find("nothing to keep") != std::string::npos;
  }));
}

TEST(Safety, DefersToLocalCodeAndSaysHowToDischarge) {
  std::string all;
  for (const auto& paragraph : safetyText().paragraphs)
    all += paragraph;
  for (const char* must : {"local code", "licensed", "resistor", "Measure under 50 V", "Unplug"})
    EXPECT_NE(all.find(must), std::string::npos) << must;
}

/// Any part that states a rating is held to it, wherever it stands and whatever feeds the amplifier.
TEST(PartRules, HoldEveryStatedRating) {
  struct Case {
    const char *sample, *part, *field;
    double rating;
    const char* says;
  };
  for (const auto& [name, ofPart, field, rating, says] :
       {Case{"slipway", "C9", "ratedVolts", 50, "sees"},          // a coupling capacitor at a plate
        Case{"slipway", "C14", "ratedVolts", 16, "sees"},         // a power stage's bypass
        Case{"slipway", "R28", "ratedWatts", 0.25, "dissipates"}, // its resistor
        Case{"net-loft", "R3", "ratedWatts", 0.01, "dissipates"}}) {
    const std::string part = ofPart;
    auto design = sample(name).ink;
    const auto of = amp::findPart(design, library(), part);
    ASSERT_TRUE(of) << part;
    design = amp::withChanges(design, library(), {{part, field, of->number(field), rating}});
    const auto findings = findingsOf(design);
    const auto found = std::find_if(findings.begin(), findings.end(), [&](const Finding& f) { return f.part == part; });
    ASSERT_NE(found, findings.end()) << name << " " << part;
    EXPECT_NE(found->what.find(says), std::string::npos) << found->what;
    // The same part from a bench supply, which no rule of the supply looks at.
    design.supply = {{"bench", "supply-fixed-reservoir", {}, {}, "A", {}},
                     {"b", "supply-rc-node", {}, {}, "B", {}},
                     {"c", "supply-rc-node", {}, {}, "C", {}},
                     {"d", "supply-rc-node", {}, {}, "D", {}}};
    design.sides.clear();
    amp::nameParts(design, library());
    const auto onTheBench = findingsOf(design);
    EXPECT_TRUE(std::any_of(onTheBench.begin(), onTheBench.end(), [&](const Finding& f) { return f.part == part; }))
        << name << " " << part;
  }
}

/// With the tubes cold a coupling capacitor has the whole rail across it, more than at idle.
TEST(PartRules, ACouplingCapacitorIsHeldToWhatItSeesWithTheTubesCold) {
  const auto ink = sample("slipway").ink;
  const auto solved = testing_support::solve(ink);
  const double idle = std::abs(solved.point.part("C9")->volts);
  // No tube draws, so nothing is lost in the plate resistor: the plate stands at its rail, as that is without a load.
  const auto without = predict::predictSupplyIdle(solved.circuit, nullptr, {0, 0, 0});
  ASSERT_TRUE(without) << without.error().line();
  const double cold = without->meanVolts(solved.circuit.probe("D"));
  ASSERT_GT(cold, 1.5 * idle);
  const auto foundAt = [&](double rating) -> std::optional<Finding> {
    for (const auto& finding : findingsOf(amp::withChanges(ink, library(), {{"C9", "ratedVolts", 0.0, rating}})))
      if (finding.part == "C9") return finding;
    return std::nullopt;
  };
  // Held to nine tenths of its rating, to within the slack.
  EXPECT_FALSE(foundAt(1.01 * cold / 0.9));
  ASSERT_TRUE(foundAt(0.97 * cold / 0.9));
  EXPECT_NE(foundAt(0.97 * cold / 0.9)->what.find("cold"), std::string::npos);
  EXPECT_FALSE(foundAt(0.97 * cold / 0.9)->danger);
  EXPECT_TRUE(foundAt(0.97 * cold)->danger);
}

/// The bias diode of a full-wave supply is no second rectifier of a doubler.
TEST(SupplyRulesForFronts, APairWithoutBalancingIsADangerBehindAnyFrontButADoublersOwn) {
  for (const char* front : {"supply-full-wave", "supply-full-wave-bias", "supply-bridge", "supply-doubler"}) {
    auto design = sample("slipway").ink;
    design.supply.front().section = front;
    design.supply.front().parts.clear();
    design.supply[1] = {"reservoir", "supply-reservoir-pair", {}, {}, "A", {}};
    amp::nameParts(design, library());
    std::vector<amp::SetField> out;
    std::string upper;
    for (const auto& part : amp::resolveParts(design, library())) {
      if (part.section != "reservoir") continue;
      if (part.part->kind == amp::PartKind::resistor && part.fitted())
        out.push_back({part.name, "fitted", true, false});
      if (part.part->ref == "C1") upper = part.name;
    }
    const auto findings = findingsOf(amp::withChanges(design, library(), out));
    EXPECT_TRUE(std::any_of(findings.begin(), findings.end(), [&](const Finding& f) {
      return f.part == upper && f.danger && f.what.find("share") != std::string::npos;
    })) << front;
    // A doubler's own pair is held by the transformer.
    for (const auto& finding : findings)
      for (const auto& part : amp::resolveParts(design, library()))
        if (part.name == finding.part && part.section == "mains") {
          EXPECT_EQ(finding.what.find("share the volts"), std::string::npos) << front << " " << finding.part;
        }
  }
}

/// A builder's own section may call its windings what it likes.
TEST(SupplyRulesForFronts, TheHtWindingIsTheOneThatFeedsTheRectifier) {
  auto text = *units::readFile(files::dataFolder() / "sections" / "supply-full-wave.json");
  for (auto at = text.find("\"name\": \"ht\""); at != std::string::npos; at = text.find("\"name\": \"ht\""))
    text.replace(at, 12, "\"name\": \"hv\"");
  ASSERT_NE(text.find("\"hv\""), std::string::npos);
  const testing_support::TemporaryFolder folder;
  std::filesystem::copy(files::dataFolder(), folder.path / "data", std::filesystem::copy_options::recursive);
  std::ofstream(folder.path / "data" / "sections" / "supply-full-wave.json") << text;
  const auto own = amp::Library::load(folder.path / "data");
  ASSERT_TRUE(own) << own.error().line();
  auto design = sample("slipway").ink;
  design.supply.front().parts.clear();
  amp::nameParts(design, *own);
  for (const auto& part : amp::resolveParts(design, *own))
    if (part.part->role == "reservoir")
      design = amp::withChanges(design, *own, {{part.name, "value", part.value(), 100e-6}});
  const auto idle = predict::predictIdle(design, *own);
  ASSERT_TRUE(idle) << idle.error().line();
  const auto circuit = idle->circuit;
  const auto findings = auditIdle(*idle, *own);
  EXPECT_TRUE(std::any_of(findings.begin(), findings.end(),
                          [](const Finding& f) { return f.what.find("may charge") != std::string::npos; }));
  const auto* transformer = circuit->part(amp::findPart(design, *own, "T2") ? "T2" : "T1");
  ASSERT_TRUE(transformer && transformer->resolved.settings.contains("hvVolts"));
  EXPECT_EQ(predict::plateSupplyVolts(*circuit), transformer->resolved.number("hvVolts"));
}

} // namespace
} // namespace vinegar::audit
