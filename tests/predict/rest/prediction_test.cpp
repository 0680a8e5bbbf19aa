#include "amp/acts/acts.h"
#include "predict/overview/steps.h"
#include "predict/overview/trial.h"
#include "predict/overview/vitals.h"
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
  for (const char* name : {"slipway", "net-loft"}) {
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
  const auto solved = solve(sample("slipway").ink);
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
  for (const char* name : {"slipway", "net-loft"}) {
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
  const auto solved = solve(sample("slipway").ink);
  const auto spans = predictResponses(solved.circuit, solved.point,
                                      {{"jack", "stack.out"}, {"stack.out", "speaker"}, {"jack", "speaker"}}, band());
  ASSERT_TRUE(spans) << spans.error().line();
  for (std::size_t k = 0; k < band().size(); ++k) {
    EXPECT_NEAR((*spans)[0].decibels[k] + (*spans)[1].decibels[k], (*spans)[2].decibels[k], 1e-9);
    EXPECT_NEAR(std::remainder((*spans)[0].degrees[k] + (*spans)[1].degrees[k] - (*spans)[2].degrees[k], 360), 0, 1e-6);
  }
}

TEST(Response, PhaseIsContinuous) {
  const auto solved = solve(sample("slipway").ink);
  const auto response =
      responseOf(solved.circuit, solved.point, {"jack", "speaker", circuit::logSpaced(10, 100000, 300)});
  ASSERT_TRUE(response);
  for (std::size_t k = 1; k < response->degrees.size(); ++k)
    EXPECT_LT(std::abs(response->degrees[k] - response->degrees[k - 1]), 60);
}

TEST(Response, UnknownProbeIsNamed) {
  const auto solved = solve(sample("slipway").ink);
  const auto response = responseOf(solved.circuit, solved.point, {"jack", "kitchen", band()});
  ASSERT_FALSE(response);
  EXPECT_EQ(response.error().place, "kitchen");
}

TEST(Response, OfASourceWithoutSignalIsAProblemNotInfinity) {
  const auto solved = solve(sample("slipway").ink);
  EXPECT_FALSE(responseOf(solved.circuit, solved.point, {"mains.live", "speaker", band()}));
}

/// Feedback must take gain away, by about 1 + loop gain; with the secondary's leads swapped it adds.
TEST(Response, FeedbackOfSlipwayIsNegative) {
  auto open = sample("slipway"), swapped = open;
  amp::pencil(open, library(), "R29", "value", 1e8);
  amp::pencil(swapped, library(), "T1", "reversed", false);
  const auto gain = [&](const amp::Design& design) {
    const auto solved = solve(design);
    return responseOf(solved.circuit, solved.point, {"driver.in", "speaker", {1000}})->decibels[0];
  };
  const double closed = gain(sample("slipway").ink);
  EXPECT_GT(gain(amp::pencilled(open, library())) - closed, 3);
  EXPECT_GT(gain(amp::pencilled(swapped, library())), gain(amp::pencilled(open, library())));
}

TEST(Response, CathodyneOutputsAreEqualAndOpposite) {
  const auto solved = solve(sample("slipway").ink);
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
    auto design = sample("slipway").ink;
    design.knobs[knob] = rotation;
    const auto solved = solve(design);
    return responseOf(solved.circuit, solved.point, {"stack.in", "volume.out", {hertz}})->decibels[0];
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
        auto design = sample("slipway").ink;
        design.knobs = {{"Treble", treble}, {"Bass", bass}, {"Middle", middle}};
        const auto solved = solve(design);
        const auto response = responseOf(solved.circuit, solved.point, {"stack.in", "stack.out", band()});
        ASSERT_TRUE(response);
        for (const double decibels : response->decibels)
          EXPECT_LT(decibels, 0.01);
      }
}

/// Speaker and transformer against the textbook: impedance seen by the plates, and the peak at the speaker's resonance.
TEST(Response, SpeakerImpedancePeaksAtItsResonanceAndTheTransformerReflectsIt) {
  const auto design = sample("net-loft").ink;
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
  const auto ratio = responseOf(solved.circuit, solved.point, {"output.a", "speaker", {1000}});
  EXPECT_NEAR(ratio->decibels[0], 20 * std::log10(std::abs(load / (load + series)) / std::sqrt(n2)), 0.02);
}

/// A line of sections with nothing fitted but what their file says, between a line source and a single-ended output.
testing_support::Solved lineWith(const std::string& section, const amp::PartUses& parts = {}) {
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
  const auto response = responseOf(solved.circuit, solved.point, {"under.in", "under.out", {1000}});
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
  const auto response = responseOf(solved.circuit, solved.point, {"under.g", "under.out", {200}});
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
  const auto solved = solve(sample("harbour-office").ink);
  const auto a = responseOf(solved.circuit, solved.point, {"splitter.in", "splitter.out", {1000}});
  const auto b = responseOf(solved.circuit, solved.point, {"splitter.in", "splitter.outB", {1000}});
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

TEST(Steps, AreTheDifferenceOfTwoWholeSolves) {
  const auto document = sample("slipway");
  const auto idle = predictIdle(document.ink, library());
  ASSERT_TRUE(idle);
  // In the amplifier, where the rails' averages hold, and before the rails, where the whole is asked anew.
  for (const auto& [part, at, up, down] :
       {std::tuple{"C2", 22e-6, 33e-6, 15e-6}, {"R3", 120e3, 150e3, 100e3}, {"C15", 16e-6, 22e-6, 10e-6}}) {
    const auto steps = predictSteps(*idle, library(), {part});
    ASSERT_TRUE(steps && steps->up && steps->down) << part;
    const auto level = [&, name = std::string(part), from = at](double value) {
      const auto solved = solve(amp::withChanges(document.ink, library(), {{name, "value", from, value}}));
      return responseOf(solved.circuit, solved.point, {"jack", "speaker", {82.4}})->decibels[0];
    };
    for (const auto& [effect, value] : {std::pair{*steps->up, up}, {*steps->down, down}}) {
      EXPECT_FALSE(effect.problem) << part;
      if (std::string(part) != "C15") {
        EXPECT_DOUBLE_EQ(effect.value, value) << part;
      }
      EXPECT_NEAR(effect.atE2, level(effect.value) - level(at), 1e-3) << part;
    }
  }
  EXPECT_FALSE(predictSteps(*idle, library(), {"V1a"})->up); // no dial
  EXPECT_FALSE(predictSteps(*idle, library(), {"no such part"})->up);
}

/// What a former answer leaves changes how fast the next is found, never what: one place's warmth through steps of
/// every kind, in the amplifier and the supply, against solves that know nothing.
TEST(Idle, WarmAndColdGiveTheSameNumbers) {
  const auto document = sample("slipway");
  Warmth warmth;
  ASSERT_TRUE(predictIdle(document.ink, library(), &warmth));
  const std::vector<std::tuple<std::string, std::string, double>> steps{
      {"R28", "value", 330},   {"R28", "value", 1000},  {"R28", "value", 150},    {"C2", "value", 330e-9},
      {"R3", "value", 47e3},   {"C15", "value", 47e-6}, {"C15", "value", 1e-6},   {"C2", "value", 1e-6},
      {"R19", "value", 150e3}, {"T2", "value", 253},    {"C16", "value", 100e-6}, {"Mains", "value", 207},
      {"C14", "value", 1e-6}};
  auto design = document.ink;
  for (const auto& [part, field, value] : steps) {
    const auto found = amp::findPart(design, library(), part);
    ASSERT_TRUE(found) << part;
    design = amp::withChanges(design, library(), {{part, field, found->value(), value}});
    const auto warm = predictIdle(design, library(), &warmth), cold = predictIdle(design, library());
    ASSERT_TRUE(warm && cold) << part;
    EXPECT_LT((warm->point.dc.x - cold->point.dc.x).cwiseAbs().maxCoeff(), 1e-3) << part << " " << value;
    EXPECT_LT((warm->point.supply->cycle.x - cold->point.supply->cycle.x).cwiseAbs().maxCoeff(), 2e-3) << part;
    const auto a = predictResponse(*warm, library(), {"jack", "speaker", band()}),
               b = predictResponse(*cold, library(), {"jack", "speaker", band()});
    ASSERT_TRUE(a && b);
    for (std::size_t k = 0; k < band().size(); ++k)
      EXPECT_NEAR(a->decibels[k], b->decibels[k], 1e-4) << part << " " << value << " at " << band()[k];
  }
}

TEST(Idle, ACapacitorInTheAmplifierAsksNothingOfTheSupply) {
  const auto document = sample("slipway");
  Warmth warmth;
  const auto before = predictIdle(document.ink, library(), &warmth);
  const auto step = [&](const char* part, double from, double to) {
    return predictIdle(amp::withChanges(document.ink, library(), {{part, "value", from, to}}), library(), &warmth);
  };
  EXPECT_EQ(step("C2", 22e-6, 1e-6)->point.supply, before->point.supply); // the very same
  EXPECT_NE(step("C15", 16e-6, 22e-6)->point.supply, before->point.supply);
}

/// The supply of a former answer may serve only where nothing that DC sees is another: every value of every part in
/// turn, with the warmth of the unchanged amplifier, against a solve that knows nothing.
TEST(Idle, NoPartsStepIsTakenForOneThatMovesNoDc) {
  VINEGAR_LONG_TEST(numbers);
  for (const char* name : {"slipway", "net-loft"}) {
    const auto document = sample(name);
    int tried = 0;
    for (const auto& part : amp::resolveParts(document.ink, library())) {
      if (!part.fitted()) continue;
      for (const auto& [field, setting] : part.settings) {
        const auto* value = std::get_if<double>(&setting);
        if (!value || *value <= 0 || field.starts_with("rated")) continue;
        const amp::Setting to = *value * 0.8;
        if (amp::checkSetting(part, field, to, library())) continue;
        const auto design = amp::withChanges(document.ink, library(), {{part.name, field, setting, to}});
        Warmth warmth;
        ASSERT_TRUE(predictIdle(document.ink, library(), &warmth));
        const auto warm = predictIdle(design, library(), &warmth), cold = predictIdle(design, library());
        ASSERT_EQ(warm.has_value(), cold.has_value()) << part.name << "/" << field;
        if (!warm) continue;
        ++tried;
        EXPECT_LT((warm->point.dc.x - cold->point.dc.x).cwiseAbs().maxCoeff(), 1e-3) << part.name << "/" << field;
      }
    }
    EXPECT_GT(tried, 60) << name;
  }
}

TEST(Vitals, KnowTheTubeNearestItsRatingAndTheGain) {
  const auto document = sample("net-loft");
  const auto hot = amp::withChanges(document.ink, library(), {{"R11", "value", 150.0, 100.0}});
  const auto before = predictVitals(*predictIdle(document.ink, library()), library()),
             after = predictVitals(*predictIdle(hot, library()), library());
  ASSERT_TRUE(before && after);
  EXPECT_LT(before->hottestWatts, before->hottestLimit);
  EXPECT_EQ(after->hottestTube, "V2");
  EXPECT_GT(after->hottestWatts, after->hottestLimit);
  const auto solved = solve(document.ink);
  const auto whole = responseOf(solved.circuit, solved.point, {"jack", "speaker", {82.4, 1000, 5000}});
  EXPECT_NEAR(before->gain->atE2, whole->decibels[0], 1e-9);
  EXPECT_NEAR(before->gain->at1kHz, whole->decibels[1], 1e-9);
  EXPECT_NEAR(before->gain->at5kHz, whole->decibels[2], 1e-9);
}

/// A capacitor in front of the stack's own: what stands between two capacitors is harmless, whatever its volts.
TEST(Idle, ANodeBetweenTwoCapacitorsIsNoMistake) {
  const auto document = sample("slipway");
  const auto with =
      amp::withChanges(document.ink, library(), {{"C3", "fitted", false, true}, {"C3", "value", 1.0, 1e-6}});
  const auto solved = solve(with), without = solve(document.ink);
  ASSERT_EQ(solved.point.tubes.size(), without.point.tubes.size());
  for (std::size_t i = 0; i < solved.point.tubes.size(); ++i)
    EXPECT_NEAR(solved.point.tubes[i].plateWatts, without.point.tubes[i].plateWatts, 1e-4)
        << solved.point.tubes[i].name;
  // A microfarad in series with the stack's some hundred picofarads takes next to nothing at 1 kHz.
  const auto at = [](const auto& s) {
    return responseOf(s.circuit, s.point, {"jack", "speaker", {1000}})->decibels[0];
  };
  EXPECT_NEAR(at(solved), at(without), 0.1);
}

/// What the shelf tells before a section is put in, against the tubes' data sheets and a sum over the rails by hand.
TEST(Trial, CountsBottlesHeatersAndDrawAsABuilderWould) {
  const auto trialOf = [](const amp::Design& design) {
    return *predictTrial(*predictIdle(design, library()), library());
  };
  const auto ink = sample("slipway").ink;
  const auto trial = trialOf(ink);
  EXPECT_EQ(trial.bottles, 5);
  EXPECT_EQ(trial.spareHalves, 0);
  // 12AX7 and 12AT7 at 6.3 V 300 mA, two 6V6GT at 450 mA, 5Y3GT at 5 V 2 A.
  EXPECT_NEAR(trial.heaterWatts, 6.3 * (0.3 + 0.3 + 2 * 0.45) + 5 * 2, 1e-9);
  const auto solved = solve(ink);
  double drawn = 0;
  for (const auto& tube : solved.point.tubes)
    drawn += tube.plateAmps + tube.screenAmps.value_or(0);
  EXPECT_NEAR(trial.vitals.reservoirAmps, drawn, 1e-5); // grid leakage apart
  // One more stage: half a 12AX7, its bottle's other half spare, its current from the same reservoir.
  const auto more = amp::insertSection(ink, library(), amp::NameBook({}), {"line", "first"}, "triode-common-cathode");
  const auto with = trialOf(*more);
  EXPECT_EQ(with.bottles, 6);
  EXPECT_EQ(with.spareHalves, 1);
  EXPECT_NEAR(with.heaterWatts - trial.heaterWatts, 6.3 * 0.3, 1e-9);
  EXPECT_GT(with.vitals.reservoirAmps, trial.vitals.reservoirAmps + 3e-4);
}

TEST(Idle, AnImpossibleCircuitIsAProblemWithAPlace) {
  const auto document = sample("slipway");
  // Between the capacitor before it and its own grid nothing leads to ground.
  const auto broken = amp::withChanges(document.ink, library(), {{"R9", "fitted", true, false}});
  const auto idle = predictIdle(broken, library());
  ASSERT_FALSE(idle);
  EXPECT_NE(idle.error().message.find("DC path"), std::string::npos);
}

} // namespace
} // namespace vinegar::predict
