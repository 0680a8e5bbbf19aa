// Where things clip, against waves worked out step by step.
#include "amp/acts/acts.h"
#include "circuit/ac.h"
#include "circuit/transient.h"
#include "predict/levels/clip_order.h"
#include "predict/levels/levels.h"
#include "predict/stages/stages.h"
#include "predict/wave/held_sine.h"
#include "support/bench_design.h"

#include <cmath>
#include <gtest/gtest.h>
#include <numbers>
#include <numeric>

namespace vinegar::predict {
namespace {

using testing_support::atRest;
using testing_support::benchDesign;
using testing_support::library;
using testing_support::sample;
using testing_support::Settings;
using testing_support::use;

constexpr double playedHertz = 1000, playedRate = 400e3;

/// Seven periods of a sine that rises over four, of that many volts at the source, in small steps with error control.
Eigen::MatrixXd waveOf(const Idle& idle, double source, std::vector<circuit::Node> nodes) {
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
  const auto volts = waveOf(idle, source, {node});
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

/// At which the stage meets a limit of that kind.
double inputOf(const Idle& idle, Limit::Kind kind) {
  const auto clipping = predictClipping(idle, library(), {});
  if (!clipping) throw std::runtime_error(clipping.error().line());
  for (const auto& limit : clipping->limits)
    if (limit.kind == kind) return limit.inputPeak;
  throw std::runtime_error("no " + std::string(words(kind)));
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
    const double met = inputOf(idle, c.kind);
    const auto node = idle.circuit->localNodes.at("stage/a");
    const SmallSignal signal(idle, 1000);
    const auto slope = [&](double peak) { return slopeAtCrest(idle, node, peak / std::abs(signal.input()), c.up); };
    const double quiet = slope(met / 50);
    // The slope found belongs to the middle of those three hundredths.
    double low = 0.8 * met, high = 1.25 * met;
    for (int i = 0; i < 9; ++i) {
      const double middle = std::sqrt(low * high);
      (slope(middle) > quiet / 2 ? low : high) = middle;
    }
    const double peak = 0.985 * std::sqrt(low * high);
    EXPECT_NEAR(met / peak, 1, 0.03);
  }
}

/// The gain of the whole amplifier held as it is at one moment of the wave, in phase with that at rest and as a share
/// of it: the least of a period, with the plate under or over its volts at rest. By dense equations for all of it.
double leastGainHeld(const Idle& idle, circuit::Node plate, double source, bool under) {
  const auto& system = *idle.point.system;
  std::vector<circuit::Node> nodes(static_cast<std::size_t>(system.netlist().nodeCount()) - 1);
  std::iota(nodes.begin(), nodes.end(), 1);
  const auto volts = waveOf(idle, source, nodes);
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
    const double met = inputOf(idle, c.kind);
    const double input = std::abs(SmallSignal(idle, playedHertz).input());
    double low = 0.8 * met, high = 1.25 * met;
    for (int i = 0; i < 7; ++i) {
      const double middle = std::sqrt(low * high);
      (leastGainHeld(idle, idle.circuit->localNodes.at("stage/a"), middle / input, c.kind != Limit::Kind::cutOff) > 0.5
           ? low
           : high) = middle;
    }
    EXPECT_NEAR(met / std::sqrt(low * high), 1, 0.03);
  }
}

TEST(Clipping, ComesInTheOrderOfTheInputAndTheFirstIsTheSameAlone) {
  for (const char* name : {"slipway", "net-loft", "harbour-office"}) {
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
  for (const auto& c : {Case{"slipway", 0.0065}, {"chandlery", 0.0008}}) {
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

/// Class A ends where a side carries a twentieth of its idle current at the least of its wave; tubes that push together
/// never leave it.
TEST(Clipping, ClassAEndsWhereASideStopsConducting) {
  for (const char* name : {"harbour-office", "slipway"}) {
    const auto idle = predictIdle(sample(name).ink, library());
    ASSERT_TRUE(idle);
    const auto clipping = predictClipping(*idle, library(), {});
    ASSERT_TRUE(clipping);
    int sides = 0;
    for (const auto& limit : clipping->limits) {
      if (limit.kind != Limit::Kind::classA) continue;
      ++sides;
      ASSERT_EQ(limit.tubes.size(), 1U); // of two tubes one is a side
      const auto* tube = idle->circuit->part(limit.tubes.front());
      const SmallSignal signal(*idle, 1000);
      const auto least = [&](double input) {
        const auto wave = driveAmplifier(signal, input, tube->nodes);
        double amps = 1e9;
        for (Eigen::Index k = 0; wave && k < wave->volts.cols(); ++k) {
          const auto v = wave->volts.col(k).array() - wave->volts(3, k);
          const auto& law =
              idle->point.system->netlist().devices()[static_cast<std::size_t>(tube->devices.front())].law;
          amps = std::min(amps, tubes::pentodeCurrent(std::get<circuit::Pentode>(law).model, v[0], v[2], v[1]).plate);
        }
        return amps;
      };
      double rest = 0;
      for (const auto& reading : idle->point.tubes)
        if (reading.name == limit.tubes.front()) rest = reading.plateAmps;
      EXPECT_GT(least(0.9 * limit.inputPeak), 0.05 * rest) << name;
      EXPECT_LT(least(1.1 * limit.inputPeak), 0.05 * rest) << name;
    }
    EXPECT_EQ(sides, 2) << name;
  }
  auto parallel = sample("net-loft").ink;
  auto made =
      amp::replaceSection(parallel, library(), amp::NameBook(sample("net-loft")), "output", "single-ended-parallel");
  ASSERT_TRUE(made);
  const auto idle = predictIdle(*made, library());
  ASSERT_TRUE(idle);
  const auto clipping = predictClipping(*idle, library(), {});
  ASSERT_TRUE(clipping);
  for (const auto& limit : clipping->limits)
    EXPECT_NE(limit.kind, Limit::Kind::classA);
}

/// Every knob at either end, soft and loud: levels have an answer.
TEST(Levels, AnswerAtEveryKnob) {
  for (const char* name : {"slipway", "net-loft", "harbour-office", "chandlery"}) {
    auto design = sample(name).ink;
    for (const double turn : {0.0, 1.0}) {
      for (const auto& part : amp::resolveParts(design, library()))
        if (part.part->kind == amp::PartKind::pot && amp::isPlayed(part, library())) design.knobs[part.knob] = turn;
      const auto idle = predictIdle(design, library());
      ASSERT_TRUE(idle);
      for (const double peak : {1e-3, 0.1, 1.0, 3.0}) {
        const auto levels = predictLevels(*idle, library(), {1000, peak, true});
        EXPECT_TRUE(levels) << name << " " << turn << " " << peak << ": " << (levels ? "" : levels.error().line());
      }
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
  const auto soft = amp::withChanges(sample("slipway").ink, library(),
                                     {{"R33", "fitted", false, true}, {"R33", "value", 100.0, 220.0}});
  const auto all = limits(soft);
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
  const auto idle = predictIdle(soft, library());
  const auto held = holdSine(*idle, library(), 1000, supply->inputPeak);
  ASSERT_TRUE(held) << held.error().line();
  for (std::size_t r = 0; r < held->railVolts.size(); ++r)
    if (idle->circuit->rails[r].name == supply->sag->rail) {
      EXPECT_NEAR(held->railVolts[r], supply->sag->sagged, 0.6);
    }
  for (const char* stiff : {"harbour-office", "net-loft"}) {
    const auto others = limits(sample(stiff).ink);
    EXPECT_EQ(supplyOf(others), others.end()) << stiff;
  }
  const auto bench = limits(benchDesign({use("stage", "triode-common-cathode"), use("end", "line-load")}, 320));
  EXPECT_EQ(supplyOf(bench), bench.end());
}

/// The wave at which the core's flux, by the volts per turn that make it, is where its inductance is half.
TEST(Clipping, ATransformersCoreIsALimitOfItsOwnAtLowFrequency) {
  auto design = sample("net-loft").ink;
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

/// The way of a grid to its limit is what a wave of the amplifier, stepped with error control, shows at the input that
/// meets it. Of the first stage: nothing before it clips.
TEST(Clipping, TheGridsWayToItsLimitIsThatOfTheWave) {
  for (const char* name : {"slipway", "net-loft"}) {
    const auto idle = testing_support::sampleAtRest(name);
    const auto stage = predictStage(idle, library(), "V1a");
    const auto clipping = predictClipping(idle, library(), {});
    ASSERT_TRUE(stage && clipping);
    const auto* part = idle.circuit->part("V1a");
    const auto grid = part->nodes[1], cathode = part->nodes[2];
    int seen = 0;
    for (const auto* side : {&stage->up, &stage->down}) {
      if (!*side) continue;
      const auto met = std::find_if(clipping->limits.begin(), clipping->limits.end(), [&](const Limit& limit) {
        return limit.kind == (*side)->kind && limit.tubes == std::vector<std::string>{"V1a"};
      });
      if (met == clipping->limits.end()) continue;
      const SmallSignal signal(idle, playedHertz);
      const auto& devices = idle.circuit->netlist.devices();
      double ac = 0;
      for (const auto& device : devices)
        if (const auto* v = std::get_if<circuit::VoltageSource>(&device.law); v && v->ac != 0) ac = v->ac;
      const auto wave = waveOf(idle, met->inputPeak * ac / std::abs(signal.input()), {grid, cathode});
      const auto last = static_cast<Eigen::Index>(playedRate / playedHertz);
      const Eigen::VectorXd between = (wave.row(0) - wave.row(1)).rightCols(last);
      const double rest = idle.point.volts(grid) - idle.point.volts(cathode);
      const double way = (*side)->gridVolts > 0 ? between.maxCoeff() - rest : between.minCoeff() - rest;
      EXPECT_NEAR(way / (*side)->gridVolts, 1, 0.1) << name << " " << words((*side)->kind) << " " << way;
      ++seen;
    }
    EXPECT_GT(seen, 0) << name;
  }
}

} // namespace
} // namespace vinegar::predict
