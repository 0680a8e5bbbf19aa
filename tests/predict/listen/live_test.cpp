// The amplifier as a sound device would ask for it: blocks, rates, values turned while it plays.
#include "predict/listen/live.h"

#include "support/bench_design.h"

#include <cmath>
#include <gtest/gtest.h>
#include <numbers>

namespace vinegar::predict {
namespace {

using testing_support::sampleAtRest;

std::vector<float> tone(std::size_t count, double rate, double hertz = 220) {
  std::vector<float> samples(count);
  for (std::size_t k = 0; k < count; ++k) {
    const double t = static_cast<double>(k) / rate;
    samples[k] = static_cast<float>(std::min(1.0, t / 0.01) * std::sin(2 * std::numbers::pi * hertz * t));
  }
  return samples;
}
std::vector<float> play(Live& live, const std::vector<float>& in, std::size_t block, Live::Block* all = nullptr) {
  std::vector<float> out(in.size());
  for (std::size_t at = 0; at < in.size(); at += block) {
    const auto done = live.play(in.data() + at, out.data() + at, std::min(block, in.size() - at));
    EXPECT_EQ(done.held, 0);
    EXPECT_LE(done.most, Live::mostEvaluations);
    if (!all) continue;
    all->steps += done.steps;
    all->evaluations += done.evaluations;
  }
  return out;
}
Live made(const Idle& idle, const LiveSetup& setup) {
  auto live = Live::make(idle, setup);
  EXPECT_TRUE(live) << live.error().line();
  return std::move(*live);
}
double rms(const std::vector<float>& samples, std::size_t from) {
  double sum = 0;
  for (std::size_t k = from; k < samples.size(); ++k)
    sum += static_cast<double>(samples[k]) * static_cast<double>(samples[k]);
  return std::sqrt(sum / static_cast<double>(samples.size() - from));
}

TEST(Live, BlocksOfAnyLengthAreOneSoundAndARestartIsExact) {
  LiveSetup setup;
  setup.inputPeak = 0.3;
  auto live = made(sampleAtRest("net-loft"), setup);
  const auto in = tone(3000, 48000);
  Live::Block all;
  const auto whole = play(live, in, 3000, &all);
  EXPECT_EQ(all.steps, 3000);
  for (const std::size_t block : {1U, 64U, 999U}) {
    live.restart();
    EXPECT_EQ(play(live, in, block), whole) << block;
  }
  EXPECT_GT(rms(whole, 1000), 1);
}

TEST(Live, AnotherRateIsTheSameSound) {
  const auto idle = sampleAtRest("net-loft");
  LiveSetup setup;
  setup.inputPeak = 0.01;
  auto plain = made(idle, setup);
  const double wanted = rms(play(plain, tone(14400, 48000), 512), 9600);
  for (const double rate : {44100.0, 96000.0, 22050.0}) {
    setup.samplesPerSecond = rate;
    auto other = made(idle, setup);
    const auto out = play(other, tone(static_cast<std::size_t>(0.3 * rate), rate), 480);
    EXPECT_NEAR(20 * std::log10(rms(out, static_cast<std::size_t>(0.2 * rate)) / wanted), 0, 0.15) << rate;
  }
}

/// Values are turned while it plays: no jump at that sample, and then it is the other amplifier.
/// Steps that err are gone through in quarters and counted: nearer to four times as many steps all the while.
TEST(Live, StepsThatErrAreGoneThroughFiner) {
  const auto idle = sampleAtRest("net-loft");
  LiveSetup setup;
  setup.samplesPerSecond = setup.engineRate = 12000;
  setup.inputPeak = 0.5;
  auto free = made(idle, setup);
  setup.mostStepError = 0.01;
  auto watched = made(idle, setup);
  setup.mostStepError = 0;
  setup.samplesPerSecond = setup.engineRate = 48000;
  auto fine = made(idle, setup);
  const auto in = tone(3000, 12000, 900), dense = tone(12000, 48000, 900);
  const auto coarse = play(free, in, 250), want = play(fine, dense, 1000);
  std::vector<float> out(in.size());
  long redone = 0;
  for (std::size_t at = 0; at < in.size(); at += 250)
    redone += watched.play(in.data() + at, out.data() + at, 250).redone;
  EXPECT_GT(redone, 500);
  double off = 0, offFree = 0;
  for (std::size_t k = 1; k < in.size(); ++k) {
    const double wanted = static_cast<double>(want[4 * k]); // both begin at the first sample
    off += std::pow(static_cast<double>(out[k]) - wanted, 2);
    offFree += std::pow(static_cast<double>(coarse[k]) - wanted, 2);
  }
  EXPECT_LT(off, 0.25 * offFree);
  // Never over its bound it is the same, digit for digit; and a turned value is taken as well.
  setup.samplesPerSecond = setup.engineRate = 12000;
  setup.mostStepError = 10;
  auto never = made(idle, setup);
  EXPECT_EQ(play(never, in, 250), coarse);
  EXPECT_FALSE(watched.turn(testing_support::changed(idle, {testing_support::valued(idle, "R14", 1500)})));
  for (const float one : play(watched, in, 250))
    ASSERT_TRUE(std::isfinite(one));
  watched.restart();
  std::vector<float> again(in.size());
  for (std::size_t at = 0; at < in.size(); at += 250)
    watched.play(in.data() + at, again.data() + at, 250);
  EXPECT_EQ(std::all_of(again.begin(), again.end(), [](float one) { return std::isfinite(one); }), true);
}

TEST(Live, TurningAValueMakesNoClickAndIsTheOtherAmplifierThen) {
  const auto idle = sampleAtRest("net-loft");
  const auto louder = testing_support::changed(idle, {testing_support::valued(idle, "R8", 120e3)});
  LiveSetup setup;
  setup.inputPeak = 0.01;
  auto live = made(idle, setup);
  const auto in = tone(24000, 48000);
  std::vector<float> out(in.size());
  live.play(in.data(), out.data(), 4000);
  ASSERT_FALSE(live.turn(louder));
  for (std::size_t at = 4000; at < in.size(); at += 4000)
    live.play(in.data() + at, out.data() + at, 4000);
  double steepest = 0; // of the wave itself
  for (std::size_t k = 22000; k + 1 < 24000; ++k)
    steepest = std::max(steepest, std::abs(static_cast<double>(out[k + 1] - out[k])));
  for (std::size_t k = 3990; k < 4100; ++k)
    EXPECT_LT(std::abs(static_cast<double>(out[k + 1] - out[k])), 2 * steepest + 1e-3) << k;
  auto fresh = made(louder, setup);
  const auto wanted = play(fresh, in, 4000);
  EXPECT_NEAR(rms(out, 20000), rms(wanted, 20000), 0.03 * rms(wanted, 20000));
  // What is put together otherwise is no turned value.
  const auto problem = live.turn(sampleAtRest("slipway"));
  ASSERT_TRUE(problem);
  EXPECT_FALSE(problem->line().empty());
}

TEST(Live, HostileSamplesAndPlacesAreTakenAsWhatTheyAre) {
  const auto idle = sampleAtRest("slipway");
  LiveSetup setup;
  setup.inputPeak = 10;
  auto live = made(idle, setup);
  std::vector<float> in(2000);
  for (std::size_t k = 0; k < in.size(); ++k)
    in[k] = k % 7 == 0 ? INFINITY : k % 11 == 0 ? NAN : (k % 50 < 25 ? 1.0F : -1.0F);
  for (const float one : play(live, in, 500))
    ASSERT_TRUE(std::isfinite(one));
  setup.output = "nowhere";
  const auto refused = Live::make(idle, setup);
  ASSERT_FALSE(refused);
  EXPECT_NE(refused.error().line().find("nowhere"), std::string::npos);
}

} // namespace
} // namespace vinegar::predict
