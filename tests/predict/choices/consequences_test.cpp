// What other rectifiers, resistors, loads and mains would do, against the changed design solved anew.
#include "predict/choices/consequences.h"
#include "predict/supply/regulation.h"
#include "predict/supply/supply_budget.h"
#include "predict/supply/supply_events.h"
#include "support/supply_designs.h"

#include <cmath>
#include <gtest/gtest.h>

namespace vinegar::predict {
namespace {

using testing_support::library;
using testing_support::onSupply;
using testing_support::sample;
using testing_support::sectionsOf;
using testing_support::supplyUse;
using testing_support::TestSupply;

TEST(Consequences, EveryRowIsTheDesignWithItsChangeMade) {
  const auto design = sample("slipway").ink;
  const auto choices = rectifierChoices(design, library());
  EXPECT_GE(choices.size(), 7U);
  const auto rows = consequencesOf(design, library(), choices);
  ASSERT_EQ(rows.size(), choices.size());
  int standing = 0;
  for (const auto& row : rows) {
    ASSERT_FALSE(row.problem) << row.choice.title;
    standing += row.choice.changes.empty();
    const auto alone = testing_support::solve(amp::withChanges(design, library(), row.choice.changes));
    for (const auto& rail : row.report.rails)
      EXPECT_NEAR(rail.volts, alone.point.volts(rail.node), 5e-3) << row.choice.title;
    for (std::size_t t = 0; t < row.tubes.size(); ++t)
      EXPECT_NEAR(row.tubes[t].plateWatts, alone.point.tubes[t].plateWatts, 1e-3) << row.choice.title;
  }
  EXPECT_EQ(standing, 1);
  // A stiffer rectifier raises the volts, the current and the heat of every tube after it.
  const auto named = [&](const char* title) {
    return std::find_if(rows.begin(), rows.end(), [&](const auto& r) { return r.choice.title == title; });
  };
  const auto soft = named("5Y3GT"), hard = named("5AR4"), heater = named("EZ81");
  EXPECT_GT(hard->report.rails[1].volts, soft->report.rails[1].volts + 20);
  EXPECT_GT(hard->tubes.back().plateWatts, soft->tubes.back().plateWatts * 1.1);
  EXPECT_FALSE(hard->warnings.empty());
  EXPECT_TRUE(soft->warnings.empty());
  // Its heater moves from the 5 V winding to the 6.3 V one.
  EXPECT_LT(heater->report.windings[1].rmsAmps, 0.01);
  EXPECT_GT(heater->report.windings[2].rmsAmps, soft->report.windings[2].rmsAmps + 0.9);
}

TEST(Consequences, ARowWithoutAnswerSaysSo) {
  auto design = sample("slipway").ink;
  const auto rows = consequencesOf(design, library(), {{"bad", {{"R3", "value", 120e3, -1.0}}}});
  ASSERT_EQ(rows.size(), 1U);
  EXPECT_TRUE(rows[0].problem);
}

TEST(SeriesResistor, IsTheDropOverTheRiseAndIsSolvedWhole) {
  const auto design =
      amp::withChanges(sample("slipway").ink, library(), {{"V5", "tube", std::string("5Y3GT"), std::string("1N4007")}});
  const auto answer = seriesResistorOf(design, library(), {20, 0.16});
  ASSERT_TRUE(answer) << answer.error().line();
  EXPECT_NEAR(answer->exactOhms, 20 / (0.16 - answer->idleAmps), 1e-6);
  EXPECT_DOUBLE_EQ(answer->ohms, units::nearest(units::Series::e12, answer->exactOhms));
  // Charging pulses do not change the mean drop: it is the mean current's.
  EXPECT_NEAR(answer->fullDrop / (answer->ohms * 0.16), 1, 0.03);
  EXPECT_GT(answer->wattsFull, answer->ohms * 0.16 * 0.16);
  EXPECT_GE(answer->wattsToBuy, 2 * answer->wattsFull);
  EXPECT_LT(answer->idleVolts, answer->idleVoltsBefore);
  const auto solved = testing_support::solve(amp::withChanges(design, library(), answer->changes));
  EXPECT_NEAR(solved.point.volts(mainRails(solved.circuit).fed), answer->idleVolts, 0.01);
  EXPECT_FALSE(seriesResistorOf(design, library(), {20, 0.01}));
  EXPECT_FALSE(seriesResistorOf(design, library(), {-5, 0.2}));
}

TEST(Regulation, FallsWithLoadAndPassesTheIdlePoint) {
  const auto design = sample("slipway").ink;
  const auto curve = regulationOf(design, library(), {}, {1e-3, 0.03, 0.06, 0.09, 0.12, 0.15});
  ASSERT_TRUE(curve) << curve.error().line();
  for (std::size_t i = 1; i < curve->volts.size(); ++i)
    EXPECT_LT(curve->volts[i], curve->volts[i - 1]);
  const auto solved = testing_support::solve(design);
  const auto at = regulationOf(design, library(), {}, {solved.point.supply->loadAmps});
  // Nearly all of the load is on the first rail; the rest is behind the choke.
  EXPECT_NEAR(at->volts[0] / solved.point.volts(mainRails(solved.circuit).fed), 1, 0.01);
}

TEST(FirstCapacitor, IsFoundThroughWiresAndResistors) {
  const auto find = [](const amp::Design& design) { return firstCapacitor(*amp::compile(design, library())); };
  const auto slipway = find(sample("slipway").ink);
  ASSERT_TRUE(slipway);
  EXPECT_NEAR(slipway->farads, 16e-6, 1e-12);
  TestSupply s{"", "supply-full-wave", "5Y3GT", 320, 110, 50, 100, 32e-6, {}, 0};
  const auto series = find(onSupply(sectionsOf(s)));
  ASSERT_TRUE(series);
  EXPECT_NEAR(series->seriesOhms, 100, 1e-9);
  s.farads = 0;
  s.sections = {{10, 100, 22e-6}};
  EXPECT_FALSE(find(onSupply(sectionsOf(s)))); // choke input
  auto pair = sectionsOf({"", "supply-full-wave", "5Y3GT", 320, 110, 50, 0, 32e-6, {}, 0});
  pair[1] =
      supplyUse("reservoir", "supply-reservoir-pair", "N0", {{"C1", {{"value", 100e-6}}}, {"C2", {{"value", 100e-6}}}});
  const auto two = find(onSupply(pair));
  ASSERT_TRUE(two);
  EXPECT_NEAR(two->farads, 50e-6, 1e-12);
}

/// The budget's own figures: the mains at its ends against whole solves of designs with that mains, and the divider
/// that lifts the heaters against Ohm's law.
TEST(Budget, IsWhatTheAmplifierDoesAtThoseMains) {
  const auto design = sample("slipway").ink;
  const auto budget = predictBudget(*predictIdle(design, library()), library());
  ASSERT_TRUE(budget);
  ASSERT_EQ(budget->cases.size(), 5U);
  for (const auto& one : budget->cases) {
    const auto circuit =
        amp::compile(amp::withChanges(design, library(), {{"Mains", "value", 230.0, 230 * one.share}}), library());
    const auto cold = predictSupplyIdle(*circuit, nullptr, {one.tubesIn ? 1.0 : 0.0, 0, 0});
    ASSERT_TRUE(cold && !one.problem);
    EXPECT_NEAR(one.mainsVolts, 230 * one.share, 1e-9);
    EXPECT_NEAR(one.railVolts, cold->meanVolts(mainRails(*circuit).fed), 1e-2);
    // Heaters follow the mains, and a little what the HT takes through the primary's resistance.
    EXPECT_NEAR(one.heaterVolts.back() / (one.share * budget->report.heaters.back().rmsVolts), 1, 0.03);
  }
  ASSERT_TRUE(budget->elevation); // V2b's cathode stands at some 80 V
  const auto& e = *budget->elevation;
  const double rail = budget->cases[1].railVolts;
  EXPECT_NEAR(e.volts, rail * e.lowerOhms / (e.lowerOhms + e.upperOhms), 1e-6);
  EXPECT_NEAR(e.volts, e.wantedVolts, 0.12 * e.wantedVolts); // E12
  double most = 0;
  for (const auto& hk : budget->report.heaterCathodes)
    most = std::max(most, hk.volts);
  EXPECT_NEAR(e.wantedVolts, most / 2, 1e-9);
}

/// As questions of an idle amplifier they answer what asking one by one does, and stop when they are told to.
TEST(SupplyQuestions, AnswerAsTheirPartsDoAndStop) {
  const auto design = sample("slipway").ink;
  const auto idle = *predictIdle(design, library());
  const auto choices = predictConsequences(idle, library(), {"V5"}, {});
  ASSERT_TRUE(choices);
  const auto rows = consequencesOf(design, library(), rectifierChoices(design, library()));
  ASSERT_EQ(choices->rows.size(), rows.size());
  for (std::size_t r = 0; r < rows.size(); ++r)
    EXPECT_NEAR(choices->rows[r].report.rails[0].volts, rows[r].report.rails[0].volts, 1e-2) << rows[r].choice.title;
  const auto regulation = predictRegulation(idle, library(), {true}, {});
  ASSERT_TRUE(regulation);
  EXPECT_EQ(regulation->curves.front().type, "5Y3GT"); // the design's own
  EXPECT_EQ(regulation->curves.size() + regulation->without.size(), rows.size());
  EXPECT_NEAR(regulation->idleAmps, idle.point.supply->loadAmps, 1e-12);
  const auto never = [](double) { return false; };
  EXPECT_TRUE(predictConsequences(idle, library(), {"V5"}, never).error().cancelled);
  EXPECT_TRUE(predictRegulation(idle, library(), {true}, never).error().cancelled);
  EXPECT_TRUE(predictBudget(idle, library(), {}, never).error().cancelled);
  EXPECT_TRUE(predictDischarge(idle, library(), {false}, never).error().cancelled);
}

} // namespace
} // namespace vinegar::predict
