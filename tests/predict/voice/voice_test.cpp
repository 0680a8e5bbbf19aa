// What the Voice page tells: networks against nodal equations of their own, readings against a dense search, every
// promised change against the amplifier solved anew.
#include "amp/acts/acts.h"
#include "amp/change/change.h"
#include "predict/overview/steps.h"
#include "predict/quiet/hiss.h"
#include "predict/rest/places.h"
#include "predict/stages/explain.h"
#include "predict/voice/fit.h"
#include "predict/voice/rank.h"
#include "predict/voice/readouts.h"
#include "predict/voice/section_gains.h"
#include "predict/voice/tolerance.h"
#include "predict/voice/travel.h"
#include "support/bench_design.h"
#include "support/paths.h"
#include "support/random_builder.h"
#include "support/samples.h"

#include <cmath>
#include <filesystem>
#include <gtest/gtest.h>
#include <numbers>
#include <random>
#include <set>

namespace vinegar::predict {
namespace {

using testing_support::atRest;
using testing_support::benchDesign;
using testing_support::changed;
using testing_support::levels;
using testing_support::library;
using testing_support::sampleAtRest;
using testing_support::trials;
using testing_support::use;
using testing_support::valued;
using Kind = Readout::Kind;

constexpr std::array samples{"slipway", "chandlery", "harbour-office", "net-loft"};

// --- readings ---

/// The curve as a dense search sees it.
struct Dense {
  std::vector<double> hertz = circuit::logSpaced(10, 1e5, 6000), decibels;
  [[nodiscard]] std::size_t indexOf(double f) const {
    return static_cast<std::size_t>(std::lower_bound(hertz.begin(), hertz.end(), f) - hertz.begin());
  }
  /// The best in a stretch of an octave about `f`.
  [[nodiscard]] std::size_t extreme(double f, bool most) const {
    std::size_t best = indexOf(f);
    for (auto i = indexOf(f / 1.4); i < indexOf(f * 1.4); ++i)
      if ((decibels[i] > decibels[best]) == most && decibels[i] != decibels[best]) best = i;
    return best;
  }
};

TEST(Voice, ReadingsAgreeWithADenseSearchOfTheCurve) {
  int dips = 0, corners = 0, losses = 0;
  for (const char* name : samples)
    for (const double turn : {0.2, 0.5, 0.9}) {
      auto design = testing_support::sample(name).ink;
      for (const auto& part : amp::resolveParts(design, library()))
        if (part.part->kind == amp::PartKind::pot) design.knobs[part.knob] = turn;
      const auto idle = withoutEchoes(atRest(design)); // a comb of a spring's has no dip worth the name
      const auto readouts = predictReadouts(idle, library(), {});
      ASSERT_TRUE(readouts) << name << ": " << readouts.error().line();
      Dense dense;
      dense.decibels = levels(idle, dense.hertz);
      const auto what = std::string(name) + " at " + std::to_string(turn);
      const auto near = [&](double hertz, std::size_t i) { EXPECT_NEAR(hertz / dense.hertz[i], 1, 0.01) << what; };
      const auto* peak = readouts->of(Kind::peak);
      ASSERT_TRUE(peak) << what;
      const auto top = dense.extreme(peak->hertz, true);
      near(peak->hertz, top);
      EXPECT_NEAR(peak->decibels, dense.decibels[top], 0.05) << what;
      if (const auto* dip = readouts->of(Kind::dip)) {
        const auto floor = dense.extreme(dip->hertz, false);
        near(dip->hertz, floor);
        EXPECT_NEAR(dip->decibels, dense.decibels[floor], 0.05) << what;
        // Between the two highest places beside it.
        double left = -1e9, right = -1e9;
        for (auto i = dense.indexOf(20); i < dense.indexOf(2e4); ++i)
          (i < floor ? left : right) = std::max(i < floor ? left : right, dense.decibels[i]);
        EXPECT_LE(readouts->of(Kind::dipDepth)->value, std::min(left, right) - dense.decibels[floor] + 0.05) << what;
        EXPECT_GT(readouts->of(Kind::dipDepth)->value, 0.4) << what;
        ++dips;
      }
      if (const auto* corner = readouts->of(Kind::trebleCorner)) {
        auto i = top;
        while (dense.decibels[i] > dense.decibels[top] - 3)
          ++i;
        near(corner->hertz, i);
        EXPECT_NEAR(corner->decibels, dense.decibels[top] - 3, 0.05) << what;
        ++corners;
      }
      if (const auto* corner = readouts->of(Kind::bassCorner)) {
        const auto i = dense.indexOf(corner->hertz);
        EXPECT_NEAR(dense.decibels[i], corner->decibels, 0.05) << what;
        // Under the midband, whatever humps stand between; above it nothing has been 3 dB down yet.
        double middle = 0;
        const auto from = dense.indexOf(200), to = dense.indexOf(2000);
        for (auto k = from; k < to; ++k)
          middle += dense.decibels[k] / static_cast<double>(to - from);
        EXPECT_NEAR(middle - 3, corner->decibels, 0.1) << what;
        auto k = dense.indexOf(20);
        while (dense.decibels[k] < middle - 3)
          ++k;
        while (dense.decibels[k] > corner->decibels)
          --k;
        EXPECT_NEAR(dense.hertz[k] / corner->hertz, 1, 0.02) << what;
        if (const auto* hump = readouts->of(Kind::hump)) {
          EXPECT_NEAR(hump->value, dense.decibels[dense.indexOf(hump->hertz)] - middle, 0.1) << what;
          EXPECT_GT(hump->hertz, corner->hertz) << what;
        }
      }
      EXPECT_NEAR(readouts->of(Kind::level, "1 kHz")->value, dense.decibels[dense.indexOf(1000)], 0.05) << what;
      const auto meanOf = [&](double low, double high) {
        double sum = 0;
        const auto first = dense.indexOf(low), last = dense.indexOf(high);
        for (auto i = first; i < last; ++i)
          sum += dense.decibels[i];
        return sum / static_cast<double>(last - first);
      };
      for (const auto& band : usualBands())
        if (const auto* tilt = readouts->of(Kind::tilt, band.name)) {
          EXPECT_NEAR(tilt->value, meanOf(band.low, band.high) - meanOf(400, 1500), 0.05) << what << band.name;
        }
      for (const auto& place : placesOf(*idle.circuit, library())) {
        const auto* loss = readouts->of(Kind::loss, place.use->id);
        if (!loss) continue;
        const auto& names = idle.circuit->netlist.nodeNames();
        const auto through = levels(idle, circuit::logSpaced(20, 2e4, 900), names[static_cast<std::size_t>(place.in)],
                                    names[static_cast<std::size_t>(place.out)]);
        EXPECT_NEAR(loss->value, -*std::max_element(through.begin(), through.end()), 0.05) << what << loss->name;
        EXPECT_GT(loss->value, 0) << what << loss->name; // nothing in it amplifies
        ++losses;
      }
    }
  EXPECT_GT(dips, 3);
  EXPECT_GT(corners, 8);
  EXPECT_GT(losses, 8);
}

/// What is named as making a reading does to it what is said, and does more than nine of ten other parts.
TEST(Voice, WhatMakesAReadingMovesItAsTold) {
  const auto idle = sampleAtRest("slipway");
  const auto before = predictReadouts(idle, library(), {});
  ASSERT_TRUE(before);
  for (const auto& readout : before->all) {
    ASSERT_FALSE(readout.makers.empty()) << readout.name;
    for (const auto& maker : readout.makers) {
      constexpr double step = 0.01; // small, and scaled up to a tenth
      const auto after = predictReadouts(
          changed(idle, {valued(idle, maker.part, idle.circuit->part(maker.part)->resolved.value() * (1 + step))}),
          library(), {});
      ASSERT_TRUE(after);
      const auto* its = after->of(readout.kind, readout.name);
      ASSERT_TRUE(its) << readout.name;
      const double moved = readout.isFrequency() ? std::log(its->value / readout.value) : its->value - readout.value;
      EXPECT_NEAR(moved * std::log(1.1) / std::log(1 + step) / maker.effect, 1, 0.1)
          << static_cast<int>(readout.kind) << " " << readout.name << " by " << maker.part;
    }
  }
}

TEST(Voice, ACurveWithoutAHumpHasNoCorners) {
  EXPECT_TRUE(standingOut({0, 1, 2, 3, 4}, 0.5, true).empty());
  EXPECT_TRUE(standingOut({0, 1, 1.2, 1, 1.3, 4}, 0.5, true).empty()); // a ripple is none
  EXPECT_EQ(standingOut({0, 4, 1, 3, 0}, 0.5, true), (std::vector<std::size_t>{1, 3}));
  EXPECT_EQ(standingOut({0, 4, 1, 3, 0}, 0.5, false), (std::vector<std::size_t>{2}));
  const auto idle = sampleAtRest("slipway");
  EXPECT_FALSE(predictReadouts(idle, library(), {"jack", "speaker", {{"upside down", 300, 200}}}));
  EXPECT_FALSE(predictReadouts(idle, library(), {"jack", "nowhere"}));
}

// --- which part ---

TEST(Voice, RankedStepsAreTheAmplifierSolvedAnewAndNoPartDoesMore) {
  VINEGAR_LONG_TEST(numbers);
  for (const char* name : samples) {
    const auto idle = sampleAtRest(name);
    const auto ranking = predictRanking(idle, library(), {"jack", "speaker", 300, 600});
    ASSERT_TRUE(ranking) << name << ": " << ranking.error().line();
    ASSERT_GT(ranking->steps.size(), 6U) << name;
    const auto band = circuit::logSpaced(300, 600, 60);
    const auto now = levels(idle, band);
    const auto meanOf = [&](const std::string& part, double value) {
      const auto after = levels(changed(idle, {valued(idle, part, value)}), band);
      double sum = 0;
      for (std::size_t f = 0; f < band.size(); ++f)
        sum += (after[f] - now[f]) / static_cast<double>(band.size());
      return sum;
    };
    for (std::size_t i = 0; i < ranking->steps.size(); i += testing_support::stride()) {
      const auto& step = ranking->steps[i];
      EXPECT_NEAR(step.there, meanOf(step.part, step.to), 0.05 + 0.03 * std::abs(step.there)) << name << step.part;
      const auto other = changed(idle, {valued(idle, step.part, step.to)});
      for (std::size_t t = 0; t < idle.point.tubes.size(); ++t) {
        const double moved = other.point.tubes[t].plateAmps / idle.point.tubes[t].plateAmps - 1;
        EXPECT_LE(std::abs(moved), std::max(std::abs(step.movedShare), 1e-3) + 1e-4) << name << step.part;
        if (idle.point.tubes[t].name == step.movedTube) {
          EXPECT_NEAR(moved, step.movedShare, 1e-4) << name << step.part;
        }
      }
    }
    // Every part there is, asked one by one: none beats the first, and few beat the fifth.
    if (testing_support::stride() > 1 || idle.circuit->parts.size() > 70) continue;
    for (const auto& part : idle.circuit->parts) {
      const auto& own = part.resolved;
      const auto kind = own.part->kind;
      if (part.devices.empty() || (kind != amp::PartKind::resistor && kind != amp::PartKind::capacitor)) continue;
      for (const bool up : {true, false}) {
        const auto value = steppedValue(own, library(), up);
        if (!value || *value <= 0) continue;
        EXPECT_LE(std::abs(meanOf(own.name, *value)), std::abs(ranking->steps.front().there) + 0.06)
            << name << " " << own.name;
      }
    }
  }
}

TEST(Voice, ABandThatIsNoneIsRefused) {
  const auto idle = sampleAtRest("net-loft");
  for (const auto& [low, high] : {std::pair{600.0, 300.0}, {0.0, 100.0}, {100.0, std::nan("")}})
    EXPECT_FALSE(predictRanking(idle, library(), {"jack", "speaker", low, high}));
  EXPECT_TRUE(predictRanking(idle, library(), {"jack", "speaker", 500, 500}));
  int asked = 0;
  const auto stopped = predictRanking(idle, library(), {}, [&](double) { return ++asked < 3; });
  ASSERT_FALSE(stopped);
  EXPECT_TRUE(stopped.error().cancelled);
}

// --- controls ---

TEST(Voice, ATravelsCurvesAreTheDesignWithTheKnobThere) {
  VINEGAR_LONG_TEST(numbers);
  for (const char* name : samples) {
    auto design = testing_support::sample(name).ink;
    const auto idle = atRest(design);
    std::set<std::string> knobs;
    for (const auto& part : idle.circuit->parts)
      if (amp::isControl(part.resolved.part->kind) && !part.devices.empty()) knobs.insert(part.resolved.knob);
    for (const auto& knob : knobs) {
      const auto travel = predictTravel(idle, library(), {knob});
      // A mains switch that is off leaves nothing to be told, which is said.
      if (!travel) {
        EXPECT_FALSE(travel.error().line().empty());
        continue;
      }
      ASSERT_GE(travel->curves.size(), 2U) << name << knob;
      for (std::size_t c = 0; c < travel->curves.size(); c += travel->isSwitch ? 1 : 5) {
        design.knobs[knob] = travel->curves[c].setting;
        const auto whole = levels(atRest(design), travel->hertz);
        for (std::size_t f = 0; f < whole.size(); f += 7)
          ASSERT_NEAR(travel->curves[c].decibels[f], whole[f], 0.02) << name << " " << knob << " " << c;
      }
      design = *idle.circuit->design;
      if (travel->isSwitch || travel->whole == 0) continue;
      EXPECT_NEAR(travel->thirds.share[0] + travel->thirds.share[1] + travel->thirds.share[2], 1, 1e-9) << name << knob;
    }
  }
}

/// What another law would do is what it does once it is there.
TEST(Voice, AnotherTaperDoesWhatWasToldOfIt) {
  const auto idle = sampleAtRest("slipway");
  for (const char* knob : {"Treble", "Volume"}) {
    const auto before = predictTravel(idle, library(), {knob});
    ASSERT_TRUE(before);
    EXPECT_LE(before->tapers.front().thirds.unevenness(), before->thirds.unevenness() + 0.02);
    for (const auto& choice : before->tapers) {
      const auto after =
          predictTravel(changed(idle, {{knob, "taper", before->taper, choice.taper}}), library(), {knob});
      ASSERT_TRUE(after);
      for (std::size_t third = 0; third < 3; ++third)
        EXPECT_NEAR(after->thirds.share[third], choice.thirds.share[third], 0.02) << knob << " " << choice.taper;
    }
    for (const auto& choice : before->values) {
      const auto after = predictTravel(changed(idle, {valued(idle, knob, choice.value)}), library(), {knob});
      ASSERT_TRUE(after);
      EXPECT_NEAR(after->whole, choice.whole, 0.05) << knob << " " << choice.value;
    }
  }
}

/// A linear pot that nothing loads lets through its rotation: from 40 dB under all to a third are 40 - 20 lg 3, and so
/// on.
TEST(Voice, ALinearPotsThirdsAreTheLogarithmsOfItsRotation) {
  auto design =
      benchDesign({use("level", "volume", {{"Volume", {{"taper", "linear"}}}}),
                   use("end", "line-load", {{"R", {{"value", testing_support::never}}}, {"C", {{"fitted", false}}}})});
  const auto travel = predictTravel(atRest(design), library(), {"Volume", "jack", "line"});
  ASSERT_TRUE(travel) << travel.error().line();
  EXPECT_NEAR(travel->whole, 40, 0.1);
  const double third = 20 * std::log10(3.0), two = 20 * std::log10(1.5);
  EXPECT_NEAR(travel->thirds.share[0], (40 - third) / 40, 0.01);
  EXPECT_NEAR(travel->thirds.share[1], (third - two) / 40, 0.01);
  EXPECT_NEAR(travel->thirds.share[2], two / 40, 0.01);
}

/// Shares of the spread against builds in which one part alone varies.
TEST(Voice, CulpritsMakeTheirShareOfTheSpread) {
  const auto idle = sampleAtRest("slipway");
  const auto tolerance = predictTolerance(idle, library(), {});
  ASSERT_TRUE(tolerance);
  std::vector<double> variances;
  for (std::size_t c = 0; c < 3; ++c) {
    const auto* part = idle.circuit->part(tolerance->culprits[c].part);
    circuit::MonteCarloQuestion alone;
    alone.builds = 400;
    alone.hertz = circuit::logSpaced(40, 1e4, 30);
    alone.from = idle.circuit->probe("jack");
    alone.to = idle.circuit->probe("speaker");
    for (const auto& spread : spreadsWithin(*idle.circuit, Tolerances{}))
      if (spread.devices.front() == part->devices.front()) alone.spreads = {spread};
    ASSERT_EQ(alone.spreads.size(), 1U) << part->resolved.name;
    alone.spreads.front().gmTolerance = 0; // a tube's current alone, as the sensitivities have it
    const auto builds = circuit::solveMonteCarlo(*idle.point.system, alone);
    ASSERT_TRUE(builds);
    const Eigen::VectorXd mean = builds->decibels.rowwise().mean();
    variances.push_back((builds->decibels.colwise() - mean).squaredNorm());
  }
  for (std::size_t c = 1; c < 3; ++c)
    EXPECT_NEAR(variances[c] / variances[0] / (tolerance->culprits[c].share / tolerance->culprits[0].share), 1, 0.25)
        << tolerance->culprits[c].part;
}

/// Against the design solved whole at every setting.
void expectEnvelope(const Idle& idle, const std::vector<std::string>& controls, const std::string& to) {
  const auto envelope = predictEnvelope(idle, library(), {controls, "jack", to, 3});
  ASSERT_TRUE(envelope) << envelope.error().line();
  std::size_t settings = 1;
  for (std::size_t c = 0; c < controls.size(); ++c)
    settings *= 3;
  EXPECT_EQ(envelope->settings, settings);
  std::vector<double> least(envelope->hertz.size(), 1e9), most(envelope->hertz.size(), -1e9);
  auto design = *idle.circuit->design;
  for (std::size_t s = 0; s < settings; ++s) {
    auto rest = s;
    for (const auto& control : controls) {
      design.knobs[control] = static_cast<double>(rest % 3) / 2;
      rest /= 3;
    }
    const auto curve = levels(atRest(design), envelope->hertz, "jack", to);
    for (std::size_t f = 0; f < curve.size(); ++f) {
      least[f] = std::min(least[f], curve[f]);
      most[f] = std::max(most[f], curve[f]);
    }
  }
  for (std::size_t f = 0; f < least.size(); ++f) {
    EXPECT_NEAR(envelope->least[f], least[f], 0.01) << envelope->hertz[f];
    EXPECT_NEAR(envelope->most[f], most[f], 0.01) << envelope->hertz[f];
  }
}

TEST(Voice, AnEnvelopeHoldsEverySettingAndTouchesSome) {
  const auto idle = sampleAtRest("slipway");
  expectEnvelope(idle, {"Treble", "Bass", "Middle"}, "speaker");
  EXPECT_FALSE(predictEnvelope(idle, library(), {{}}));
  EXPECT_FALSE(predictEnvelope(idle, library(), {{"Treble", "Bass", "Middle", "Volume"}}));
  EXPECT_FALSE(predictEnvelope(idle, library(), {{"Nonesuch"}}));
}

/// A volume on a follower's cathode, and another behind a capacitor.
TEST(Voice, AnEnvelopeTakesInPotsThatCarryDirectCurrent) {
  auto design = benchDesign({use("stage", "stage-and-follower"), use("level", "volume"),
                             use("next", "triode-common-cathode"), use("last", "volume"), use("end", "line-load")});
  const auto idle = atRest(design);
  const auto knobs = [&] {
    std::vector<std::string> names;
    for (const auto& part : amp::resolveParts(design, library()))
      if (part.part->kind == amp::PartKind::pot) names.push_back(part.knob);
    return names;
  }();
  ASSERT_EQ(knobs.size(), 2U);
  const auto* first = idle.circuit->part(knobs[0]);
  ASSERT_GT(idle.point.volts(first->nodes[0]), 20); // direct volts lie on it
  expectEnvelope(idle, knobs, "line");
}

// --- builds ---

/// One part that varies alone: the band is what that part's ends make of the curve.
TEST(Voice, ABandOfOnePartEndsNearItsTolerance) {
  const auto idle = sampleAtRest("slipway");
  ToleranceQuestion question;
  question.tolerances = {0, 0, 0, 0, 0, 0};
  question.builds = 200;
  const auto none = predictTolerance(idle, library(), question);
  ASSERT_TRUE(none);
  for (std::size_t f = 0; f < none->hertz.size(); ++f)
    EXPECT_NEAR(none->high[f] - none->low[f], 0, 1e-9);
  EXPECT_TRUE(none->culprits.empty());
  question.tolerances = {0.05, 0.2, 0.2, 0.2, 0.05, 0.2};
  const auto all = predictTolerance(idle, library(), question);
  ASSERT_TRUE(all);
  const auto now = levels(idle, all->hertz);
  for (std::size_t f = 0; f < now.size(); ++f) {
    EXPECT_LT(all->low[f], all->middle[f]);
    EXPECT_GT(all->high[f], all->middle[f]);
    EXPECT_NEAR(all->middle[f], now[f], (all->high[f] - all->low[f]) / 2) << all->hertz[f];
  }
  // Variances add: with the first culprit's own kind held still the band is narrower.
  ASSERT_GE(all->culprits.size(), 3U);
  EXPECT_GT(all->voice.middle, 0.1);
  question.tolerances.film = question.tolerances.electrolytic = 0;
  const auto fewer = predictTolerance(idle, library(), question);
  ASSERT_TRUE(fewer);
  EXPECT_LT(fewer->voice.middle, all->voice.middle);
  const auto stopped = predictTolerance(idle, library(), question, [](double) { return false; });
  ASSERT_FALSE(stopped);
  EXPECT_TRUE(stopped.error().cancelled);
}

// --- anything ---

/// A Zener of a rectified supply is a slope and a mean in the solved amplifier: nothing asks what a little more of it
/// does.
TEST(Voice, AZenerInTheSupplyIsNoPartToTurn) {
  int asked = 0;
  for (const auto& [id, section] : library().sections) {
    if (section.deck != "supply" || std::none_of(section.parts.begin(), section.parts.end(),
                                                 [](const auto& part) { return part.kind == amp::PartKind::zener; }))
      continue;
    const auto document = testing_support::sample("slipway");
    const auto& ink = document.ink;
    const auto design =
        amp::insertSection(ink, library(), amp::NameBook(document), {"supply", ink.supply.front().id}, id);
    if (!design) continue;
    const auto idle = predictIdle(*design, library());
    if (!idle) continue;
    ++asked;
    EXPECT_TRUE(predictReadouts(*idle, library(), {})) << id;
    EXPECT_TRUE(predictHiss(*idle, library(), {true})) << id; // sensitivities of noise give devices other laws
    EXPECT_TRUE(predictRanking(*idle, library(), {})) << id;
    EXPECT_TRUE(predictTolerance(*idle, library(), {"jack", "speaker", {}, 4})) << id;
    const auto& tube = idle->point.tubes.front();
    EXPECT_TRUE(explainReadings(*idle, library(), {tube.name, {{"plate", 0.9 * tube.plateVolts}}})) << id;
  }
  EXPECT_GT(asked, 0);
}

/// The builder's own pot, measured: its curves are those of a linear one turned to where the shares are its own.
TEST(Voice, AMeasuredLawGoesTheSameWayAtItsOwnPace) {
  const auto idle = sampleAtRest("slipway");
  const std::vector<std::pair<double, double>> points{{0, 0}, {0.2, 0.05}, {0.5, 0.12}, {0.8, 0.6}, {1, 1}};
  const auto own = changed(idle, {{"Volume", "taper", std::string("log15"), amp::measuredTaperOf(points)}});
  const auto linear = changed(idle, {{"Volume", "taper", std::string("log15"), std::string("linear")}});
  const auto travel = predictTravel(own, library(), {"Volume"});
  ASSERT_TRUE(travel) << travel.error().line();
  EXPECT_EQ(travel->taper, amp::measuredTaperOf(points));
  EXPECT_TRUE(std::any_of(travel->tapers.begin(), travel->tapers.end(),
                          [&](const auto& choice) { return choice.taper == travel->taper; }));
  auto design = *linear.circuit->design;
  for (const auto& [turn, share] : points) {
    design.knobs["Volume"] = share;
    const auto there = levels(atRest(design), travel->hertz);
    const auto& curve = travel->curves[static_cast<std::size_t>(std::lround(10 * turn))];
    for (std::size_t f = 0; f < there.size(); ++f)
      ASSERT_NEAR(curve.decibels[f], there[f], 0.01) << turn;
  }
}

/// Along a line without another way round, a section's gain is the ratio of its ends.
TEST(Voice, SectionsGiveWhatStandsBetweenTheirEnds) {
  for (const char* name : samples) {
    const auto idle = withoutEchoes(sampleAtRest(name));
    const auto gains = predictSectionGains(idle, library(), {});
    ASSERT_TRUE(gains) << gains.error().line();
    EXPECT_GE(gains->all.size(), 4U) << name;
    const auto& names = idle.circuit->netlist.nodeNames();
    for (const auto& place : placesOf(*idle.circuit, library())) {
      const auto* gain = gains->of(place.use->id);
      if (!gain || place.chain != "line") continue;
      const auto jack = levels(idle, {sectionGainHertz.begin(), sectionGainHertz.end()}, "jack",
                               names[static_cast<std::size_t>(place.out)]);
      const auto before = levels(idle, {sectionGainHertz.begin(), sectionGainHertz.end()}, "jack",
                                 names[static_cast<std::size_t>(place.in)]);
      for (std::size_t f = 0; f < 3; ++f)
        EXPECT_NEAR(gain->decibels[f], jack[f] - before[f], 1e-4) << name << " " << place.use->id;
    }
  }
}

/// Whatever a builder has put together: an answer of finite numbers, or words about what is missing.
TEST(Voice, RandomAmplifiersAreAnsweredOrRefusedInWords) {
  VINEGAR_LONG_TEST(numbers);
  std::vector<amp::Design> designs;
  for (const auto& entry : std::filesystem::directory_iterator(testing_support::folder("data") + "/skeletons"))
    if (auto loaded = files::readDesign(entry.path(), library())) designs.push_back(loaded->document.ink);
  for (int i = 0; i < trials(40); ++i) {
    testing_support::RandomBuilder builder(static_cast<unsigned>(i) + 13000);
    auto document = testing_support::sample(samples[static_cast<std::size_t>(i) % samples.size()]);
    for (int step = 0; step < 8; ++step)
      if (const auto next = builder.act(document)) amp::pencil(document, library(), *next);
    designs.push_back(amp::pencilled(document, library()));
  }
  int answered = 0;
  for (std::size_t d = 0; d < designs.size(); d += std::min(testing_support::stride(), 3)) {
    SCOPED_TRACE("design " + std::to_string(d) + " " + designs[d].name);
    const auto idle = predictIdle(designs[d], library());
    if (!idle) continue;
    const auto& probes = idle->circuit->probes;
    const bool whole = idle->circuit->probe("jack") > 0 && idle->circuit->probe("speaker") > 0;
    if (probes.empty()) continue;
    const std::string from = whole ? "jack" : probes.front().name, to = whole ? "speaker" : probes.back().name;
    const auto worded = [](const auto& answer) {
      EXPECT_TRUE(answer || !answer.error().message.empty());
      return bool(answer);
    };
    if (const auto readouts = predictReadouts(*idle, library(), {from, to}); worded(readouts)) {
      for (const auto& readout : readouts->all)
        EXPECT_TRUE(std::isfinite(readout.value)) << static_cast<int>(readout.kind) << readout.name;
    }
    if (const auto ranking = predictRanking(*idle, library(), {from, to, 1000, 3000}); worded(ranking)) {
      ++answered;
      for (const auto& step : ranking->steps)
        EXPECT_TRUE(std::isfinite(step.there) && std::isfinite(step.elsewhere)) << step.part;
      if (ranking->steps.size() > 1) {
        FitQuestion question;
        question.from = from;
        question.to = to;
        question.target = {{100, 0}, {1000, 0}};
        for (const auto& step : ranking->steps)
          if (question.parts.size() < 2 && !std::count(question.parts.begin(), question.parts.end(), step.part) &&
              idle->circuit->part(step.part)->resolved.part->kind != amp::PartKind::inductor)
            question.parts.push_back(step.part);
        if (const auto fit = predictFit(*idle, library(), question); worded(fit)) {
          for (const auto& set : fit->sets)
            EXPECT_LT(set.distance, fit->distance);
        }
      }
    }
    std::set<std::string> knobs;
    for (const auto& part : idle->circuit->parts)
      if (amp::isControl(part.resolved.part->kind) && !part.devices.empty()) knobs.insert(part.resolved.knob);
    if (!knobs.empty()) {
      const auto travel = predictTravel(
          *idle, library(), {*std::next(knobs.begin(), static_cast<std::ptrdiff_t>(d % knobs.size())), from, to});
      EXPECT_TRUE(!worded(travel) || std::isfinite(travel->whole));
    }
    const auto tolerance = predictTolerance(*idle, library(), {from, to, {}, 4});
    EXPECT_TRUE(!worded(tolerance) || std::isfinite(tolerance->voice.middle));
    const auto hiss = predictHiss(*idle, library(), {d % 5 == 0});
    EXPECT_TRUE(!worded(hiss) || hiss->weighted > 0);
  }
  EXPECT_GT(answered, trials(40) / 6);
}

} // namespace
} // namespace vinegar::predict
