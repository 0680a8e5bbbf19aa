#include "circuit/stepper.h"

#include "circuit/transient.h"
#include "support/samples.h"

#include <gtest/gtest.h>
#include <numbers>

namespace vinegar::circuit {
namespace {

struct Played {
  testing_support::Solved solved;
  StepperSetup setup;
  explicit Played(const char* name) : solved(testing_support::solve(testing_support::sample(name).ink)) {
    const auto& devices = solved.point.system->netlist().devices();
    for (std::size_t d = 0; d < devices.size(); ++d)
      if (const auto* source = std::get_if<VoltageSource>(&devices[d].law); source && source->ac != 0)
        setup.inputs.push_back(static_cast<int>(d));
    setup.outputs = {solved.circuit.probe("speaker")};
    for (const auto& part : solved.circuit.parts)
      for (const int d : part.devices)
        if (isNonlinear(devices[static_cast<std::size_t>(d)].law))
          for (const Node node : devices[static_cast<std::size_t>(d)].nodes)
            setup.outputs.push_back(node);
  }
  [[nodiscard]] const System& system() const { return *solved.point.system; }
  [[nodiscard]] const Eigen::VectorXd& rest() const { return solved.point.dc.x; }
};

double twoNotes(double volts, double t) {
  return volts * std::min(1.0, t / 0.005) *
         (std::sin(2 * std::numbers::pi * 196 * t) + 0.6 * std::sin(2 * std::numbers::pi * 293.7 * t));
}

Eigen::MatrixXd run(Stepper stepper, const StepperSetup& setup, double volts, int samples,
                    Stepper::Work* work = nullptr) {
  Eigen::MatrixXd out(static_cast<Eigen::Index>(setup.outputs.size()), samples);
  std::vector<double> inputs(setup.inputs.size());
  for (int k = 0; k < samples; ++k) {
    std::fill(inputs.begin(), inputs.end(), twoNotes(volts, (k + 1) / setup.samplesPerSecond));
    EXPECT_TRUE(stepper.step(inputs.data())) << k;
    for (std::size_t o = 0; o < setup.outputs.size(); ++o)
      out(static_cast<Eigen::Index>(o), k) = stepper.output(o);
  }
  if (work) *work = stepper.work();
  return out;
}

/// Quiet and far into clipping, against the accurate run: a thousandth where it is quiet, a twentieth of the wave where
/// every edge is clipped.
TEST(Stepper, AgreesWithTheAccurateRun) {
  VINEGAR_LONG_TEST(numbers);
  for (const char* name : {"slipway", "harbour-office", "net-loft"}) {
    Played played(name);
    for (const auto& [drive, share] : {std::pair{0.002, 2e-3}, {0.5, 0.05}}) {
      const double volts = drive;
      const int samples = 2000;
      const Eigen::MatrixXd fast =
          run(Stepper(played.system(), played.rest(), played.setup), played.setup, volts, samples);
      TransientQuestion question;
      question.samplesPerSecond = played.setup.samplesPerSecond;
      question.duration = samples / question.samplesPerSecond;
      question.outputs = played.setup.outputs;
      for (const int input : played.setup.inputs)
        question.drive[input] = {[volts](double t) { return twoNotes(volts, t); }, {0.005}};
      question.relativeTolerance = question.absoluteVolts = volts < 0.1 ? 1e-7 : 1e-6;
      const auto accurate = solveTransient(played.system(), played.rest(), question);
      ASSERT_TRUE(accurate) << accurate.error().line();
      const Eigen::MatrixXd& want = accurate->volts;
      for (Eigen::Index o = 0; o < fast.rows(); ++o) {
        const double rest = want(o, 0);
        const double swing = (want.row(o).array() - rest).matrix().norm();
        if (swing < 1e-6) continue;
        const double off = (fast.row(o) - want.row(o).rightCols(samples)).norm();
        EXPECT_LT(off, share * swing) << name << " " << volts << " output " << o;
      }
    }
  }
}

/// Every width of the processor's vector unit gives the same wave.
TEST(Stepper, WidthsAgree) {
  Played played("slipway");
  played.setup.width = tubes::Width::two;
  const Eigen::MatrixXd narrow = run(Stepper(played.system(), played.rest(), played.setup), played.setup, 0.3, 1500);
  EXPECT_GT(narrow.row(0).maxCoeff(), 5);
  for (const auto width : tubes::widthsHere()) {
    played.setup.width = width;
    const Eigen::MatrixXd wide = run(Stepper(played.system(), played.rest(), played.setup), played.setup, 0.3, 1500);
    EXPECT_LT((wide - narrow).cwiseAbs().maxCoeff(), 1e-6) << static_cast<int>(width);
  }
}

/// Silent, a circuit stays where it is; after a burst that clips everything it comes back there.
TEST(Stepper, RestsWithoutDriftAndComesBackFromABurst) {
  VINEGAR_LONG_TEST(numbers);
  for (const char* name : {"slipway", "chandlery"}) {
    Played played(name);
    played.setup.samplesPerSecond = 48000;
    const Eigen::MatrixXd out = run(Stepper(played.system(), played.rest(), played.setup), played.setup, 0, 48000);
    for (Eigen::Index o = 0; o < out.rows(); ++o)
      EXPECT_LT(std::abs(out(o, 47999) - out(o, 0)), 1e-5) << name << " " << o;
  }
  Played played("slipway");
  played.setup.samplesPerSecond = 48000;
  Stepper stepper(played.system(), played.rest(), played.setup);
  std::vector<double> inputs(played.setup.inputs.size());
  double far = 0;
  for (int k = 1; k <= 192000; ++k) {
    std::fill(inputs.begin(), inputs.end(), k < 4800 ? twoNotes(0.5, k / 48000.0) : 0.0);
    ASSERT_TRUE(stepper.step(inputs.data())) << k;
    far = std::max(far, std::abs(stepper.output(0)));
  }
  EXPECT_GT(far, 10);
  const Eigen::VectorXd x = stepper.unknowns();
  EXPECT_LT((x - played.rest()).lpNorm<Eigen::Infinity>(), 0.02);
}

/// A restart plays the same again, digit for digit; a copy goes on as the first does; the unknowns are those played.
TEST(Stepper, RestartsAndCopiesExactly) {
  Played played("slipway");
  Stepper stepper(played.system(), played.rest(), played.setup);
  const Eigen::MatrixXd first = run(stepper, played.setup, 0.2, 700);
  const std::vector<double> loud(played.setup.inputs.size(), 0.2);
  for (int k = 0; k < 50; ++k)
    ASSERT_TRUE(stepper.step(loud.data()));
  const Eigen::VectorXd x = stepper.unknowns();
  for (std::size_t o = 0; o < played.setup.outputs.size(); ++o)
    EXPECT_NEAR(System::volts(x, played.setup.outputs[o]), stepper.output(o), 1e-7);
  Stepper copy = stepper;
  ASSERT_TRUE(stepper.step(loud.data()) && copy.step(loud.data()));
  EXPECT_EQ(stepper.output(0), copy.output(0));
  stepper.restart();
  EXPECT_EQ(stepper.unknowns(), played.rest());
  EXPECT_EQ(run(stepper, played.setup, 0.2, 700), first);
}

/// Started in the middle of another run, from its unknowns and the inputs then, it goes on as that does.
TEST(Stepper, GoesOnFromAnyMoment) {
  Played played("harbour-office");
  Stepper through(played.system(), played.rest(), played.setup);
  std::vector<double> inputs(played.setup.inputs.size());
  const auto play = [&](Stepper& stepper, int k) {
    std::fill(inputs.begin(), inputs.end(), twoNotes(0.05, k / played.setup.samplesPerSecond));
    ASSERT_TRUE(stepper.step(inputs.data()));
  };
  for (int k = 1; k <= 800; ++k)
    play(through, k);
  Stepper from(played.system(), through.unknowns(), played.setup, inputs);
  double swing = 0, off = 0;
  for (int k = 801; k <= 1600; ++k) {
    play(through, k);
    play(from, k);
    swing = std::max(swing, std::abs(through.output(0)));
    off = std::max(off, std::abs(through.output(0) - from.output(0)));
  }
  EXPECT_GT(swing, 0.5);
  EXPECT_LT(off, 2e-3 * swing);
}

/// Taken up in the middle of a run by one of another step length, and given back: with as long a step it is the same
/// wave, with a quarter of it what that makes of the wave alone.
TEST(Stepper, ResumesWhereAnotherStands) {
  Played played("harbour-office");
  auto small = played.setup;
  small.samplesPerSecond *= 4;
  const auto playTo = [&](Stepper& stepper, const StepperSetup& setup, double seconds, double from) {
    std::vector<double> inputs(setup.inputs.size());
    const long first = std::lround(from * setup.samplesPerSecond), last = std::lround(seconds * setup.samplesPerSecond);
    for (long k = first + 1; k <= last; ++k) {
      std::fill(inputs.begin(), inputs.end(), twoNotes(0.05, static_cast<double>(k) / setup.samplesPerSecond));
      ASSERT_TRUE(stepper.step(inputs.data())) << k;
    }
  };
  Stepper through(played.system(), played.rest(), played.setup), taken = through;
  Stepper fine(played.system(), played.rest(), small), fineThrough = fine;
  playTo(through, played.setup, 0.01, 0);
  taken.resume(through);
  EXPECT_EQ(taken.output(0), through.output(0));
  EXPECT_EQ(taken.unknowns(), through.unknowns());
  // A plan of its own for the same step.
  Stepper other(played.system(), played.rest(), played.setup);
  other.resume(through);
  EXPECT_LT((other.unknowns() - through.unknowns()).lpNorm<Eigen::Infinity>(), 1e-6);
  fine.resume(through);
  EXPECT_LT((fine.unknowns() - through.unknowns()).lpNorm<Eigen::Infinity>(), 1e-6);
  playTo(fine, small, 0.012, 0.01);
  playTo(through, played.setup, 0.02, 0.01);
  playTo(other, played.setup, 0.02, 0.01);
  EXPECT_NEAR(other.output(0), through.output(0), 1e-3);
  taken.resume(fine);
  playTo(taken, played.setup, 0.02, 0.012);
  playTo(fineThrough, small, 0.02, 0);
  EXPECT_GT(std::abs(through.output(0)), 0.02);
  EXPECT_NEAR(taken.output(0), fineThrough.output(0), 5e-3);
}

/// What is on its way through a delay comes out where a step in between was gone through finer.
TEST(Stepper, DelaysKeepTheirTailThroughFinerSteps) {
  Netlist n;
  constexpr double seconds = 0.0123;
  const auto in = n.node("in"), y = n.node("y"), echo = n.node("echo");
  const int source = n.add("v", {in, 0}, VoltageSource{});
  n.add("echo", {echo, 0, in, 0}, Delay{0.5, seconds});
  n.add("R", {echo, y}, Resistor{1e3});
  n.add("C", {y, 0}, Capacitor{1e-7});
  const System system(n);
  StepperSetup setup;
  setup.samplesPerSecond = 48000;
  setup.inputs = {source};
  setup.outputs = {y};
  const Eigen::VectorXd rest = Eigen::VectorXd::Zero(system.size());
  Stepper through(system, rest, setup), finer = through;
  const auto wave = [](double k) { // a pulse of some samples
    const double u = (k - 40) / 12;
    return std::exp(-u * u);
  };
  double most = 0;
  for (int k = 1; k <= 1200; ++k) {
    const double now = wave(k);
    ASSERT_TRUE(through.step(&now));
    std::vector<double> inputs(1);
    const bool isFiner = k == 300 || k == 450;
    ASSERT_TRUE(isFiner ? finer.stepFiner([&](double share) -> const std::vector<double>& {
      inputs[0] = wave(k - 1 + share);
      return inputs;
    })
                        : finer.step(&now));
    EXPECT_NEAR(finer.output(0), through.output(0), 1e-3) << k;
    most = std::max(most, through.output(0));
  }
  EXPECT_GT(most, 0.4); // the echo of a pulse of 1, a little rounded
}

/// What a step costs: about one evaluation of the tubes when quiet, under three in hard clipping, and none runs away.
TEST(Stepper, TakesFewEvaluations) {
  Played played("slipway");
  for (const auto& [volts, each] : {std::pair{0.002, 1.1}, {0.5, 3.0}}) {
    Stepper::Work work;
    run(Stepper(played.system(), played.rest(), played.setup), played.setup, volts, 4000, &work);
    EXPECT_LT(static_cast<double>(work.evaluations) / static_cast<double>(work.steps), each) << volts;
    EXPECT_LT(work.most, 40) << volts;
  }
}

/// What is no number is no state: the step is refused and the circuit stands where it stood.
TEST(Stepper, RefusesWhatIsNoNumber) {
  Played played("slipway");
  for (const auto width : tubes::widthsHere()) {
    played.setup.width = width;
    Stepper stepper(played.system(), played.rest(), played.setup), other = stepper;
    std::vector<double> inputs(played.setup.inputs.size(), 0.01);
    for (int k = 0; k < 20; ++k) {
      ASSERT_TRUE(stepper.step(inputs.data()));
      ASSERT_TRUE(other.step(inputs.data()));
    }
    for (const double no : {std::nan(""), HUGE_VAL}) {
      const std::vector<double> bad(inputs.size(), no);
      EXPECT_FALSE(stepper.step(bad.data()));
      EXPECT_EQ(stepper.output(0), other.output(0));
    }
    ASSERT_TRUE(stepper.step(inputs.data()));
    ASSERT_TRUE(other.step(inputs.data()));
    EXPECT_NEAR(stepper.output(0), other.output(0), 1e-4);
  }
}

} // namespace
} // namespace vinegar::circuit
