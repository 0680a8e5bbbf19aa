// Hiss and its cures.
#include "predict/levels/levels.h"
#include "predict/quiet/hiss.h"
#include "predict/voice/weight.h"
#include "predict/wave/stage_ports.h"
#include "support/bench_design.h"
#include "support/samples.h"

#include <cmath>
#include <gtest/gtest.h>

namespace vinegar::predict {
namespace {

using testing_support::changed;
using testing_support::levels;
using testing_support::library;
using testing_support::sampleAtRest;
using testing_support::valued;

using testing_support::atRest;
using testing_support::benchDesign;
using testing_support::use;

// --- hiss ---

/// IEC 61672-1, 2013, table 3.
TEST(Hiss, TheEarsWeightIsTheStandards) {
  for (const auto& [hertz, decibels] : {std::pair{31.62, -39.4},
                                        {100.0, -19.1},
                                        {501.2, -3.2},
                                        {1000.0, 0.0},
                                        {1995.3, 1.2},
                                        {5011.9, 0.5},
                                        {10000.0, -2.5},
                                        {19952.6, -9.3}})
    EXPECT_NEAR(20 * std::log10(weightA(hertz)), decibels, 0.06) << hertz;
}

TEST(Hiss, SourcesAddUpAndCuresDoWhatIsTold) {
  VINEGAR_LONG_TEST(numbers);
  for (const char* name : {"slipway", "chandlery", "harbour-office", "net-loft"}) {
    const auto idle = sampleAtRest(name);
    const auto hiss = predictHiss(idle, library(), {});
    ASSERT_TRUE(hiss) << name << ": " << hiss.error().line();
    double volts = 0, weighted = 0, shares = 0;
    for (const auto& source : hiss->sources) {
      volts += source.volts * source.volts;
      weighted += source.weighted * source.weighted;
      shares += source.share;
    }
    EXPECT_NEAR(std::sqrt(volts) / hiss->volts, 1, 1e-6) << name;
    EXPECT_NEAR(std::sqrt(weighted) / hiss->weighted, 1, 1e-6) << name;
    EXPECT_NEAR(shares, 1, 1e-6) << name;
    ASSERT_FALSE(hiss->cures.empty()) << name;
    for (const auto& cure : hiss->cures) {
      const auto other = changed(idle, {cure.change});
      const auto after = predictHiss(other, library(), {false});
      ASSERT_TRUE(after);
      EXPECT_LT(cure.quieter, 0);
      EXPECT_NEAR(20 * std::log10(after->weighted / hiss->weighted), cure.hiss, 0.02) << name << cure.change.part;
      EXPECT_NEAR(levels(other, {1000})[0] - levels(idle, {1000})[0], cure.gain, 0.02) << name << cure.change.part;
    }
  }
}

TEST(Hiss, NeedsASpeaker) {
  const auto idle = atRest(benchDesign({use("end", "line-load")}));
  const auto hiss = predictHiss(idle, library(), {});
  ASSERT_FALSE(hiss);
  EXPECT_EQ(hiss.error().place, "the speaker");
}

/// Full volts are those of clean power's own wave at the speaker.
TEST(Hiss, FullVoltsAreCleanPowersOwn) {
  for (const char* name : {"slipway", "net-loft"}) {
    const auto idle = sampleAtRest(name);
    const auto hiss = predictHiss(idle, library(), {false});
    const auto clean = predictCleanPower(idle, library());
    ASSERT_TRUE(hiss && hiss->fullVolts && clean && clean->power) << name;
    const auto levels = predictLevels(idle, library(), {1000, clean->power->atOnce.inputPeak, true});
    ASSERT_TRUE(levels);
    const auto speaker = std::find_if(levels->sections.begin(), levels->sections.end(),
                                      [](const auto& level) { return level.section == "speaker"; });
    ASSERT_NE(speaker, levels->sections.end()) << name;
    EXPECT_NEAR(20 * std::log10(*hiss->fullVolts / speaker->rms), 0, 0.01) << name;
    EXPECT_NEAR(*hiss->underFull(), 20 * std::log10(hiss->weighted / *hiss->fullVolts), 1e-9);
  }
}

/// By the other solver, which picks its pivots at each frequency.
TEST(Hiss, RadioIsWhatTheFirstGridGetsAtAMegahertz) {
  const auto idle = sampleAtRest("slipway");
  const auto hiss = predictHiss(idle, library(), {false});
  ASSERT_TRUE(hiss && hiss->radio);
  const SmallSignal signal(idle, 1e6);
  const auto grid = idle.circuit->part("V1a")->nodes[1];
  EXPECT_NEAR(*hiss->radio, 20 * std::log10(std::abs(signal.volts(grid) / signal.volts(idle.circuit->probe("jack")))),
              1e-6);
  EXPECT_LT(*hiss->radio, -6); // that is what the stopper is for
}

} // namespace
} // namespace vinegar::predict
