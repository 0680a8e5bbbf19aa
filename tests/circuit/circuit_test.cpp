// The engine against answers got another way: closed forms, hand-derived nodal equations, bisection, plain dense LU.
#include "circuit/ac.h"
#include "support/samples.h"

#include <cmath>
#include <complex>
#include <functional>
#include <gtest/gtest.h>
#include <numbers>
#include <random>

namespace vinegar::circuit {
namespace {

using Complex = std::complex<double>;

double decibels(Complex h) { return 20 * std::log10(std::abs(h)); }
double degreesBetween(Complex a, Complex b) { return std::abs(std::arg(a / b)) * 180 / std::numbers::pi; }
Complex jw(double hertz) { return {0, 2 * std::numbers::pi * hertz}; }
Complex parallel(Complex a, Complex b) { return a * b / (a + b); }

const std::vector<double>& band() {
  static const auto hertz = logSpaced(10, 100000, 61);
  return hertz;
}

struct Bench {
  Netlist netlist;
  Node n(const char* name) { return netlist.node(name); }
  Bench() { netlist.add("Vin", {n("in"), 0}, VoltageSource{0, 1}); }
  void r(const char* id, const char* a, const char* b, double ohms) { netlist.add(id, {n(a), n(b)}, Resistor{ohms}); }
  void c(const char* id, const char* a, const char* b, double farads) {
    netlist.add(id, {n(a), n(b)}, Capacitor{farads});
  }
};

/// Sweeps and compares with `expected` at every frequency: 0.01 dB and 0.1 degree.
void expectResponse(const Netlist& netlist, const char* out, const std::function<Complex(double)>& expected) {
  const System system(netlist);
  const auto dc = solveDc(system);
  ASSERT_TRUE(dc) << dc.error().line();
  const auto ac = solveAc(system, dc->x, band());
  ASSERT_TRUE(ac) << ac.error().line();
  for (std::size_t k = 0; k < band().size(); ++k) {
    const Complex got = ac->volts(netlist.find(out), k), want = expected(band()[k]);
    ASSERT_NEAR(decibels(got), decibels(want), 0.01) << band()[k] << " Hz";
    ASSERT_LT(degreesBetween(got, want), 0.1) << band()[k] << " Hz";
  }
}

TEST(Ac, RcLowPassAndHighPass) {
  Bench low;
  low.r("R", "in", "out", 10e3);
  low.c("C", "out", "0", 10e-9);
  expectResponse(low.netlist, "out", [](double f) { return 1.0 / (1.0 + jw(f) * 10e3 * 10e-9); });
  Bench high;
  high.c("C", "in", "out", 22e-9);
  high.r("R", "out", "0", 470e3);
  expectResponse(high.netlist, "out", [](double f) {
    const Complex x = jw(f) * 22e-9 * 470e3;
    return x / (1.0 + x);
  });
}

TEST(Ac, SeriesResonanceWithLossyInductor) {
  Bench b;
  b.netlist.add("L", {b.n("in"), b.n("out")}, Inductor{3, 7000});
  b.c("C", "out", "0", 470e-12);
  b.r("R", "out", "0", 200e3);
  expectResponse(b.netlist, "out", [](double f) {
    const Complex load = parallel(200e3, 1.0 / (jw(f) * 470e-12));
    return load / (load + 7000.0 + jw(f) * 3.0);
  });
}

TEST(Ac, CoupledWindingsFollowTheTwoPortEquations) {
  // 20 H to 20 mH, k = 0.999, 8 ohm load: V2 = jwM I1 - jwL2 I2, written out and solved by Cramer's rule.
  const double L1 = 20, L2 = 0.02, M = 0.999 * std::sqrt(L1 * L2), R1 = 300, R2 = 0.5, load = 8, source = 5000;
  Bench b;
  Transformer law;
  law.henries.resize(2, 2);
  law.henries << L1, M, M, L2;
  law.ohms.resize(2);
  law.ohms << R1, R2;
  b.r("Rs", "in", "p", source);
  b.netlist.add("T", {b.n("p"), 0, b.n("out"), 0}, law);
  b.r("RL", "out", "0", load);
  expectResponse(b.netlist, "out", [&](double f) {
    const Complex s = jw(f);
    const Complex a = source + R1 + s * L1, c = s * M, d = R2 + load + s * L2;
    return load * c / (a * d - c * c);
  });
}

/// Three-control stack, derived by hand. Unknown volts t (treble cap and pot top), o (wiper), b, s, m; drive 1 V, load.
Complex stackByHand(double f, double treble, double bass, double middle, double load) {
  const double Rt = 250e3, Rb = 500e3, Rm = 25e3, slope = 68e3;
  const Complex Yt = jw(f) * 270e-12, Yb = jw(f) * 47e-9, Ym = jw(f) * 33e-9;
  const auto g = [](double ohms, double share) { return 1 / std::max(ohms * share, ohms * 1e-4 + 1); };
  const double upper = g(Rt, 1 - treble), lower = g(Rt, treble), gb = g(Rb, bass), gm = g(Rm, middle), gs = 1 / slope;
  Eigen::Matrix<Complex, 5, 5> Y = Eigen::Matrix<Complex, 5, 5>::Zero();
  Eigen::Matrix<Complex, 5, 1> I = Eigen::Matrix<Complex, 5, 1>::Zero();
  enum { t, o, b, s, m };
  Y(t, t) = Yt + upper, Y(t, o) = -upper, I(t) = Yt;
  Y(o, o) = upper + lower + 1 / load, Y(o, t) = -upper, Y(o, b) = -lower;
  Y(b, b) = lower + gb + Yb, Y(b, o) = -lower, Y(b, m) = -gb, Y(b, s) = -Yb;
  Y(s, s) = gs + Yb + Ym, Y(s, b) = -Yb, Y(s, m) = -Ym, I(s) = gs;
  Y(m, m) = Ym + gb + gm, Y(m, s) = -Ym, Y(m, b) = -gb;
  return Y.fullPivLu().solve(I)(o);
}

TEST(Ac, ThreeControlStackAt27KnobSettings) {
  for (const double treble : {0.0, 0.5, 1.0})
    for (const double bass : {0.0, 0.5, 1.0})
      for (const double middle : {0.0, 0.5, 1.0}) {
        Bench b;
        b.c("Ct", "in", "t", 270e-12);
        b.r("Rs", "in", "s", 68e3);
        b.c("Cb", "s", "b", 47e-9);
        b.c("Cm", "s", "m", 33e-9);
        const auto pot = [&](const std::string& id, Node top, Node wiper, Node bottom, double ohms, double share) {
          const auto [upper, lower] = potHalves(ohms, share);
          b.netlist.add(id + ".upper", {top, wiper}, upper);
          b.netlist.add(id + ".lower", {wiper, bottom}, lower);
        };
        pot("Treble", b.n("t"), b.n("o"), b.n("b"), 250e3, treble);
        pot("Bass", b.n("b"), b.n("b"), b.n("m"), 500e3, bass);
        pot("Middle", b.n("m"), b.n("m"), 0, 25e3, middle);
        b.r("RL", "o", "0", 1e6);
        expectResponse(b.netlist, "o", [&](double f) { return stackByHand(f, treble, bass, middle, 1e6); });
      }
}

const tubes::TubeType& typeNamed(const char* name) { return *testing_support::library().tubes.find(name); }

struct Stage {
  Bench bench;
  double supply, Ra, Rk;
  explicit Stage(double supplyVolts, double plateLoad, double cathode, double bypass = 0, double gridStopper = 1,
                 double gridPlateFarads = 0)
      : supply(supplyVolts), Ra(plateLoad), Rk(cathode) {
    auto& b = bench;
    b.netlist.add("B", {b.n("hp"), 0}, VoltageSource{supply});
    b.r("Rs", "in", "g", gridStopper);
    b.r("Ra", "hp", "a", Ra);
    b.r("Rk", "k", "0", Rk);
    if (bypass > 0) b.c("Ck", "k", "0", bypass);
    if (gridPlateFarads > 0) b.c("Cgp", "g", "a", gridPlateFarads);
    b.netlist.add("V", {b.n("a"), b.n("g"), b.n("k")},
                  Triode{std::get<tubes::TriodeModel>(typeNamed("12AX7").model), typeNamed("12AX7").grid});
  }
};

double bisect(double low, double high, const std::function<bool(double)>& tooLow) {
  for (int i = 0; i < 200; ++i) {
    const double middle = (low + high) / 2;
    (tooLow(middle) ? low : high) = middle;
  }
  return (low + high) / 2;
}

/// The stage's plate current by bisection on the tube equations alone: for cathode volts, the current that fits the
/// plate load; then the cathode volts that plate and grid current together make.
double plateCurrentByBisection(double supply, double Ra, double Rk) {
  const auto& type = typeNamed("12AX7");
  const auto& model = std::get<tubes::TriodeModel>(type.model);
  const auto plate = [&](double cathode) {
    return bisect(0, supply / Ra, [&](double amps) {
      return tubes::triodeCurrent(model, supply - amps * Ra - cathode, -cathode).plate > amps;
    });
  };
  return plate(bisect(0, supply, [&](double cathode) {
    return plate(cathode) + tubes::gridCurrent(type.grid, model.K, -cathode).grid > cathode / Rk;
  }));
}

TEST(Dc, StageBiasAgreesWithBisection) {
  for (const double supply : {5.0, 48.0, 150.0, 300.0, 450.0, 900.0})
    for (const double Ra : {22e3, 100e3, 330e3})
      for (const double Rk : {470.0, 1500.0, 10e3}) {
        const Stage stage(supply, Ra, Rk);
        const System system(stage.bench.netlist);
        const auto dc = solveDc(system);
        ASSERT_TRUE(dc) << dc.error().line();
        const double amps = (supply - System::volts(dc->x, stage.bench.netlist.find("a"))) / Ra;
        EXPECT_NEAR(amps / plateCurrentByBisection(supply, Ra, Rk), 1, 1e-3) << supply << " " << Ra << " " << Rk;
        EXPECT_LT(dc->residual, 1e-9);
      }
}

/// gm and rp at the operating point from differences of the tube equation, not from its own slopes.
struct SmallSignal {
  double gm, rp, mu;
};
SmallSignal smallSignal(const Stage& stage) {
  const double amps = plateCurrentByBisection(stage.supply, stage.Ra, stage.Rk);
  const double p = stage.supply - amps * (stage.Ra + stage.Rk), g = -amps * stage.Rk, h = 1e-3;
  const auto& model = std::get<tubes::TriodeModel>(typeNamed("12AX7").model);
  const double gm =
      (tubes::triodeCurrent(model, p, g + h).plate - tubes::triodeCurrent(model, p, g - h).plate) / (2 * h);
  const double rp = 2 * h / (tubes::triodeCurrent(model, p + h, g).plate - tubes::triodeCurrent(model, p - h, g).plate);
  return {gm, rp, gm * rp};
}

TEST(Ac, CathodeBypassShelf) {
  for (const double bypass : {0.1e-6, 0.68e-6, 22e-6}) {
    const Stage stage(300, 100e3, 1500, bypass);
    const auto [gm, rp, mu] = smallSignal(stage);
    expectResponse(stage.bench.netlist, "a", [&, rp = rp, mu = mu](double f) {
      const Complex zk = parallel(1500.0, 1.0 / (jw(f) * bypass));
      return -mu * 100e3 / (100e3 + rp + (mu + 1) * zk);
    });
  }
}

TEST(Ac, MillerCorner) {
  // 68k into 1.7 pF grid to plate, cathode bypassed by a farad. Two-node solution, Kirchhoff at grid and plate.
  const double source = 68e3, cgp = 100e-12;
  const Stage stage(300, 100e3, 1500, 1.0, source, cgp);
  const auto [gm, rp, mu] = smallSignal(stage);
  expectResponse(stage.bench.netlist, "a", [&, gm = gm, rp = rp](double f) {
    const Complex s = jw(f) * cgp;
    const double g = 1 / source, ga = 1 / 100e3 + 1 / rp;
    return g * (s - gm) / ((g + s) * (ga + s) + s * (gm - s));
  });
}

TEST(Dc, NamesTheNodeWithoutAPathToGround) {
  Bench b;
  b.c("C", "in", "lost", 1e-9);
  b.c("C2", "lost", "0", 1e-9);
  const auto dc = solveDc(System(b.netlist));
  ASSERT_FALSE(dc);
  EXPECT_EQ(dc.error().place, "node lost");
}

TEST(Dc, ImpossibleSourceLoopIsReported) {
  Bench b;
  b.netlist.add("V2", {b.n("in"), 0}, VoltageSource{5}); // across the 0 V input source
  const auto dc = solveDc(System(b.netlist));
  EXPECT_FALSE(dc);
}

TEST(Dc, SiliconDiodeAgainstItsLaw) {
  Bench b;
  b.netlist.add("B", {b.n("hp"), 0}, VoltageSource{12});
  b.r("R", "hp", "d", 1000);
  b.netlist.add("D", {b.n("d"), 0}, Diode{1e-9, 1.8});
  const System system(b.netlist);
  const auto dc = solveDc(system);
  ASSERT_TRUE(dc);
  const double v = System::volts(dc->x, b.netlist.find("d"));
  EXPECT_NEAR((12 - v) / 1000, 1e-9 * (std::exp(v / (1.8 * thermalVolts)) - 1), 1e-8);
}

TEST(Dc, VacuumDiodeFollowsTheThreeHalvesPower) {
  Bench b;
  b.netlist.add("B", {b.n("hp"), 0}, VoltageSource{50});
  b.r("R", "hp", "d", 500);
  b.netlist.add("D", {b.n("d"), 0}, VacuumDiode{2e-3});
  const auto dc = solveDc(System(b.netlist));
  ASSERT_TRUE(dc);
  const double v = System::volts(dc->x, b.netlist.find("d"));
  EXPECT_NEAR((50 - v) / 500, 2e-3 * std::pow(v, 1.5), 1e-6);
}

/// The whole sample against a plain dense LU at every frequency and every unknown, and the plan reused on other values.
TEST(Ac, FixedPivotSweepEqualsDenseSolveOnWholeAmplifiers) {
  for (const char* name : {"slipway", "net-loft", "harbour-office", "chandlery"}) {
    const auto solved = testing_support::solve(testing_support::sample(name).ink);
    AcPlan plan;
    for (int pass = 0; pass < 2; ++pass) {
      const auto fast = solveAc(*solved.point.system, solved.point.dc.x, band(), &plan);
      ASSERT_TRUE(fast);
      ASSERT_TRUE(plan && plan->usable());
      const auto dense = solveAcDense(*solved.point.system, solved.point.dc.x, band());
      // Where there is a signal at all: what is left of one behind the supply is only rounding.
      double worst = 0;
      for (Eigen::Index row = 0; row < fast->x.rows(); ++row)
        for (Eigen::Index column = 0; column < fast->x.cols(); ++column)
          if (std::abs(dense.x(row, column)) > 1e-6)
            worst = std::max(worst, std::abs(decibels(fast->x(row, column) / dense.x(row, column))));
      EXPECT_LT(worst, 1e-5) << name;
    }
  }
}

TEST(Ac, EqualsTheDerivativeOfDcAtLowFrequency) {
  // A direct path from grid to plate: nudge the input's DC and compare.
  const Stage stage(300, 100e3, 1500);
  const System system(stage.bench.netlist);
  const auto dc = solveDc(system);
  ASSERT_TRUE(dc);
  const auto gain = solveAc(system, dc->x, {0.001});
  ASSERT_TRUE(gain);
  double volts[2];
  for (const int side : {0, 1}) {
    Bench nudged = stage.bench;
    nudged.netlist.add("Inudge", {0, nudged.n("g")},
                       CurrentSource{(side ? 1e-3 : -1e-3) / 1.0}); // through the 1 ohm stopper
    const auto moved = solveDc(System(nudged.netlist));
    ASSERT_TRUE(moved);
    volts[side] = System::volts(moved->x, nudged.netlist.find("a"));
  }
  EXPECT_NEAR((volts[1] - volts[0]) / 2e-3 / gain->volts(stage.bench.netlist.find("a"), 0).real(), 1, 1e-3);
}

TEST(Taper, PassesItsNamedPoints) {
  EXPECT_DOUBLE_EQ(taperShare({Taper::Kind::linear, 0.5}, 0.3), 0.3);
  const Taper own{Taper::Kind::measured, 0.5, {{0, 0.01}, {0.25, 0.05}, {0.5, 0.2}, {1, 1}}};
  const std::pair<double, double> read[] = {{0, 0.01},   {0.125, 0.03}, {0.25, 0.05}, {0.4, 0.14},
                                            {0.75, 0.6}, {1, 1},        {2, 1}};
  for (const auto& [turn, share] : read)
    EXPECT_NEAR(taperShare(own, turn), share, 1e-12) << turn;
  for (const double half : {0.1, 0.15, 0.2}) {
    EXPECT_NEAR(taperShare({Taper::Kind::log, half}, 0.5), half, 1e-12);
    EXPECT_NEAR(taperShare({Taper::Kind::reverseLog, half}, 0.5), 1 - half, 1e-12);
    for (const auto kind : {Taper::Kind::log, Taper::Kind::reverseLog}) {
      EXPECT_NEAR(taperShare({kind, half}, 0), 0, 1e-12);
      EXPECT_NEAR(taperShare({kind, half}, 1), 1, 1e-12);
      for (double r = 0; r < 1; r += 0.05)
        EXPECT_LT(taperShare({kind, half}, r), taperShare({kind, half}, r + 0.05));
    }
  }
}

TEST(Netlist, RefusesWhatNoPartCanBe) {
  Netlist netlist;
  const Node a = netlist.node("a");
  EXPECT_THROW(netlist.add("R", {a, 0}, Resistor{-1}), std::invalid_argument);
  EXPECT_THROW(netlist.add("R", {a, 0}, Resistor{NAN}), std::invalid_argument);
  EXPECT_THROW(netlist.add("R", {a}, Resistor{1}), std::invalid_argument);
  EXPECT_THROW(netlist.add("R", {a, 7}, Resistor{1}), std::invalid_argument);
}

} // namespace
} // namespace vinegar::circuit
