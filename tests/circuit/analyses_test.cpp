// Noise, sensitivities, transient and periodic steady state against closed forms, differences and each other.
#include "circuit/ac.h"
#include "circuit/monte_carlo.h"
#include "circuit/noise.h"
#include "circuit/periodic.h"
#include "circuit/poles.h"
#include "circuit/sensitivity.h"
#include "predict/rest/variation.h"
#include "support/samples.h"

#include <algorithm>
#include <cmath>
#include <gtest/gtest.h>
#include <numbers>
#include <random>

namespace vinegar::circuit {
namespace {

using testing_support::library;

tubes::TubeType tube(const char* name) { return *library().tubes.find(name); }
Triode triode(const char* name) { return {std::get<tubes::TriodeModel>(tube(name).model), tube(name).grid}; }

Waveform sine(double volts, double hertz) {
  return {[=](double t) { return volts * std::sin(2 * std::numbers::pi * hertz * t); }, {}};
}
Waveform stepAt(double seconds, double volts) {
  return {[=](double t) { return t < seconds ? 0.0 : volts; }, {seconds}};
}

/// A triode stage driven hard enough to bias itself anew: source, coupling capacitor, leak, cathode bias, load.
Netlist stage(double coupling = 22e-9, double bypass = 22e-6) {
  Netlist n;
  n.add("in", {n.node("in"), 0}, VoltageSource{0, 1});
  n.add("Cin", {n.node("in"), n.node("g")}, Capacitor{coupling});
  n.add("Rg", {n.node("g"), 0}, Resistor{1e6});
  n.add("V", {n.node("a"), n.node("g"), n.node("k")}, triode("12AX7"));
  n.add("Ra", {n.node("hp"), n.node("a")}, Resistor{100e3});
  n.add("Rk", {n.node("k"), 0}, Resistor{1500});
  n.add("Ck", {n.node("k"), 0}, Capacitor{bypass});
  n.add("B", {n.node("hp"), 0}, VoltageSource{300});
  n.add("Cc", {n.node("a"), n.node("out")}, Capacitor{22e-9});
  n.add("RL", {n.node("out"), 0}, Resistor{470e3});
  return n;
}

TEST(Noise, OfAnRcIsKTOverC) {
  for (const double ohms : {1e3, 1e6}) {
    Netlist n;
    n.add("R", {n.node("a"), 0}, Resistor{ohms});
    n.add("C", {n.node("a"), 0}, Capacitor{1e-9});
    const System system(n);
    const double corner = 1 / (2 * std::numbers::pi * ohms * 1e-9);
    const auto noise = solveNoise(system, Eigen::VectorXd::Zero(system.size()),
                                  logSpaced(corner * 1e-4, corner * 1e4, 4000), n.find("a"), 0);
    ASSERT_TRUE(noise);
    EXPECT_NEAR(noiseVolts(noise->hertz, noise->output), std::sqrt(boltzmann * roomKelvin / 1e-9), 2e-3 * 2.03e-6);
  }
}

/// Bypassed stage, mid band: plate load and load resistor as thermal currents, tube as 2.5/gm at its grid.
TEST(Noise, OfAStageFollowsTheFormula) {
  const Netlist n = stage(1, 1); // capacitors that are shorts for the signal
  const System system(n);
  const auto dc = solveDc(system);
  ASSERT_TRUE(dc);
  const auto noise = solveNoise(system, dc->x, {1000}, n.find("out"), n.find("in"));
  ASSERT_TRUE(noise);
  const auto at = [&](const char* node) { return System::volts(dc->x, n.find(node)); };
  const auto c = tubes::triodeCurrent(triode("12AX7").model, at("a") - at("k"), at("g") - at("k"));
  const double load = 1 / (1 / 100e3 + 1 / 470e3 + c.byPlate);
  const double fourKT = 4 * boltzmann * roomKelvin;
  const double expected = load * load * (fourKT / 100e3 + fourKT / 470e3 + fourKT * 2.5 * c.byGrid);
  EXPECT_NEAR(noise->output[0] / expected, 1, 2e-3);
  EXPECT_NEAR(std::sqrt(noise->inputReferred[0]), std::sqrt(expected) / (c.byGrid * load), 1e-3 * std::sqrt(expected));
  EXPECT_NEAR(noise->contributions.col(0).sum() / noise->output[0], 1, 1e-12);
}

/// A whole amplifier and every part of it, ready to be varied.
struct Whole {
  testing_support::Solved solved = testing_support::solve(testing_support::sample("slipway").ink);
  std::vector<predict::PartVariation> parts = predict::partVariations(solved.circuit, library());
  std::vector<Parameter> parameters = predict::parametersOf(parts);
};

TEST(Sensitivity, OfResponseNoiseAndDcEqualsFiniteDifferences) {
  const Whole whole;
  const auto& circuit = whole.solved.circuit;
  const auto& system = *whole.solved.point.system;
  const auto& x = whole.solved.point.dc.x;
  const auto jack = circuit.probe("jack"), speaker = circuit.probe("speaker");
  const std::vector<double> hertz{40, 400, 5000, 30000};
  const auto response = responseSensitivities(system, x, hertz, jack, speaker, whole.parameters);
  const auto noise = noiseSensitivities(system, x, hertz, speaker, whole.parameters);
  const auto dc = dcSensitivities(system, x, whole.parameters);
  ASSERT_TRUE(response && noise);
  EXPECT_GT(whole.parts.size(), 50U);
  for (std::size_t p = 0; p < whole.parts.size(); ++p) {
    const auto row = static_cast<Eigen::Index>(p);
    struct Answer {
      Eigen::VectorXd x;
      std::vector<std::complex<double>> gain;
      std::vector<double> noise;
    };
    const auto with = [&](const std::vector<std::pair<int, Law>>& laws) {
      System moved = system;
      moved.setLaws(laws);
      Answer answer{solveDc(moved, &x)->x, {}, {}};
      const auto ac = solveAc(moved, answer.x, hertz);
      for (std::size_t k = 0; k < hertz.size(); ++k)
        answer.gain.push_back(ac->volts(speaker, k) / ac->volts(jack, k));
      answer.noise = solveNoise(moved, answer.x, hertz, speaker, 0)->output;
      return answer;
    };
    const auto up = with(whole.parameters[p].up), down = with(whole.parameters[p].down);
    const double v = whole.parts[p].value, h2 = 2 * whole.parameters[p].step;
    const Eigen::VectorXd shift = (up.x - down.x) * (v / h2);
    EXPECT_LT((dc.col(row) * v - shift).lpNorm<Eigen::Infinity>(), 1e-4 * shift.lpNorm<Eigen::Infinity>() + 2e-4)
        << whole.parts[p].name;
    for (std::size_t k = 0; k < hertz.size(); ++k) {
      const auto column = static_cast<Eigen::Index>(k);
      const auto slope = std::log(up.gain[k] / down.gain[k]) * (v / h2);
      EXPECT_LT(std::abs((*response)(row, column) * v - slope), 1e-3 * std::abs(slope) + 1e-5) << whole.parts[p].name;
      const double noiseSlope = std::log(up.noise[k] / down.noise[k]) * (v / h2);
      EXPECT_NEAR((*noise)(row, column) * v, noiseSlope, 1e-3 * std::abs(noiseSlope) + 1e-4) << whole.parts[p].name;
    }
  }
}

/// An RC and a lossy LC driven by a jump between samples: closed forms, no ringing of the method's own.
TEST(Transient, FollowsClosedFormsAcrossAJump) {
  Netlist n;
  n.add("in", {n.node("in"), 0}, VoltageSource{0});
  n.add("R", {n.node("in"), n.node("c")}, Resistor{1e3});
  n.add("C", {n.node("c"), 0}, Capacitor{1e-7}); // 100 us
  n.add("L", {n.node("in"), n.node("m")}, Inductor{1e-3, 10});
  n.add("CL", {n.node("m"), 0}, Capacitor{1e-6});
  const System system(n);
  TransientQuestion question;
  question.duration = 1e-3;
  question.samplesPerSecond = 200000;
  const double jump = 101.7e-6;
  question.drive[0] = stepAt(jump, 1);
  question.outputs = {n.find("c"), n.find("m"), n.find("in")};
  question.relativeTolerance = question.absoluteVolts = 1e-7;
  const auto answer = solveTransient(system, Eigen::VectorXd::Zero(system.size()), question);
  ASSERT_TRUE(answer) << answer.error().line();
  const double w0 = 1 / std::sqrt(1e-9), damping = 10 / (2 * 1e-3), wd = std::sqrt(w0 * w0 - damping * damping);
  for (std::size_t k = 0; k < answer->seconds.size(); ++k) {
    const double t = answer->seconds[k] - jump;
    const auto column = static_cast<Eigen::Index>(k);
    if (t < 0) {
      EXPECT_EQ(answer->volts(0, column), 0);
      continue;
    }
    EXPECT_NEAR(answer->volts(0, column), 1 - std::exp(-t / 1e-4), 2e-6);
    EXPECT_NEAR(answer->volts(1, column),
                1 - std::exp(-damping * t) * (std::cos(wd * t) + damping / wd * std::sin(wd * t)), 5e-6);
    EXPECT_NEAR(answer->volts(2, column), 1, 1e-9);
  }
}

/// Preview mode is of second order, accurate mode's fixed step of third.
TEST(Transient, ConvergesAtItsOrder) {
  Netlist n;
  n.add("in", {n.node("in"), 0}, VoltageSource{0});
  n.add("R", {n.node("in"), n.node("c")}, Resistor{1e3});
  n.add("C", {n.node("c"), 0}, Capacitor{1e-7});
  n.add("D", {n.node("c"), 0}, Diode{1e-9, 1.8});
  const System system(n);
  const auto end = [&](TransientQuestion::Mode mode, double rate) {
    TransientQuestion question;
    question.duration = 1e-3;
    question.samplesPerSecond = rate;
    question.mode = mode;
    question.drive[0] = sine(2, 1000);
    question.outputs = {n.find("c")};
    question.relativeTolerance = 1e3; // refuses nothing: one step per sample
    question.absoluteVolts = 1e-7;    // but Newton's method goes on to here
    const auto answer = solveTransient(system, Eigen::VectorXd::Zero(system.size()), question);
    return answer->volts(0, answer->volts.cols() - 1);
  };
  TransientQuestion tight;
  const double truth = [&] {
    tight.duration = 1e-3;
    tight.samplesPerSecond = 1000;
    tight.drive[0] = sine(2, 1000);
    tight.outputs = {n.find("c")};
    tight.relativeTolerance = tight.absoluteVolts = 1e-11;
    return solveTransient(system, Eigen::VectorXd::Zero(system.size()), tight)->volts(0, 1);
  }();
  for (const auto& [mode, order] :
       {std::pair{TransientQuestion::Mode::preview, 2.0}, {TransientQuestion::Mode::accurate, 3.0}}) {
    const double coarse = std::abs(end(mode, 64000) - truth), fine = std::abs(end(mode, 128000) - truth);
    EXPECT_NEAR(std::log2(coarse / fine), order, 0.5) << coarse << " " << fine;
  }
}

TEST(Transient, AtSmallSignalEqualsAc) {
  VINEGAR_LONG_TEST(numbers);
  const auto whole = testing_support::solve(testing_support::sample("slipway").ink);
  const auto& circuit = whole.circuit;
  const auto speaker = circuit.probe("speaker");
  const int source = circuit.part("Pickup")->devices.front();
  for (const double hertz : {100.0, 1000.0, 6000.0}) {
    PeriodicQuestion question;
    question.period = 1 / hertz;
    question.drive[source] = sine(1e-5, hertz);
    question.outputs = {speaker};
    const auto periodic = solvePeriodic(*whole.point.system, whole.point.dc.x, question);
    ASSERT_TRUE(periodic) << periodic.error().line();
    const auto ac = solveAc(*whole.point.system, whole.point.dc.x, {hertz});
    const double gain = std::abs(harmonics(periodic->volts.row(0), 1)[1]) / 1e-5;
    EXPECT_NEAR(20 * std::log10(gain / std::abs(ac->volts(speaker, 0))), 0, 0.02) << hertz;
  }
}

/// Driven into grid current the stage shifts its bias over many periods; shooting must find where it ends.
TEST(Periodic, EqualsALongTransient) {
  const Netlist n = stage(22e-9, 2.2e-6);
  const System system(n);
  const auto dc = solveDc(system);
  PeriodicQuestion question;
  question.period = 1e-3;
  question.steps = 512;
  question.drive[0] = sine(8, 1000);
  question.outputs = {n.find("out"), n.find("g"), n.find("k")};
  const auto periodic = solvePeriodic(system, dc->x, question);
  ASSERT_TRUE(periodic) << periodic.error().line();
  EXPECT_LT(periodic->unrest, 1e-6);
  EXPECT_LT(periodic->volts.row(1).mean(), -1) << "grid current should have charged the coupling capacitor";

  TransientQuestion waiting;
  waiting.duration = 0.3;
  waiting.samplesPerSecond = 128000;
  waiting.drive = question.drive;
  waiting.outputs = question.outputs;
  const auto transient = solveTransient(system, dc->x, waiting);
  ASSERT_TRUE(transient) << transient.error().line();
  const Eigen::Index last = transient->volts.cols() - 1 - 128;
  for (int k = 0; k < 128; ++k)
    for (int o = 0; o < 3; ++o)
      EXPECT_NEAR(transient->volts(o, last + k), periodic->volts(o, 4 * k), 0.05) << o << " " << k;
}

TEST(Transient, KeepsChargeThroughASwitch) {
  Netlist n;
  n.add("C1", {n.node("a"), 0}, Capacitor{1e-6});
  n.add("R1", {n.node("a"), 0}, Resistor{1e9});
  n.add("S", {n.node("a"), n.node("b")}, Switch{false});
  n.add("R", {n.node("b"), n.node("c")}, Resistor{100});
  n.add("C2", {n.node("c"), 0}, Capacitor{1e-6});
  const System system(n);
  Eigen::VectorXd x(3);
  x << 10, 0, 0;
  TransientQuestion question;
  question.duration = 2e-3;
  question.events = {{1.003e-3, {{2, Switch{true}}}}};
  question.outputs = {n.find("a"), n.find("c")};
  const auto answer = solveTransient(system, x, question);
  ASSERT_TRUE(answer) << answer.error().line();
  EXPECT_NEAR(answer->volts(0, 90), 10, 1e-3);
  EXPECT_NEAR(answer->volts(0, answer->volts.cols() - 1), 5, 1e-2);
  EXPECT_NEAR(answer->volts(1, answer->volts.cols() - 1), 5, 1e-2);
}

/// The whole amplifier far into clipping, where power grids conduct and the splitter blocks: both modes get through and
/// agree, and the rest after the burst comes back to the operating point.
TEST(Transient, SurvivesHardClipping) {
  const auto whole = testing_support::solve(testing_support::sample("slipway").ink);
  const int source = whole.circuit.part("Pickup")->devices.front();
  TransientQuestion question;
  question.duration = 0.02;
  question.outputs = {whole.circuit.probe("speaker")};
  question.drive[source] = {[](double t) { return t < 0.012 ? 0.5 * std::sin(2 * std::numbers::pi * 196 * t) : 0.0; },
                            {0.012}};
  question.relativeTolerance = question.absoluteVolts = 1e-5;
  const auto tight = solveTransient(*whole.point.system, whole.point.dc.x, question);
  ASSERT_TRUE(tight) << tight.error().line();
  question.mode = TransientQuestion::Mode::preview;
  const auto preview = solveTransient(*whole.point.system, whole.point.dc.x, question);
  ASSERT_TRUE(preview) << preview.error().line();
  EXPECT_GT(tight->volts.cwiseAbs().maxCoeff(), 5);
  EXPECT_LT((tight->volts - preview->volts).norm() / tight->volts.norm(), 0.1);
}

/// Over a repeating period, what the source gives is what the resistances take: windings store, and turn none into
/// nothing. Turns ratio, leakage and both winding resistances at work, driven near the primary's inductive corner.
TEST(Periodic, ATransformerKeepsItsEnergy) {
  Netlist n;
  n.add("in", {n.node("in"), 0}, VoltageSource{0});
  n.add("Rs", {n.node("in"), n.node("p")}, Resistor{600});
  Transformer law;
  law.henries.resize(2, 2);
  const double mutual = 0.98 * std::sqrt(4.0 * 0.04);
  law.henries << 4, mutual, mutual, 0.04;
  law.ohms.resize(2);
  law.ohms << 90, 0.7;
  n.add("T", {n.node("p"), 0, n.node("s"), 0}, law);
  n.add("RL", {n.node("s"), 0}, Resistor{8});
  const System system(n);
  PeriodicQuestion question;
  question.period = 1.0 / 40;
  question.steps = 1024;
  question.drive[0] = sine(100, 40);
  question.outputs = {n.find("in"), n.find("p"), n.find("s")};
  const auto answer = solvePeriodic(system, Eigen::VectorXd::Zero(system.size()), question);
  ASSERT_TRUE(answer) << answer.error().line();
  const Eigen::ArrayXd in = answer->volts.row(0), p = answer->volts.row(1), s = answer->volts.row(2);
  const Eigen::ArrayXd primary = (in - p) / 600, secondary = s / 8;
  const double given = (in * primary).mean();
  const double taken = (primary.square() * (600 + 90) + secondary.square() * (8 + 0.7)).mean();
  EXPECT_GT(given, 0.1);
  EXPECT_NEAR(taken / given, 1, 1e-4);
}

/// The names and the order of nodes and devices are the file's business: answers do not depend on them.
TEST(Analyses, DoNotDependOnNumbering) {
  const Netlist straight = stage();
  std::mt19937 random(3);
  for (int round = 0; round < 10; ++round) {
    auto names = straight.nodeNames();
    std::shuffle(names.begin() + 1, names.end(), random);
    auto devices = straight.devices();
    std::shuffle(devices.begin(), devices.end(), random);
    Netlist other;
    for (const auto& name : names)
      other.node(name);
    for (const auto& device : devices) {
      std::vector<Node> nodes;
      for (const Node node : device.nodes)
        nodes.push_back(other.find(straight.nodeNames()[static_cast<std::size_t>(node)]));
      other.add(device.id, nodes, device.law);
    }
    const System a(straight), b(other);
    const auto dcA = solveDc(a), dcB = solveDc(b);
    ASSERT_TRUE(dcA && dcB);
    const auto acA = solveAc(a, dcA->x, {30, 1000}), acB = solveAc(b, dcB->x, {30, 1000});
    for (const auto& name : names) {
      EXPECT_NEAR(System::volts(dcA->x, straight.find(name)), System::volts(dcB->x, other.find(name)), 1e-7) << name;
      for (std::size_t k = 0; k < 2; ++k)
        EXPECT_LT(std::abs(acA->volts(straight.find(name), k) - acB->volts(other.find(name), k)), 1e-9) << name;
    }
    const auto noiseA = solveNoise(a, dcA->x, {1000}, straight.find("out"), 0);
    const auto noiseB = solveNoise(b, dcB->x, {1000}, other.find("out"), 0);
    EXPECT_NEAR(noiseA->output[0] / noiseB->output[0], 1, 1e-9);
  }
}

/// Jumps between samples and on them, where the two ways of reckoning a time may differ in its last digit. Preview must
/// start its history anew there; neither mode may stumble.
TEST(Transient, TakesJumpsAnywhere) {
  Netlist n;
  n.add("in", {n.node("in"), 0}, VoltageSource{0});
  n.add("R", {n.node("in"), n.node("c")}, Resistor{1e3});
  n.add("C", {n.node("c"), 0}, Capacitor{1e-7});
  const System system(n);
  const double tau = 1e-4;
  for (const auto mode : {TransientQuestion::Mode::preview, TransientQuestion::Mode::accurate})
    for (int sample = 1; sample < 80; ++sample)
      for (const double beyond : {0.0, 3e-6}) {
        TransientQuestion question;
        question.duration = 1e-3;
        question.samplesPerSecond = 96000;
        question.mode = mode;
        const double jump = sample / 96000.0 + beyond;
        question.drive[0] = {[=](double t) { return t < jump ? t / 1e-3 : -1.0; }, {jump}};
        question.outputs = {n.find("c")};
        const auto answer = solveTransient(system, Eigen::VectorXd::Zero(system.size()), question);
        ASSERT_TRUE(answer) << answer.error().line() << " " << sample;
        const double before = (jump - tau * (1 - std::exp(-jump / tau))) / 1e-3; // a ramp through an RC
        double worst = 0;
        for (std::size_t k = static_cast<std::size_t>(sample) + 1; k < answer->seconds.size(); ++k) {
          const double t = answer->seconds[k] - jump;
          const double exact = -1 + (before + 1) * std::exp(-t / tau);
          worst = std::max(worst, std::abs(answer->volts(0, static_cast<Eigen::Index>(k)) - exact));
        }
        EXPECT_LT(worst, mode == TransientQuestion::Mode::preview ? 2.5e-3 : 1e-3) << sample << " " << beyond;
      }
}

TEST(Transient, CanBeCancelled) {
  const Netlist n = stage();
  const System system(n);
  TransientQuestion question;
  question.duration = 10;
  question.progress = [](double) { return false; };
  const auto answer = solveTransient(system, solveDc(system)->x, question);
  ASSERT_FALSE(answer);
  EXPECT_EQ(answer.error().message, "cancelled");
}

/// Poles of circuits worked out by hand: an RC ladder, a lossy resonance, and decades apart in one circuit.
TEST(Poles, AreThoseOfTheClosedForm) {
  Netlist n;
  n.add("in", {n.node("in"), 0}, VoltageSource{0, 1});
  n.add("R1", {n.node("in"), n.node("a")}, Resistor{1e6});
  n.add("C1", {n.node("a"), 0}, Capacitor{1e-6}); // 1 rad/s
  n.add("R2", {n.node("in"), n.node("b")}, Resistor{100});
  n.add("C2", {n.node("b"), 0}, Capacitor{1e-11}); // 1e9 rad/s
  n.add("L", {n.node("in"), n.node("m")}, Inductor{1e-3, 10});
  n.add("CL", {n.node("m"), 0}, Capacitor{1e-6});
  const System system(n);
  const auto poles = findPoles(system, Eigen::VectorXd::Zero(system.size()));
  ASSERT_EQ(poles.size(), 4U);
  const double wd = std::sqrt(1e9 - 25e6);
  EXPECT_NEAR(std::abs(poles[0] + 1.0), 0, 1e-9);
  EXPECT_NEAR(std::abs(poles[1] - std::complex(-5000.0, -wd)), 0, 1e-3);
  EXPECT_NEAR(std::abs(poles[2] - std::complex(-5000.0, wd)), 0, 1e-3);
  EXPECT_NEAR(std::abs(poles[3] / 1e9 + 1.0), 0, 1e-6);
}

/// A stage's slowest pole is the corner of a large bypass capacitor with what it sees, coupling capacitors still open;
/// the next is the grid's.
TEST(Poles, OfAStageAreItsCorners) {
  const Netlist n = stage(22e-9, 2200e-6);
  const System system(n);
  const auto dc = solveDc(system);
  const auto poles = findPoles(system, dc->x);
  ASSERT_GE(poles.size(), 3U);
  const auto at = [&](const char* node) { return System::volts(dc->x, n.find(node)); };
  const auto c = tubes::triodeCurrent(triode("12AX7").model, at("a") - at("k"), at("g") - at("k"));
  const double rp = 1 / c.byPlate, mu = c.byGrid * rp;
  const double cathode = 1 / (1 / 1500.0 + (mu + 1) / (rp + 100e3));
  EXPECT_NEAR(-poles[0].real() * cathode * 2200e-6, 1, 0.01);
  EXPECT_NEAR(-poles[1].real() * 1e6 * 22e-9, 1, 0.001);
}

MonteCarloQuestion builds(const Whole& whole, int count, int threads) {
  MonteCarloQuestion question;
  question.builds = count;
  question.threads = threads;
  question.seed = 7;
  question.hertz = logSpaced(20, 20000, 30);
  question.from = whole.solved.circuit.probe("jack");
  question.to = whole.solved.circuit.probe("speaker");
  question.spreads = predict::partSpreads(whole.solved.circuit, 0.1);
  return question;
}

TEST(MonteCarlo, IsTheSameForAnyNumberOfThreads) {
  const Whole whole;
  const auto one = solveMonteCarlo(*whole.solved.point.system, builds(whole, 60, 1));
  const auto three = solveMonteCarlo(*whole.solved.point.system, builds(whole, 60, 3));
  ASSERT_TRUE(one && three);
  EXPECT_EQ(one->failures, 0);
  EXPECT_TRUE((one->decibels.array() == three->decibels.array()).all());
  EXPECT_TRUE((one->unknowns.array() == three->unknowns.array()).all());
  auto other = builds(whole, 60, 1);
  other.seed = 8;
  EXPECT_FALSE((solveMonteCarlo(*whole.solved.point.system, other)->decibels.array() == one->decibels.array()).all());
}

/// Small tolerances: the spread of a divider's level is what the law of error propagation says.
TEST(MonteCarlo, SpreadsAsErrorsPropagate) {
  Netlist n;
  n.add("in", {n.node("in"), 0}, VoltageSource{0, 1});
  n.add("R1", {n.node("in"), n.node("out")}, Resistor{3e3});
  n.add("R2", {n.node("out"), 0}, Resistor{1e3});
  MonteCarloQuestion question;
  question.builds = 20000;
  question.hertz = {1000};
  question.from = n.find("in");
  question.to = n.find("out");
  question.spreads = {{{1}, 0.01, 0}, {{2}, 0.01, 0}};
  const auto answer = solveMonteCarlo(System(n), question);
  ASSERT_TRUE(answer);
  const double mean = answer->decibels.mean();
  const double deviation = std::sqrt((answer->decibels.array() - mean).square().mean());
  // Even spread of 1 %: standard deviation 1 % / sqrt 3; the level moves by 3/4 of each part's share.
  const double expected = 20 / std::log(10.0) * 0.75 * 0.01 / std::sqrt(3.0) * std::sqrt(2.0);
  EXPECT_NEAR(deviation / expected, 1, 0.03);
  EXPECT_NEAR(mean, 20 * std::log10(0.25), 0.002);
}

} // namespace
} // namespace vinegar::circuit
