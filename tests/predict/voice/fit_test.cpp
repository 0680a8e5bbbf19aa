// Stock values for a wanted curve: parts tried as ports, hidden sets found again, files of targets.
#include "circuit/ported.h"
#include "files/target_file.h"
#include "predict/levels/clip_order.h"
#include "predict/overview/steps.h"
#include "predict/voice/fit.h"
#include "support/bench_design.h"
#include "support/samples.h"

#include <cmath>
#include <gtest/gtest.h>
#include <random>

namespace vinegar::predict {
namespace {

using testing_support::changed;
using testing_support::levels;
using testing_support::library;
using testing_support::sampleAtRest;
using testing_support::valued;

using testing_support::trials;

// --- values of several parts at once ---

/// Parts seen as ports, with values far from their own, against the amplifier compiled and solved with them.
TEST(Ported, AgreesWithTheCircuitSolvedAnew) {
  std::mt19937 dice(5);
  const auto hertz = circuit::logSpaced(20, 2e4, 24);
  for (const char* name : {"slipway", "chandlery", "harbour-office", "net-loft"}) {
    const auto idle = sampleAtRest(name);
    std::vector<const amp::CompiledPart*> still;
    for (const auto& part : idle.circuit->parts)
      if (part.resolved.part->kind == amp::PartKind::capacitor && !part.devices.empty() &&
          !std::any_of(idle.circuit->design->supply.begin(), idle.circuit->design->supply.end(),
                       [&](const auto& use) { return use.id == part.resolved.section; })) // a reservoir moves the rails
        still.push_back(&part);
    for (int trial = 0; trial < 4; ++trial) {
      std::shuffle(still.begin(), still.end(), dice);
      std::vector<int> devices;
      std::vector<amp::SetField> changes;
      for (std::size_t p = 0; p < 4; ++p) {
        devices.push_back(still[p]->devices.front());
        const double value = still[p]->resolved.value() * std::pow(10.0, static_cast<double>(dice() % 401) / 100 - 2);
        changes.push_back(valued(idle, still[p]->resolved.name, value));
      }
      const auto ported = circuit::Ported::of(*idle.point.system, idle.point.dc.x, hertz, idle.circuit->probe("jack"),
                                              idle.circuit->probe("speaker"), devices);
      ASSERT_TRUE(ported) << ported.error().line();
      std::vector<circuit::Ported::Admittance> values;
      for (const auto& change : changes)
        values.push_back({0, std::get<double>(change.to)});
      std::vector<double> told;
      ported->decibels(values, told);
      const auto whole = levels(changed(idle, changes), hertz);
      for (std::size_t f = 0; f < hertz.size(); ++f)
        ASSERT_NEAR(told[f], whole[f], 2e-3) << name << " at " << hertz[f];
    }
  }
}

TEST(Ported, RefusesWhatIsNoResistorOrCapacitorAndASilentInput) {
  const auto idle = sampleAtRest("net-loft");
  const auto& devices = idle.point.system->netlist().devices();
  const auto tube = std::find_if(devices.begin(), devices.end(), [](const auto& d) {
    return std::holds_alternative<circuit::Triode>(d.law) || std::holds_alternative<circuit::Pentode>(d.law);
  });
  ASSERT_NE(tube, devices.end());
  const auto speaker = idle.circuit->probe("speaker"), jack = idle.circuit->probe("jack");
  EXPECT_FALSE(circuit::Ported::of(*idle.point.system, idle.point.dc.x, {1000}, jack, speaker,
                                   {static_cast<int>(tube - devices.begin())}));
  EXPECT_FALSE(circuit::Ported::of(*idle.point.system, idle.point.dc.x, {1000}, 0, speaker, {}));
}

// --- a wanted curve ---

std::vector<TargetPoint> targetOf(const Idle& idle) {
  std::vector<TargetPoint> target;
  const auto hertz = circuit::logSpaced(60, 8000, 25);
  const auto curve = levels(idle, hertz);
  for (std::size_t f = 0; f < hertz.size(); ++f)
    target.push_back({hertz[f], curve[f]});
  return target;
}
double dialled(const amp::ResolvedPart& part, int steps) {
  auto stepped = part;
  for (int s = 0; s < std::abs(steps); ++s)
    if (const auto next = steppedValue(stepped, library(), steps > 0)) stepped.settings["value"] = *next;
  return stepped.value();
}

/// A random stock set makes the target, the search starts from the design: it has to come back to it, or as near.
TEST(TargetFit, FindsHiddenStockSets) {
  VINEGAR_LONG_TEST(numbers);
  std::mt19937 dice(20);
  const int all = std::max(2, trials(20));
  int found = 0;
  for (int problem = 0; problem < all; ++problem) {
    const auto idle = sampleAtRest(problem % 2 ? "chandlery" : "slipway");
    std::vector<std::string> free;
    for (const auto& part : idle.circuit->parts) {
      const auto kind = part.resolved.part->kind;
      if (part.devices.empty() || (kind != amp::PartKind::resistor && kind != amp::PartKind::capacitor)) continue;
      const auto deck = idle.circuit->design->section(part.resolved.section);
      const auto& supply = idle.circuit->design->supply;
      if (std::any_of(supply.begin(), supply.end(), [&](const auto& use) { return &use == deck; })) continue;
      free.push_back(part.resolved.name);
    }
    std::shuffle(free.begin(), free.end(), dice);
    free.resize(4);
    std::vector<amp::SetField> hidden;
    for (const auto& name : free)
      hidden.push_back(
          valued(idle, name, dialled(idle.circuit->part(name)->resolved, static_cast<int>(dice() % 13) - 6)));
    FitQuestion question;
    question.target = targetOf(changed(idle, hidden));
    question.parts = free;
    question.level = true;
    const auto fit = predictFit(idle, library(), question);
    ASSERT_TRUE(fit) << fit.error().line();
    const double distance = fit->sets.empty() ? fit->distance : fit->sets.front().distance;
    if (distance <= 0.2) ++found;
  }
  EXPECT_GE(found * 20, all * 18) << found << " of " << all;
}

/// Three parts of a tone stack: never worse than trying them all, each compiled and solved.
TEST(TargetFit, IsNoWorseThanTryingAll) {
  auto idle = sampleAtRest("net-loft");
  std::vector<std::string> parts;
  for (const auto& part : idle.circuit->parts)
    if (part.resolved.part->kind == amp::PartKind::capacitor && !part.devices.empty() && parts.size() < 3)
      parts.push_back(part.resolved.name);
  ASSERT_EQ(parts.size(), 3U);
  FitQuestion question;
  question.parts = parts;
  question.target = {{80, -4}, {400, 0}, {3000, 3}};
  for (const auto& part : parts) {
    const auto& own = idle.circuit->part(part)->resolved;
    for (const int steps : {-8, -3, 0, 4})
      question.atHand[part].push_back(dialled(own, steps));
  }
  const auto fit = predictFit(idle, library(), question);
  ASSERT_TRUE(fit) << fit.error().line();
  ASSERT_FALSE(fit->sets.empty());
  const auto hertz = circuit::logSpaced(80, 3000, 40);
  double best = 1e9;
  for (const double a : question.atHand[parts[0]])
    for (const double b : question.atHand[parts[1]])
      for (const double c : question.atHand[parts[2]]) {
        const auto curve = levels(
            changed(idle, {valued(idle, parts[0], a), valued(idle, parts[1], b), valued(idle, parts[2], c)}), hertz);
        double mean = 0, squares = 0;
        std::vector<double> off;
        for (std::size_t f = 0; f < hertz.size(); ++f) {
          const double share = std::log(hertz[f] / (hertz[f] < 400 ? 80 : 400)) / std::log(hertz[f] < 400 ? 5.0 : 7.5);
          off.push_back(curve[f] - (hertz[f] < 400 ? -4 + 4 * share : 3 * share));
          mean += off.back() / 40;
        }
        for (const double o : off)
          squares += (o - mean) * (o - mean) / 40;
        best = std::min(best, std::sqrt(squares));
      }
  EXPECT_NEAR(fit->sets.front().distance, best, 0.1);
  for (const auto& set : fit->sets)
    for (const auto& change : set.changes) {
      const auto& hand = question.atHand[change.part];
      EXPECT_NE(std::find(hand.begin(), hand.end(), std::get<double>(change.to)), hand.end()) << change.part;
    }
  for (std::size_t i = 1; i < fit->sets.size(); ++i)
    EXPECT_GE(fit->sets[i].distance, fit->sets[i - 1].distance);
}

/// What else a set does is what the amplifier with it does.
TEST(TargetFit, TellsTheHeadroomOfEachSet) {
  const auto idle = sampleAtRest("slipway");
  const auto now = levels(idle, {200, 1000, 4000});
  FitQuestion question;
  question.target = {{200, now[0] - 4}, {1000, now[1]}, {4000, now[2] + 1}};
  question.parts = {"C4", "R5", "C5"}; // before what clips first; C5 does little here
  const auto fit = predictFit(idle, library(), question);
  ASSERT_TRUE(fit) << fit.error().line();
  ASSERT_FALSE(fit->sets.empty());
  const auto clips = [&](const Idle& one) {
    return predictClipping(one, library(), {1000, ClippingQuestion::Which::first})->first()->inputPeak;
  };
  ASSERT_TRUE(fit->clipsAt);
  EXPECT_NEAR(*fit->clipsAt / clips(idle), 1, 1e-6);
  // No two of them are one to the ear.
  for (std::size_t i = 0; i < fit->sets.size(); ++i)
    for (std::size_t j = 0; j < i; ++j) {
      double apart = 0;
      for (std::size_t f = 0; f < fit->hertz.size(); ++f)
        if (fit->hertz[f] >= 200 && fit->hertz[f] <= 4000)
          apart = std::max(apart, std::abs(fit->sets[i].decibels[f] - fit->sets[j].decibels[f]));
      EXPECT_GE(apart, 0.1) << i << " " << j;
    }
  bool moved = false;
  for (const auto& set : fit->sets) {
    ASSERT_TRUE(set.clipsAt);
    EXPECT_NEAR(*set.clipsAt / clips(changed(idle, set.changes)), 1, 0.005);
    moved = moved || std::abs(*set.clipsAt / *fit->clipsAt - 1) > 0.01;
  }
  EXPECT_TRUE(moved); // some of them change it
  // Given up there, it is no answer without headroom but none.
  const auto stopped = predictFit(idle, library(), question, [](double share) { return share < 0.98; });
  ASSERT_FALSE(stopped);
  EXPECT_TRUE(stopped.error().cancelled);
}

TEST(TargetFit, RefusesWhatCannotBeFitted) {
  const auto idle = sampleAtRest("slipway");
  FitQuestion good;
  good.target = {{100, 0}, {1000, -6}};
  good.parts = {"C4"};
  ASSERT_TRUE(predictFit(idle, library(), good));
  for (const auto& spoil : std::vector<std::function<void(FitQuestion&)>>{
           [](auto& q) { q.target.pop_back(); },
           [](auto& q) { std::swap(q.target[0], q.target[1]); },
           [](auto& q) { q.target[0].hertz = 0; },
           [](auto& q) { q.target[0].decibels = std::nan(""); },
           [](auto& q) { q.parts.clear(); },
           [](auto& q) {
             q.parts = {"C4", "C4"};
           },
           [](auto& q) { q.parts = {"V1a"}; },
           [](auto& q) { q.parts = {"nothing"}; },
           [](auto& q) { q.parts = {"C4", "C5", "C6", "R5", "R6", "R7", "R8"}; },
           [](auto& q) { q.atHand["C4"] = {-1}; },
           [](auto& q) { q.to = "nowhere"; },
       }) {
    auto bad = good;
    spoil(bad);
    const auto fit = predictFit(idle, library(), bad);
    ASSERT_FALSE(fit);
    EXPECT_FALSE(fit.error().line().empty());
    EXPECT_FALSE(fit.error().cancelled);
  }
  const auto stopped = predictFit(idle, library(), good, [](double) { return false; });
  ASSERT_FALSE(stopped);
  EXPECT_TRUE(stopped.error().cancelled);
}

// --- target files ---

TEST(TargetFile, JsonAndCsvAreReadAndMistakesArePlaced) {
  const auto json = files::parseTarget(
      R"({"format": "vinegar-target", "target": [[100, -3], ["1k", 0]], "parts": ["C4"], "series": "E24", "level": true,
          "atHand": {"C4": ["470p", 1e-9]}})",
      "t.json");
  ASSERT_TRUE(json) << json.error().line();
  EXPECT_EQ(json->target, (std::vector<TargetPoint>{{100, -3}, {1000, 0}}));
  EXPECT_EQ(json->series, units::Series::e24);
  EXPECT_TRUE(json->level);
  EXPECT_EQ(json->atHand.at("C4"), (std::vector<double>{470e-12, 1e-9}));
  for (const char* csv : {"Hz,dB\n100,-3\n1000,0\n", "100 -3\n1000 0", "* made up\n100\t-3\t12\n1000\t0\t8\n",
                          "\xef\xbb\xbf"
                          "100;-3\r\n1000;0\r\n"}) {
    const auto read = files::parseTarget(csv, "t.csv");
    ASSERT_TRUE(read) << csv << read.error().line();
    EXPECT_EQ(read->target, json->target) << csv;
  }
  for (const auto& [text, place] : {std::pair{R"({"format": "vinegar-design"})", "bad"},
                                    {R"({"format": "vinegar-target", "target": [[1]]})", "bad/target/0"},
                                    {R"({"format": "vinegar-target", "target": [], "series": "E7"})", "bad/series"},
                                    {"{", "bad"},
                                    {"", "bad"},
                                    {"words only", "bad"},
                                    {"100,1\n200,nonsense\n", "bad:2"}}) {
    const auto read = files::parseTarget(text, "bad");
    ASSERT_FALSE(read) << text;
    EXPECT_TRUE(read.error().place.starts_with(place)) << text << " at " << read.error().place;
  }
}

} // namespace
} // namespace vinegar::predict
