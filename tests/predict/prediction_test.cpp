#include "predict/overview.h"
#include "support/samples.h"

#include <cmath>
#include <complex>
#include <gtest/gtest.h>
#include <stdexcept>

namespace vinegar::predict {
namespace {

using testing_support::library;
using testing_support::sample;
using testing_support::solve;

const std::vector<double>& band() {
  static const auto hertz = circuit::logSpaced(10, 100000, 101);
  return hertz;
}

TEST(OperatingPoint, PowerIntoTheAmplifierIsPowerInItsParts) {
  for (const char* name : {"slipway-18", "net-loft-5"}) {
    const auto solved = solve(sample(name).ink);
    double sum = 0, delivered = 0;
    for (const auto& part : solved.point.parts) {
      sum += part.watts;
      if (part.watts < 0) delivered -= part.watts; // rectifiers, whose means hold the mains' power
    }
    EXPECT_GT(delivered, 5) << name;
    EXPECT_NEAR(sum / delivered, 0, 1e-6) << name; // sources count negative
  }
}

TEST(OperatingPoint, TubeReadingsAgreeWithTheResistorsAroundThem) {
  const auto solved = solve(sample("slipway-18").ink);
  const auto ohms = [&](const char* name) { return solved.circuit.part(name)->resolved.value(); };
  const auto volts = [&](const char* name) { return solved.point.part(name)->volts; };
  for (const auto& tube : solved.point.tubes) {
    if (tube.name != "V1a") continue;
    EXPECT_NEAR(tube.plateAmps, volts("R3") / ohms("R3"), 1e-9);
    EXPECT_NEAR(tube.gridVolts, -volts("R4"), 1e-4);
    EXPECT_NEAR(tube.mu, tube.gm * tube.rp, 1e-9 * tube.mu);
  }
}

TEST(OperatingPoint, SamplesIdleAsABuilderWouldAccept) {
  for (const char* name : {"slipway-18", "net-loft-5"}) {
    const auto solved = solve(sample(name).ink);
    for (const auto& tube : solved.point.tubes) {
      const double share = tube.plateWatts / tube.plateWattsLimit.value();
      EXPECT_LT(share, 0.95) << name << " " << tube.name;
      EXPECT_LT(tube.gridVolts, -0.7) << name << " " << tube.name;
      EXPECT_GT(tube.plateVolts, 80) << name << " " << tube.name;
    }
  }
}

TEST(Response, SpanTimesSpanIsTheWhole) {
  const auto solved = solve(sample("slipway-18").ink);
  const auto spans = predictResponses(solved.circuit, solved.point,
                                      {{"jack", "stack.out"}, {"stack.out", "speaker"}, {"jack", "speaker"}}, band());
  ASSERT_TRUE(spans) << spans.error().line();
  for (std::size_t k = 0; k < band().size(); ++k) {
    EXPECT_NEAR((*spans)[0].decibels[k] + (*spans)[1].decibels[k], (*spans)[2].decibels[k], 1e-9);
    EXPECT_NEAR(std::remainder((*spans)[0].degrees[k] + (*spans)[1].degrees[k] - (*spans)[2].degrees[k], 360), 0, 1e-6);
  }
}

TEST(Response, PhaseIsContinuous) {
  const auto solved = solve(sample("slipway-18").ink);
  const auto response =
      predictResponse(solved.circuit, solved.point, {"jack", "speaker", circuit::logSpaced(10, 100000, 300)});
  ASSERT_TRUE(response);
  for (std::size_t k = 1; k < response->degrees.size(); ++k)
    EXPECT_LT(std::abs(response->degrees[k] - response->degrees[k - 1]), 60);
}

TEST(Response, UnknownProbeIsNamed) {
  const auto solved = solve(sample("slipway-18").ink);
  const auto response = predictResponse(solved.circuit, solved.point, {"jack", "kitchen", band()});
  ASSERT_FALSE(response);
  EXPECT_EQ(response.error().place, "kitchen");
}

TEST(Response, OfASourceWithoutSignalIsAProblemNotInfinity) {
  const auto solved = solve(sample("slipway-18").ink);
  EXPECT_FALSE(predictResponse(solved.circuit, solved.point, {"mains.live", "speaker", band()}));
}

/// Feedback must take gain away, by about 1 + loop gain; with the secondary's leads swapped it adds.
TEST(Response, FeedbackOfSlipwayIsNegative) {
  auto open = sample("slipway-18"), swapped = open;
  amp::pencil(open, library(), "R29", "value", 1e8);
  amp::pencil(swapped, library(), "T1", "reversed", false);
  const auto gain = [&](const amp::Design& design) {
    const auto solved = solve(design);
    return predictResponse(solved.circuit, solved.point, {"driver.in", "speaker", {1000}})->decibels[0];
  };
  const double closed = gain(sample("slipway-18").ink);
  EXPECT_GT(gain(amp::pencilled(open, library())) - closed, 3);
  EXPECT_GT(gain(amp::pencilled(swapped, library())), gain(amp::pencilled(open, library())));
}

TEST(Response, CathodyneOutputsAreEqualAndOpposite) {
  const auto solved = solve(sample("slipway-18").ink);
  const auto sides = predictResponses(solved.circuit, solved.point,
                                      {{"splitter.g", "splitter.a"}, {"splitter.g", "splitter.k"}}, {1000});
  ASSERT_TRUE(sides);
  // The bias resistor stands in the cathode's load only: a 2 % difference at most.
  EXPECT_NEAR((*sides)[0].decibels[0], (*sides)[1].decibels[0], 0.3);
  EXPECT_NEAR(std::abs(std::remainder((*sides)[0].degrees[0] - (*sides)[1].degrees[0], 360)), 180, 2);
}

/// The sweep of a knob moves the curve the way its name says, and a linear control is even about its middle.
TEST(Response, KnobsMoveTheCurveTheWayTheirNamesSay) {
  const auto level = [&](const char* knob, double rotation, double hertz) {
    auto design = sample("slipway-18").ink;
    design.knobs[knob] = rotation;
    const auto solved = solve(design);
    return predictResponse(solved.circuit, solved.point, {"stack.in", "volume.out", {hertz}})->decibels[0];
  };
  const struct {
    const char* knob;
    double hertz, atLeast;
  } controls[] = {{"Treble", 5000, 6}, {"Bass", 60, 6}, {"Middle", 600, 3}, {"Volume", 1000, 40}};
  for (const auto& [knob, hertz, atLeast] : controls) {
    double before = level(knob, 0, hertz);
    const double lowest = before;
    for (const double rotation : {0.25, 0.5, 0.75, 1.0}) {
      const double now = level(knob, rotation, hertz);
      EXPECT_GE(now, before - 0.05) << knob << " at " << rotation;
      before = now;
    }
    EXPECT_GT(before - lowest, atLeast) << knob;
  }
}

/// A passive network cannot give more than it takes, at any setting and frequency.
TEST(Response, ThePassiveStackOnlyLoses) {
  for (const double treble : {0.0, 0.5, 1.0})
    for (const double bass : {0.0, 0.5, 1.0})
      for (const double middle : {0.0, 0.5, 1.0}) {
        auto design = sample("slipway-18").ink;
        design.knobs = {{"Treble", treble}, {"Bass", bass}, {"Middle", middle}};
        const auto solved = solve(design);
        const auto response = predictResponse(solved.circuit, solved.point, {"stack.in", "stack.out", band()});
        ASSERT_TRUE(response);
        for (const double decibels : response->decibels)
          EXPECT_LT(decibels, 0.01);
      }
}

/// Speaker and transformer against the textbook: impedance seen by the plates, and the peak at the speaker's resonance.
TEST(Response, SpeakerImpedancePeaksAtItsResonanceAndTheTransformerReflectsIt) {
  const auto design = sample("net-loft-5").ink;
  const auto solved = solve(design);
  // volts per ampere at the speaker from the netlist's own elements: the ratio of its volts to the coil's current.
  const auto ac = circuit::solveAc(*solved.point.system, solved.point.dc.x, band());
  ASSERT_TRUE(ac);
  const auto coil = solved.circuit.netlist.find("LS1.coil");
  ASSERT_GE(coil, 0);
  const double re = 8 * 0.8, peak = re * (1 + 9 / 1.1); // Re and Re (1 + Qms/Qes)
  double highest = 0, at = 0;
  for (std::size_t k = 0; k < band().size(); ++k) {
    const double ohms = std::abs(ac->volts(solved.circuit.probe("speaker"), k) /
                                 ((ac->volts(solved.circuit.probe("speaker"), k) - ac->volts(coil, k)) / re));
    EXPECT_GT(ohms, re * 0.99);
    if (band()[k] < 1000 && ohms > highest) highest = ohms, at = band()[k];
  }
  EXPECT_NEAR(at / 95, 1, 0.06); // within one step of the sweep
  EXPECT_LT(highest, peak * 1.01);
  EXPECT_GT(highest, peak * 0.8);
  // The transformer by its equivalent circuit, all referred to the secondary: turns ratio, both windings' resistance
  // and the leakage in series with the speaker.
  using Complex = std::complex<double>;
  const double n2 = 5200.0 / 8, omega = 2 * M_PI * 1000, resonance = 2 * M_PI * 95;
  const double rm = re * 9 / 1.1;
  const Complex motional = rm / (1.0 + Complex(0, 9 * (omega / resonance - resonance / omega)));
  const Complex wound = 1.0 / (1.0 / Complex(0, omega * 600e-6) + 1.0 / 30.0);
  const Complex load = re + wound + motional;
  const Complex series = 0.5 + 320 / n2 + Complex(0, omega * 15e-3 / n2);
  const auto ratio = predictResponse(solved.circuit, solved.point, {"output.a", "speaker", {1000}});
  EXPECT_NEAR(ratio->decibels[0], 20 * std::log10(std::abs(load / (load + series)) / std::sqrt(n2)), 0.02);
}

/// A line of sections with nothing fitted but what their file says, between a line source and a single-ended output.
testing_support::Solved lineWith(const std::string& section, const std::map<std::string, amp::PartUse>& parts = {}) {
  amp::Design design;
  design.name = "closed form";
  design.line = {{"source", "line-input", {}, {}, {}, {}},
                 {"under", section, parts, {{"rail", "A"}}, {}, {}},
                 {"volume", "volume", {}, {}, {}, {}},
                 {"output", "single-ended-pentode", {}, {{"plates", "A"}, {"screens", "A"}}, {}, {}},
                 {"speaker", "speaker-load", {}, {}, {}, {}}};
  design.supply = {{"reservoir", "supply-fixed-reservoir", {}, {}, "A", {}}};
  return solve(design);
}

const TubeReading& tubeIn(const testing_support::Solved& solved, const std::string& section) {
  for (const auto& part : solved.circuit.parts)
    if (part.resolved.section == section && amp::isTube(part.resolved.part->kind))
      for (const auto& tube : solved.point.tubes)
        if (tube.name == part.resolved.name) return tube;
  throw std::runtime_error("no tube in " + section);
}

/// mu Rk / (rp + (mu + 1) Rk), with the volume control beside the cathode resistor; grid leak fitted for the bias.
TEST(Sections, CathodeFollowerFollowsItsFormula) {
  const auto solved = lineWith("cathode-follower", {{"Rg", {"R90", {{"fitted", true}}, {}}},
                                                    {"Rk", {"R91", {{"value", 10e3}}, {}}},
                                                    {"Cc", {"C90", {{"fitted", true}, {"value", 1e-6}}, {}}}});
  const auto& tube = tubeIn(solved, "under");
  const double load = 1 / (1 / 10e3 + 1 / 1e6);
  const double gain = tube.mu * load / (tube.rp + (tube.mu + 1) * load);
  const auto response = predictResponse(solved.circuit, solved.point, {"under.in", "under.out", {1000}});
  ASSERT_TRUE(response);
  EXPECT_NEAR(response->decibels[0], 20 * std::log10(gain), 0.02);
  EXPECT_NEAR(response->degrees[0], 0, 1);
}

/// gm (Ra beside rp and the load), screen and cathode held still by their capacitors.
TEST(Sections, PentodeStageFollowsItsFormula) {
  const auto solved = lineWith("pentode-stage", {{"Csc", {"C91", {{"value", 1e-4}}, {}}},
                                                 {"Ck", {"C92", {{"value", 1e-2}}, {}}},
                                                 {"Cc", {"C93", {{"value", 1e-5}}, {}}}});
  const auto& tube = tubeIn(solved, "under");
  const double load = 1 / (1 / 220e3 + 1 / 1e6 + 1 / tube.rp);
  const auto response = predictResponse(solved.circuit, solved.point, {"under.g", "under.out", {200}});
  ASSERT_TRUE(response);
  EXPECT_NEAR(response->decibels[0], 20 * std::log10(tube.gm * load), 0.1);
}

TEST(Sections, GridLeakBiasSettlesALittleBelowZero) {
  const auto solved = lineWith("triode-grid-leak-bias");
  const double bias = tubeIn(solved, "under").gridVolts;
  EXPECT_LT(bias, -0.3);
  EXPECT_GT(bias, -1.0);
}

/// The capacitor with the control at its lower end and the 1 k source: a corner; fully up next to nothing.
TEST(Sections, TrebleBleedCutsTurnedDown) {
  auto solvedAt = [](double knob) {
    amp::Design design;
    design.line = {{"source", "line-input", {}, {}, {}, {}},
                   {"under", "treble-bleed", {{"Tone", {"Tone", {}, {}}}}, {}, {}, {}},
                   {"volume", "volume", {}, {}, {}, {}},
                   {"output", "single-ended-pentode", {}, {{"plates", "A"}, {"screens", "A"}}, {}, {}},
                   {"speaker", "speaker-load", {}, {}, {}, {}}};
    design.supply = {{"reservoir", "supply-fixed-reservoir", {}, {}, "A", {}}};
    design.knobs["Tone"] = knob;
    const auto solved = solve(design);
    const auto fromSource = circuit::solveAc(*solved.point.system, solved.point.dc.x, {33863});
    return std::abs(fromSource->volts(solved.circuit.probe("jack"), 0));
  };
  // 1 k against 4n7: 33.9 kHz, 3 dB down there, but for the 26 ohms of the control's end and the cable.
  EXPECT_NEAR(20 * std::log10(solvedAt(0)), -3.2, 0.3);
  EXPECT_NEAR(20 * std::log10(solvedAt(1)), -0.05, 0.1);
}

/// The two outputs of the shipped pair against the textbook's: gains nearly equal, signals opposite.
TEST(Sections, LongTailedPairIsBalancedAndOpposite) {
  const auto solved = solve(sample("harbour-office-8").ink);
  const auto a = predictResponse(solved.circuit, solved.point, {"splitter.in", "splitter.out", {1000}});
  const auto b = predictResponse(solved.circuit, solved.point, {"splitter.in", "splitter.outB", {1000}});
  ASSERT_TRUE(a && b) << (a ? b.error().line() : a.error().line());
  EXPECT_NEAR(a->decibels[0], b->decibels[0], 1);
  EXPECT_NEAR(std::abs(a->degrees[0] - b->degrees[0]), 180, 2);
}

TEST(Describe, GainIsReadAtItsThreeNotes) {
  Response slope; // 6 dB an octave over ten octaves
  for (int k = 0; k <= 100; ++k) {
    slope.hertz.push_back(20 * std::pow(2.0, k / 10.0));
    slope.decibels.push_back(0.6 * k);
    slope.degrees.push_back(90);
  }
  const auto gain = describeGain(slope);
  EXPECT_NEAR(gain.at1kHz - gain.atE2, 6 * std::log2(1000 / 82.4), 1e-6);
  EXPECT_NEAR(gain.at5kHz - gain.at1kHz, 6 * std::log2(5.0), 1e-6);
  EXPECT_TRUE(std::isnan(decibelsAt(slope, 10)));
  EXPECT_TRUE(std::isnan(decibelsAt(slope, 30000)));
  EXPECT_NEAR(decibelsAt(slope, 20), 0, 1e-9);
}

TEST(Overview, StepEffectsAreTheDifferenceOfTwoWholeSolves) {
  const auto document = sample("slipway-18");
  const OverviewQuestion question{"jack", "speaker", band(), "C2"};
  const auto overview = predictOverview(document.ink, library(), question);
  ASSERT_TRUE(overview && overview->up && overview->down);
  EXPECT_DOUBLE_EQ(overview->up->value, 33e-6);
  EXPECT_DOUBLE_EQ(overview->down->value, 15e-6);
  const auto level = [&](double farads) {
    const auto solved = solve(amp::withChanges(document.ink, library(), {{"C2", "value", 22e-6, farads}}));
    return predictResponse(solved.circuit, solved.point, {"jack", "speaker", {82.4}})->decibels[0];
  };
  EXPECT_NEAR(overview->down->atE2, level(15e-6) - level(22e-6), 1e-6);
}

TEST(Overview, WarmAndColdGiveTheSameNumbers) {
  auto document = sample("slipway-18");
  const OverviewQuestion question{"jack", "speaker", band(), {}};
  Warmth warmth;
  ASSERT_TRUE(predictOverview(document.ink, library(), question, &warmth));
  for (const double ohms : {330.0, 150.0, 1000.0}) {
    const auto design = amp::withChanges(document.ink, library(), {{"R28", "value", 270.0, ohms}});
    const auto warm = predictOverview(design, library(), question, &warmth),
               cold = predictOverview(design, library(), question);
    ASSERT_TRUE(warm && cold);
    EXPECT_LT((warm->point.dc.x - cold->point.dc.x).cwiseAbs().maxCoeff(), 1e-5);
    for (std::size_t k = 0; k < band().size(); ++k)
      EXPECT_NEAR(warm->response.decibels[k], cold->response.decibels[k], 1e-5);
  }
}

TEST(Overview, FindsATubeOverItsRating) {
  const auto document = sample("net-loft-5");
  const auto hot = amp::withChanges(document.ink, library(), {{"R11", "value", 150.0, 100.0}});
  const OverviewQuestion question{"jack", "speaker", band(), {}};
  const auto before = predictOverview(document.ink, library(), question),
             after = predictOverview(hot, library(), question);
  ASSERT_TRUE(before && after);
  EXPECT_TRUE(before->vitals.findings.empty());
  ASSERT_EQ(after->vitals.findings.size(), 1U);
  EXPECT_EQ(after->vitals.findings[0].place, "V2");
  EXPECT_GT(after->vitals.hottestWatts, after->vitals.hottestLimit);
}

TEST(Overview, AnImpossibleCircuitIsAProblemWithAPlace) {
  const auto document = sample("slipway-18");
  // Coupling capacitor in front of the stack's series capacitors: the node between has no DC path.
  const auto broken = amp::withChanges(document.ink, library(), {{"C3", "fitted", false, true}});
  const auto overview = predictOverview(broken, library(), {"jack", "speaker", band(), {}});
  ASSERT_FALSE(overview);
  EXPECT_NE(overview.error().message.find("DC path"), std::string::npos);
}

} // namespace
} // namespace vinegar::predict
