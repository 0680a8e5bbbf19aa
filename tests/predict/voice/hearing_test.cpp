// A response as the ear takes it, designs side by side, sources and loudspeakers by class.
#include "amp/change/alignment.h"
#include "files/likenesses.h"
#include "predict/voice/hearing.h"
#include "predict/voice/variants.h"
#include "support/bench_design.h"
#include "support/paths.h"
#include "support/samples.h"

#include <cmath>
#include <gtest/gtest.h>

namespace vinegar::predict {
namespace {

using testing_support::changed;
using testing_support::levels;
using testing_support::library;
using testing_support::sampleAtRest;
using testing_support::valued;

// --- as heard, and side by side ---

TEST(Hearing, ThirdOctavesFlattenAWiggleAndKeepALine) {
  Response flat;
  flat.hertz = circuit::logSpaced(10, 1e5, 400);
  Response rippled = flat;
  for (const double f : flat.hertz) {
    flat.decibels.push_back(7);
    rippled.decibels.push_back(7 + 6 * std::sin(60 * std::log(f))); // some seven wiggles an octave
  }
  const auto smooth = thirdOctaves(flat), calm = thirdOctaves(rippled);
  for (std::size_t f = 40; f < 360; ++f) {
    EXPECT_NEAR(smooth.decibels[f], 7, 1e-9);
    EXPECT_NEAR(calm.decibels[f], 7 + 2.0, 1.6); // the power of the mean lies over the mean of the decibels
  }
  const auto weighted = weightedA(flat);
  EXPECT_NEAR(decibelsAt(weighted, 1000), 7, 0.01);
  EXPECT_NEAR(decibelsAt(weighted, 100), 7 - 19.1, 0.1);
}

/// The standard's own table of contours.
TEST(Hearing, EquallyLoudTonesAreTheStandards) {
  const std::tuple<double, double, double> published[] = {
      {20, 20, 89.57},   {100, 20, 48.38},   {125, 20, 43.94},  {20, 40, 99.85},   {50, 40, 77.78},   {100, 40, 64.37},
      {200, 40, 53.41},  {500, 40, 43.05},   {1000, 40, 40.01}, {2000, 40, 39.23}, {3150, 40, 35.61}, {5000, 40, 40.01},
      {8000, 40, 51.80}, {12500, 40, 51.49}, {20, 80, 118.99},  {50, 80, 101.72},  {100, 80, 92.48}};
  for (const auto& [hertz, phons, decibels] : published)
    EXPECT_NEAR(equallyLoud(hertz, phons), decibels, 0.02) << hertz << " " << phons;
  // Louder, less bass is lost: between any two contours the lower rises more towards the bass.
  for (double phons = 20; phons < 90; phons += 10)
    EXPECT_GT(equallyLoud(50, phons) - phons, equallyLoud(50, phons + 10) - phons - 10);
  Response flat;
  flat.hertz = circuit::logSpaced(10, 2e4, 60);
  flat.decibels.assign(60, 0);
  const auto quiet = weightedByLoudness(flat, 60);
  EXPECT_NEAR(decibelsAt(quiet, 1000), 0, 0.4);
  EXPECT_NEAR(decibelsAt(quiet, 100), 60 - 78.5, 1.0);
}

/// A difference where little is heard counts little.
TEST(Hearing, AWeightedDifferenceCountsWhatIsHeard) {
  Response flat, bass, voice;
  flat.hertz = circuit::logSpaced(40, 1e4, 400);
  flat.decibels.assign(400, 0);
  bass = voice = flat;
  for (std::size_t f = 0; f < 400; ++f) {
    bass.decibels[f] = flat.hertz[f] < 80 ? 6 : 0; // an octave of each
    voice.decibels[f] = flat.hertz[f] > 1000 && flat.hertz[f] < 2000 ? 6 : 0;
  }
  EXPECT_NEAR(decibelsApart(bass, flat, false), decibelsApart(voice, flat, false), 0.1);
  for (const auto weighing : {Weighing::curveA, Weighing::loudness}) {
    EXPECT_LT(decibelsApart(bass, flat, false, weighing), 0.5);
    EXPECT_GT(decibelsApart(voice, flat, false, weighing), decibelsApart(voice, flat, false));
    Response louder = flat;
    for (auto& level : louder.decibels)
      level += 5;
    EXPECT_NEAR(decibelsApart(louder, flat, false, weighing), 5, 1e-9);
  }
}

TEST(Hearing, ThroughAMeasuredSpeakerItsLevelIsAdded) {
  Response flat;
  flat.hertz = circuit::logSpaced(10, 2e4, 100);
  flat.decibels.assign(100, 20);
  const auto heard = through(flat, {{100, -3}, {1000, 0}, {10000, -10}});
  EXPECT_GE(heard.hertz.front(), 100);
  EXPECT_LE(heard.hertz.back(), 10000);
  EXPECT_NEAR(decibelsAt(heard, std::sqrt(100 * 1000.0)), 18.5, 0.01);
  EXPECT_NEAR(decibelsAt(heard, std::sqrt(1000 * 10000.0)), 15, 0.05);
  EXPECT_TRUE(through(flat, {}).hertz.empty());
}

TEST(Hearing, PartialsAreMultiplesAgainstTheNote) {
  Response tilted; // 6 dB an octave up
  tilted.hertz = circuit::logSpaced(10, 1e5, 400);
  for (const double f : tilted.hertz)
    tilted.decibels.push_back(20 * std::log10(f));
  const auto partials = partialsOf(tilted, 82.407);
  ASSERT_EQ(partials.size(), 16U);
  for (const auto& partial : partials)
    EXPECT_NEAR(partial.decibels, 20 * std::log10(partial.number), 1e-6);
  EXPECT_EQ(partialsOf(tilted, 40000).size(), 2U); // the sweep ends
  EXPECT_TRUE(partialsOf(tilted, 5).empty());      // the note itself is not in it
}

/// A cone driven far above its resonance is mass-controlled: even sound from even volts. Under it, 12 dB an octave less
/// from a closed box, 18 from an open back.
TEST(Hearing, ALoudspeakersSoundFollowsItsConesAcceleration) {
  const auto idle = changed(sampleAtRest("slipway"),
                            {{"LS1", "voiceCoilInductance", 600e-6, 1e-9}, {"LS1", "resonanceHertz", 85.0, 80.0}});
  const auto* speaker = idle.circuit->part("LS1");
  ASSERT_TRUE(speaker);
  const auto& cone = idle.circuit->netlist.nodeNames()[static_cast<std::size_t>(speaker->inner.back())];
  const auto motion = predictResponse(idle, library(), {"speaker", cone, circuit::logSpaced(2, 20000, 400)});
  ASSERT_TRUE(motion);
  const auto closed = soundOf(*motion, false), open = soundOf(*motion, true);
  EXPECT_NEAR(decibelsAt(closed, 1600), decibelsAt(closed, 800), 0.1);
  EXPECT_NEAR(decibelsAt(closed, 10) - decibelsAt(closed, 5), 12.04, 0.3);
  EXPECT_NEAR(decibelsAt(open, 10) - decibelsAt(open, 5), 18.06, 0.3);
  EXPECT_NEAR(decibelsAt(closed, 400), decibelsAt(*motion, 400), 1e-6);
}

TEST(Variants, LikenessesAreTheAmplifierWithTheirValues) {
  const auto likenesses = files::readLikenesses(testing_support::folder("data"));
  ASSERT_TRUE(likenesses) << likenesses.error().line();
  ASSERT_GT(likenesses->size(), 10U);
  const auto idle = sampleAtRest("slipway");
  VariantsQuestion question;
  for (const auto& likeness : *likenesses) {
    auto changes = files::changesTo(likeness, *idle.circuit->design, library());
    EXPECT_FALSE(changes.empty()) << likeness.title; // all of them are within what a part can be
    std::size_t fields = 0;
    for (const auto& [role, settings] : likeness.roles)
      fields += settings.size();
    EXPECT_LE(changes.size(), fields) << likeness.title;
    question.variants.push_back({likeness.title, std::move(changes)});
  }
  const auto variants = predictVariants(idle, library(), question);
  ASSERT_TRUE(variants) << variants.error().line();
  ASSERT_EQ(variants->rows.size(), likenesses->size());
  for (const auto& row : variants->rows) {
    ASSERT_FALSE(row.problem) << row.variant.title << row.problem->line();
    const auto other = changed(idle, row.variant.changes);
    EXPECT_NEAR(row.at5kHz, levels(other, {5000})[0] - levels(idle, {5000})[0], 1e-3) << row.variant.title;
    EXPECT_TRUE(files::changesTo((*likenesses)[static_cast<std::size_t>(&row - variants->rows.data())],
                                 *other.circuit->design, library())
                    .empty())
        << row.variant.title;
  }
  // A resistor on the bench does not bend the response: no hump at a speaker's resonance, behind a pentode pair's high
  // output resistance.
  const auto& resistor = variants->rows.back();
  const auto at = [&](double hertz) {
    return static_cast<std::size_t>(std::lower_bound(variants->hertz.begin(), variants->hertz.end(), hertz) -
                                    variants->hertz.begin());
  };
  EXPECT_LT(resistor.decibels[at(85)] - resistor.decibels[at(170)],
            variants->decibels[at(85)] - variants->decibels[at(170)] - 2);
}

TEST(Alignment, SectionsStandBesideWhatDoesTheSame) {
  const auto slipway = testing_support::sample("slipway").ink, loft = testing_support::sample("net-loft").ink;
  for (const auto& pair : amp::align(slipway, slipway, library())) {
    EXPECT_EQ(pair.first, pair.second);
    EXPECT_TRUE(pair.parts.empty());
  }
  auto other = amp::withChanges(slipway, library(), {{"C4", "value", 330e-12, 470e-12}, {"C7", "fitted", false, true}});
  other.line.erase(other.line.begin() + 2); // the stack
  int missing = 0, differing = 0;
  for (const auto& pair : amp::align(slipway, other, library())) {
    if (!pair.second) {
      EXPECT_EQ(pair.first->id, "stack");
      ++missing;
    } else {
      ASSERT_TRUE(pair.first);
      EXPECT_EQ(pair.first->id, pair.second->id);
      differing += static_cast<int>(pair.parts.size());
    }
  }
  EXPECT_EQ(missing, 1);
  EXPECT_EQ(differing, 1); // C7; C4 went with its stack
  // Of two amplifiers: every section of either once, in order.
  std::size_t ours = 0, theirs = 0;
  for (const auto& pair : amp::align(slipway, loft, library())) {
    ours += pair.first != nullptr;
    theirs += pair.second != nullptr;
    EXPECT_TRUE(pair.first || pair.second);
  }
  EXPECT_EQ(ours, slipway.sections().size());
  EXPECT_EQ(theirs, loft.sections().size());
}

/// A tilt of 6 dB an octave about 1 kHz, by its integral; and a step of level, which setting alike takes away.
TEST(Hearing, HowFarApartFollowsTheIntegral) {
  Response flat, tilted, louder;
  flat.hertz = tilted.hertz = louder.hertz = circuit::logSpaced(40, 1e4, 2001);
  for (const double f : flat.hertz) {
    flat.decibels.push_back(0);
    tilted.decibels.push_back(20 * std::log10(f / 1000));
    louder.decibels.push_back(5);
  }
  // Of x = lg(f/1000), even from a to b: mean of (20 x)^2.
  const double a = std::log10(0.04), b = 1;
  EXPECT_NEAR(decibelsApart(tilted, flat, false), 20 * std::sqrt((b * b * b - a * a * a) / 3 / (b - a)), 0.05);
  EXPECT_NEAR(decibelsApart(louder, flat, false), 5, 1e-9);
  EXPECT_NEAR(decibelsApart(louder, flat, true), 0, 1e-9);
}

} // namespace
} // namespace vinegar::predict
