// Sections of the library against the textbook's closed forms, or against each other where one is the other's limit.
#include "circuit/poles.h"
#include "circuit/transient.h"
#include "predict/rest/prediction.h"
#include "support/bench_design.h"

#include <cmath>
#include <gtest/gtest.h>
#include <numbers>

namespace vinegar::predict {
namespace {

using testing_support::library;
using testing_support::solve;
using testing_support::Solved;
using Complex = std::complex<double>;
using testing_support::always;
using testing_support::never;
using testing_support::Settings;
using testing_support::use;

/// A line source, the sections given, and whatever it takes to end in a speaker; each in its file's own values.
amp::Design designOf(std::vector<amp::SectionUse> middle, double volts = 300) {
  amp::Design design;
  design.name = "closed form";
  design.line.push_back(use("source", "line-input"));
  amp::Carries carried = amp::Carries::single;
  for (auto& section : middle) {
    carried = library().sections.at(section.section).out;
    design.line.push_back(std::move(section));
  }
  if (carried == amp::Carries::single)
    design.line.push_back(use("output", "single-ended-pentode", {{"Rg", {{"value", never}}}}));
  if (carried == amp::Carries::balanced) design.line.push_back(use("output", "push-pull-pentode"));
  if (carried != amp::Carries::nothing) design.line.push_back(use("speaker", "speaker-load"));
  design.supply = {use("reservoir", "supply-fixed-reservoir", {{"B", {{"value", volts}}}})};
  design.supply[0].node = "A";
  amp::nameParts(design, library());
  return design;
}

const TubeReading& tube(const Solved& solved, const std::string& section, const std::string& ref) {
  for (const auto& part : solved.circuit.parts)
    if (part.resolved.section == section && part.resolved.part->ref == ref)
      for (const auto& reading : solved.point.tubes)
        if (reading.name == part.resolved.name) return reading;
  throw std::runtime_error("no tube " + ref + " in " + section);
}

Complex gain(const Solved& solved, const std::string& from, const std::string& to, double hertz) {
  const auto response = responseOf(solved.circuit, solved.point, {from, to, {hertz}});
  if (!response) throw std::runtime_error(response.error().line());
  return std::polar(std::pow(10, response->decibels[0] / 20), response->degrees[0] * std::numbers::pi / 180);
}

void expectDecibels(Complex got, Complex want, double within, const char* what) {
  EXPECT_NEAR(20 * std::log10(std::abs(got)), 20 * std::log10(std::abs(want)), within) << what;
  EXPECT_GT((got / want).real(), 0) << what << ": the wrong way round";
}

/// mu1 (mu2 + 1) R / (R + rp2 + (mu2 + 1) rp1), inverting; upper grid held still.
TEST(Sections, CascodeFollowsItsFormula) {
  const auto solved = solve(designOf(
      {use("stage", "cascode", {{"Ck", {{"value", always}}}, {"Cg", {{"value", 1e-3}}}, {"Cc", {{"value", 1e-4}}}})}));
  const auto &lower = tube(solved, "stage", "V1"), &upper = tube(solved, "stage", "V2");
  EXPECT_GT(lower.plateVolts, 50);
  const double load = 47e3;
  const double want = lower.mu * (upper.mu + 1) * load / (load + upper.rp + (upper.mu + 1) * lower.rp);
  expectDecibels(gain(solved, "stage.g", "stage.out", 300), -want, 0.05, "cascode");
  // Held by its own leak instead, the upper grid stands at its cathode.
  const auto leak = solve(designOf({use(
      "stage", "cascode", {{"R1", {{"fitted", false}}}, {"R2", {{"fitted", false}}}, {"Rl", {{"fitted", true}}}})}));
  EXPECT_NEAR(tube(leak, "stage", "V2").gridVolts, 0, 0.8);
}

/// One current through both: i (rp1 + rp2 + (mu2 + 1) Rk2) = mu1 v, out = -i (rp2 + mu2 Rk2).
TEST(Sections, StackedStageFollowsItsFormula) {
  const auto solved =
      solve(designOf({use("stage", "totem-stage", {{"Ck", {{"value", always}}}, {"Cc", {{"value", 1e-4}}}})}));
  const auto &lower = tube(solved, "stage", "V1"), &upper = tube(solved, "stage", "V2");
  EXPECT_NEAR(lower.plateAmps, upper.plateAmps, 1e-8);
  const double want = lower.mu * (upper.rp + upper.mu * 1500) / (lower.rp + upper.rp + (upper.mu + 1) * 1500);
  expectDecibels(gain(solved, "stage.g", "stage.out", 300), -want, 0.05, "totem");
}

/// The same with Ra + Rk2 between the tubes, and the upper grid following the lower plate.
TEST(Sections, MuFollowerFollowsItsFormula) {
  const auto solved = solve(designOf({use("stage", "mu-follower",
                                          {{"Ck", {{"value", always}}},
                                           {"Cc", {{"value", 1e-4}}},
                                           {"C2", {{"value", 1e-4}}},
                                           {"Rg2", {{"value", 1e8}}}})}));
  const auto &lower = tube(solved, "stage", "V1"), &upper = tube(solved, "stage", "V2");
  const double between = 68e3 + 2200;
  const double current = lower.mu / (lower.rp + upper.rp + (upper.mu + 1) * between);
  expectDecibels(gain(solved, "stage.g", "stage.out", 300), -current * (upper.rp + upper.mu * between), 0.05,
                 "mu-follower");
  EXPECT_GT(current * (upper.rp + upper.mu * between), 0.85 * lower.mu); // nearly the whole mu
}

/// The divider takes 1/A of the first output, A the second half's gain into its load; then the halves are equal.
TEST(Sections, ParaphaseIsBalancedWhereItsDividerUndoesTheSecondTubesGain) {
  const auto at = [](double foot) {
    return solve(designOf({use("splitter", "paraphase",
                               {{"Ck", {{"value", always}}},
                                {"C1", {{"value", 1e-5}}},
                                {"C2", {{"value", 1e-5}}},
                                {"Rd2", {{"value", foot}}}})}));
  };
  const auto solved = at(8200);
  const auto& second = tube(solved, "splitter", "V2");
  const double load = 1 / (1 / 100e3 + 1 / 220e3);
  const double amplification = second.mu * load / (second.rp + load);
  const auto balanced = at(470e3 / (amplification - 1));
  const auto ratio = gain(balanced, "splitter.out", "splitter.outB", 1000);
  EXPECT_NEAR(std::abs(ratio), 1, 0.01);
  EXPECT_NEAR(std::arg(ratio) * 180 / std::numbers::pi, 180, 2);
}

/// A switch in a position is the circuit with that position's parts and no switch.
TEST(Sections, SwitchPositionsAreTheCircuitsTheyStandFor) {
  struct Case {
    const char* section;
    const char* knob;
    double position;
    const char* plain;
    Settings settings;
    const char* from;
  };
  const Case cases[] = {
      {"triode-switched-bypass", "Body", 1, "triode-common-cathode", {}, "stage.in"},
      {"triode-switched-bypass", "Body", 2, "triode-common-cathode", {{"Ck", {{"value", 680e-9}}}}, "stage.in"},
      {"triode-switched-bypass", "Body", 3, "triode-common-cathode", {{"Ck", {{"fitted", false}}}}, "stage.in"},
      {"triode-body-rotary", "Body", 1, "triode-common-cathode", {}, "stage.in"},
      {"triode-body-rotary", "Body", 2, "triode-common-cathode", {{"Ck", {{"value", 2.2e-6}}}}, "stage.in"},
      {"triode-body-rotary", "Body", 4, "triode-common-cathode", {{"Ck", {{"value", 330e-9}}}}, "stage.in"},
      {"triode-body-rotary", "Body", 6, "triode-common-cathode", {{"Ck", {{"fitted", false}}}}, "stage.in"},
      {"volume-bright-rotary", "Bright", 1, "volume", {}, "stage.in"},
      {"volume-bright-rotary", "Bright", 3, "volume", {{"Cbr", {{"fitted", true}, {"value", 120e-12}}}}, "stage.in"},
      {"volume-bright-rotary", "Bright", 4, "volume", {{"Cbr", {{"fitted", true}, {"value", 330e-12}}}}, "stage.in"},
      {"volume-bright-switch", "Bright", 1, "volume", {}, "stage.in"},
      {"volume-bright-switch", "Bright", 2, "volume", {{"Cbr", {{"fitted", true}}}}, "stage.in"},
      {"tone-stack-mid-shift", "Mid shift", 1, "tone-stack-three-control", {}, "stage.in"},
      {"tone-stack-mid-shift", "Mid shift", 2, "tone-stack-three-control", {{"Cm", {{"value", 10e-9}}}}, "stage.in"}};
  for (const auto& [section, knob, position, plain, settings, from] : cases) {
    auto switched = designOf({use("stage", section), use("after", "triode-common-cathode")});
    switched.knobs[knob] = position;
    const auto a = solve(switched),
               b = solve(designOf({use("stage", plain, settings), use("after", "triode-common-cathode")}));
    for (const double hertz : {30.0, 300.0, 3000.0})
      EXPECT_LT(std::abs(gain(a, from, "stage.out", hertz) - gain(b, from, "stage.out", hertz)),
                1e-4 * std::abs(gain(b, from, "stage.out", hertz)))
          << section << " at " << position << ", " << hertz << " Hz";
  }
}

/// One jack alone: the other's resistor is the lower half of a divider. Both: no division, resistors side by side.
TEST(Sections, TwoJacksDivideByTwo) {
  const auto at = [](double position) {
    auto design =
        designOf({use("stage", "triode-common-cathode", {{"Rg", {{"value", never}}}, {"Rs", {{"fitted", false}}}})});
    design.line[0] = use("source", "input-two-jacks", {{"Rin", {{"value", never}}}});
    design.knobs["Plugged into"] = position;
    return std::abs(gain(solve(design), "jack", "source.out", 100));
  };
  EXPECT_NEAR(at(1), 0.5, 2e-4);
  EXPECT_NEAR(at(2), 0.5, 2e-4);
  EXPECT_NEAR(at(3), 1, 2e-4);
}

TEST(Sections, ThreeJacksDivideByThree) {
  const auto at = [](double position) {
    auto design =
        designOf({use("stage", "triode-common-cathode", {{"Rg", {{"value", never}}}, {"Rs", {{"fitted", false}}}})});
    design.line[0] = use("source", "input-three-jacks", {{"Rin", {{"value", never}}}});
    design.knobs["Plugged into"] = position;
    return std::abs(gain(solve(design), "jack", "source.out", 100));
  };
  for (const double alone : {1.0, 2.0, 3.0})
    EXPECT_NEAR(at(alone), 1 / 3.0, 2e-4) << alone;
  EXPECT_NEAR(at(4), 1, 2e-4);
}

/// 10k over 1k in parallel with 47k, from a speaker that hardly feels it.
TEST(Sections, LineOutFollowsItsDivider) {
  auto design = designOf({use("power", "single-ended-pentode")});
  design.sides = {{"line out", {use("tap", "line-out")}, "power.out", {}, {}}};
  design.knobs["Line out"] = 1;
  amp::nameParts(design, library());
  const auto solved = solve(design);
  const double below = 1e3 * 47e3 / 48e3;
  expectDecibels(gain(solved, "speaker", "line out", 1000), below / (10e3 + below), 0.01, "line out");
}

/// With the wet control at its foot both mixing resistors are a divider; opened, the springs' way is added, and a
/// larger capacitor darkens it.
TEST(Sections, OneBottleReverbMixesAsItsResistorsSay) {
  const auto at = [](double wet, const Settings& settings, double hertz) {
    auto design = designOf({use("stage", "triode-common-cathode"), use("reverb", "reverb-one-bottle", settings),
                            use("after", "triode-common-cathode", {{"Rg", {{"value", never}}}})});
    design.knobs["Reverb"] = wet;
    design.knobs["Dwell"] = 0.5;
    const auto solved = solve(design);
    return std::pair{gain(solved, "reverb.in", "reverb.out", hertz), gain(solved, "reverb.in", "reverb", hertz)};
  };
  expectDecibels(at(0, {}, 20).first, 470.0 / (220 + 470), 0.05, "dry");
  const auto wet = std::abs(at(0.5, {}, 2000).second);
  EXPECT_GT(wet, 0.01);
  EXPECT_LT(std::abs(at(0.5, {{"Cd", {{"value", 4.7e-9}}}}, 2000).second), 0.7 * wet);
}

TEST(Sections, OutputModeSwitchIsThePentodePairOrTheTriodePair) {
  const auto at = [](const std::string& section, std::optional<double> mode) {
    auto design = designOf({use("splitter", "cathodyne"), use("power", section)});
    if (mode) design.knobs["Mode"] = *mode;
    const auto solved = solve(design);
    return std::pair{gain(solved, "splitter.in", "speaker", 400), tube(solved, "power", "V2").plateAmps};
  };
  const auto pentode = at("push-pull-mode-switch", 1), triode = at("push-pull-mode-switch", 2);
  EXPECT_LT(std::abs(pentode.first / at("push-pull-pentode", {}).first - 1.0), 1e-4);
  EXPECT_NEAR(pentode.second, at("push-pull-pentode", {}).second, 1e-7);
  EXPECT_LT(std::abs(triode.first), 0.6 * std::abs(pentode.first));
}

TEST(Sections, HalfPowerLeavesTwoTubesThatIdleAsBefore) {
  const auto at = [](double position) {
    auto design = designOf({use("splitter", "cathodyne"), use("power", "push-pull-half-power")}, 400);
    design.knobs["Power"] = position;
    return solve(design);
  };
  const auto four = at(1), two = at(2);
  for (const char* lifted : {"V1", "V2"})
    EXPECT_LT(tube(two, "power", lifted).plateAmps, 1e-5) << lifted;
  for (const char* left : {"V3", "V4"}) // the copper of the transformer drops less
    EXPECT_NEAR(tube(two, "power", left).plateAmps / tube(four, "power", left).plateAmps, 1, 0.03) << left;
}

/// R1 against R2 and whatever stands behind it; nothing behind it when no one uses the second way.
TEST(Sections, MixingResistorsLoseTheDryLevelTheyMust) {
  auto alone = designOf({use("stage", "volume"), use("mix", "mix-two"),
                         use("after", "triode-common-cathode", {{"Rg", {{"value", never}}}})});
  EXPECT_NEAR(std::abs(gain(solve(alone), "mix.in", "mix.out", 20)), 1, 2e-3);
  auto joined = alone;
  joined.sides = {{"other", {use("other", "volume")}, "source.out", "mix.second", {}}};
  joined.knobs["Volume 2"] = 0; // its wiper at ground
  amp::nameParts(joined, library());
  EXPECT_NEAR(std::abs(gain(solve(joined), "mix.in", "mix.out", 20)), 0.5, 2e-3);
}

/// Two equal capacitors bridged by Rb, Rn from between them to ground (bridged T): at 1/(2 pi C sqrt(Rb Rn)) it passes
/// 2 Rn / (2 Rn + Rb).
TEST(Sections, NotchIsWhereAndAsDeepAsItsFormula) {
  const auto solved = solve(designOf({use("notch", "tone-notch", {{"Rl", {{"value", never}}}})}));
  const double centre = 1 / (2 * std::numbers::pi * 1e-9 * std::sqrt(220e3 * 22e3));
  const double floor = 2 * 22e3 / (2 * 22e3 + 220e3);
  // The output stage's 4k7 stopper and input capacitance load it a little.
  EXPECT_NEAR(std::abs(gain(solved, "notch.in", "notch.out", centre)), floor, 0.02);
  EXPECT_GT(std::abs(gain(solved, "notch.in", "notch.out", centre / 4)), floor * 1.7);
  EXPECT_GT(std::abs(gain(solved, "notch.in", "notch.out", centre * 4)), floor * 1.7);
}

/// At the lowest notes only resistors divide, at the highest only capacitors.
TEST(Sections, ShelvesReachTheirAsymptotes) {
  const auto at = [](const char* knob, double turn, double hertz) {
    auto design =
        designOf({use("tone", "tone-shelving"), use("after", "triode-common-cathode", {{"Rg", {{"value", never}}}})});
    design.knobs = {{"Bass", 0.5}, {"Treble", 0.5}};
    design.knobs[knob] = turn;
    return std::abs(gain(solve(design), "tone.in", "tone.out", hertz));
  };
  const double full = (10e3 + 500e3) / (100e3 + 500e3 + 10e3), cut = 10e3 / (100e3 + 500e3 + 10e3);
  EXPECT_NEAR(at("Bass", 1, 1), full, 0.02);
  EXPECT_NEAR(at("Bass", 0, 1), cut, 0.002);
  EXPECT_GT(at("Treble", 1, 10000), 8 * at("Treble", 0, 10000));
  EXPECT_NEAR(at("Treble", 1, 1), at("Treble", 0, 1), 0.01); // each leaves the other's end alone
}

/// Two capacitors side by side of the pair's outputs take treble off both alike and leave the bass.
TEST(Sections, CutControlsTakeTreble) {
  const auto at = [](double turn, double hertz) {
    auto design = designOf({use("splitter", "cathodyne"), use("cut", "cut-control")});
    design.knobs["Cut"] = turn;
    return 20 * std::log10(std::abs(gain(solve(design), "splitter.in", "speaker", hertz)));
  };
  EXPECT_LT(at(1, 8000), at(0, 8000) - 6);
  EXPECT_NEAR(at(0, 100), at(1, 100), 0.4);
}

Complex speakerOhms(double rated, double hertz) {
  const double re = 0.8 * rated, rm = re * 9 / 1.1;
  const Complex jw(0, 2 * std::numbers::pi * hertz);
  const Complex motional = rm / (1.0 + Complex(0, 9 * (hertz / 85 - 85 / hertz)));
  return re + 1.0 / (1.0 / (jw * 600e-6) + 1.0 / 30) + motional;
}
Complex beside(Complex a, Complex b) { return a * b / (a + b); }

TEST(Sections, PadsDivideBySpeakerImpedance) {
  for (const double hertz : {85.0, 400.0, 5000.0}) {
    const Complex z = speakerOhms(8, hertz);
    const auto l = solve(designOf({use("power", "single-ended-pentode"), use("pad", "attenuator-l")}));
    expectDecibels(gain(l, "pad.in", "pad.out", hertz), beside(3.3, z) / (5.6 + beside(3.3, z)), 1e-3, "L");
    const auto t = solve(designOf({use("power", "single-ended-pentode"), use("pad", "attenuator-t")}));
    const Complex below = beside(5.6, 3.9 + z);
    expectDecibels(gain(t, "pad.in", "pad.out", hertz), below / (3.9 + below) * z / (3.9 + z), 1e-3, "T");
  }
}

TEST(Sections, TwoSpeakersAreHalfAndTwiceOne) {
  for (const auto& [section, part] : {std::pair{"speaker-pair-parallel", 16.0}, {"speaker-pair-series", 4.0}}) {
    auto pair = designOf({use("power", "single-ended-pentode"), use("two", section)});
    pair.line.erase(pair.line.begin() + 3, pair.line.end()); // ends by itself
    const auto two = solve(pair), one = solve(designOf({use("power", "single-ended-pentode")}));
    // Equal but for the coil's inductance and eddy loss, which are the same in every size here.
    EXPECT_NEAR(20 *
                    std::log10(std::abs(gain(two, "power.in", "speaker", 300) / gain(one, "power.in", "speaker", 300))),
                0, 0.3)
        << section << part;
  }
}

TEST(Sections, OutputStagesShareTheCurrentAlike) {
  const auto one = solve(designOf({use("power", "single-ended-pentode")}));
  const auto two = solve(designOf({use("power", "single-ended-parallel", {{"T", {{"primaryOhms", 160.0}}}})}));
  for (const char* ref : {"V1", "V2"})
    EXPECT_NEAR(tube(two, "power", ref).plateAmps, tube(one, "power", "V").plateAmps, 2e-5);
  // Half the current through half the resistance for each: the two stages idle alike.
  const auto separate = solve(designOf({use("splitter", "cathodyne"), use("power", "push-pull-separate-bias")}));
  const auto shared =
      solve(designOf({use("splitter", "cathodyne"), use("power", "push-pull-pentode", {{"Rk", {{"value", 235.0}}}})}));
  EXPECT_NEAR(tube(separate, "power", "V1").plateAmps, tube(shared, "power", "V1").plateAmps, 1e-6);
  // Two tubes a side through half the resistances idle as one a side; the screens have their own.
  const auto four = solve(
      designOf({use("splitter", "cathodyne"), use("power", "push-pull-four-cathode-bias",
                                                  {{"Rk", {{"value", 117.5}}}, {"T", {{"primaryOhms", 140.0}}}})}));
  const auto pair =
      solve(designOf({use("splitter", "cathodyne"),
                      use("power", "push-pull-pentode",
                          {{"Rk", {{"value", 235.0}}}, {"V1", {{"tube", "EL84"}}}, {"V2", {{"tube", "EL84"}}}})}));
  for (const char* ref : {"V1", "V2", "V3", "V4"})
    EXPECT_NEAR(tube(four, "power", ref).plateAmps, tube(pair, "power", "V1").plateAmps, 1e-6) << ref;
}

/// Grid to cathode it is the divider's volts and the cathode resistor's together.
TEST(Sections, MixedBiasIsTheSumOfBoth) {
  auto design = designOf({use("splitter", "cathodyne"), use("power", "push-pull-mixed-bias")}, 400);
  design.knobs["Bias"] = 0.5;
  const auto solved = solve(design);
  const auto &v1 = tube(solved, "power", "V1"), &v2 = tube(solved, "power", "V2");
  const double divider = -40 * (27e3 + 11e3) / (15e3 + 22e3 + 27e3);
  const double cathode = 150 * (v1.plateAmps + *v1.screenAmps + v2.plateAmps + *v2.screenAmps);
  EXPECT_GT(cathode, 3);
  EXPECT_NEAR(v1.cathodeVoltsToGround, cathode, 0.01);
  EXPECT_NEAR(v1.gridVolts, divider - cathode, 0.05);
}

/// The driver without a transformer: i = mu v / (rp + Ra), and the tank's coil takes its share of that.
TEST(Sections, ATankIsDrivenThroughACapacitor) {
  const auto solved = solve(
      designOf({use("driver", "reverb-driver-capacitor", {{"Ck", {{"value", always}}}, {"Cc", {{"value", 1e-3}}}}),
                use("tank", "spring-tank", {{"TK", {{"value", 600.0}}}}), use("back", "triode-common-cathode")}));
  const auto& driver = tube(solved, "driver", "V");
  const double copper = 60, henries = std::sqrt(600.0 * 600 - copper * copper) / (2 * std::numbers::pi * 1000);
  for (const double hertz : {200.0, 1000.0}) {
    const Complex coil(copper, 2 * std::numbers::pi * hertz * henries);
    expectDecibels(gain(solved, "driver.gl", "driver.out", hertz),
                   -driver.mu * beside(15e3, coil) / (driver.rp + beside(15e3, coil)), 0.05, "driver");
  }
}

/// The adjuster's ends are those of a divider without load, and the sense resistor reads a millivolt a milliampere.
TEST(Sections, FixedBiasFollowsItsDivider) {
  for (const char* section : {"push-pull-fixed-bias", "push-pull-four-fixed-bias"})
    for (const double turn : {0.0, 0.5, 1.0}) {
      auto design = designOf({use("splitter", "cathodyne"), use("power", section)}, 400);
      design.knobs["Bias"] = turn;
      const auto solved = solve(design);
      const auto& v1 = tube(solved, "power", "V1");
      const double want = -60 * (27e3 + 22e3 * turn) / (15e3 + 22e3 + 27e3);
      EXPECT_NEAR(v1.gridVolts + v1.cathodeVoltsToGround, want, 0.03) << section << turn;
      for (const auto& part : solved.circuit.parts)
        if (part.resolved.section == "power" && part.resolved.part->ref == "Rk1") {
          EXPECT_NEAR(solved.point.part(part.resolved.name)->volts, v1.plateAmps + *v1.screenAmps, 1e-5);
        }
    }
}

/// Screens on the taps: with hardly a tap it is the pentode, with nearly all of it the triode; between, a source
/// resistance between.
TEST(Sections, ScreenTapsLieBetweenPentodeAndTriode) {
  std::string before;
  const auto sourceOhms = [&](const std::string& section, double tap) {
    Settings settings;
    if (tap > 0) settings["T"]["tapShare"] = tap;
    double volts[2];
    for (const double load : {8.0, 16.0}) {
      auto design = designOf({use("before", before), use("power", section, settings)});
      design.line.back().parts["LS"].settings["value"] = load;
      volts[load > 8] = std::abs(gain(solve(design), "before.in", "speaker", 400));
    }
    // Two loads, one source: v = e z / (r + z), with the speaker nearly its coil at 400 Hz.
    const double a = std::abs(speakerOhms(8, 400)), b = std::abs(speakerOhms(16, 400));
    const double ratio = volts[1] / volts[0];
    return a * b * (ratio - 1) / (b - ratio * a);
  };
  for (const auto& [splitter, without, with, strapped] :
       {std::tuple{"cathodyne", "push-pull-pentode", "push-pull-screen-taps", "push-pull-triode-strapped"},
        {"triode-common-cathode", "single-ended-pentode", "single-ended-screen-tap", "single-ended-triode-strapped"}}) {
    before = splitter;
    const double pentode = sourceOhms(without, 0), triode = sourceOhms(strapped, 0);
    const double hardly = sourceOhms(with, 0.05), usual = sourceOhms(with, 0.43), nearly = sourceOhms(with, 0.95);
    EXPECT_GT(pentode, hardly) << with;
    EXPECT_GT(hardly, usual) << with;
    EXPECT_GT(usual, nearly) << with;
    EXPECT_NEAR(nearly / triode, 1, 0.15) << with;
    EXPECT_LT(usual, pentode / 3) << with;
  }
}

/// In a self-split pair the second tube answers the other way round and a little less.
TEST(Sections, SelfSplitHandsTheSignalOver) {
  const auto solved = solve(designOf({use("stage", "triode-common-cathode"), use("power", "push-pull-self-split")}));
  const auto ratio = gain(solved, "power.a1", "power.a2", 400);
  EXPECT_LT(ratio.real(), -0.5);
  // The grounded one's grid volts are the cathode's signal: less than half of the drive.
  const auto cathode = gain(solved, "power.g1", "power.k", 400);
  EXPECT_GT(cathode.real(), 0.2);
  EXPECT_LT(cathode.real(), 0.5);
}

/// Feedback lowers the gain at once by 1 + A beta: beta from the divider alone, where the lane's foot is free of
/// current.
TEST(Sections, FeedbackIntoATailLowersGainAndSpreadsTheBand) {
  auto open = designOf(
      {use("stage", "triode-common-cathode"), use("splitter", "long-tailed-pair"), use("power", "push-pull-pentode")});
  auto closed = open;
  closed.sides = {{"loop", {use("loop", "feedback-presence")}, "power.out", "splitter.tailFoot", {}}};
  amp::nameParts(closed, library());
  for (auto* design : {&open, &closed})
    design->knobs = {{"Presence", 1}};
  const auto level = [](const amp::Design& design, double hertz) {
    return 20 * std::log10(std::abs(gain(solve(design), "stage.in", "speaker", hertz)));
  };
  auto swapped = closed;
  swapped.line[3].parts["T"].settings["reversed"] = true;
  const double less = level(open, 1000) - level(closed, 1000), other = level(open, 1000) - level(swapped, 1000);
  EXPECT_GT(std::max(less, other), 3); // one way round it takes gain away,
  EXPECT_LT(std::min(less, other), 0); // the other way it adds
  // With presence turned up, the returned treble goes to ground and the speaker gets it back.
  auto& negative = less > other ? closed : swapped;
  const double flat = level(negative, 6000) - level(negative, 400);
  negative.knobs["Presence"] = 0;
  EXPECT_GT(level(negative, 6000) - level(negative, 400), flat + 1.5);
}

TEST(Sections, FeedbackSwitchOffIsNoFeedback) {
  auto with = designOf({use("stage", "triode-common-cathode"), use("power", "single-ended-pentode")});
  auto without = with;
  with.sides = {
      {"loop", {use("loop", "feedback-switched", {{"Rb", {{"value", 1e-3}}}})}, "power.out", "stage.cathodeFoot", {}}};
  with.knobs["Feedback"] = 3;
  amp::nameParts(with, library());
  EXPECT_NEAR(std::abs(gain(solve(with), "stage.in", "speaker", 1000)),
              std::abs(gain(solve(without), "stage.in", "speaker", 1000)), 1e-3);
}

amp::Design withTremolo(double speed, double position) {
  auto design =
      designOf({use("splitter", "cathodyne"), use("power", "push-pull-fixed-bias", {{"Rj", {{"fitted", true}}}})}, 400);
  design.sides = {{"tremolo", {use("tremolo", "tremolo-oscillator")}, {}, "power.bias", {}}};
  design.sides[0].sections[0].joins["rail"] = "A";
  design.knobs = {{"Speed", speed}, {"Tremolo", position}, {"Depth", 1}, {"Bias", 0.5}};
  amp::nameParts(design, library());
  return design;
}

/// Natural frequency of the oscillator in hertz; below zero when it dies away.
double swing(const amp::Design& design) {
  const auto solved = solve(design);
  Complex worst = -1e9;
  for (const auto& pole : circuit::findPoles(*solved.point.system, solved.point.dc.x))
    if (pole.imag() > 0 && std::abs(pole) < 400 && pole.real() > worst.real()) worst = pole;
  return worst.real() > 0 ? worst.imag() / (2 * std::numbers::pi) : -1;
}

TEST(Sections, TremoloStartsSwingsAtItsSpeedAndStopsAtTheSwitch) {
  VINEGAR_LONG_TEST(numbers);
  const double slow = swing(withTremolo(0, 2)), fast = swing(withTremolo(1, 2));
  EXPECT_GT(slow, 1.5);
  EXPECT_LT(slow, 6);
  EXPECT_GT(fast, 1.4 * slow);
  EXPECT_LT(fast, 14);
  EXPECT_LT(swing(withTremolo(0.5, 1)), 0);
  // In time: from a nudge to a full swing of the output tubes' bias, at about the rate that the poles tell.
  const auto solved = solve(withTremolo(0.5, 2));
  circuit::TransientQuestion question;
  question.duration = 6;
  question.samplesPerSecond = 2000;
  question.mode = circuit::TransientQuestion::Mode::preview;
  const int source = solved.circuit.part("Player")->devices[0];
  const int supply = solved.circuit.part("B1")->devices[0];
  question.drive[source] = {[](double) { return 0.0; }, {}};
  question.drive[supply] = {[](double t) { return t < 0.1 ? -5.0 : 0.0; }, {0.1}};
  question.outputs = {solved.circuit.localNodes.at("power/b")};
  const auto answer = circuit::solveTransient(*solved.point.system, solved.point.dc.x, question);
  ASSERT_TRUE(answer) << answer.error().line();
  const auto tail = answer->volts.row(0).tail(4000); // the last two seconds
  EXPECT_GT(tail.maxCoeff() - tail.minCoeff(), 3);
  int rises = 0;
  for (Eigen::Index k = 1; k < tail.size(); ++k)
    rises += tail[k - 1] < tail.mean() && tail[k] >= tail.mean();
  EXPECT_NEAR(rises / 2.0, swing(withTremolo(0.5, 2)), 1.6);
}

/// What goes into the tank comes out one delay later, again after three, smaller by the decay.
TEST(Sections, SpringTankEchoesAtItsDelayAndDecay) {
  auto design =
      designOf({use("stage", "triode-common-cathode"), use("mix", "mix-two"), use("after", "triode-common-cathode")});
  design.sides = {{"reverb",
                   {use("driver", "reverb-driver"), use("tank", "spring-tank"),
                    use("recovery", "triode-common-cathode"), use("level", "volume")},
                   "stage.out",
                   "mix.second",
                   {}}};
  amp::nameParts(design, library());
  const auto solved = solve(design);
  circuit::TransientQuestion question;
  question.duration = 0.12;
  question.samplesPerSecond = 20000;
  question.mode = circuit::TransientQuestion::Mode::preview;
  question.drive[solved.circuit.part("Player")->devices[0]] = {
      [](double t) { return t > 1e-3 && t < 4e-3 ? 0.02 * std::sin(2 * std::numbers::pi * 1000 * (t - 1e-3)) : 0.0; },
      {1e-3, 4e-3}};
  question.outputs = {solved.circuit.localNodes.at("tank/out")};
  const auto answer = circuit::solveTransient(*solved.point.system, solved.point.dc.x, question);
  ASSERT_TRUE(answer) << answer.error().line();
  const auto loudest = [&](double from, double to) {
    return answer->volts.row(0)
        .segment(static_cast<Eigen::Index>(from * 20000), static_cast<Eigen::Index>((to - from) * 20000))
        .cwiseAbs()
        .maxCoeff();
  };
  const double first = loudest(0.033, 0.040), second = loudest(0.041, 0.048); // the slower spring: 40.6 ms
  EXPECT_LT(loudest(0, 0.0335), 1e-6 + first * 1e-3);                         // nothing before the sound has travelled
  EXPECT_GT(first, 1e-4);
  EXPECT_NEAR(second / first, 1, 0.2);
  // After another round trip of 66 ms: 60 dB in 2 s is 2 dB in 66 ms, and the treble loss a little more.
  const double again = 20 * std::log10(loudest(0.099, 0.106) / first);
  EXPECT_LT(again, -1.9);
  EXPECT_GT(again, -3.5);
}

/// A channel in a lane is as good as one in the line.
TEST(Sections, AChannelInALaneAmplifiesLikeOneInTheLine) {
  auto design = designOf({use("jacks", "channel-jacks"), use("one", "triode-common-cathode"), use("mix", "mix-two"),
                          use("after", "triode-common-cathode")});
  design.sides = {{"two", {use("two", "triode-common-cathode")}, "jacks.second", "open", {}}};
  design.line[3].joins["second"] = "two.out"; // joined from the other side
  amp::nameParts(design, library());
  design.knobs["Plugged into"] = 1;
  const auto first = gain(solve(design), "jack", "mix.out", 1000);
  design.knobs["Plugged into"] = 2;
  const auto second = gain(solve(design), "jack", "mix.out", 1000);
  EXPECT_LT(std::abs(first - second), 1e-3 * std::abs(first));
}

} // namespace
} // namespace vinegar::predict
