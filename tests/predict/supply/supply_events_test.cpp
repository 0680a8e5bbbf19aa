// Switching on and off, against exponentials and what each kind of rectifier must do.
#include "circuit/transient.h"
#include "predict/feel/burst.h"
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
using testing_support::solveSupply;
using testing_support::supplyUse;
using testing_support::TestSupply;

TEST(SwitchOn, SiliconRisesAtOnceATubeWaits) {
  const auto tube = amp::compile(sample("slipway").ink, library());
  const auto silicon = amp::compile(
      amp::withChanges(sample("slipway").ink, library(), {{"V5", "tube", std::string("5Y3GT"), std::string("1N4007")}}),
      library());
  const auto slow = switchOnOf(*tube, library()), fast = switchOnOf(*silicon, library());
  ASSERT_TRUE(slow && fast);
  const auto at = [](const SwitchOnAnswer& answer, double seconds) {
    return answer.rails[1].mean[static_cast<std::size_t>(seconds * 50)];
  };
  EXPECT_LT(at(*slow, 0.3), 1);
  EXPECT_GT(at(*fast, 0.3), 400);
  // Before the tubes draw, silicon charges to the winding's peak less a volt; every rail then has it.
  EXPECT_NEAR(fast->rails.back().highest / (300 * std::sqrt(2.0)), 0.97, 0.03);
  EXPECT_GT(fast->peakAmps[0], 5 * slow->peakAmps[0]);
  // In the end both are where the idle state is.
  for (const auto& [circuit, answer] : {std::pair{&*tube, &*slow}, {&*silicon, &*fast}}) {
    const auto idle = predictSupplyIdle(*circuit);
    ASSERT_TRUE(idle);
    for (std::size_t r = 0; r < answer->rails.size(); ++r)
      EXPECT_NEAR(answer->rails[r].mean.back() / idle->meanVolts(circuit->rails[r].node), 1, 0.003);
  }
  // Hot: the tubes hold the rails down from the start, and the inrush is a warm tube's.
  const auto hot = switchOnOf(*tube, library(), {SwitchOnQuestion::From::hot, 3});
  ASSERT_TRUE(hot);
  EXPECT_LT(hot->rails[1].highest, slow->rails[1].highest - 50);
  EXPECT_GT(hot->peakAmps[0], 1.2 * slow->peakAmps[0]);
}

TEST(SwitchOn, IsCancelled) {
  const auto circuit = amp::compile(sample("slipway").ink, library());
  const auto answer =
      switchOnOf(*circuit, library(), {SwitchOnQuestion::From::cold, 30}, [](double share) { return share < 0.1; });
  ASSERT_FALSE(answer);
  EXPECT_TRUE(answer.error().cancelled);
}

TEST(Emission, GrowsFromNothingToAll) {
  EXPECT_EQ(emissionAfter(11, 0), 0);
  EXPECT_EQ(emissionAfter(11, 11), 1);
  EXPECT_EQ(emissionAfter(0, 0), 1);
  for (double t = 0; t < 11; t += 0.1)
    EXPECT_LE(emissionAfter(11, t), emissionAfter(11, t + 0.1));
}

TEST(Discharge, ThroughABleederIsTheExponential) {
  const TestSupply s{"", "supply-full-wave", "5Y3GT", 320, 110, 50, 0, 32e-6, {}, 0};
  auto supply = sectionsOf(s);
  supply[1].parts["Rbl"].settings = {{"fitted", true}, {"value", 220e3}};
  const auto solved = solveSupply(onSupply(supply), {0, 0, 0});
  const auto answer = dischargeFrom(solved.circuit, solved.idle, false);
  ASSERT_TRUE(answer) << answer.error().line();
  const auto& rail = answer->rails.back();
  ASSERT_TRUE(rail.secondsTo50);
  const double ohms = 1 / (1 / 220e3 + 32e-6 / 333); // beside the capacitor's own leakage
  EXPECT_NEAR(*rail.secondsTo50 / (ohms * 32e-6 * std::log(rail.volts.front() / 50)), 1, 0.03);
  // Without it only leakage is left: longer than was asked for.
  supply[1].parts["Rbl"].settings = {{"fitted", false}};
  const auto bare = solveSupply(onSupply(supply), {0, 0, 0});
  const auto slow = dischargeFrom(bare.circuit, bare.idle, false, 300);
  ASSERT_TRUE(slow);
  EXPECT_FALSE(slow->rails.back().secondsTo50);
  EXPECT_FALSE(slow->slowest()->secondsTo50);
  // Behind a second transformer without a bleeder it is the other rail that says when an amplifier may be touched.
  auto twoSupplies = sectionsOf({"", "supply-two-transformers", "5Y3GT", 320, 110, 50, 0, 32e-6, {}, 0});
  twoSupplies[1].parts["Rbl"].settings = {{"fitted", true}, {"value", 100e3}};
  twoSupplies.push_back(supplyUse("other", "supply-reservoir", "M0", {{"Rbl", {{"fitted", false}}}}));
  twoSupplies.back().joins["from"] = "front.otherRail";
  auto both = onSupply(twoSupplies);
  for (auto* section : both.sections())
    for (auto& [port, target] : section->joins)
      if (target == "M0") target = "N0";
  const auto held = solveSupply(both, {0, 0, 0});
  const auto last = dischargeFrom(held.circuit, held.idle, false, 300);
  ASSERT_TRUE(last) << last.error().line();
  EXPECT_EQ(last->slowest()->name, "M0");
  EXPECT_EQ(last->fed, held.circuit.probe("N0"));
  // Tubes that are in and warm empty it in no time.
  const auto warm = solveSupply(onSupply(supply));
  const auto quick = dischargeFrom(warm.circuit, warm.idle, true, 300);
  ASSERT_TRUE(quick && quick->rails.back().secondsTo50);
  EXPECT_LT(*quick->rails.back().secondsTo50, 5);
}

/// With the tubes in, against error-controlled integration of the whole amplifier; without, from the unloaded peak.
TEST(Discharge, CountsTheSignalPathAndTheHighestRails) {
  for (const char* name : {"slipway", "harbour-office"}) {
    const auto idle = predictIdle(sample(name).ink, library());
    ASSERT_TRUE(idle);
    const auto in = predictDischarge(*idle, library(), {true}, {});
    ASSERT_TRUE(in) << in.error().line();
    circuit::TransientQuestion question;
    question.duration = 2.5;
    question.samplesPerSecond = 400;
    question.relativeTolerance = 1e-4;
    for (const auto& rail : in->rails)
      question.outputs.push_back(rail.node);
    const auto exact = circuit::solveTransient(circuit::System(idle->circuit->netlist), startOfCycle(*idle), question);
    ASSERT_TRUE(exact) << exact.error().line();
    for (std::size_t r = 0; r < in->rails.size(); ++r) {
      double to50 = 0;
      for (Eigen::Index k = 0; k < exact->volts.cols(); ++k)
        if (exact->volts(static_cast<Eigen::Index>(r), k) > 50) to50 = exact->seconds[static_cast<std::size_t>(k)];
      ASSERT_TRUE(in->rails[r].secondsTo50);
      EXPECT_NEAR(*in->rails[r].secondsTo50 / to50, 1, 0.03) << name << " " << in->rails[r].name;
    }
    // What its currents at rest would suggest is too short: cut-off tubes draw nothing.
    const auto blind = dischargeFrom(*idle->circuit, *idle->point.supply, true);
    ASSERT_TRUE(blind && blind->slowest()->secondsTo50);
    EXPECT_GT(*in->slowest()->secondsTo50, *blind->slowest()->secondsTo50);
    const auto out = predictDischarge(*idle, library(), {false}, {});
    ASSERT_TRUE(out);
    const auto unloaded = unloadedSupply(*idle->circuit, *idle->point.supply);
    ASSERT_TRUE(unloaded);
    for (const auto& rail : out->rails) {
      EXPECT_NEAR(rail.volts.front(), unloaded->meanVolts(rail.node), 0.5);
      EXPECT_GT(rail.volts.front(), 1.05 * idle->point.volts(rail.node));
    }
  }
}

/// Off for a moment and on again: the capacitors start from where that moment's discharge leaves them.
TEST(SwitchOn, HotStandbyAndColdAreThreeDifferentThings) {
  const auto solved = testing_support::solve(testing_support::sample("slipway").ink);
  using From = SwitchOnQuestion::From;
  const auto start = [&](From from) {
    const auto answer = switchOnOf(solved.circuit, testing_support::library(), {from, 0.4});
    EXPECT_TRUE(answer) << answer.error().line();
    return *answer;
  };
  const auto cold = start(From::cold), standby = start(From::standby), hot = start(From::hot);
  const auto off = dischargeFrom(solved.circuit, *solved.point.supply, true, offSeconds);
  ASSERT_TRUE(off);
  // The last rail, behind all filters, is slow enough to still show where it started after a cycle.
  const double left = off->rails.back().volts.back();
  EXPECT_GT(left, 100);
  EXPECT_NEAR(hot.rails.back().mean.front(), left, 0.1 * left);
  EXPECT_LT(standby.rails.back().mean.front(), 0.1 * left);
  EXPECT_LT(*std::max_element(hot.peakAmps.begin(), hot.peakAmps.end()),
            *std::max_element(standby.peakAmps.begin(), standby.peakAmps.end()));
  EXPECT_LT(cold.rails[1].mean.back(), 1); // the rectifier is not yet warm
  EXPECT_GT(standby.rails[1].mean.back(), 100);
}

} // namespace
} // namespace vinegar::predict
