// Zeners, delays, bending cores and wound transformers against what their definitions say.
#include "circuit/ac.h"
#include "circuit/periodic.h"
#include "circuit/transient.h"

#include <Eigen/Cholesky>
#include <cmath>
#include <gtest/gtest.h>
#include <numbers>

namespace vinegar::circuit {
namespace {

using Complex = std::complex<double>;

Waveform wave(double volts, double hertz) {
  return {[=](double t) { return volts * std::sin(2 * std::numbers::pi * hertz * t); }, {}};
}

TEST(Zener, HoldsItsVoltsAtItsTestCurrentAndRisesByItsResistance) {
  for (const double volts : {5.1, 33.0, 110.0}) {
    Netlist n;
    n.add("I", {n.node("k"), 0}, CurrentSource{-5e-3}); // into the cathode
    n.add("D", {0, n.node("k")}, Zener{volts, 5e-3, 20});
    const System system(n);
    const auto at = solveDc(system);
    ASSERT_TRUE(at) << at.error().line();
    EXPECT_NEAR(at->x[0], volts, 1e-6);
    n.setLaw(0, CurrentSource{-25e-3});
    EXPECT_NEAR(solveDc(System(n))->x[0], volts + 20e-3 * 20, 0.01); // the knee is not quite over at 5 mA
    n.setLaw(0, CurrentSource{5e-3});                                // forward, as silicon
    EXPECT_NEAR(solveDc(System(n))->x[0], -thermalVolts * std::log(5e-3 / 1e-12), 1e-3);
  }
}

TEST(Zener, AChainDropsAHighSupplyFromCold) {
  Netlist n;
  n.add("B", {n.node("hp"), 0}, VoltageSource{900});
  n.add("D1", {n.node("m"), n.node("hp")}, Zener{110, 5e-3, 50});
  n.add("D2", {n.node("s"), n.node("m")}, Zener{110, 5e-3, 50});
  n.add("R", {n.node("s"), 0}, Resistor{136e3}); // 5 mA
  const auto at = solveDc(System(n));
  ASSERT_TRUE(at) << at.error().line();
  EXPECT_NEAR(at->x[n.find("s") - 1], 900 - 220, 0.1);
}

/// y(t) = x(t) + g y(t - T): at DC and at every frequency the geometric series, in time its terms.
TEST(Delay, AnEchoIsTheGeometricSeries) {
  constexpr double kept = 0.6, seconds = 10e-3;
  Netlist n;
  n.add("in", {n.node("in"), 0}, VoltageSource{1, 1});
  n.add("sum", {n.node("y"), n.node("back"), n.node("in"), 0}, Vcvs{1});
  n.add("echo", {n.node("back"), 0, n.node("y"), 0}, Delay{kept, seconds});
  n.add("load", {n.node("y"), 0}, Resistor{1e3});
  const System system(n);
  const auto dc = solveDc(system);
  ASSERT_TRUE(dc) << dc.error().line();
  EXPECT_NEAR(dc->x[n.find("y") - 1], 1 / (1 - kept), 1e-12);
  const auto hertz = logSpaced(5, 5000, 200);
  const auto ac = solveAc(system, dc->x, hertz);
  ASSERT_TRUE(ac) << ac.error().line();
  const auto dense = solveAcDense(system, dc->x, hertz);
  for (std::size_t k = 0; k < hertz.size(); ++k) {
    const Complex want = 1.0 / (1.0 - kept * std::polar(1.0, -2 * std::numbers::pi * hertz[k] * seconds));
    EXPECT_LT(std::abs(ac->volts(n.find("y"), k) - want), 1e-9);
    EXPECT_LT(std::abs(dense.volts(n.find("y"), k) - want), 1e-9);
  }
  for (const auto mode : {TransientQuestion::Mode::accurate, TransientQuestion::Mode::preview}) {
    TransientQuestion question;
    question.duration = 35e-3;
    question.samplesPerSecond = 10e3;
    question.mode = mode;
    question.drive[0] = {[](double t) { return t < 2e-3 ? 0.0 : 1.0; }, {2e-3}}; // on top of the DC volt
    question.outputs = {n.find("y")};
    const auto answer = solveTransient(system, dc->x, question);
    ASSERT_TRUE(answer) << answer.error().line();
    double want = 1 / (1 - kept), term = 1;
    for (const int sample : {70, 170, 270}) { // midway between the echoes
      want += term;
      term *= kept;
      EXPECT_NEAR(answer->volts(0, sample), want, 1e-6);
    }
  }
}

TEST(Delay, IsRefusedWhereItsMemoryIsNotCovered) {
  Netlist n;
  n.add("in", {n.node("in"), 0}, VoltageSource{0, 1});
  n.add("echo", {n.node("y"), 0, n.node("in"), 0}, Delay{1, 1e-6});
  n.add("load", {n.node("y"), 0}, Resistor{1e3});
  const System system(n);
  const Eigen::VectorXd rest = Eigen::VectorXd::Zero(system.size());
  TransientQuestion transient;
  transient.duration = 1e-3;
  const auto moving = solveTransient(system, rest, transient);
  ASSERT_FALSE(moving);
  EXPECT_NE(moving.error().message.find("delay"), std::string::npos);
  PeriodicQuestion periodic;
  periodic.period = 1e-3;
  EXPECT_FALSE(solvePeriodic(system, rest, periodic));
}

/// Volts force the flux, and the flux the current: i = flux/L (1 + (flux/bend)^4).
TEST(SaturableInductor, CurrentFollowsFlux) {
  constexpr double henries = 10, bend = 0.5, hertz = 50, volts = 200, ohms = 1e-3;
  Netlist n;
  n.add("in", {n.node("in"), 0}, VoltageSource{0, 1});
  n.add("R", {n.node("in"), n.node("a")}, Resistor{ohms});
  n.add("L", {n.node("a"), 0, n.node("flux"), 0}, SaturableInductor{henries, bend});
  n.add("C", {n.node("flux"), 0}, Capacitor{fluxFarads});
  const System system(n);
  const auto dc = solveDc(system);
  ASSERT_TRUE(dc) << dc.error().line();
  const auto ac = solveAc(system, dc->x, {hertz});
  ASSERT_TRUE(ac);
  const double omega = 2 * std::numbers::pi * hertz;
  // At small signal it is an inductor.
  const int branch = system.branch(0);
  EXPECT_NEAR(std::abs(ac->x(branch, 0)) * omega * henries, 1, 1e-6);
  TransientQuestion question;
  question.duration = 20e-3;
  question.samplesPerSecond = 20e3;
  question.relativeTolerance = 1e-6;
  question.absoluteVolts = 1e-6;
  question.drive[0] = wave(volts, hertz);
  question.outputs = {n.find("a"), n.find("in")};
  const auto answer = solveTransient(system, dc->x, question);
  ASSERT_TRUE(answer) << answer.error().line();
  double largest = 0;
  for (std::size_t k = 0; k < answer->seconds.size(); ++k) {
    const double flux = volts / omega * (1 - std::cos(omega * answer->seconds[k]));
    const double want = flux / henries * (1 + std::pow(flux / bend, 4));
    const double got =
        (answer->volts(1, static_cast<Eigen::Index>(k)) - answer->volts(0, static_cast<Eigen::Index>(k))) / ohms;
    largest = std::max(largest, want);
    EXPECT_NEAR(got, want, 2e-3 * 5.5) << answer->seconds[k];
  }
  EXPECT_GT(largest, 5); // 40 times the linear current: the core is well past its bend
}

/// With 20 mA through it, a choke shows the slope of its curve there.
TEST(SaturableInductor, ShowsItsIncrementalInductanceUnderDirectCurrent) {
  Netlist n;
  n.add("B", {n.node("in"), 0}, VoltageSource{20, 1});
  n.add("R", {n.node("in"), n.node("a")}, Resistor{1000});
  n.add("L", {n.node("a"), 0, n.node("flux"), 0}, SaturableInductor{10, 0.2});
  n.add("C", {n.node("flux"), 0}, Capacitor{fluxFarads});
  const System system(n);
  const auto dc = solveDc(system);
  ASSERT_TRUE(dc) << dc.error().line();
  const double flux = dc->x[n.find("flux") - 1];
  EXPECT_NEAR(flux / 10 * (1 + std::pow(flux / 0.2, 4)), 20e-3, 1e-9);
  const double incremental = 10 / (1 + 5 * std::pow(flux / 0.2, 4));
  const auto ac = solveAc(system, dc->x, {30});
  const Complex want = 1.0 / (1.0 + 1000.0 / Complex(0, 2 * std::numbers::pi * 30 * incremental));
  EXPECT_LT(std::abs(ac->volts(n.find("a"), 0) - want), 1e-6);
}

/// Measured as a builder does: primary inductance with the rest open, leakage with it shorted, volts by turns.
TEST(Wind, GivesTheMeasuredInductances) {
  struct Case {
    std::vector<Winding> windings;
    std::size_t primaries;
  };
  const Case cases[] = {{{{1, 0}, {0.1, 0}}, 1},
                        {{{0.5, 0}, {0.5, 0}, {0.03, 0}}, 2},
                        {{{0.285, 0}, {0.215, 0}, {0.215, 0}, {0.285, 0}, {-0.02, 0}}, 4},
                        {{{0.5, 0}, {0.5, 0}, {0.02, 0}, {0.02, 0}}, 2}};
  for (const auto& [windings, primaries] : cases) {
    constexpr double henries = 20, share = 5e-4, radians = 1000;
    const auto law = wind(windings, primaries, henries, share);
    EXPECT_EQ(law.henries.llt().info(), Eigen::Success);
    const auto p = static_cast<Eigen::Index>(primaries);
    const Eigen::VectorXd series = Eigen::VectorXd::Ones(p);
    EXPECT_NEAR(series.dot(law.henries.topLeftCorner(p, p) * series), henries, 1e-9);
    for (const bool shorted : {false, true}) {
      Netlist n;
      std::vector<Node> pins;
      for (std::size_t w = 0; w < primaries; ++w) {
        pins.push_back(w == 0 ? n.node("top") : n.node("t" + std::to_string(w - 1)));
        pins.push_back(w + 1 == primaries ? 0 : n.node("t" + std::to_string(w)));
      }
      for (std::size_t w = primaries; w < windings.size(); ++w) {
        pins.push_back(w == primaries ? n.node("x") : n.node("x" + std::to_string(w - 1)));
        pins.push_back(w + 1 == windings.size() ? 0 : n.node("x" + std::to_string(w)));
      }
      n.add("T", pins, law);
      n.add("V", {n.node("top"), 0}, VoltageSource{0, 1});
      n.add("R", {n.node("x"), 0}, Resistor{shorted ? 1e-9 : 1e9});
      const System system(n);
      const auto ac = solveAcDense(system, Eigen::VectorXd::Zero(system.size()), {radians / (2 * std::numbers::pi)});
      const double seen = 1 / std::abs(ac.x(system.branch(1), 0)) / radians;
      EXPECT_NEAR(seen / (shorted ? henries * share : henries), 1, 1e-4) << windings.size() << shorted;
      if (!shorted) {
        double others = 0;
        for (std::size_t w = primaries; w < windings.size(); ++w)
          others += windings[w].turns;
        EXPECT_NEAR(ac.volts(n.find("x"), 0).real(), others, std::abs(others) * 1e-3);
      }
    }
  }
}

} // namespace
} // namespace vinegar::circuit
