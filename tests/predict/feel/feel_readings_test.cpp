// What is read of a burst, against the idle state, the supply's own report and other methods.
#include "predict/feel/feel.h"
#include "predict/levels/levels.h"
#include "predict/supply/supply.h"
#include "predict/wave/held_sine.h"
#include "predict/wave/played.h"
#include "support/bench_design.h"
#include "support/phrases.h"

#include <cmath>
#include <numeric>

namespace vinegar::predict {
namespace {

using testing_support::heldSine;
using testing_support::library;
using testing_support::sampleAtRest;
using testing_support::sound;

Feel felt(const Idle& idle, const BurstQuestion& question) {
  auto feel = predictFeel(idle, library(), question);
  EXPECT_TRUE(feel) << feel.error().line();
  return std::move(*feel);
}

/// Played so softly that nothing moves, every reading is the idle state's, which other code has found another way.
TEST(FeelReadings, AtRestAreThoseOfTheSupplyPageAndTheOperatingPoint) {
  for (const char* name : {"slipway", "chandlery", "net-loft"}) {
    SCOPED_TRACE(name);
    const auto idle = sampleAtRest(name);
    const auto feel = felt(idle, {heldSine(330, 0.1, 0.2), 1e-6, 48000});
    const auto report = readSupply(*idle.circuit, library(), idle.point);
    int checked = 0;
    for (const auto& stress : feel.stresses) {
      SCOPED_TRACE(stress.part + " " + std::string(words(stress.quantity)));
      double wanted = NAN;
      for (const auto& tube : idle.point.tubes)
        if (tube.name == stress.part)
          wanted = stress.quantity == Rating::Quantity::plateWatts ? tube.plateWatts : tube.screenWatts.value_or(NAN);
      for (const auto& rectifier : report.rectifiers)
        if (rectifier.part == stress.part)
          wanted = stress.quantity == Rating::Quantity::peakAmps ? rectifier.peakAmps : rectifier.totalAmps;
      if (stress.quantity == Rating::Quantity::windingAmps) {
        wanted = 0;
        for (const auto& winding : report.windings)
          if (winding.part == stress.part && winding.rmsVolts > 50) wanted = std::max(wanted, winding.rmsAmps);
      }
      if (std::isnan(wanted)) continue; // a bias diode, which the report leaves out
      ++checked;
      EXPECT_NEAR(stress.idle, wanted, 0.02 * wanted);
      EXPECT_NEAR(stress.value, wanted, 0.02 * wanted);
    }
    EXPECT_GE(checked, 4);
    for (const auto& move : feel.bias) {
      const auto tube = std::find_if(idle.point.tubes.begin(), idle.point.tubes.end(),
                                     [&](const auto& one) { return one.name == move.tube; });
      ASSERT_NE(tube, idle.point.tubes.end());
      EXPECT_NEAR(move.before, tube->gridVolts, 0.02 * std::abs(tube->gridVolts));
      EXPECT_LT(std::abs(move.most), 0.002 * std::abs(tube->gridVolts));
    }
    ASSERT_GE(feel.fed, 0);
    const auto& fed = feel.rails[static_cast<std::size_t>(feel.fed)];
    const auto rail =
        std::find_if(report.rails.begin(), report.rails.end(), [&](const auto& one) { return one.name == fed.rail; });
    ASSERT_NE(rail, report.rails.end());
    EXPECT_NEAR(fed.before, rail->volts, 0.002 * rail->volts);
    const auto times = static_cast<std::size_t>(std::lround(feel.rippleHertz / feel.burst.mainsHertz));
    EXPECT_EQ(times, 2U); // both halves of the wave
    EXPECT_NEAR(feel.rippleAtRest, 2 * rail->harmonics[times], 0.03 * feel.rippleAtRest);
    EXPECT_NEAR(feel.rippleVolts, feel.rippleAtRest, 0.03 * feel.rippleAtRest);
    ASSERT_EQ(feel.beats.size(), 2U);
    EXPECT_NEAR(feel.beats[0].hertz, 330 - 100, 1e-9);
    EXPECT_NEAR(feel.beats[1].hertz, 330 + 100, 1e-9);
  }
}

/// A sine held for seconds: rails and output come to where the mean currents' own equations have them, which are solved
/// round after round without any time.
TEST(FeelReadings, UnderAHeldSineAreThoseOfTheMeanCurrents) {
  VINEGAR_LONG_TEST(numbers);
  constexpr double hertz = 1000;
  for (const auto& [name, peak] : {std::pair{"chandlery", 0.02}, {"slipway", 0.0065}}) {
    SCOPED_TRACE(name);
    const auto idle = sampleAtRest(name);
    const auto held = holdSine(idle, library(), hertz, peak);
    ASSERT_TRUE(held) << held.error().line();
    const BurstQuestion question{heldSine(hertz, 2.5, 2.6), peak, 48000};
    const auto feel = felt(idle, question);
    const auto& fed = feel.rails[static_cast<std::size_t>(feel.fed)];
    for (std::size_t r = 0; r < held->railVolts.size(); ++r) {
      const auto& rail = idle.circuit->rails[r];
      if (rail.name != fed.rail) continue;
      const double droop = idle.point.volts(rail.node) - held->railVolts[r];
      ASSERT_GT(droop, 2);
      EXPECT_NEAR(fed.before - fed.settled, droop, 0.08 * droop + 0.3);
    }
    // What rails, screens and cathodes take from the output, by waves on each of the two states.
    const auto speaker = idle.circuit->probe("speaker");
    const auto level = [&, drive = peak](const Idle& state) {
      const auto wave = driveAmplifier(SmallSignal(state, hertz), drive, {speaker});
      EXPECT_TRUE(wave);
      return 10 * std::log10(wave->volts.row(0).squaredNorm());
    };
    const auto blame = predictBlame(idle, library(), {question.sound, peak, 24000});
    ASSERT_TRUE(blame);
    double last = 0;
    for (std::size_t k = 0; k < blame->seconds.size(); ++k)
      if (blame->seconds[k] > 2 && blame->seconds[k] < 2.4) last = blame->supply[k] + blame->bias[k];
    // Waves of some periods know of no grid that charges over seconds, and their rails give way a little: a quarter.
    EXPECT_NEAR(last, level(idle) - level(held->idle), 0.25 * last);
  }
}

/// What a bias moves by is told apart: a cathode that rises is the cathode's, a grid that falls the grid's.
TEST(FeelReadings, TellWhoMovesTheBias) {
  const auto idle = sampleAtRest("slipway");
  const auto tone = heldSine(330, 0.4, 0.5);
  auto burst = playBurst(idle, library(), {tone, 1e-6, 6000});
  ASSERT_TRUE(burst);
  for (auto& track : burst->tracks)
    for (std::size_t k = 0; k < track.mean.size(); ++k) {
      const double t = burst->secondsOf(k);
      const bool moved = t > 0.1 && t < 0.3;
      if (track.name != "V3" || !moved) continue;
      if (track.what == Track::What::cathode) track.mean[k] = static_cast<float>(track.rest + 3);
      if (track.what == Track::What::grid) track.mean[k] = static_cast<float>(track.rest - 5);
    }
  const auto feel = readBurst(idle, library(), *burst, *tone);
  const auto move = std::find_if(feel.bias.begin(), feel.bias.end(), [](const auto& one) { return one.tube == "V3"; });
  ASSERT_NE(move, feel.bias.end());
  EXPECT_NEAR(move->most, -5, 1e-3);
  EXPECT_NEAR(move->byCathode, -3, 1e-3);
  EXPECT_NEAR(move->byGrid, -2, 1e-3);
  EXPECT_NEAR(move->atEnd, 0, 0.01);
}

/// Power is what the loudspeaker takes of the loudest period, as small signals have it of a sine that does not clip;
/// its rated ohms would take something else.
TEST(FeelReadings, LoudestIsTheSinesOwnPower) {
  const auto idle = sampleAtRest("slipway");
  const auto feel = felt(idle, {heldSine(1000, 0.3, 0.4), 0.001, 48000});
  const auto settled = feel.burst.output.begin() + static_cast<std::ptrdiff_t>(0.25 * 48000);
  const auto [low, high] = std::minmax_element(settled, settled + 960);
  EXPECT_NEAR(feel.outputVolts, static_cast<double>(*high - *low) / 2 / std::sqrt(2.0), 0.02 * feel.outputVolts);
  const auto small = predictLevels(idle, library(), {1000, 0.001, false});
  ASSERT_TRUE(small && small->speakerWatts);
  EXPECT_NEAR(feel.outputWatts / *small->speakerWatts, 1, 0.05);
}

} // namespace
} // namespace vinegar::predict
