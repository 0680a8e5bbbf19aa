// What the rules find, and that they keep still where nothing is wrong.
#include "audit/supply_rules.h"
#include "support/samples.h"

#include <gtest/gtest.h>

namespace vinegar::audit {
namespace {

using testing_support::library;
using testing_support::sample;

std::vector<Finding> findingsOf(const amp::Design& design) {
  const auto solved = testing_support::solve(design);
  return auditSupply(solved.circuit, library(), solved.point);
}

TEST(SupplyRules, KeepStillOnTheSamples) {
  for (const char* name : {"slipway-18", "net-loft-5", "harbour-office-8"})
    for (const auto& finding : findingsOf(sample(name).ink))
      ADD_FAILURE() << name << " " << finding.part << ": " << finding.what;
}

struct Wrong {
  const char* what;
  std::vector<amp::Change> changes;
  const char *part, *says;
  bool danger;
};

class SupplyRules : public testing::TestWithParam<Wrong> {};

TEST_P(SupplyRules, FindWhatIsWrongWhereItIs) {
  const auto& wrong = GetParam();
  const auto findings = findingsOf(amp::withChanges(sample("slipway-18").ink, library(), wrong.changes));
  const auto found = std::find_if(findings.begin(), findings.end(), [&](const Finding& f) {
    return f.part == wrong.part && f.what.find(wrong.says) != std::string::npos;
  });
  ASSERT_NE(found, findings.end()) << findings.size();
  EXPECT_EQ(found->danger, wrong.danger);
  EXPECT_FALSE(found->cure.empty());
}

amp::Setting text(const char* word) { return std::string(word); }

INSTANTIATE_TEST_SUITE_P(
    All, SupplyRules,
    testing::Values(Wrong{"fuse", {{"F1", "fitted", true, false}}, "Mains", "No fuse", true},
                    Wrong{"smallFuse", {{"F1", "value", 0.63, 0.1}}, "F1", "will open", false},
                    Wrong{"largeFuse", {{"F1", "value", 0.63, 5.0}}, "F1", "protects little", false},
                    Wrong{"bleeder", {{"R34", "fitted", true, false}}, "", "stays above 50 V", true},
                    Wrong{"reservoir", {{"C15", "value", 16e-6, 100e-6}}, "C15", "more than the", false},
                    Wrong{"rating", {{"C15", "ratedVolts", 500.0, 350.0}}, "C15", "is rated", true},
                    Wrong{"hot dropper", {{"R18", "ratedWatts", 2.0, 0.25}}, "R18", "dissipates", false},
                    Wrong{"winding", {{"T2", "htAmps", 0.15, 0.05}}, "T2", "ht winding", false},
                    Wrong{"high mains", {{"Mains", "value", 230.0, 260.0}}, "H2", "too much", false},
                    Wrong{"peak",
                          {{"V5", "tube", text("5Y3GT"), text("6X4")}, {"C15", "value", 16e-6, 100e-6}},
                          "V5",
                          "Peak plate current",
                          false},
                    Wrong{"source",
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
  auto design = sample("slipway-18").ink;
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

} // namespace
} // namespace vinegar::audit
