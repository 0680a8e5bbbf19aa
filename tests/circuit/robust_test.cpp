// Circuits that are hard to start, the sweep's own elimination, and laws that hold for every device.
#include "circuit/ac.h"
#include "circuit/noise.h"
#include "support/samples.h"

#include <cmath>
#include <functional>
#include <gtest/gtest.h>
#include <random>

namespace vinegar::circuit {
namespace {

Triode anyTriode(const char* name = "12AX7") {
  const auto& type = *testing_support::library().tubes.find(name);
  return {std::get<tubes::TriodeModel>(type.model), type.grid};
}
Pentode pentode(const char* name = "6V6GT") {
  const auto& type = *testing_support::library().tubes.find(name);
  return {std::get<tubes::PentodeModel>(type.model), type.grid};
}

struct Hard {
  const char* what;
  std::function<void(Netlist&, double supply)> build;
  const char* node; ///< whose volts must lie between ground and the supply
};

TEST(Dc, StartsEveryUsualTopologyFromFiveToNineHundredVolts) {
  const auto r = [](Netlist& n, const char* a, const char* b, double ohms) {
    n.add(std::string("R") + a + b, {n.node(a), n.node(b)}, Resistor{ohms});
  };
  const Hard circuits[] = {{"direct-coupled follower",
                            [&](Netlist& n, double) {
                              r(n, "hp", "a", 100e3), r(n, "k", "0", 1500), r(n, "g", "0", 1e6), r(n, "k2", "0", 100e3);
                              n.add("V1", {n.node("a"), n.node("g"), n.node("k")}, anyTriode());
                              n.add("V2", {n.node("hp"), n.node("a"), n.node("k2")}, anyTriode());
                            },
                            "k2"},
                           {"grid-leak bias",
                            [&](Netlist& n, double) {
                              r(n, "hp", "a", 100e3), r(n, "g", "0", 10e6);
                              n.add("V1", {n.node("a"), n.node("g"), 0}, anyTriode());
                            },
                            "a"},
                           {"cascode",
                            [&](Netlist& n, double) {
                              r(n, "hp", "a", 100e3), r(n, "k", "0", 1000), r(n, "g", "0", 1e6), r(n, "hp", "g2", 1e6),
                                  r(n, "g2", "0", 470e3);
                              n.add("V1", {n.node("m"), n.node("g"), n.node("k")}, anyTriode());
                              n.add("V2", {n.node("a"), n.node("g2"), n.node("m")}, anyTriode());
                            },
                            "m"},
                           {"stacked totem",
                            [&](Netlist& n, double) {
                              r(n, "k", "0", 1500), r(n, "g", "0", 1e6), r(n, "m", "a", 1500);
                              n.add("V1", {n.node("a"), n.node("g"), n.node("k")}, anyTriode());
                              n.add("V2", {n.node("hp"), n.node("a"), n.node("m")}, anyTriode());
                            },
                            "m"},
                           {"long-tailed pair",
                            [&](Netlist& n, double) {
                              r(n, "hp", "a1", 82e3), r(n, "hp", "a2", 100e3), r(n, "k", "t", 470),
                                  r(n, "t", "0", 10e3), r(n, "g1", "t", 1e6), r(n, "g2", "t", 1e6);
                              n.add("V1", {n.node("a1"), n.node("g1"), n.node("k")}, anyTriode());
                              n.add("V2", {n.node("a2"), n.node("g2"), n.node("k")}, anyTriode());
                            },
                            "k"},
                           {"grid held positive",
                            [&](Netlist& n, double supply) {
                              r(n, "hp", "a", 10e3), r(n, "hp", "g", supply * 1000);
                              n.add("V1", {n.node("a"), n.node("g"), 0}, anyTriode("12AU7"));
                            },
                            "a"},
                           {"triode-strapped pentode",
                            [&](Netlist& n, double) {
                              r(n, "hp", "a", 3000), r(n, "a", "s", 100), r(n, "g", "0", 220e3), r(n, "k", "0", 470);
                              n.add("V1", {n.node("a"), n.node("s"), n.node("g"), n.node("k")}, pentode());
                            },
                            "k"},
                           {"pentode with its plate starved",
                            [&](Netlist& n, double) {
                              r(n, "hp", "a", 1e6), r(n, "hp", "s", 1000), r(n, "g", "0", 220e3), r(n, "k", "0", 270);
                              n.add("V1", {n.node("a"), n.node("s"), n.node("g"), n.node("k")}, pentode("EL84"));
                            },
                            "a"}};
  for (const auto& [what, build, node] : circuits)
    for (const double supply : {5.0, 12.0, 60.0, 250.0, 450.0, 900.0}) {
      Netlist netlist;
      netlist.add("B", {netlist.node("hp"), 0}, VoltageSource{supply});
      build(netlist, supply);
      const System system(netlist);
      const auto dc = solveDc(system);
      ASSERT_TRUE(dc) << what << " at " << supply << " V: " << dc.error().line();
      EXPECT_LT(dc->residual, 1e-9) << what;
      const double volts = System::volts(dc->x, netlist.find(node));
      EXPECT_GT(volts, 0) << what << " at " << supply;
      EXPECT_LT(volts, supply) << what << " at " << supply;
    }
}

/// A start far away, as an earlier design may leave it, leads to the same answer.
TEST(Dc, DoesNotDependOnWhereItStarts) {
  const auto solved = testing_support::solve(testing_support::sample("slipway").ink);
  std::mt19937 random(9);
  std::uniform_real_distribution<double> volts(-300, 600);
  for (int i = 0; i < 25; ++i) {
    Eigen::VectorXd start = solved.point.dc.x;
    for (auto& value : start)
      value = volts(random);
    const auto again = solveDc(*solved.point.system, &start);
    ASSERT_TRUE(again) << again.error().line();
    EXPECT_LT((again->x - solved.point.dc.x).head(40).cwiseAbs().maxCoeff(), 1e-4);
  }
}

TEST(System, CurrentsIntoEveryDeviceSumToZeroAndEveryNodeBalances) {
  for (const char* name : {"slipway", "net-loft"}) {
    const auto solved = testing_support::solve(testing_support::sample(name).ink);
    const auto& netlist = solved.circuit.netlist;
    std::vector<double> balance(static_cast<std::size_t>(netlist.nodeCount()));
    for (std::size_t d = 0; d < netlist.devices().size(); ++d) {
      const auto currents = solved.point.system->pinCurrents(static_cast<int>(d), solved.point.dc.x);
      double sum = 0;
      for (std::size_t pin = 0; pin < currents.size(); ++pin) {
        sum += currents[pin];
        balance[static_cast<std::size_t>(netlist.devices()[d].nodes[pin])] += currents[pin];
      }
      EXPECT_NEAR(sum, 0, 1e-12) << netlist.devices()[d].id;
    }
    for (std::size_t node = 1; node < balance.size(); ++node)
      EXPECT_NEAR(balance[node], 0, 1e-9) << netlist.nodeNames()[node];
  }
}

TEST(Elimination, EqualsDenseSolveOnRandomSparseSystems) {
  std::mt19937 random(21);
  std::uniform_real_distribution<double> exponent(-6, 0), sign(-1, 1);
  for (int trial = 0; trial < 60; ++trial) {
    const int n = 2 + static_cast<int>(random() % 30);
    std::vector<Entry> entries;
    for (int i = 0; i < n; ++i) {
      entries.push_back({i, i, std::pow(10, exponent(random)), 1e-9 * sign(random)});
      for (int k = 0; k < 3; ++k)
        entries.push_back({i, static_cast<int>(random() % static_cast<unsigned>(n)),
                           std::pow(10, exponent(random)) * sign(random), 1e-8 * sign(random)});
    }
    std::vector<std::complex<double>> b(static_cast<std::size_t>(n));
    for (auto& value : b)
      value = {sign(random), sign(random)};
    const Elimination plan(n, entries, {100, 1e4, 1e6});
    if (!plan.usable()) continue;
    Elimination::Lane radians{10, 100, 1e3, 1e4, 1e5, 3e5, 6e5, 1e6};
    Elimination::Workspace workspace;
    const auto loaded = plan.load(entries, b, 1e4);
    plan.sweep(loaded, radians, workspace);
    const double residual = plan.fullResidual(loaded, radians, workspace);
    EXPECT_LT(plan.quickResidual(loaded, radians, workspace), 1e-12);
    for (int lane = 0; lane < Elimination::lanes; ++lane) {
      Eigen::MatrixXcd A = Eigen::MatrixXcd::Zero(n, n);
      for (const auto& e : entries)
        A(e.row, e.column) += std::complex<double>(e.g, radians[static_cast<std::size_t>(lane)] * e.c);
      const Eigen::VectorXcd x = A.fullPivLu().solve(Eigen::Map<const Eigen::VectorXcd>(b.data(), n));
      if ((A * x - Eigen::Map<const Eigen::VectorXcd>(b.data(), n)).norm() > 1e-9 || residual > 1e-10)
        continue; // ill-posed draw
      const double condition = x.cwiseAbs().maxCoeff();
      for (int i = 0; i < n; ++i) {
        const auto& number = workspace.unknowns[static_cast<std::size_t>(i)];
        EXPECT_NEAR(number.re[static_cast<std::size_t>(lane)], x(i).real(), 1e-6 * condition);
        EXPECT_NEAR(number.im[static_cast<std::size_t>(lane)], x(i).imag(), 1e-6 * condition);
      }
    }
  }
}

/// [jw, -1, 0; 1, jw, 0.7; 0, 1.3, 0.9]: the second pivot is j(w - 1/w), which a plan made away from w = 1 trusts and
/// which loses everything near it. Both checks must see that; a plan made there must give the closed form.
TEST(Elimination, SeesAPivotThatVanishesAtOneFrequency) {
  const std::vector<Entry> entries{{0, 0, 0, 1},   {0, 1, -1, 0},  {1, 0, 1, 0},  {1, 1, 0, 1},
                                   {1, 2, 0.7, 0}, {2, 1, 1.3, 0}, {2, 2, 0.9, 0}};
  const std::vector<std::complex<double>> b{0.1, 1.1, 0.37};
  Elimination::Lane atResonance;
  atResonance.fill(1 + 1e-14);
  const Elimination away(3, entries, {0.1, 10}), there(3, entries, {1 + 1e-14});
  ASSERT_TRUE(away.usable() && there.usable());
  Elimination::Workspace workspace;
  auto loaded = away.load(entries, b, 1);
  away.sweep(loaded, atResonance, workspace);
  EXPECT_GT(away.quickResidual(loaded, atResonance, workspace), 1e-13);
  EXPECT_GT(away.fullResidual(loaded, atResonance, workspace), 1e-10);

  loaded = there.load(entries, b, 1);
  there.sweep(loaded, atResonance, workspace);
  EXPECT_LT(there.quickResidual(loaded, atResonance, workspace), 1e-13);
  EXPECT_LT(there.fullResidual(loaded, atResonance, workspace), 1e-13);
  const auto at = [&](std::size_t i) { return std::complex(workspace.unknowns[i].re[0], workspace.unknowns[i].im[0]); };
  const std::complex<double> x2 = std::complex(1.1, 0.1) / 0.7, x1 = (0.37 - 0.9 * x2) / 1.3;
  EXPECT_LT(std::abs(at(2) - x2), 1e-12);
  EXPECT_LT(std::abs(at(1) - x1), 1e-12);
  EXPECT_LT(std::abs(at(0) - (0.1 + x1) / std::complex(0.0, 1.0)), 1e-12);
}

/// Plans made for quite other numbers at the same places: some put a pivot where this circuit has nothing. Those must
/// be replaced, and the answer, the transposed one behind the noise too, is right with any of them.
TEST(Ac, ReplacesAPlanThatDoesNotServe) {
  Netlist n;
  n.add("V", {n.node("in"), 0}, VoltageSource{0, 1});
  n.add("R1", {n.node("in"), n.node("a")}, Resistor{1000});
  n.add("R2", {n.node("a"), 0}, Resistor{3000});
  n.add("E", {n.node("b"), 0, n.node("a"), n.node("c")}, Vcvs{0}); // its control does nothing: two empty places
  n.add("R3", {n.node("b"), n.node("c")}, Resistor{500});
  n.add("R4", {n.node("c"), n.node("a")}, Resistor{2000});
  const System system(n);
  const Eigen::VectorXd x = Eigen::VectorXd::Zero(system.size());
  // b stands at 0 V, so a sees 3 k beside 2.5 k.
  const double load = 1 / (1 / 3000.0 + 1 / 2500.0), gain = load / (1000 + load);
  const double density = 4 * boltzmann * roomKelvin * (1 / (1 / 1000.0 + 1 / load));
  std::mt19937 random(5);
  std::uniform_real_distribution<double> values(-1, 1);
  int replaced = 0, served = 0;
  for (int round = 0; round < 200; ++round) {
    auto entries = smallSignalEntries(system, x);
    for (auto& entry : entries)
      entry.g = values(random) > 0 ? values(random) : 0; // empty places send pivots elsewhere
    AcPlan plan = std::make_shared<Elimination>(system.size(), entries, std::vector{100.0});
    const auto before = plan;
    const auto ac = solveAc(system, x, {10, 1000}, &plan);
    ASSERT_TRUE(ac);
    ++(plan == before ? served : replaced);
    EXPECT_NEAR(std::abs(ac->volts(n.find("a"), 1)), gain, 1e-10);
    plan = before;
    const auto noise = solveNoise(system, x, {10, 1000}, n.find("a"), 0, &plan);
    ASSERT_TRUE(noise);
    EXPECT_NEAR(noise->output[1] / density, 1, 1e-9);
  }
  EXPECT_GT(replaced, 5);
  EXPECT_GT(served, 5);
}

TEST(Elimination, RefusesASingularSystem) {
  const std::vector<Entry> entries{{0, 0, 1, 0}, {0, 1, 1, 0}, {1, 0, 1, 0}, {1, 1, 1, 0}};
  EXPECT_FALSE(Elimination(2, entries, {1, 10}).usable());
}

/// A plan made for one set of values must not spoil another: its accuracy is measured at every point.
TEST(Ac, APlanMadeForExtremeValuesStillGivesTheRightAnswer) {
  const auto& library = testing_support::library();
  const auto ink = testing_support::sample("slipway").ink;
  const auto hertz = logSpaced(10, 100000, 24);
  const auto extreme = testing_support::solve(amp::withChanges(
      ink, library, {{"R3", "value", 120e3, 1e9}, {"R29", "value", 4700.0, 1e-3}, {"C2", "value", 22e-6, 1e-13}}));
  AcPlan plan;
  ASSERT_TRUE(solveAc(*extreme.point.system, extreme.point.dc.x, hertz, &plan));
  const auto solved = testing_support::solve(ink);
  const auto reused = solveAc(*solved.point.system, solved.point.dc.x, hertz, &plan);
  ASSERT_TRUE(reused);
  const auto dense = solveAcDense(*solved.point.system, solved.point.dc.x, hertz);
  const auto speaker = solved.circuit.probe("speaker");
  for (std::size_t k = 0; k < hertz.size(); ++k)
    EXPECT_NEAR(std::abs(reused->volts(speaker, k) / dense.volts(speaker, k)), 1, 1e-6) << hertz[k];
}

TEST(Ac, ReportsACircuitWithoutASingleAnswer) {
  Netlist netlist; // a node held by nothing at all but a cut-off plate
  netlist.add("V", {netlist.node("in"), 0}, VoltageSource{0, 1});
  netlist.add("R", {netlist.node("in"), netlist.node("g")}, Resistor{1000});
  netlist.add("T", {netlist.node("a"), netlist.node("g"), 0}, anyTriode());
  const System system(netlist);
  const auto dc = solveDc(system);
  ASSERT_TRUE(dc) << dc.error().line();
  EXPECT_NEAR(System::volts(dc->x, netlist.find("a")), 0, 1e-6);
  const auto ac = solveAc(system, dc->x, {100, 1000});
  ASSERT_FALSE(ac);
  EXPECT_NE(ac.error().message.find("no single answer"), std::string::npos);
}

TEST(Netlist, KnowsTheSameTopology) {
  const auto ink = testing_support::sample("slipway").ink;
  const auto& library = testing_support::library();
  const auto a = testing_support::solve(ink);
  const auto stepped = testing_support::solve(amp::withChanges(ink, library, {{"R3", "value", 120e3, 100e3}}));
  const auto removed = testing_support::solve(amp::withChanges(ink, library, {{"C2", "fitted", true, false}}));
  EXPECT_TRUE(a.circuit.netlist.sameTopology(stepped.circuit.netlist));
  EXPECT_FALSE(a.circuit.netlist.sameTopology(removed.circuit.netlist));
}

TEST(LogSpaced, HasExactEndsAndEvenRatios) {
  const auto hertz = logSpaced(10, 100000, 300);
  ASSERT_EQ(hertz.size(), 300U);
  EXPECT_EQ(hertz.front(), 10);
  EXPECT_EQ(hertz.back(), 100000);
  for (std::size_t k = 2; k < hertz.size(); ++k)
    EXPECT_NEAR(hertz[k] / hertz[k - 1], hertz[1] / hertz[0], 1e-9);
  EXPECT_EQ(logSpaced(50, 100, 1), std::vector<double>{50});
}

} // namespace
} // namespace vinegar::circuit
