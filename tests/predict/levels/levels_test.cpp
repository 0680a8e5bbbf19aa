// Levels and what moves them, against waves and against the changed design solved anew.
#include "amp/change/change.h"
#include "predict/levels/clip_order.h"
#include "predict/levels/headroom.h"
#include "predict/levels/levels.h"
#include "predict/rest/parallel.h"
#include "predict/rest/places.h"
#include "predict/stages/explain.h"
#include "predict/stages/power_stage.h"
#include "predict/stages/splitter.h"
#include "support/bench_design.h"

#include <cmath>
#include <gtest/gtest.h>
#include <mutex>
#include <numbers>
#include <numeric>
#include <set>

namespace vinegar::predict {
namespace {

using testing_support::atRest;
using testing_support::benchDesign;
using testing_support::library;
using testing_support::sample;
using testing_support::sampleAtRest;
using testing_support::use;

TEST(Levels, GainsAddUpToTheWholeAmplifiersAndWavesAgreeWhereNothingClips) {
  for (const char* name : {"slipway", "chandlery"}) {
    SCOPED_TRACE(name);
    const auto idle = predictIdle(sample(name).ink, library());
    ASSERT_TRUE(idle);
    const auto small = predictLevels(*idle, library(), {1000, 1e-5, false});
    const auto waves = predictLevels(*idle, library(), {1000, 1e-5, true});
    ASSERT_TRUE(small && waves);
    for (std::size_t i = 0; i < small->sections.size(); ++i) {
      const auto &a = small->sections[i], &b = waves->sections[i];
      if (a.rms > 1e-6 && a.chain == "line") {
        EXPECT_NEAR(b.rms / a.rms, 1, 0.01) << a.title;
      }
    }
    double sum = 0;
    for (const auto& level : small->sections)
      if (level.chain == "line" && level.gainDecibels) sum += *level.gainDecibels;
    const auto whole = predictResponse(*idle, library(), {"jack", "speaker", {1000}});
    // From the first section's end; balanced outputs tell one half, so the splitter's other half is 6 dB the pair
    // gains.
    EXPECT_NEAR(sum, whole->decibels[0], 0.01);
  }
}

TEST(Levels, SpeakerWattsAreVoltsSquaredOverTheSpeakersResistance) {
  auto design = sample("net-loft").ink;
  const auto idle = predictIdle(design, library());
  const auto levels = predictLevels(*idle, library(), {400, 1e-3, false});
  ASSERT_TRUE(levels && levels->speakerWatts);
  // By the current into it as the AC solution has it at the transformer: independent of the speaker's own equations.
  const auto* speaker = [&]() -> const amp::CompiledPart* {
    for (const auto& part : idle->circuit->parts)
      if (part.resolved.part->kind == amp::PartKind::speaker) return &part;
    return nullptr;
  }();
  const SmallSignal signal(*idle, 400);
  const auto node = speaker->nodes.front();
  const auto volts = signal.volts(node) * (1e-3 / std::abs(signal.input()));
  // Its impedance: the node's with and without a resistor of 1 ohm more across it tell what else is there.
  std::complex<double> into = 0;
  for (const auto& part : idle->circuit->parts) {
    if (part.resolved.part->kind != amp::PartKind::outputTransformer) continue;
    const auto& system = *idle->point.system;
    const auto unknowns = signal.answerWith({});
    const int device = part.devices.front();
    const auto& nodes = system.netlist().devices()[static_cast<std::size_t>(device)].nodes;
    for (std::size_t w = 0; w * 2 + 1 < nodes.size(); ++w)
      if (nodes[2 * w] == node || nodes[2 * w + 1] == node)
        into += unknowns[system.branch(device) + static_cast<int>(w)] * (nodes[2 * w] == node ? -1.0 : 1.0) *
                (1e-3 / std::abs(signal.input()));
  }
  ASSERT_GT(std::abs(into), 0);
  EXPECT_NEAR(*levels->speakerWatts, 0.5 * (volts * std::conj(into)).real(), 0.03 * *levels->speakerWatts);
}

TEST(LevelMap, AgreesWithClippingAtTheSettingItself) {
  auto design = sample("slipway").ink;
  const auto idle = predictIdle(design, library());
  const auto map = predictLevelMap(*idle, library(), {"Volume", 1000, 9, true});
  ASSERT_TRUE(map) << map.error().line();
  for (const std::size_t column : {2U, 3U, 4U, 7U}) { // played and in between
    const auto& at = map->columns[column];
    design.knobs["Volume"] = at.setting;
    const auto turned = predictIdle(design, library());
    const auto clipping = predictClipping(*turned, library(), {1000, ClippingQuestion::Which::first});
    ASSERT_TRUE(clipping && clipping->first());
    EXPECT_NEAR(at.limits.front().inputPeak / clipping->first()->inputPeak, 1, 0.03) << at.setting;
  }
  for (std::size_t i = 1; i < map->columns.size(); ++i)
    EXPECT_LE(map->columns[i].limits.front().inputPeak, map->columns[i - 1].limits.front().inputPeak * 1.001);
  EXPECT_FALSE(predictLevelMap(*idle, library(), {"no such knob"}));
}

/// Against the tests' own spectrum of a wave, sums of sines and cosines, and against Ohm's law with a plain resistor as
/// the loudspeaker.
TEST(CleanPower, IsThePowerAtFivePercentDistortion) {
  for (const char* name : {"net-loft", "slipway", "harbour-office"}) {
    const auto idle = sampleAtRest(name);
    const auto clean = predictCleanPower(idle, library());
    ASSERT_TRUE(clean && clean->power) << name;
    const SmallSignal signal(idle, 1000);
    const auto wave = driveAmplifier(signal, clean->power->atOnce.inputPeak, {idle.circuit->probe("speaker")});
    ASSERT_TRUE(wave);
    const auto n = wave->volts.cols();
    std::vector<double> squares;
    for (int h = 1; h <= 10; ++h) {
      double c = 0, s = 0;
      for (Eigen::Index k = 0; k < n; ++k) {
        const double angle = 2 * std::numbers::pi * h * static_cast<double>(k) / static_cast<double>(n);
        c += wave->volts(0, k) * std::cos(angle);
        s += wave->volts(0, k) * std::sin(angle);
      }
      squares.push_back(c * c + s * s);
    }
    const double above = std::accumulate(squares.begin() + 1, squares.end(), 0.0);
    EXPECT_NEAR(std::sqrt(above / squares.front()), 0.05, 0.001) << name;
    EXPECT_NEAR(*predictLevels(idle, library(), {1000, clean->power->atOnce.inputPeak, true})->speakerWatts,
                clean->power->atOnce.watts, 1e-6 * clean->power->atOnce.watts);
    ASSERT_TRUE(clean->power->rough && clean->power->sustained) << name;
    EXPECT_GT(clean->power->rough->watts, clean->power->atOnce.watts) << name;
    // Rails that give way take power; none can be won by waiting.
    EXPECT_LT(clean->power->sustained->watts, 1.005 * clean->power->atOnce.watts) << name;
  }
  // A preamplifier has none.
  const auto none = predictCleanPower(
      atRest(benchDesign({use("stage", "triode-common-cathode"), use("end", "line-load")})), library());
  ASSERT_TRUE(none);
  EXPECT_FALSE(none->power);
}

/// Mean volts times amperes of a wave at the loudspeaker, its current taken from the transformer's side.
TEST(CleanPower, WattsAreMeanVoltsTimesAmperes) {
  const auto idle = sampleAtRest("slipway");
  for (const double hertz : {1000.0, 3000.0}) {
    const auto power = powerAt(idle, 3e-3, hertz);
    ASSERT_TRUE(power);
    const SmallSignal signal(idle, hertz);
    const auto& parts = idle.circuit->parts;
    const auto found = std::find_if(parts.begin(), parts.end(), [](const auto& part) {
      return part.resolved.part->kind == amp::PartKind::speaker;
    });
    ASSERT_NE(found, parts.end());
    const auto* speaker = &*found;
    // Its first resistor is the voice coil, which all of its current goes through.
    const auto coil = speakerResistors(*idle.circuit).front();
    const auto wave = driveAmplifier(signal, 3e-3, {speaker->nodes.front(), coil.from, coil.to});
    ASSERT_TRUE(wave);
    double watts = 0;
    for (Eigen::Index k = 0; k < wave->volts.cols(); ++k)
      watts += wave->volts(0, k) * (wave->volts(1, k) - wave->volts(2, k)) / coil.ohms /
               static_cast<double>(wave->volts.cols());
    EXPECT_NEAR(power->watts / watts, 1, 0.02) << hertz;
  }
  // The loudspeaker is no resistor: at its resonance the volts over its rated ohms would be far more.
  const SmallSignal signal(idle, 82);
  const auto small = predictLevels(idle, library(), {82, 3e-3, false});
  const double volts = std::abs(signal.volts(idle.circuit->probe("speaker"))) * 3e-3 / std::abs(signal.input());
  EXPECT_GT(volts * volts / 2 / 8, 1.5 * *small->speakerWatts);
}

TEST(Levels, TheSpeakersWattsInAWaveAreThoseOfSmallSignalsUntilItClips) {
  const auto idle = sampleAtRest("slipway");
  const auto watts = [&](double peak, bool waves) {
    return *predictLevels(idle, library(), {1000, peak, waves})->speakerWatts;
  };
  EXPECT_NEAR(watts(5e-4, true) / watts(5e-4, false), 1, 0.02);
  // Clipped, a pair cannot give more than what its supply does: 319 V and what it draws then.
  EXPECT_LT(watts(0.1, true), 0.1 * watts(0.1, false));
  EXPECT_GT(watts(0.1, true), watts(5e-3, true));
}

TEST(LevelMap, TheSettingAtWhichALimitIsMetIsWhereItsWavesMeetIt) {
  auto design = sample("slipway").ink;
  const auto idle = atRest(design);
  const auto first = *predictClipping(idle, library(), {1000, ClippingQuestion::Which::first})->first();
  const auto map = predictLevelMap(idle, library(), {"Volume", 1000, 40, false});
  const double input = first.inputPeak * 6; // met with the control turned down
  const auto setting = map->settingFor(first, design.knobs.at("Volume"), input);
  ASSERT_TRUE(setting);
  const auto limitAt = [&](double turn) {
    design.knobs["Volume"] = turn;
    return predictClipping(atRest(design), library(), {1000, ClippingQuestion::Which::first})->first()->inputPeak;
  };
  EXPECT_LE(limitAt(*setting), input * 1.03);            // met there,
  EXPECT_GE(limitAt(*setting - 1.5 / 39), input * 0.97); // and a column and a half below not yet
  EXPECT_FALSE(map->settingFor(first, design.knobs.at("Volume"), 1e-9));
}

TEST(Levels, OfADesignWithoutSourceSayWhatIsMissing) {
  auto design = benchDesign({use("stage", "triode-common-cathode"), use("end", "line-load")});
  design.line.erase(design.line.begin());
  const auto idle = atRest(design);
  const auto levels = predictLevels(idle, library(), {});
  ASSERT_FALSE(levels);
  EXPECT_NE(levels.error().line().find("signal"), std::string::npos);
  EXPECT_TRUE(predictClipping(idle, library(), {})->limits.empty());
}

TEST(Levels, TheWorstOfTheRangeIsNoBetterThanAnyOfItsTones) {
  const auto idle = sampleAtRest("slipway");
  const auto worst = predictLevels(idle, library(), {0, 0.01, false});
  ASSERT_TRUE(worst);
  for (const double hertz : rangeHertz) {
    const auto one = predictLevels(idle, library(), {hertz, 0.01, false});
    for (std::size_t i = 0; i < one->sections.size(); ++i) {
      EXPECT_GE(worst->sections[i].rms, one->sections[i].rms * 0.9999);
      if (one->sections[i].upDecibels) {
        EXPECT_LE(*worst->sections[i].upDecibels, *one->sections[i].upDecibels + 1e-9);
      }
    }
  }
}

TEST(Clipping, TheWorstOfTheRangeIsTheLeastOfItsTones) {
  const auto idle = sampleAtRest("net-loft");
  const auto first = [&](double hertz) {
    return predictClipping(idle, library(), {hertz, ClippingQuestion::Which::first})->first()->inputPeak;
  };
  double least = mostInputPeak;
  for (const double hertz : rangeHertz)
    least = std::min(least, first(hertz));
  EXPECT_DOUBLE_EQ(first(0), least);
  // Order, map and what gives more room then are those of that tone.
  const auto worst = worstHertz(idle);
  ASSERT_TRUE(worst) << worst.error().line();
  EXPECT_NEAR(first(*worst), least, 1e-9);
  const auto order = predictClipping(idle, library(), {0}), there = predictClipping(idle, library(), {*worst});
  ASSERT_TRUE(order && there);
  EXPECT_EQ(order->hertz, *worst);
  EXPECT_EQ(order->limits, there->limits);
  const auto& control = idle.circuit->design->knobs.begin()->first;
  const auto map = predictLevelMap(idle, library(), {control, 0, 5}),
             tone = predictLevelMap(idle, library(), {control, *worst, 5});
  ASSERT_TRUE(map && tone);
  EXPECT_EQ(map->hertz, *worst);
  for (std::size_t c = 0; c < map->columns.size(); ++c)
    EXPECT_EQ(map->columns[c].limits, tone->columns[c].limits);
  const auto& tube = order->first()->tubes.front();
  const auto room = predictHeadroom(idle, library(), {tube, false, 0}),
             same = predictHeadroom(idle, library(), {tube, false, *worst});
  ASSERT_TRUE(room && same) << tube;
  EXPECT_EQ(room->hertz, *worst);
  ASSERT_FALSE(room->best.empty());
  EXPECT_EQ(room->best.front().stagePeak, same->best.front().stagePeak);
}

TEST(Levels, FeedbackTakesWhatTheGainIsWithoutIt) {
  auto design = sample("slipway").ink;
  const auto idle = atRest(design);
  const auto levels = predictLevels(idle, library(), {1000, 1e-3, false});
  ASSERT_TRUE(levels && levels->feedbackDecibels);
  const auto gain = [](const Idle& one) {
    return predictResponse(one, library(), {"jack", "speaker", {1000}})->decibels.front();
  };
  for (const auto& part : idle.circuit->parts)
    if (part.resolved.part->role == "feedback")
      design = amp::withChanges(design, library(), {{part.resolved.name, "value", part.resolved.value(), 1e9}});
  EXPECT_NEAR(gain(atRest(design)) - gain(idle), *levels->feedbackDecibels, 0.05);
}

TEST(Explain, NamesThePartThatIsOff) {
  const auto design = sample("slipway").ink;
  const auto idle = atRest(design);
  const auto readWith = [&](const amp::Design& other) {
    const auto built = atRest(other);
    const auto* tube = built.circuit->part("V1a");
    return std::map<std::string, double>{{"plate", built.point.volts(tube->nodes.front())},
                                         {"cathode", built.point.volts(tube->nodes.back())}};
  };
  const auto same = explainReadings(idle, library(), {"V1a", readWith(design)});
  EXPECT_TRUE(same->agrees && same->suspects.empty());
  // What no one part does, a plate far above its rail, is not said to agree.
  auto odd = readWith(design);
  odd["plate"] = 1000;
  const auto unexplained = explainReadings(idle, library(), {"V1a", odd});
  EXPECT_TRUE(!unexplained->agrees && unexplained->suspects.empty());
  for (const auto& [off, share] : {std::pair{"R4", 0.25}, {"R3", -0.2}}) {
    const std::string part = off;
    SCOPED_TRACE(part);
    const auto now = amp::findPart(design, library(), part)->value();
    const auto read = readWith(amp::withChanges(design, library(), {{part, "value", now, now * (1 + share)}}));
    const auto explained = explainReadings(idle, library(), {"V1a", read});
    ASSERT_TRUE(explained);
    const auto found = std::find_if(explained->suspects.begin(), explained->suspects.end(),
                                    [&](const Suspect& suspect) { return suspect.part == part; });
    ASSERT_NE(found, explained->suspects.end());
    EXPECT_NEAR(found->off, share, 0.3 * std::abs(share));
    EXPECT_LT(found->rest, 0.2);
  }
  EXPECT_FALSE(explainReadings(idle, library(), {"R4", {{"plate", 1}}}));
  EXPECT_FALSE(explainReadings(idle, library(), {"V1a", {{"screen", 1}}})); // a triode has none
}

TEST(Splitters, BalanceIsTheRatioOfTheOutputsAndTheCureHoldsWhenSolvedAnew) {
  // Equal plate loads: the driven half of a long-tailed pair gives more.
  const auto design = benchDesign({use("first", "triode-common-cathode"),
                                   use("pair", "long-tailed-pair", {{"Ra1", {{"value", 100e3}}}}),
                                   use("output", "push-pull-pentode"), use("speaker", "speaker-load")},
                                  320);
  const auto idle = atRest(design);
  const auto splitters = predictSplitters(idle, library(), {true});
  ASSERT_TRUE(splitters);
  ASSERT_EQ(splitters->all.size(), 1U);
  const auto& pair = splitters->all.front();
  EXPECT_GT(pair.at1kHz, 0.3);
  ASSERT_FALSE(pair.cure.empty());
  const auto cured = predictSplitters(atRest(amp::withChanges(design, library(), pair.cure)), library());
  EXPECT_NEAR(cured->all.front().at1kHz, pair.cured, 0.02);
  EXPECT_LT(std::abs(pair.cured), std::abs(pair.at1kHz));
  // Small drives are balanced as small signals are; phases are opposite in the middle of the band.
  ASSERT_FALSE(pair.driven.empty());
  EXPECT_NEAR(pair.driven.front(), pair.at1kHz, 0.3);
  EXPECT_NEAR(pair.degrees[pair.degrees.size() / 2], 180, 3);
  EXPECT_TRUE(predictSplitters(sampleAtRest("net-loft"), library())->all.empty());
  // The levels tell both halves, as small signals and on waves; of what has one output, none.
  for (const bool waves : {false, true}) {
    const auto levels = predictLevels(idle, library(), {1000, 1e-3, waves});
    ASSERT_TRUE(levels);
    for (const auto& level : levels->sections) {
      ASSERT_EQ(level.secondRms.has_value(), level.section == "pair") << level.section;
      if (level.secondRms) {
        EXPECT_NEAR(20 * std::log10(level.rms / *level.secondRms), pair.at1kHz, waves ? 0.02 : 1e-6);
      }
    }
  }
}

TEST(PowerStages, HeatIsCalledAsBuildersCallIt) {
  using enum IdleHeat;
  for (const auto& [share, heat] :
       {std::pair{0.3, cool}, {0.6, classAb}, {0.7, classAb}, {0.85, classA}, {0.95, hot}, {1.0, hot}, {1.01, over}})
    EXPECT_EQ(heatOf(share), heat) << share;
}

TEST(PowerStages, AdjusterAndFailureAreThoseOfTheChangedDesign) {
  auto design = sample("chandlery").ink;
  const auto idle = atRest(design);
  const auto stages = predictPowerStages(idle, library());
  ASSERT_TRUE(stages);
  ASSERT_EQ(stages->all.size(), 1U);
  const auto& fixed = stages->all.front();
  EXPECT_EQ(fixed.bias, PowerStage::Bias::fixed);
  ASSERT_TRUE(fixed.least && fixed.most && fixed.failed && fixed.senseVolts);
  EXPECT_LT(fixed.least->plateAmps, fixed.idle.plateAmps);
  EXPECT_GT(fixed.most->plateAmps, fixed.idle.plateAmps);
  // Without bias the grids stand near the cathodes; this supply sags under it, else the plates would glow.
  EXPECT_NEAR(fixed.failed->gridVolts, 0, 1);
  EXPECT_GT(fixed.failed->plateAmps, 2 * fixed.idle.plateAmps);
  const auto ampsAt = [&](double turn) {
    design.knobs[fixed.adjuster] = turn;
    for (const auto& tube : atRest(design).point.tubes)
      if (tube.name == fixed.tubes.front()) return tube.plateAmps;
    return 0.0;
  };
  const double low = std::min(ampsAt(0), ampsAt(1)), high = std::max(ampsAt(0), ampsAt(1));
  EXPECT_NEAR(fixed.least->plateAmps, low, 1e-3 * low + 1e-9);
  EXPECT_NEAR(fixed.most->plateAmps, high, 1e-3 * high);
  for (const auto& tube : idle.point.tubes)
    if (tube.name == fixed.tubes.front()) {
      EXPECT_NEAR(*fixed.senseVolts, (tube.plateAmps + *tube.screenAmps) * *fixed.cathodeOhms, 1e-6);
    }
  const auto cathode = predictPowerStages(sampleAtRest("slipway"), library())->all.front();
  EXPECT_EQ(cathode.bias, PowerStage::Bias::cathodeShared);
  EXPECT_EQ(cathode.failure, "R28");
  EXPECT_GT(cathode.failed->plateAmps, 2 * cathode.idle.plateAmps);
  EXPECT_FALSE(cathode.senseVolts);
}

/// What has no loudspeaker loses or wins gain to its line's end.
TEST(Headroom, OfAPreamplifierGainIsToldToItsEnd) {
  const auto design = testing_support::skeleton("8-preamplifier").ink;
  const auto idle = predictIdle(design, library());
  ASSERT_TRUE(idle);
  const auto changes = predictHeadroom(*idle, library(), {"V1b", false});
  ASSERT_TRUE(changes);
  ASSERT_FALSE(changes->best.empty());
  const auto gainOf = [](const amp::Design& of) {
    const auto solved = testing_support::solve(of);
    return responseOf(solved.circuit, solved.point, {"jack", endOf(solved.circuit), {1000}})->decibels[0];
  };
  const double before = gainOf(design);
  int moved = 0;
  for (const auto& change : changes->best) {
    const double told = change.gainDecibels;
    EXPECT_NEAR(told, gainOf(amp::withChanges(design, library(), change.changes)) - before, 0.02);
    moved += std::abs(told) > 0.1;
  }
  EXPECT_GT(moved, 0);
}

TEST(Headroom, EveryChangeGivesWhatItPromisesWhenSolvedAnew) {
  VINEGAR_LONG_TEST(numbers);
  const auto design = sample("slipway").ink;
  const auto idle = atRest(design);
  for (const bool breakFirst : {false, true}) {
    const auto changes = predictHeadroom(idle, library(), {"V1b", breakFirst});
    ASSERT_TRUE(changes) << changes.error().line();
    ASSERT_FALSE(changes->best.empty());
    const auto& best = changes->best.front();
    const auto now = atRest(amp::withChanges(design, library(), best.changes));
    const auto clipping = predictClipping(now, library(), {1000, ClippingQuestion::Which::first});
    ASSERT_TRUE(clipping && clipping->first());
    EXPECT_NEAR(best.firstPeak / clipping->first()->inputPeak, 1, 0.03);
    if (breakFirst) {
      EXPECT_GT(best.firstPeak / best.stagePeak, changes->firstPeak / changes->stagePeak);
    } else {
      EXPECT_GT(best.stagePeak, changes->stagePeak);
    }
  }
  EXPECT_FALSE(predictHeadroom(idle, library(), {"R4"}));
}

TEST(Parallel, EveryIndexIsWorkedOnceAndStoppingIsPrompt) {
  std::mutex mutex;
  std::multiset<std::size_t> seen;
  EXPECT_TRUE(inTwoThreads(500, {}, [&](std::size_t i, const GoOn&) {
    const std::lock_guard lock(mutex);
    seen.insert(i);
  }));
  EXPECT_EQ(seen.size(), 500U);
  EXPECT_EQ(std::set<std::size_t>(seen.begin(), seen.end()).size(), 500U);
  int worked = 0;
  EXPECT_FALSE(inTwoThreads(
      500, [&](double) { return false; }, [&](std::size_t, const GoOn&) { ++worked; }));
  EXPECT_LT(worked, 500);
  // A question that is stopped says so.
  const auto stopped = predictClipping(sampleAtRest("slipway"), library(), {}, [](double) { return false; });
  ASSERT_FALSE(stopped);
  EXPECT_TRUE(stopped.error().cancelled);
}

} // namespace
} // namespace vinegar::predict
