// Levels, clipping and what moves it, against waves worked out step by step and against the changed design solved anew.
#include "amp/change.h"
#include "circuit/ac.h"
#include "circuit/transient.h"
#include "predict/explain.h"
#include "predict/headroom.h"
#include "predict/levels.h"
#include "predict/parallel.h"
#include "predict/power_stage.h"
#include "predict/sag.h"
#include "predict/splitter.h"
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
using testing_support::Settings;
using testing_support::use;

constexpr double playedHertz = 1000, playedRate = 400e3;

/// Seven periods of a sine that rises over four, of that many volts at the source, in small steps with error control.
Eigen::MatrixXd played(const Idle& idle, double source, std::vector<circuit::Node> nodes) {
  circuit::TransientQuestion question;
  const auto& devices = idle.point.system->netlist().devices();
  for (std::size_t d = 0; d < devices.size(); ++d)
    if (const auto* v = std::get_if<circuit::VoltageSource>(&devices[d].law); v && v->ac != 0)
      question.drive[static_cast<int>(d)] = {[source](double t) {
                                               const double rise = std::min(1.0, t / 4e-3);
                                               return source * std::sin(2 * std::numbers::pi * playedHertz * t) * rise;
                                             },
                                             {}};
  question.duration = 7e-3;
  question.samplesPerSecond = playedRate;
  question.relativeTolerance = 1e-5;
  question.absoluteVolts = 1e-6;
  question.outputs = std::move(nodes);
  auto answer = circuit::solveTransient(*idle.point.system, idle.point.dc.x, question);
  if (!answer) throw std::runtime_error(answer.error().line());
  return std::move(answer->volts);
}

/// How steeply a node follows the source over the last three hundredths of the way to the crest: volts per volt.
double slopeAtCrest(const Idle& idle, circuit::Node node, double source, bool up) {
  constexpr double from = 0.97;
  const auto volts = played(idle, source, {node});
  const auto at = [&](double turn) {
    const double sample = (6 + turn + (up ? 0 : 0.5)) / playedHertz * playedRate;
    const auto k = static_cast<Eigen::Index>(sample);
    const double part = sample - static_cast<double>(k);
    return (1 - part) * volts(0, k) + part * volts(0, k + 1);
  };
  // On the way there and back, so that what lags a little does not count.
  const double before = std::asin(from) / (2 * std::numbers::pi);
  return std::abs(at(0.25) - (at(before) + at(0.5 - before)) / 2) / (source * (1 - from));
}

TEST(Clipping, BeginsWhereTheWavesCrestGrowsHalfAsFastAsAtRest) {
  VINEGAR_LONG_TEST(numbers);
  struct Case {
    const char* section;
    Settings settings;
    Limit::Kind kind;
    bool up;
  };
  const Case cases[] = {
      {"triode-common-cathode", {{"Rs", {{"value", 68e3}}}}, Limit::Kind::gridCurrent, true},
      {"triode-common-cathode", {{"Rk", {{"value", 4700.0}}}}, Limit::Kind::cutOff, false},
      {"triode-common-cathode", {{"Ck", {{"fitted", false}}}}, Limit::Kind::gridCurrent, true},
      {"cold-clipper", {}, Limit::Kind::cutOff, false},
      {"pentode-stage", {{"Csc", {{"value", 1e-5}}}}, Limit::Kind::saturation, true},
  };
  for (const auto& c : cases) {
    SCOPED_TRACE(testing::Message() << c.section << " " << &c - cases);
    const auto idle = atRest(benchDesign({use("stage", c.section, c.settings), use("end", "line-load")}, 320));
    const auto clipping = predictClipping(idle, library(), {});
    ASSERT_TRUE(clipping) << clipping.error().line();
    const auto found = std::find_if(clipping->limits.begin(), clipping->limits.end(),
                                    [&](const Limit& limit) { return limit.kind == c.kind; });
    if (found == clipping->limits.end()) {
      ADD_FAILURE() << "no " << words(c.kind);
      continue;
    }
    const auto node = idle.circuit->localNodes.at("stage/a");
    const SmallSignal signal(idle, 1000);
    const auto slope = [&](double peak) { return slopeAtCrest(idle, node, peak / std::abs(signal.input()), c.up); };
    const double quiet = slope(found->inputPeak / 50);
    // The slope found belongs to the middle of those three hundredths.
    double low = found->inputPeak * 0.8, high = found->inputPeak * 1.25;
    for (int i = 0; i < 9; ++i) {
      const double middle = std::sqrt(low * high);
      (slope(middle) > quiet / 2 ? low : high) = middle;
    }
    const double peak = 0.985 * std::sqrt(low * high);
    EXPECT_NEAR(found->inputPeak / peak, 1, 0.03);
  }
}

/// The gain of the whole amplifier held as it is at one moment of the wave, in phase with that at rest and as a share
/// of it: the least of a period, with the plate under or over its volts at rest. By dense equations for all of it.
double leastGainHeld(const Idle& idle, circuit::Node plate, double source, bool under) {
  const auto& system = *idle.point.system;
  std::vector<circuit::Node> nodes(static_cast<std::size_t>(system.netlist().nodeCount()) - 1);
  std::iota(nodes.begin(), nodes.end(), 1);
  const auto volts = played(idle, source, nodes);
  const auto gain = [&](const Eigen::VectorXd& x) {
    return circuit::solveAcDense(system, x, {playedHertz}).volts(plate, 0);
  };
  const auto& rest = idle.point.dc.x;
  const auto atRest = gain(rest);
  double least = 1;
  for (Eigen::Index k = volts.cols() - 401; k < volts.cols(); k += 4) {
    if ((volts(plate - 1, k) < rest[plate - 1]) != under) continue;
    Eigen::VectorXd x = rest;
    x.head(volts.rows()) = volts.col(k);
    least = std::min(least, (gain(x) / atRest).real());
  }
  return least;
}

/// Where a screen or a cathode lags, the crest of the wave is no one state of the tube; its gain is still known at
/// every moment.
TEST(Clipping, BeginsWhereTheAmplifierHeldAsItIsHasHalfItsGain) {
  VINEGAR_LONG_TEST(numbers);
  struct Case {
    const char* section;
    Settings settings;
    Limit::Kind kind;
  };
  const Case cases[] = {
      {"triode-common-cathode", {{"Rs", {{"value", 68e3}}}}, Limit::Kind::gridCurrent},
      {"triode-common-cathode", {{"Ck", {{"value", 2e-7}}}}, Limit::Kind::cutOff},
      {"triode-common-cathode", {{"Ck", {{"value", 2e-7}}}}, Limit::Kind::gridCurrent},
      {"cold-clipper", {}, Limit::Kind::cutOff},
      {"pentode-stage", {{"Csc", {{"value", 1e-7}}}}, Limit::Kind::saturation},
      {"pentode-stage", {{"Csc", {{"value", 3e-9}}}}, Limit::Kind::saturation},
      {"pentode-stage", {{"Csc", {{"value", 3e-9}}}}, Limit::Kind::cutOff},
      {"pentode-stage", {{"Csc", {{"value", 1e-9}}}}, Limit::Kind::cutOff},
      {"pentode-stage", {{"Csc", {{"value", 1e-10}}}}, Limit::Kind::cutOff},
      {"pentode-stage", {{"Csc", {{"value", 1e-10}}}}, Limit::Kind::gridCurrent},
  };
  for (const auto& c : cases) {
    SCOPED_TRACE(testing::Message() << c.section << " " << &c - cases);
    const auto idle = atRest(benchDesign({use("stage", c.section, c.settings), use("end", "line-load")}, 320));
    const auto clipping = predictClipping(idle, library(), {});
    ASSERT_TRUE(clipping) << clipping.error().line();
    const auto found = std::find_if(clipping->limits.begin(), clipping->limits.end(),
                                    [&](const Limit& limit) { return limit.kind == c.kind; });
    if (found == clipping->limits.end()) {
      ADD_FAILURE() << "no " << words(c.kind);
      continue;
    }
    const double input = std::abs(SmallSignal(idle, playedHertz).input());
    double low = found->inputPeak * 0.8, high = found->inputPeak * 1.25;
    for (int i = 0; i < 7; ++i) {
      const double middle = std::sqrt(low * high);
      (leastGainHeld(idle, idle.circuit->localNodes.at("stage/a"), middle / input, c.kind != Limit::Kind::cutOff) > 0.5
           ? low
           : high) = middle;
    }
    EXPECT_NEAR(found->inputPeak / std::sqrt(low * high), 1, 0.03);
  }
}

TEST(Clipping, ComesInTheOrderOfTheInputAndTheFirstIsTheSameAlone) {
  for (const char* name : {"slipway-18", "net-loft-5", "harbour-office-8"}) {
    SCOPED_TRACE(name);
    const auto idle = predictIdle(sample(name).ink, library());
    ASSERT_TRUE(idle);
    const auto all = predictClipping(*idle, library(), {});
    const auto first = predictClipping(*idle, library(), {1000, ClippingQuestion::Which::first});
    ASSERT_TRUE(all && first);
    ASSERT_TRUE(all->first() && first->first());
    EXPECT_TRUE(std::is_sorted(all->limits.begin(), all->limits.end(),
                               [](const Limit& a, const Limit& b) { return a.inputPeak < b.inputPeak; }));
    EXPECT_NEAR(first->first()->inputPeak / all->first()->inputPeak, 1, 0.01);
    EXPECT_EQ(first->first()->tubes, all->first()->tubes);
  }
}

/// A sine held for seconds through the amplifier with its real rectifier, stepped cycle by cycle: the rails come to
/// where they are said to. Tubes whose cathodes bias them draw less once the cathode has followed, which the waves do
/// not wait for.
TEST(Sag, RailsUnderAHeldSineAreThoseOfWaiting) {
  VINEGAR_LONG_TEST(numbers);
  struct Case {
    const char* name;
    double peak;
  };
  for (const auto& c : {Case{"slipway-18", 0.0065}, {"chandlery-22", 0.0008}}) {
    SCOPED_TRACE(c.name);
    constexpr double hertz = 200;
    const auto idle = predictIdle(sample(c.name).ink, library());
    ASSERT_TRUE(idle);
    const auto held = holdSine(*idle, library(), hertz, c.peak);
    ASSERT_TRUE(held) << held.error().line();
    const auto& circuit = *idle->circuit;
    const circuit::System whole(circuit.netlist);
    const SmallSignal signal(*idle, hertz);
    circuit::TransientQuestion question;
    question.duration = 4;
    question.samplesPerSecond = 12800;
    question.mode = circuit::TransientQuestion::Mode::preview;
    const double mains = std::sqrt(2.0) * circuit.supply.volts;
    question.drive[circuit.supply.mains] = {
        [&](double t) { return mains * std::sin(2 * std::numbers::pi * circuit.supply.hertz * t); }, {}};
    const auto& devices = circuit.netlist.devices();
    for (std::size_t d = 0; d < devices.size(); ++d)
      if (const auto* source = std::get_if<circuit::VoltageSource>(&devices[d].law); source && source->ac != 0)
        question.drive[static_cast<int>(d)] = {[peak = source->ac * c.peak / std::abs(signal.input())](double t) {
                                                 return peak * std::sin(2 * std::numbers::pi * hertz * t);
                                               },
                                               {}};
    for (const auto& rail : circuit.rails)
      question.outputs.push_back(rail.node);
    const auto answer = circuit::solveTransient(whole, idle->point.dc.x, question);
    ASSERT_TRUE(answer) << answer.error().line();
    for (std::size_t r = 0; r < circuit.rails.size(); ++r) {
      const double rest = idle->point.volts(circuit.rails[r].node);
      const double waited = answer->volts.row(static_cast<Eigen::Index>(r)).rightCols(12800).mean();
      // Small tubes' cathodes are not waited for, which their own far rails feel.
      const double share = rest > 0.9 * idle->point.volts(circuit.rails.front().node) ? 0.08 : 0.15;
      EXPECT_NEAR(held->railVolts[r] - rest, waited - rest, share * std::abs(waited - rest) + 0.3)
          << circuit.rails[r].name << " " << rest << " " << waited << " " << held->railVolts[r];
    }
  }
}

/// A supply that gives way is told near the output stage's own clipping; one that hardly does, or none, is no limit.
TEST(Sag, IsALimitWhereTheSupplyGivesWay) {
  const auto limits = [](const amp::Design& design) {
    const auto idle = predictIdle(design, library());
    EXPECT_TRUE(idle);
    auto clipping = predictClipping(*idle, library(), {});
    EXPECT_TRUE(clipping);
    EXPECT_FALSE(clipping->ofSupply) << clipping->ofSupply->line();
    return clipping->limits;
  };
  const auto supplyOf = [](const std::vector<Limit>& all) {
    return std::find_if(all.begin(), all.end(), [](const Limit& l) { return l.kind == Limit::Kind::supply; });
  };
  const auto all = limits(sample("slipway-18").ink);
  const auto supply = supplyOf(all);
  ASSERT_NE(supply, all.end());
  EXPECT_FALSE(supply->isClipping());
  ASSERT_TRUE(supply->sag);
  EXPECT_LT(supply->sag->sagged, supply->sag->volts - 5);
  const auto output =
      std::find_if(all.begin(), all.end(), [&](const Limit& l) { return l.isClipping() && l.tubes == supply->tubes; });
  ASSERT_NE(output, all.end());
  EXPECT_NEAR(supply->inputPeak / output->inputPeak, 1, 0.1);
  // On the rails said, solved on their own, it clips there.
  const auto idle = predictIdle(sample("slipway-18").ink, library());
  const auto held = holdSine(*idle, library(), 1000, supply->inputPeak);
  ASSERT_TRUE(held) << held.error().line();
  EXPECT_NEAR(*std::max_element(held->railVolts.begin(), held->railVolts.end()), supply->sag->sagged, 0.6);
  for (const char* stiff : {"harbour-office-8", "net-loft-5"}) {
    const auto others = limits(sample(stiff).ink);
    EXPECT_EQ(supplyOf(others), others.end()) << stiff;
  }
  const auto bench = limits(benchDesign({use("stage", "triode-common-cathode"), use("end", "line-load")}, 320));
  EXPECT_EQ(supplyOf(bench), bench.end());
}

/// The wave at which the core's flux, by the volts per turn that make it, is where its inductance is half.
TEST(Clipping, ATransformersCoreIsALimitOfItsOwnAtLowFrequency) {
  auto design = sample("net-loft-5").ink;
  const auto parts = amp::resolveParts(design, library());
  const auto transformer = std::find_if(
      parts.begin(), parts.end(), [](const auto& part) { return part.part->kind == amp::PartKind::outputTransformer; });
  ASSERT_NE(transformer, parts.end());
  design =
      amp::withChanges(design, library(), {{transformer->name, "bendFlux", transformer->settings.at("bendFlux"), 0.4}});
  const auto idle = predictIdle(design, library());
  ASSERT_TRUE(idle) << idle.error().line();
  const auto limitAt = [&](double hertz) {
    const auto clipping = predictClipping(*idle, library(), {hertz});
    if (clipping)
      for (const auto& limit : clipping->limits)
        if (limit.kind == Limit::Kind::core) return limit.inputPeak;
    return std::numeric_limits<double>::infinity();
  };
  const double low = limitAt(82.4), high = limitAt(1000);
  ASSERT_TRUE(std::isfinite(low));
  EXPECT_LT(low, high);
  // In a wave of just that input the flux's crest, from the magnetising inductor's own node, has half the slope.
  const SmallSignal signal(*idle, 82.4);
  const auto& devices = idle->point.system->netlist().devices();
  for (const auto& device : devices)
    if (const auto* core = std::get_if<circuit::SaturableInductor>(&device.law)) {
      const auto wave = driveAmplifier(signal, low, {device.nodes[2]});
      ASSERT_TRUE(wave);
      const double rest = idle->point.volts(device.nodes[2]);
      const double crest = std::max(std::abs(wave->volts.maxCoeff()), std::abs(wave->volts.minCoeff()));
      const auto slope = [&](double flux) { return 1 + 5 * std::pow(flux / core->bendFlux, 4); };
      EXPECT_NEAR(slope(crest) / slope(rest), 2, 0.1);
    }
}

TEST(Levels, GainsAddUpToTheWholeAmplifiersAndWavesAgreeWhereNothingClips) {
  for (const char* name : {"slipway-18", "chandlery-22"}) {
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
  auto design = sample("net-loft-5").ink;
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
  auto design = sample("slipway-18").ink;
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

TEST(CleanPower, IsWhatTheSpeakerTakesWhereTheOutputStageBeginsToClip) {
  const auto idle = sampleAtRest("net-loft-5");
  const auto clean = predictCleanPower(idle, library());
  ASSERT_TRUE(clean && clean->power);
  EXPECT_EQ(clean->power->tube, "V2");
  const auto at = [&](double share) {
    return *predictLevels(idle, library(), {1000, share * clean->power->inputPeak, true})->speakerWatts;
  };
  EXPECT_NEAR(at(1), clean->power->watts, 1e-6);
  // Below it the power follows the square of the input, well above it no more.
  EXPECT_NEAR(at(0.2) / at(0.1), 4, 0.1);
  EXPECT_LT(at(3) / at(1), 5);
  // A preamplifier has none.
  const auto none = predictCleanPower(
      atRest(benchDesign({use("stage", "triode-common-cathode"), use("end", "line-load")})), library());
  ASSERT_TRUE(none);
  EXPECT_FALSE(none->power);
}

TEST(Levels, TheSpeakersWattsInAWaveAreThoseOfSmallSignalsUntilItClips) {
  const auto idle = sampleAtRest("slipway-18");
  const auto watts = [&](double peak, bool waves) {
    return *predictLevels(idle, library(), {1000, peak, waves})->speakerWatts;
  };
  EXPECT_NEAR(watts(5e-4, true) / watts(5e-4, false), 1, 0.02);
  // Clipped, a pair cannot give more than what its supply does: 319 V and what it draws then.
  EXPECT_LT(watts(0.1, true), 0.1 * watts(0.1, false));
  EXPECT_GT(watts(0.1, true), watts(5e-3, true));
}

TEST(LevelMap, TheSettingAtWhichALimitIsMetIsWhereItsWavesMeetIt) {
  auto design = sample("slipway-18").ink;
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
  const auto idle = sampleAtRest("slipway-18");
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
  const auto idle = sampleAtRest("net-loft-5");
  const auto first = [&](double hertz) {
    return predictClipping(idle, library(), {hertz, ClippingQuestion::Which::first})->first()->inputPeak;
  };
  double least = mostInputPeak;
  for (const double hertz : rangeHertz)
    least = std::min(least, first(hertz));
  EXPECT_DOUBLE_EQ(first(0), least);
  // Order, map and what gives more room then are those of that tone.
  const auto worst = worstHertz(idle, library());
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
  auto design = sample("slipway-18").ink;
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
  const auto design = sample("slipway-18").ink;
  const auto idle = atRest(design);
  const auto readWith = [&](const amp::Design& other) {
    const auto built = atRest(other);
    const auto* tube = built.circuit->part("V1a");
    return std::map<std::string, double>{{"plate", built.point.volts(tube->nodes.front())},
                                         {"cathode", built.point.volts(tube->nodes.back())}};
  };
  EXPECT_TRUE(explainReadings(idle, library(), {"V1a", readWith(design)})->suspects.empty());
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
  EXPECT_TRUE(predictSplitters(sampleAtRest("net-loft-5"), library())->all.empty());
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
  auto design = sample("chandlery-22").ink;
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
  const auto cathode = predictPowerStages(sampleAtRest("slipway-18"), library())->all.front();
  EXPECT_EQ(cathode.bias, PowerStage::Bias::cathodeShared);
  EXPECT_EQ(cathode.failure, "R28");
  EXPECT_GT(cathode.failed->plateAmps, 2 * cathode.idle.plateAmps);
  EXPECT_FALSE(cathode.senseVolts);
}

TEST(Headroom, EveryChangeGivesWhatItPromisesWhenSolvedAnew) {
  VINEGAR_LONG_TEST(numbers);
  const auto design = sample("slipway-18").ink;
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
  const auto stopped = predictClipping(sampleAtRest("slipway-18"), library(), {}, [](double) { return false; });
  ASSERT_FALSE(stopped);
  EXPECT_TRUE(stopped.error().cancelled);
}

} // namespace
} // namespace vinegar::predict
