// Rules on what stands in the signal's way: each fires by one change and keeps still on the samples and skeletons.
#include "amp/acts/acts.h"
#include "audit/supply_rules.h"
#include "predict/rest/grid_leak.h"
#include "predict/wave/stage_ports.h"
#include "support/bench_design.h"
#include "support/paths.h"

#include <cmath>
#include <filesystem>
#include <gtest/gtest.h>

namespace vinegar::audit {
namespace {

using testing_support::atRest;
using testing_support::library;
using testing_support::sample;

std::vector<Finding> rulesOn(const amp::Design& design) {
  const auto idle = atRest(design);
  return auditIdle(idle, library());
}

const Finding* about(const std::vector<Finding>& findings, const std::string& part, const std::string& words) {
  for (const auto& finding : findings)
    if (finding.part == part && finding.what.find(words) != std::string::npos) return &finding;
  return nullptr;
}

using testing_support::skeleton;

amp::Design with(const amp::Design& design, const std::string& part, const std::string& field, const amp::Setting& to) {
  return amp::withChanges(design, library(), amp::changesFor(design, library(), part, field, to));
}

TEST(AmplifierRules, FeedbackThatComesBackInPhase) {
  const auto& design = sample("slipway").ink;
  EXPECT_EQ(about(rulesOn(design), "R29", "in phase"), nullptr);
  EXPECT_NE(about(rulesOn(with(design, "T1", "reversed", false)), "R29", "in phase"), nullptr);
  // Without feedback there is none to be the wrong way round.
  EXPECT_EQ(about(rulesOn(*amp::removeChain(with(design, "T1", "reversed", false), library(), "feedback")), "R29",
                  "in phase"),
            nullptr);
}

/// The leak is a sum of resistors that the design names: 220k or 1M from the grid to ground.
TEST(AmplifierRules, AGridLeakOverTheCataloguesMost) {
  const auto design = sample("slipway").ink; // 6V6GT: 500k with cathode bias
  EXPECT_NEAR(*predict::gridLeakOhms(atRest(design), "V3"), 220e3 + 4.7e3, 500);
  EXPECT_EQ(about(rulesOn(design), "V3", "grid has"), nullptr);
  EXPECT_NE(about(rulesOn(with(design, "R22", "value", 1e6)), "V3", "may have 500 k"), nullptr);
  const auto fixed = skeleton("4-push-pull-fixed-bias").ink; // 6L6GC: 100k with fixed bias
  EXPECT_EQ(about(rulesOn(fixed), "V3", "grid has"), nullptr);
  const auto parts = amp::resolveParts(fixed, library());
  for (const auto& part : parts)
    if (part.part->role == "power-grid-leak") {
      EXPECT_NE(about(rulesOn(with(fixed, part.name, "value", 220e3)), "V3", "with fixed bias"), nullptr);
      break;
    }
}

TEST(AmplifierRules, AWrongLoudspeakerAWrongPrimaryAndUnlikeBottles) {
  const auto design = sample("slipway").ink;
  const auto parts = amp::resolveParts(design, library());
  const auto speaker = std::find_if(parts.begin(), parts.end(),
                                    [](const auto& part) { return part.part->kind == amp::PartKind::speaker; });
  EXPECT_NE(about(rulesOn(with(design, speaker->name, "value", 4.0)), "T1", "0.5 times the load"), nullptr);
  EXPECT_NE(about(rulesOn(with(design, speaker->name, "value", 16.0)), "T1", "2 times the load"), nullptr);
  EXPECT_NE(about(rulesOn(with(design, "T1", "value", 1500.0)), "T1", "data sheet"), nullptr);
  EXPECT_NE(about(rulesOn(with(design, "V3", "tube", std::string("6L6GC"))), "V3", "not of one type"), nullptr);
  // Behind taps on a switch it is the tap that counts.
  auto tapped = *amp::insertSection(with(design, "T1", "secondaryLoad", 16.0), library(),
                                    amp::NameBook(sample("slipway")), {"line", "output"}, "secondary-taps");
  const auto tap = amp::findPart(tapped, library(), "Speaker tap");
  ASSERT_TRUE(tap);
  tapped.knobs[tap->knob] = 2; // 8 ohm
  EXPECT_EQ(about(rulesOn(tapped), "T1", "times the load"), nullptr);
  tapped.knobs[tap->knob] = 1;
  EXPECT_NE(about(rulesOn(tapped), "T1", "0.5 times the load"), nullptr);
}

/// Through a tap the loudspeaker gets the secondary's volts over the turns.
TEST(AmplifierRules, ATapsVoltsAreTheWindingsOverItsTurns) {
  auto design = with(sample("slipway").ink, "T1", "secondaryLoad", 16.0);
  design =
      *amp::insertSection(design, library(), amp::NameBook(sample("slipway")), {"line", "output"}, "secondary-taps");
  for (const auto& [position, turns] : {std::pair{1.0, 1.0}, {2.0, std::sqrt(2.0)}, {3.0, 2.0}}) {
    auto other = design;
    other.knobs["Speaker tap"] = position;
    const auto idle = atRest(other);
    const predict::SmallSignal signal(idle, 1000);
    const auto& parts = idle.circuit->parts;
    const auto speaker = std::find_if(parts.begin(), parts.end(), [](const auto& part) {
      return part.resolved.part->kind == amp::PartKind::speaker;
    });
    const double winding = std::abs(signal.volts(idle.circuit->probe("output.out"))),
                 there = std::abs(signal.volts(speaker->nodes.front()));
    EXPECT_NEAR(winding / there / turns, 1, 0.02) << position; // the wire's resistance takes a little
  }
}

TEST(AmplifierRules, PlatesAheadOfTheReservoir) {
  auto design = skeleton("4-push-pull-fixed-bias").ink;
  const auto ahead = [](const std::vector<Finding>& findings) {
    return std::any_of(findings.begin(), findings.end(), [](const auto& finding) {
      return finding.what.find("ahead of the reservoir") != std::string::npos;
    });
  };
  EXPECT_FALSE(ahead(rulesOn(design)));
  auto* output = design.section("push-pull-fixed-bias");
  output->joins["plates"] = "A";
  for (const auto& part : amp::resolveParts(design, library()))
    if (part.part->role == "series-resistor") design = with(design, part.name, "fitted", true);
  EXPECT_TRUE(ahead(rulesOn(design)));
}

/// A section whose input grounds a grid that stood on a plate leaves the next tube without current.
TEST(AmplifierRules, ATubeThatAnotherSectionHasCutOff) {
  const auto document = skeleton("3-push-pull-cathode-bias");
  EXPECT_EQ(about(rulesOn(document.ink), "V2a", "cut off"), nullptr);
  const auto put = amp::insertSection(document.ink, library(), amp::NameBook(document),
                                      {"line", "triode-common-cathode-2"}, "effects-loop");
  ASSERT_TRUE(put);
  EXPECT_NE(about(rulesOn(*put), "V2a", "cut off at idle"), nullptr);
  // A stage that is biased cold on purpose is none.
  const auto cold =
      amp::replaceSection(sample("slipway").ink, library(), amp::NameBook(sample("slipway")), "second", "cold-clipper");
  ASSERT_TRUE(cold);
  EXPECT_EQ(about(rulesOn(*cold), "V1b", "cut off"), nullptr);
}

TEST(AmplifierRules, AFilamentIsItsTubesCathode) {
  auto design = skeleton("2-triode-for-records").ink;
  EXPECT_EQ(about(rulesOn(design), "V2", "filament"), nullptr);
  const auto shared = rulesOn(*amp::removeChain(design, library(), "filament"));
  const auto* finding = about(shared, "V2", "its filament is its cathode");
  ASSERT_NE(finding, nullptr);
  EXPECT_TRUE(finding->danger);
  // One of 5 V would hang on the rectifier's winding, at B+; on its own it has the wrong volts, which is another
  // matter.
  EXPECT_NE(about(rulesOn(*amp::removeChain(with(design, "V2", "tube", std::string("300B")), library(), "filament")),
                  "V2", "its filament is its cathode"),
            nullptr);
  EXPECT_NE(about(rulesOn(with(design, "V2", "tube", std::string("300B"))), "V2", "No heater winding"), nullptr);
}

/// Its current is the tube's own, its volts are the winding's, and the filament's middle stands at the cathode.
TEST(Filaments, FeedTheirTubeAloneAndStandAtItsCathode) {
  const auto design = skeleton("2-triode-for-records").ink;
  for (const char* kind : {"filament-ac", "filament-dc"}) {
    auto fed = design;
    if (kind != std::string("filament-ac"))
      fed = *amp::replaceSection(fed, library(), amp::NameBook({}), "filament-ac", kind);
    const auto idle = atRest(fed);
    const auto report = predict::readSupply(*idle.circuit, library(), idle.point);
    const auto bare = atRest(*amp::removeChain(design, library(), "filament"));
    // The bias is what it was with the filament forgotten.
    const auto cathode = [](const predict::Idle& of) {
      for (const auto& tube : of.point.tubes)
        if (tube.name == "V2") return tube.cathodeVoltsToGround;
      return 0.0;
    };
    EXPECT_NEAR(cathode(idle), cathode(bare), 0.02 * cathode(bare)) << kind;
    EXPECT_TRUE(report.sharedFilaments.empty()) << kind;
    int filaments = 0;
    for (const auto& heaters : report.heaters)
      if (idle.circuit->part(heaters.part)->resolved.part->role == "filament") {
        ++filaments;
        EXPECT_NEAR(heaters.rmsAmps, 1.0 * heaters.rmsVolts / 6.3, 0.02) << kind; // a 6B4G: 1 A at 6.3 V
        EXPECT_NEAR(heaters.rmsVolts, 6.3, 0.63) << kind;
        EXPECT_NEAR(heaters.meanVolts, cathode(idle), 0.5) << kind;
      } else if (heaters.nominalVolts > 6) {
        EXPECT_NEAR(heaters.rmsAmps, 0.3 * heaters.rmsVolts / 6.3, 0.02) << kind; // a 12AY7 alone
      }
    EXPECT_EQ(filaments, 1) << kind;
  }
}

/// A hard chord does to screens what idling does not show; a resistor before each cures it.
TEST(PlayedRules, TellWhatALoudChordDoesToScreens) {
  VINEGAR_LONG_TEST(numbers);
  const auto design = sample("slipway").ink;
  const auto played = [](const amp::Design& of) {
    return *auditPlayed(atRest(of), library(), {testing_support::hardChord()}, {});
  };
  EXPECT_TRUE(played(design).empty());
  const auto bare = with(with(design, "R26", "value", 100.0), "R27", "value", 100.0);
  EXPECT_NE(about(played(bare), "V3", "screen dissipate"), nullptr);
  EXPECT_EQ(about(rulesOn(bare), "V3", "screen"), nullptr); // which idling does not show
  EXPECT_TRUE(auditPlayed(atRest(bare), library(), {testing_support::hardChord()}, [](double) { return false; })
                  .error()
                  .cancelled);
}

/// What people judge by: names, bias, ratings, ripple, and no finding at rest or when played.
class Examples : public testing::TestWithParam<std::string> {};

TEST_P(Examples, AreBuiltAsAGoodBuilderWould) {
  const auto loaded = files::readDesign(GetParam(), library());
  ASSERT_TRUE(loaded) << loaded.error().line();
  const auto& design = loaded->document.ink;
  EXPECT_EQ(design.name.find_first_of("0123456789"), std::string::npos) << design.name; // no promise of watts
  const auto idle = atRest(design);
  if (idle.point.supply)
    for (const auto& finding : auditIdle(idle, library()))
      ADD_FAILURE() << finding.part << ": " << finding.what;
  if (testing_support::runsLong(testing_support::Long::numbers))
    for (const auto& finding : *auditPlayed(idle, library(), {testing_support::hardChord()}, {}))
      ADD_FAILURE() << finding.part << ": " << finding.what;
  for (const auto& tube : idle.point.tubes) {
    const auto* part = idle.circuit->part(tube.name);
    if (part->resolved.part->role != "power-tube" || !tube.plateWattsLimit) continue;
    const double share = tube.plateWatts / *tube.plateWattsLimit;
    const bool fixed = tube.cathodeVoltsToGround < 1;
    EXPECT_GT(share, fixed ? 0.55 : 0.70) << tube.name;
    EXPECT_LT(share, fixed ? 0.70 : 1.00) << tube.name;
  }
}

std::vector<std::string> examples() {
  std::vector<std::string> paths;
  for (const char* folder : {"/samples", "/skeletons"})
    for (const auto& entry : std::filesystem::directory_iterator(testing_support::folder("data") + folder))
      paths.push_back(entry.path().string());
  std::sort(paths.begin(), paths.end());
  return paths;
}
INSTANTIATE_TEST_SUITE_P(All, Examples, testing::ValuesIn(examples()), [](const auto& info) {
  std::string name = std::filesystem::path(info.param).stem().string();
  std::replace_if(
      name.begin(), name.end(), [](char c) { return !std::isalnum(static_cast<unsigned char>(c)); }, '_');
  return name;
});

} // namespace
} // namespace vinegar::audit
