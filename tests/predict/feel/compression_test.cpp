// How much louder an amplifier gets where it is played harder.
#include "predict/feel/compression.h"

#include "predict/feel/feel.h"
#include "support/bench_design.h"
#include "support/paths.h"
#include "support/phrases.h"

#include <cmath>
#include <gtest/gtest.h>

namespace vinegar::predict {
namespace {

using testing_support::heldSine;
using testing_support::library;
using testing_support::sampleAtRest;

double levelOf(const Burst& burst, double from, double to) {
  double sum = 0, count = 0;
  for (std::size_t k = 0; k < burst.output.size(); ++k) {
    const double t = static_cast<double>(k) / burst.samplesPerSecond - burst.lead;
    if (t < from || t > to) continue;
    sum += static_cast<double>(burst.output[k]) * static_cast<double>(burst.output[k]);
    ++count;
  }
  return 10 * std::log10(sum / count);
}

/// A held sine late in the phrase: the samples of two bursts played by themselves differ by what the row says.
TEST(Compression, IsWhatIsMissingBetweenTwoBursts) {
  VINEGAR_LONG_TEST(numbers);
  const auto idle = sampleAtRest("net-loft");
  const auto sine = heldSine(220, 0.9, 1.0);
  const BurstQuestion question{sine, 0.3, 12000};
  const auto compression = predictCompression(idle, library(), question);
  ASSERT_TRUE(compression) << compression.error().line();
  ASSERT_EQ(compression->rows.size(), 9U);
  const auto play = [&](double peak, Held held) {
    auto one = question;
    one.inputPeak = peak;
    one.averaged = true;
    one.held = held;
    return levelOf(*playBurst(idle, library(), one), 0.76, 0.9);
  };
  const auto& rows = compression->rows;
  EXPECT_EQ(rows[compression->now].inputPeak, 0.3);
  for (const auto at : {compression->now, rows.size() - 1}) {
    const double grown = 20 * std::log10(rows[at].inputPeak / rows[0].inputPeak);
    const double free = grown - (play(rows[at].inputPeak, Held::nothing) - play(rows[0].inputPeak, Held::nothing));
    EXPECT_NEAR(rows[at].late, free, 0.15) << at;
    const double held = grown - (play(rows[at].inputPeak, Held::supply) - play(rows[0].inputPeak, Held::supply));
    EXPECT_NEAR(rows[at].bySupply, free - held, 0.15) << at;
    EXPECT_GT(free, 3) << at;
    // Struck: the most over the first quarter second, here by three periods of the mains at a time.
    auto loud = question, quiet = question;
    loud.inputPeak = rows[at].inputPeak;
    quiet.inputPeak = rows[0].inputPeak;
    loud.averaged = quiet.averaged = true;
    const auto louder = *playBurst(idle, library(), loud), quieter = *playBurst(idle, library(), quiet);
    double most = -1e9;
    for (double t = 0.06; t < 0.25; t += 0.002)
      most = std::max(most, grown - (levelOf(louder, t - 0.03, t + 0.03) - levelOf(quieter, t - 0.03, t + 0.03)));
    EXPECT_NEAR(rows[at].attack, most, 0.15) << at;
  }
  // Far under clipping an amplifier is a straight line, and the harder it is played the further from one.
  const auto quiet = predictCompression(idle, library(), {sine, 0.002, 12000});
  ASSERT_TRUE(quiet);
  for (std::size_t i = 0; i <= quiet->now; ++i)
    EXPECT_NEAR(quiet->rows[i].late, 0, 0.03) << i;
  for (std::size_t i = 1; i < rows.size(); ++i)
    EXPECT_GT(rows[i].late, rows[i - 1].late - 0.05) << i;
  // It passes 3 dB between the rows that stand around it.
  const auto from = compression->passes(3);
  ASSERT_TRUE(from);
  for (std::size_t i = 1; i < rows.size(); ++i)
    EXPECT_EQ(rows[i].late >= 3, rows[i].inputPeak >= *from) << i;
  EXPECT_FALSE(compression->passes(100));
}

/// Of a bench supply, of a phrase that is silent where it is asked, and stopped in between.
TEST(Compression, SaysWhatItCannotTell) {
  const auto preamplifier =
      testing_support::atRest(testing_support::benchDesign({testing_support::use("stage", "triode-common-cathode")}));
  const auto bench = predictCompression(preamplifier, library(), {heldSine(220, 0.5, 0.6), 0.1, 6000});
  ASSERT_TRUE(bench) << bench.error().line();
  EXPECT_FALSE(bench->hasSupply);
  for (const auto& row : bench->rows)
    EXPECT_EQ(row.bySupply, 0);
  const auto idle = sampleAtRest("net-loft");
  Phrase phrase;
  phrase.seconds = 0.5;
  phrase.notes = {{0, 0.5, 220, 0}};
  const auto silent = std::make_shared<const Sound>(phrase, testing_support::phrases().instruments.front());
  const auto none = predictCompression(idle, library(), {silent, 0.1, 6000});
  ASSERT_FALSE(none);
  EXPECT_NE(none.error().message.find("silent"), std::string::npos);
  const auto stopped =
      predictCompression(idle, library(), {heldSine(220, 0.5, 0.6), 0.1, 6000}, [](double) { return false; });
  ASSERT_FALSE(stopped);
  EXPECT_TRUE(stopped.error().cancelled);
}

} // namespace
} // namespace vinegar::predict
