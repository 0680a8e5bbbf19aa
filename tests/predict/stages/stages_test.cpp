// Single stages against bisection and nodal equations of their own, clipping against waves worked out step by step.
#include "amp/change/change.h"
#include "files/design_file.h"
#include "predict/choices/swap.h"
#include "predict/levels/clip_order.h"
#include "predict/levels/levels.h"
#include "predict/stages/propose.h"
#include "predict/stages/stage_spread.h"
#include "predict/stages/stages.h"
#include "support/bench_design.h"
#include "support/paths.h"
#include "support/random_builder.h"
#include "support/samples.h"

#include <Eigen/LU>
#include <cmath>
#include <filesystem>
#include <gtest/gtest.h>
#include <numbers>
#include <set>

namespace vinegar::predict {
namespace {

using testing_support::always;
using testing_support::atRest;
using testing_support::benchDesign;
using testing_support::library;
using testing_support::never;
using testing_support::sample;
using testing_support::Settings;
using testing_support::use;

/// One section between a line source and a line that takes nothing, or what else its output needs.
Idle bench(const std::string& section, Settings settings, double volts = 300, double load = never) {
  const auto& type = library().sections.at(section);
  if (type.part("Rs")) settings["Rs"] = {{"fitted", false}};
  if (type.part("Cc")) settings["Cc"] = {{"value", 1e-4}};
  std::vector<amp::SectionUse> line{use("stage", section, settings)};
  if (type.out == amp::Carries::single) {
    line.push_back(use("end", "line-load", {{"R", {{"value", load}}}, {"C", {{"fitted", false}}}}));
  } else {
    line.push_back(use("end", "push-pull-pentode"));
    line.push_back(use("speaker", "speaker-load"));
  }
  return atRest(benchDesign(std::move(line), volts));
}

const tubes::TriodeModel& triode(const char* type) {
  return std::get<tubes::TriodeModel>(library().tubes.find(type)->model);
}

double bisect(const std::function<double(double)>& f, double low, double high) {
  const bool rises = f(high) > f(low);
  for (int i = 0; i < 200; ++i) {
    const double middle = (low + high) / 2;
    ((f(middle) > 0) == rises ? high : low) = middle;
  }
  return (low + high) / 2;
}

struct Here {
  double gm, rp, mu;
};
Here slopesAt(const tubes::TriodeModel& model, double plate, double grid) {
  const double h = 1e-4;
  const auto amps = [&](double p, double g) { return tubes::triodeCurrent(model, p, g).plate; };
  const double gm = (amps(plate, grid + h) - amps(plate, grid - h)) / (2 * h);
  const double gp = (amps(plate + h, grid) - amps(plate - h, grid)) / (2 * h);
  return {gm, 1 / gp, gm / gp};
}

double parallel(double a, double b) { return 1 / (1 / a + 1 / b); }

struct ResistanceCoupled {
  const char* type;
  double volts, plateLoad, cathode;
  bool bypassed;
  double load;
};

TEST(Stages, CommonCathodeStagesAgreeWithBisectionAndTheGainFormula) {
  for (const auto& s : {ResistanceCoupled{"12AX7", 300, 100e3, 1500, true, 1e6},
                        {"12AX7", 250, 220e3, 2700, false, 470e3},
                        {"12AT7", 300, 47e3, 1000, true, 220e3},
                        {"12AU7", 200, 47e3, 2200, true, 100e3},
                        {"6SN7GT", 300, 47e3, 1500, false, 1e6},
                        {"12AY7", 60, 100e3, 3300, true, 1e6}}) {
    SCOPED_TRACE(s.type);
    const auto idle = bench("triode-common-cathode",
                            {{"V", {{"tube", std::string(s.type)}}},
                             {"Ra", {{"value", s.plateLoad}}},
                             {"Rk", {{"value", s.cathode}}},
                             {"Ck", {{"value", always}, {"fitted", s.bypassed}}}},
                            s.volts, s.load);
    const auto& model = triode(s.type);
    const double amps = bisect(
        [&](double i) {
          return i - tubes::triodeCurrent(model, s.volts - i * (s.plateLoad + s.cathode), -i * s.cathode).plate;
        },
        0, s.volts / s.plateLoad);
    const double plate = s.volts - amps * (s.plateLoad + s.cathode);
    const auto here = slopesAt(model, plate, -amps * s.cathode);
    const double load = parallel(s.plateLoad, s.load), foot = s.bypassed ? 0 : s.cathode;
    const auto stages = predictStages(idle, library());
    ASSERT_TRUE(stages);
    const auto& stage = stages->tubes.front();
    EXPECT_EQ(stage.kind, StageKind::commonCathode);
    EXPECT_NEAR(stage.tube.plateAmps, amps, 0.005 * amps);
    EXPECT_NEAR(stage.tube.plateVolts, plate, 0.01 * plate);
    EXPECT_NEAR(*stage.gain, here.mu * load / (load + here.rp + (here.mu + 1) * foot), 0.02 * *stage.gain);
    EXPECT_NEAR(*stage.gainBypassed, here.mu * load / (load + here.rp), 0.02 * *stage.gainBypassed);
    EXPECT_NEAR(*stage.gainUnbypassed, here.mu * load / (load + here.rp + (here.mu + 1) * s.cathode),
                0.02 * *stage.gainUnbypassed);
    EXPECT_NEAR(*stage.outputOhms, parallel(s.plateLoad, here.rp + (here.mu + 1) * foot), 0.02 * *stage.outputOhms);
    // Miller: the capacitance to the plate counts once and the gain's times more.
    const auto& c = library().tubes.find(s.type)->capacitance;
    const double held = s.bypassed ? 1 : 1 - (*stage.gainBypassed - *stage.gain) / *stage.gainBypassed;
    EXPECT_NEAR(*stage.inputFarads, c.gridPlate * (1 + *stage.gain) + c.gridCathode * held, 0.05 * *stage.inputFarads);
  }
}

TEST(Stages, AFollowerAndACathodyneAgreeWithTheirFormulas) {
  const auto& model = triode("12AX7");
  const auto follower = bench("cathode-follower", {}, 300);
  const double amps =
      bisect([&](double i) { return i - tubes::triodeCurrent(model, 300 - i * 100e3, -i * 100e3).plate; }, 0, 3e-3);
  auto here = slopesAt(model, 300 - amps * 100e3, -amps * 100e3);
  auto stage = predictStages(follower, library())->tubes.front();
  EXPECT_EQ(stage.kind, StageKind::follower);
  EXPECT_NEAR(stage.tube.plateAmps, amps, 0.01 * amps);
  EXPECT_NEAR(*stage.gain, here.mu * 100e3 / (here.rp + (here.mu + 1) * 100e3), 0.002);
  EXPECT_NEAR(*stage.outputOhms, parallel(100e3, here.rp / (here.mu + 1)), 0.02 * *stage.outputOhms);

  const auto split = bench("cathodyne", {}, 300);
  const auto stages = predictStages(split, library());
  const auto& splitter = stages->tubes.front();
  EXPECT_EQ(splitter.kind, StageKind::cathodyne);
  EXPECT_GT(*splitter.gain, 0.8);
  EXPECT_LT(*splitter.gain, 1);
}

TEST(Stages, StackedTubesShareTheirCurrentAndAgreeWithNestedBisection) {
  const auto& model = triode("12AX7");
  const auto totem = bench("totem-stage", {{"Ck", {{"value", always}}}});
  const auto lowerPlate = [&](double i) { // to ground
    return bisect([&](double v) { return tubes::triodeCurrent(model, v - i * 1500, -i * 1500).plate - i; }, 0, 300);
  };
  const double amps =
      bisect([&](double i) { return tubes::triodeCurrent(model, 300 - lowerPlate(i) - i * 1500, -i * 1500).plate - i; },
             1e-5, 2e-3);
  const auto stages = predictStages(totem, library());
  const auto &lower = stages->tubes[0], &upper = stages->tubes[1];
  EXPECT_EQ(lower.shares, upper.tube.name);
  EXPECT_EQ(upper.shares, lower.tube.name);
  EXPECT_NEAR(lower.tube.plateAmps, amps, 0.01 * amps);
  EXPECT_NEAR(lower.tube.plateVolts + lower.tube.cathodeVoltsToGround, lowerPlate(amps), 0.01 * lowerPlate(amps));

  const auto& sharp = triode("6DJ8");
  const auto cascode = bench("cascode", {{"Ck", {{"value", always}}}, {"Cg", {{"value", 1e-3}}}});
  const double held = 300 * 220.0 / 690;
  const auto middle = [&](double i) {
    return bisect([&](double m) { return tubes::triodeCurrent(sharp, 300 - i * 47e3 - m, held - m).plate - i; }, 0,
                  300);
  };
  const double through = bisect(
      [&](double i) { return tubes::triodeCurrent(sharp, middle(i) - i * 1000, -i * 1000).plate - i; }, 1e-5, 6e-3);
  const auto pair = predictStages(cascode, library());
  EXPECT_NEAR(pair->tubes[0].tube.plateAmps, through, 0.01 * through);
  EXPECT_EQ(pair->tubes[0].shares, pair->tubes[1].tube.name);
  EXPECT_EQ(pair->tubes[1].kind, StageKind::groundedGrid);
  const auto low = slopesAt(sharp, middle(through) - through * 1000, -through * 1000);
  const auto high = slopesAt(sharp, 300 - through * 47e3 - middle(through), held - middle(through));
  const double whole = low.mu * (high.mu + 1) * 47e3 / (47e3 + high.rp + (high.mu + 1) * low.rp);
  EXPECT_NEAR(*pair->tubes[0].gain * *pair->tubes[1].gain, whole, 0.02 * whole);
}

TEST(Stages, ALongTailedPairAgreesWithItsNodalEquations) {
  const auto idle =
      atRest(benchDesign({use("first", "triode-common-cathode"),
                          use("stage", "long-tailed-pair",
                              {{"Cg2", {{"value", 1e-3}}}, {"C1", {{"value", 1e-4}}}, {"C2", {{"value", 1e-4}}}}),
                          use("end", "push-pull-pentode"), use("speaker", "speaker-load")}));
  const auto stages = predictStages(idle, library());
  ASSERT_TRUE(stages);
  const auto &a = stages->tubes[1], &b = stages->tubes[2];
  EXPECT_EQ(b.kind, StageKind::groundedGrid);
  const auto& model = triode("12AX7");
  const auto first = slopesAt(model, a.tube.plateVolts, a.tube.gridVolts);
  const auto second = slopesAt(model, b.tube.plateVolts, b.tube.gridVolts);
  // Unknowns: cathode, both currents; one volt at the first grid, the second held. Grid leaks of the power stage load.
  const double leak = 220e3, ra1 = parallel(82e3, leak), ra2 = parallel(100e3, leak), tail = 10470;
  Eigen::Matrix3d m;
  Eigen::Vector3d right(first.mu, 0, 0);
  m << first.mu + 1, first.rp + ra1, 0, second.mu + 1, 0, second.rp + ra2, -1 / tail, 1, 1;
  const Eigen::Vector3d x = m.partialPivLu().solve(right);
  EXPECT_NEAR(*a.gain, x[1] * ra1, 0.02 * *a.gain);
  EXPECT_NEAR(*b.gain, std::abs(x[2] * ra2 / x[0]), 0.02 * *b.gain);
}

TEST(Stages, APentodeStageAgreesWithGmTimesItsLoad) {
  const auto idle = bench("pentode-stage", {{"Ck", {{"value", always}}}, {"Csc", {{"value", always}}}});
  const auto stages = predictStages(idle, library());
  const auto& stage = stages->tubes.front();
  const auto& model = std::get<tubes::PentodeModel>(library().tubes.find("EF86")->model);
  // Its volts by bisection in turn, until none moves any more.
  double k = 1, plate = 100, screen = 100;
  for (int i = 0; i < 120; ++i) {
    screen = bisect([&](double v) { return (300 - v - k) / 1e6 - tubes::pentodeCurrent(model, plate, -k, v).screen; },
                    0, 300);
    plate = bisect([&](double v) { return (300 - v - k) / 220e3 - tubes::pentodeCurrent(model, v, -k, screen).plate; },
                   0, 300);
    const auto now = tubes::pentodeCurrent(model, plate, -k, screen);
    k += 0.3 * ((now.plate + now.screen) * 2200 - k);
  }
  EXPECT_NEAR(stage.tube.cathodeVoltsToGround, k, 0.02 * k);
  const auto now = tubes::pentodeCurrent(model, stage.tube.plateVolts, stage.tube.gridVolts, *stage.tube.screenVolts);
  EXPECT_NEAR(*stage.gain, now.plateByGrid * parallel(220e3, 1 / now.plateByPlate), 0.02 * *stage.gain);
}

/// What drives the grid, and the corner it makes with the grid's own capacitance, against a sweep of the grid itself.
TEST(Stages, TheMillerCornerIsWhereTheGridsOwnResponseIsThreeDecibelsDown) {
  const auto idle = atRest(benchDesign({use("stage", "triode-common-cathode", {{"Rs", {{"value", 220e3}}}}),
                                        use("end", "line-load", {{"C", {{"fitted", false}}}})}));
  const auto stage = predictStages(idle, library())->tubes.front();
  EXPECT_NEAR(*stage.sourceOhms, 221e3, 2e3); // the stopper and the line's own
  const auto sweep = predictResponse(idle, library(), {"jack", "stage.g", circuit::logSpaced(100, 100e3, 400)});
  ASSERT_TRUE(sweep) << sweep.error().line();
  double corner = 0;
  for (std::size_t k = 0; k < sweep->hertz.size(); ++k)
    if (sweep->decibels[k] > sweep->decibels.front() - 3.01) corner = sweep->hertz[k];
  EXPECT_NEAR(*stage.millerHertz / corner, 1, 0.05);
}

/// Where the limit is told, the plate has swung as far as it is told to in a wave of that input.
TEST(Stages, ThePlatesSwingToEitherLimitIsThatOfTheWave) {
  const auto idle = atRest(benchDesign({use("stage", "triode-common-cathode"), use("end", "line-load")}));
  const auto stage = predictStages(idle, library())->tubes.front();
  ASSERT_TRUE(stage.up && stage.down);
  EXPECT_LT(stage.up->plateVolts, 0);
  EXPECT_GT(stage.down->plateVolts, 0);
  for (const auto* limit : {&*stage.up, &*stage.down}) {
    const auto path = predictStagePath(idle, library(), {stage.tube.name, 1000, limit->inputPeak});
    const auto [low, high] = std::minmax_element(path->volts.begin(), path->volts.end());
    const double swing = (limit->plateVolts < 0 ? *low : *high) - stage.tube.plateVolts;
    EXPECT_NEAR(swing / limit->plateVolts, 1, 0.1); // the wave shifts the bias, the stage alone does not
  }
  // Of a pair each tube is told by its own grid: upward takes its own plate down.
  const auto pair = predictStages(testing_support::sampleAtRest("slipway"), library(), {1000, "V3"});
  ASSERT_EQ(pair->tubes.size(), 2U);
  for (const auto& half : pair->tubes) {
    EXPECT_LT(half.up->plateVolts, 0) << half.tube.name;
    EXPECT_GT(half.down->plateVolts, 0) << half.tube.name;
  }
}

TEST(Swaps, TheCouplingCornerIsThatOfItsCapacitorAndWhatItFeeds) {
  const auto idle =
      atRest(benchDesign({use("stage", "triode-common-cathode", {{"Cc", {{"value", 22e-9}}}}),
                          use("end", "line-load", {{"R", {{"value", 100e3}}}, {"C", {{"fitted", false}}}})}));
  const auto swaps = predictSwaps(idle, library(), {idle.point.tubes.front().name});
  // From the plate itself: its own source resistance is before it.
  EXPECT_NEAR(*swaps->rows.front().plugged.couplingHertz, 1 / (2 * std::numbers::pi * 22e-9 * 100e3), 2);
}

TEST(Swaps, SayWhereATypesBottleHasNoOtherSuchUnit) {
  const auto swaps = predictSwaps(testing_support::sampleAtRest("slipway"), library(), {"V1a"});
  const auto against = [&](const char* type) {
    std::string all;
    for (const auto& row : swaps->rows)
      if (row.type == type)
        for (const auto& word : row.plugged.against)
          all += word + ";";
    return all;
  };
  EXPECT_NE(against("6C4").find("V1b needs another"), std::string::npos);
  EXPECT_EQ(against("12AT7").find("V1b"), std::string::npos);
}

TEST(Swaps, AgreeWithCompilingTheSwappedDesignAnew) {
  VINEGAR_LONG_TEST(numbers);
  for (const auto& [name, tube] : {std::pair{"slipway", "V1a"},
                                   {"slipway", "V3"},
                                   {"net-loft", "V2"},
                                   {"chandlery", "V2a"},
                                   {"chandlery", "V5"}}) {
    SCOPED_TRACE(std::string(name) + " " + tube);
    const auto design = sample(name).ink;
    const auto idle = predictIdle(design, library());
    const auto swaps = predictSwaps(*idle, library(), {tube});
    ASSERT_TRUE(swaps);
    ASSERT_GT(swaps->rows.size(), 5U);
    EXPECT_TRUE(swaps->rows.front().changes.empty());
    for (const auto& row : swaps->rows) {
      SCOPED_TRACE(row.type);
      if (row.problem) continue;
      auto changed = amp::withChanges(design, library(), row.changes);
      const auto anew = predictIdle(changed, library());
      ASSERT_TRUE(anew);
      const auto read = predictStage(*anew, library(), tube);
      ASSERT_TRUE(read);
      EXPECT_NEAR(row.plugged.stage.tube.plateAmps, read->tube.plateAmps, 1e-3 * read->tube.plateAmps + 1e-9);
      if (read->gain) {
        EXPECT_NEAR(*row.plugged.stage.gain, *read->gain, 1e-3 * *read->gain);
      }
      if (!row.rebiased) continue;
      // What brings a tube back is its own, or for output tubes their bias supply's.
      for (const auto& change : row.rebias) {
        const auto& part = idle->circuit->part(change.part)->resolved;
        EXPECT_TRUE(
            part.section == idle->circuit->part(tube)->resolved.section ||
            (part.part->role == "bias-range" && outputTransformerOf(*idle->circuit, *idle->circuit->part(tube))))
            << change.part;
      }
      const auto cured = predictIdle(amp::withChanges(changed, library(), row.rebias), library());
      ASSERT_TRUE(cured);
      EXPECT_NEAR(predictStage(*cured, library(), tube)->tube.plateAmps, row.rebiased->stage.tube.plateAmps,
                  1e-3 * row.rebiased->stage.tube.plateAmps);
    }
  }
}

TEST(Swaps, NameTheSocketsWiring) {
  const auto rewiring = [](const char* from, const char* to) {
    return rewiringFor(*library().tubes.find(from), *library().tubes.find(to));
  };
  EXPECT_EQ(rewiring("12AX7", "12AT7"), "");
  EXPECT_EQ(rewiring("6V6GT", "6L6GC"), "");
  EXPECT_NE(rewiring("6V6GT", "EL34").find("1"), std::string::npos);
  EXPECT_NE(rewiring("6V6GT", "EL84").find("noval"), std::string::npos);
  EXPECT_NE(rewiring("12AX7", "6DJ8").find("9"), std::string::npos); // a shield where the heater's middle was
}

TEST(Swaps, TellWhereTheHeaterWindingHasTooLittle) {
  auto design = sample("slipway").ink;
  const auto parts = amp::resolveParts(design, library());
  const auto transformer = std::find_if(
      parts.begin(), parts.end(), [](const auto& part) { return part.part->kind == amp::PartKind::powerTransformer; });
  ASSERT_NE(transformer, parts.end());
  design = amp::withChanges(design, library(),
                            {{transformer->name, "heaterAmps", transformer->settings.at("heaterAmps"), 1.9}});
  const auto idle = predictIdle(design, library());
  const auto swaps = predictSwaps(*idle, library(), {"V3"});
  ASSERT_TRUE(swaps);
  const auto row = [&](const char* type) {
    return *std::find_if(swaps->rows.begin(), swaps->rows.end(), [&](const auto& r) { return r.type == type; });
  };
  EXPECT_TRUE(row("6V6GT").plugged.against.empty() ||
              row("6V6GT").plugged.against.front().find("heater") == std::string::npos);
  const auto& big = row("KT88").plugged.against;
  EXPECT_TRUE(std::any_of(big.begin(), big.end(), [](const auto& word) {
    return word.find("heater winding") != std::string::npos;
  })) << (big.empty() ? "" : big.front());
}

TEST(Proposals, ReachWhatWasAskedWithinAStockStep) {
  using Wanted = ProposeQuestion::Wanted;
  struct Asked {
    const char *name, *tube;
    Wanted wanted;
    double value, within;
  };
  for (const auto& a : {Asked{"slipway", "V1a", Wanted::plateVolts, 180, 0.06},
                        {"slipway", "V1b", Wanted::plateAmps, 0.6e-3, 0.1},
                        {"slipway", "V1a", Wanted::gain, 30, 0.1},
                        {"net-loft", "V2", Wanted::plateAmps, 35e-3, 0.1}}) {
    SCOPED_TRACE(a.tube);
    const auto design = sample(a.name).ink;
    const auto idle = predictIdle(design, library());
    const auto proposals = predictProposals(*idle, library(), {a.tube, a.wanted, a.value});
    ASSERT_TRUE(proposals) << proposals.error().line();
    ASSERT_FALSE(proposals->sets.empty());
    EXPECT_LE(proposals->sets.size(), 5U);
    EXPECT_NEAR(proposals->sets.front().reached / a.value, 1, a.within);
    for (const auto& set : proposals->sets) {
      const auto anew = predictIdle(amp::withChanges(design, library(), set.changes), library());
      ASSERT_TRUE(anew);
      const auto read = predictStage(*anew, library(), a.tube);
      EXPECT_NEAR(read->tube.plateAmps, set.stage.tube.plateAmps, 1e-3 * read->tube.plateAmps);
      for (const auto& change : set.changes) // stock values
        EXPECT_NEAR(std::get<double>(change.to), units::nearest(units::Series::e24, std::get<double>(change.to)), 1e-3);
    }
  }
  const auto idle = predictIdle(sample("slipway").ink, library());
  EXPECT_FALSE(predictProposals(*idle, library(), {"R3", Wanted::plateVolts, 100}));
}

/// Both halves of a splitter and both tubes of a pair move together, the bias control is one of the ways, and what is
/// no way is not offered.
TEST(Proposals, KeepHalvesAlikeAndOfferOnlyWhatReaches) {
  using Wanted = ProposeQuestion::Wanted;
  const auto skeleton = [](const std::string& name) {
    return files::readDesign(testing_support::folder("data") + "/skeletons/" + name + ".vinegar", library())
        ->document.ink;
  };
  for (const auto& [name, tube] : {std::pair{"3-push-pull-cathode-bias", "V2a"},
                                   {"4-push-pull-fixed-bias", "V2a"},
                                   {"4-push-pull-fixed-bias", "V3"}}) {
    SCOPED_TRACE(std::string(name) + " " + tube);
    const auto idle = predictIdle(skeleton(name), library());
    ASSERT_TRUE(idle);
    const auto reading = std::find_if(idle->point.tubes.begin(), idle->point.tubes.end(),
                                      [&, t = std::string(tube)](const auto& one) { return one.name == t; });
    const double wanted = 0.8 * reading->plateAmps;
    const auto proposals = predictProposals(*idle, library(), {tube, Wanted::plateAmps, wanted});
    ASSERT_TRUE(proposals);
    ASSERT_FALSE(proposals->sets.empty());
    bool turned = false;
    for (const auto& set : proposals->sets) {
      EXPECT_NEAR(set.reached / wanted, 1, 0.0501);
      EXPECT_TRUE(hasRoom(set.stage));
      turned = turned || set.knobs.contains("Bias");
      auto design = amp::withChanges(*idle->circuit->design, library(), set.changes);
      for (const auto& [knob, stands] : set.knobs)
        design.knobs[knob] = stands;
      const auto anew = predictIdle(design, library());
      ASSERT_TRUE(anew);
      // The splitter's two outputs are as far apart as they were.
      const auto apart = [](const Idle& of) {
        const SmallSignal signal(of, 1000);
        const auto* in = of.circuit->design->section("long-tailed-pair") ? "long-tailed-pair" : "cathodyne";
        const auto a = of.circuit->probe(std::string(in) + ".out"),
                   b = of.circuit->localNodes.at(std::string(in) + "/outB");
        return units::decibels(std::abs(signal.volts(a) / signal.volts(b)));
      };
      EXPECT_NEAR(apart(*anew), apart(*idle), 1);
    }
    EXPECT_EQ(turned, std::string(tube) == "V3");
  }
  // A gain that no stock value reaches is offered by none.
  const auto idle = predictIdle(sample("slipway").ink, library());
  const auto out = predictProposals(*idle, library(), {"V2a", Wanted::gain, 300});
  ASSERT_TRUE(out);
  EXPECT_TRUE(out->sets.empty());
}

/// Both tubes of a pair are another type, and all that they ask of the supply is told in the state that is offered.
TEST(Swaps, OfAPairAreOfBothAndJudgedInTheStateThatIsOffered) {
  const auto design = sample("slipway").ink;
  const auto idle = predictIdle(design, library());
  const auto swaps = predictSwaps(*idle, library(), {"V3"});
  ASSERT_TRUE(swaps);
  int checked = 0;
  for (const auto& row : swaps->rows) {
    if (row.problem || row.changes.empty()) continue;
    std::set<std::string> changed;
    for (const auto& change : row.changes)
      changed.insert(change.part);
    EXPECT_EQ(changed, (std::set<std::string>{"V3", "V4"})) << row.type;
    EXPECT_EQ(row.bottles, 2);
    if (row.type != "KT88" && row.type != "5881" && row.type != "6F6GT") continue;
    ++checked;
    auto all = row.changes;
    all.insert(all.end(), row.rebias.begin(), row.rebias.end());
    const auto anew = predictIdle(amp::withChanges(design, library(), all), library());
    ASSERT_TRUE(anew);
    const auto report = readSupply(*anew->circuit, library(), anew->point);
    const auto says = [&](const std::string& words) {
      return std::any_of(row.offered().against.begin(), row.offered().against.end(), [&](const auto& one) {
        return !one.starts_with("biased") && one.find(words) != std::string::npos;
      });
    };
    for (const auto& winding : report.windings)
      EXPECT_EQ(says(winding.name + " winding"), winding.share() > 1.02) << row.type << " " << winding.name;
    for (const auto& rectifier : report.rectifiers)
      EXPECT_EQ(says("DC "), rectifier.totalAmps > 0.125) << row.type;
    if (row.rebiased) {
      EXPECT_TRUE(hasRoom(row.rebiased->stage)) << row.type;
      EXPECT_LE(row.rebiased->against.size(), row.plugged.against.size()) << row.type; // else it is no offer
    }
  }
  EXPECT_EQ(checked, 3);
  const auto big =
      std::find_if(swaps->rows.begin(), swaps->rows.end(), [](const auto& row) { return row.type == "KT88"; });
  EXPECT_FALSE(big->plugged.against.empty()); // two of them are more than the heater winding has
  EXPECT_TRUE(big->rebias.empty());           // and at their own bias more than the rectifier gives
}

/// What ends the swing of one tube of a pair may be the other's: it is at the same input as the other's own, and is
/// told so.
TEST(Stages, WhatThePartnerDoesIsNotTheTubesOwn) {
  const auto stages = predictStages(testing_support::sampleAtRest("slipway"), library());
  ASSERT_TRUE(stages);
  const auto &first = *stages->tube("V3"), &second = *stages->tube("V4");
  ASSERT_TRUE(first.up && second.down);
  EXPECT_FALSE(first.up->isPartners());
  EXPECT_EQ(words(*first.up), "grid current");
  EXPECT_TRUE(second.down->isPartners());
  EXPECT_EQ(words(*second.down), "partner's grid current");
  EXPECT_NEAR(second.down->inputPeak / first.up->inputPeak, 1, 0.03); // each between two steps of its own drive
  for (const auto& stage : stages->tubes)
    if (stage.kind != StageKind::powerPair) {
      for (const auto& side : {stage.up, stage.down})
        EXPECT_FALSE(side && side->isPartners()) << stage.tube.name;
    }
}

/// No tube gives more than its mu; a second channel that nothing is plugged into gets no signal, nor does an
/// oscillator.
TEST(Stages, HaveNoGainWhereNoSignalIsTheirs) {
  for (const char* file : {"samples/chandlery", "skeletons/5-two-channels", "skeletons/6-self-split"}) {
    const auto loaded = files::readDesign(testing_support::folder("data") + "/" + file + ".vinegar", library());
    auto design = loaded->document.ink;
    const auto idle = predictIdle(design, library());
    ASSERT_TRUE(idle);
    const auto stages = predictStages(*idle, library());
    ASSERT_TRUE(stages);
    for (const auto& stage : stages->tubes)
      if (stage.gain) {
        EXPECT_LT(*stage.gain, 1.2 * stage.tube.mu) << file << " " << stage.tube.name;
      }
    if (file == std::string("samples/chandlery")) {
      EXPECT_FALSE(stages->tube("V9a")->gain);
    }
    if (file == std::string("skeletons/5-two-channels")) {
      EXPECT_FALSE(stages->tube("V2a")->gain); // plugged into the other one
    }
    if (file == std::string("skeletons/6-self-split")) {
      // The second tube is driven between its cathode and its grid, about as much as the first: both give about the
      // same.
      const SmallSignal signal(*idle, 1000);
      const auto& nodes = idle->circuit->part("V3")->nodes;
      EXPECT_NEAR(*stages->tube("V3")->gain,
                  std::abs(signal.volts(nodes[0]) / (signal.volts(nodes[3]) - signal.volts(nodes[2]))), 1e-6);
    }
  }
}

TEST(Curves, MeetInTheOperatingPoint) {
  for (const char* name : {"slipway", "net-loft", "harbour-office", "chandlery"}) {
    const auto idle = predictIdle(sample(name).ink, library());
    for (const auto& tube : idle->point.tubes) {
      SCOPED_TRACE(std::string(name) + " " + tube.name);
      const auto curves = predictStageCurves(*idle, library(), {tube.name});
      ASSERT_TRUE(curves);
      EXPECT_GT(curves->plates.size(), 3U);
      const auto at = [](const StageLine& line, double volts) {
        for (std::size_t i = 0; i + 1 < line.volts.size(); ++i) {
          const double a = line.volts[i], b = line.volts[i + 1];
          if ((a - volts) * (b - volts) <= 0 && a != b)
            return line.amps[i] + (volts - a) / (b - a) * (line.amps[i + 1] - line.amps[i]);
        }
        return std::nan("");
      };
      if (tube.plateAmps > 1e-6 && curves->dcLine.volts.size() > 3) {
        EXPECT_NEAR(at(curves->dcLine, tube.plateVolts), tube.plateAmps, 0.03 * tube.plateAmps);
      }
      if (!curves->acLine.empty()) {
        EXPECT_NEAR(at(curves->acLine, tube.plateVolts), tube.plateAmps, 0.01 * tube.plateAmps);
      }
      EXPECT_GT(curves->mostVolts, tube.plateVolts);
      EXPECT_GT(curves->mostAmps, tube.plateAmps);
      // Axes that are held stay while they serve, and no longer.
      for (const auto& [held, stays] : {std::pair(1.3, true), {0.7, false}, {4.0, false}}) {
        const double volts = held * curves->mostVolts, amps = held * curves->mostAmps;
        const auto again = predictStageCurves(*idle, library(), {tube.name, 1000, false, volts, amps});
        ASSERT_TRUE(again);
        EXPECT_EQ(again->mostVolts == volts, stays) << tube.name << ' ' << held;
        EXPECT_GT(again->mostVolts, tube.plateVolts);
        EXPECT_GT(again->mostAmps, tube.plateAmps);
      }
    }
  }
}

TEST(Curves, ASignalsPathIsTheLoadLineWhereItIsSmall) {
  const auto idle = predictIdle(sample("slipway").ink, library());
  const auto path = predictStagePath(*idle, library(), {"V1a", 1000, 0.02});
  const auto curves = predictStageCurves(*idle, library(), {"V1a"});
  ASSERT_TRUE(path && curves);
  const auto [low, high] = std::minmax_element(path->volts.begin(), path->volts.end());
  const auto ampsOf = [&](auto at) { return path->amps[static_cast<std::size_t>(at - path->volts.begin())]; };
  const double slope = (ampsOf(high) - ampsOf(low)) / (*high - *low);
  const auto& line = curves->acLine;
  EXPECT_NEAR(slope, (line.amps[1] - line.amps[0]) / (line.volts[1] - line.volts[0]), 0.05 * std::abs(slope));
}

TEST(Spread, OfOneResistorAloneIsWhatThatResistorDoes) {
  const auto idle = bench("triode-common-cathode", {{"Ck", {{"value", always}}}});
  const auto exact = predictSpread(idle, library(), {"V1a", {0, 0, 0, 0, 0, 0}, 1000, 20});
  ASSERT_TRUE(exact) << exact.error().line();
  EXPECT_NEAR(exact->plateVolts.low, exact->plateVolts.high, 1e-6);
  const auto wide = predictSpread(idle, library(), {"V1a", {0.05, 0.2, 0.2, 0.2, 0.05, 0.2}, 1000, 500});
  ASSERT_TRUE(wide);
  EXPECT_EQ(wide->failures, 0);
  ASSERT_EQ(wide->builtVolts.size(), 500U);
  ASSERT_EQ(wide->builtAmps.size(), 500U);
  const auto below = std::count_if(wide->builtAmps.begin(), wide->builtAmps.end(),
                                   [&](double amps) { return amps < wide->plateAmps.low; });
  EXPECT_NEAR(static_cast<double>(below), 25, 1); // one in twenty
  const auto over = [&] {
    int count = 0;
    for (std::size_t b = 0; b < wide->builtVolts.size(); ++b)
      count += wide->builtVolts[b] * wide->builtAmps[b] > *wide->wattsLimit;
    return count / 500.0;
  };
  EXPECT_EQ(over(), *wide->overShare);
  EXPECT_LT(wide->plateAmps.low, exact->plateAmps.middle);
  EXPECT_GT(wide->plateAmps.high, exact->plateAmps.middle);
  // Nine of ten of an even +-20 % in emission alone: the cathode's resistor holds the current to less than that.
  const auto tubes = predictSpread(idle, library(), {"V1a", {0, 0, 0.2}, 1000, 500});
  EXPECT_LT(tubes->plateAmps.high / tubes->plateAmps.middle, 1.18);
  EXPECT_GT(tubes->plateAmps.high / tubes->plateAmps.middle, 1.02);
}

TEST(Pairs, AlikeTubesMakeNoSecondHarmonicWorthTheName) {
  const auto idle = predictIdle(sample("slipway").ink, library());
  const auto pair = predictPair(*idle, library(), {"V3", 40e-3, 30e-3});
  ASSERT_TRUE(pair) << pair.error().line();
  EXPECT_EQ(pair->second, "V4");
  EXPECT_NEAR(pair->asRead.firstAmps, 40e-3, 0.1e-3);
  EXPECT_NEAR(pair->asRead.secondAmps, 30e-3, 0.1e-3);
  EXPECT_NEAR(pair->matched.firstAmps, pair->matched.secondAmps, 1e-5);
  EXPECT_NE(pair->asRead.secondHarmonic, pair->matched.secondHarmonic);
  EXPECT_GT(pair->asRead.firstWatts, pair->matched.firstWatts);
  EXPECT_LT(pair->asRead.secondWatts, pair->matched.secondWatts);
  EXPECT_FALSE(predictPair(*idle, library(), {"V1a", 1e-3, 1e-3}));
}

/// Whatever is built: an answer or a problem in words, and no number that is none.
TEST(Stages, AnswerOrSayWhyWhateverIsBuilt) {
  VINEGAR_LONG_TEST(numbers);
  std::vector<amp::Design> designs;
  for (const char* name : {"slipway", "net-loft", "harbour-office", "chandlery"})
    designs.push_back(sample(name).ink);
  for (const auto& entry :
       std::filesystem::directory_iterator(testing_support::samplePath("x").parent_path().parent_path() / "skeletons"))
    designs.push_back(files::readDesign(entry.path(), library())->document.ink);
  for (int i = 0; i < testing_support::trials(300); ++i) {
    testing_support::RandomBuilder builder(static_cast<unsigned>(i) + 7000);
    auto document = sample(i % 2 ? "slipway" : "net-loft");
    for (int step = 0; step < 8; ++step)
      if (const auto next = builder.act(document)) amp::pencil(document, library(), *next);
    designs.push_back(amp::pencilled(document, library()));
  }
  for (std::size_t d = 0; d < designs.size(); ++d) {
    SCOPED_TRACE("design " + std::to_string(d) + " " + designs[d].name);
    const auto idle = predictIdle(designs[d], library());
    if (!idle) continue;
    const auto stages = predictStages(*idle, library());
    ASSERT_TRUE(stages) << stages.error().line();
    EXPECT_EQ(stages->tubes.size(), idle->point.tubes.size());
    for (const auto& stage : stages->tubes) {
      SCOPED_TRACE(stage.tube.name);
      for (const auto& number :
           {stage.gain, stage.gainBypassed, stage.gainUnbypassed, stage.outputOhms, stage.sourceOhms})
        if (number) {
          EXPECT_TRUE(std::isfinite(*number) && *number >= 0);
        }
      for (const auto* limit : {&stage.up, &stage.down})
        if (*limit) {
          EXPECT_TRUE(std::isfinite((*limit)->plateVolts) && (*limit)->inputPeak > 0);
        }
      const auto curves = predictStageCurves(*idle, library(), {stage.tube.name});
      ASSERT_TRUE(curves);
      for (const auto& curve : curves->plates)
        for (const double amps : curve.line.amps)
          ASSERT_TRUE(std::isfinite(amps));
      for (const double volts : curves->dcLine.volts)
        ASSERT_TRUE(std::isfinite(volts));
    }
    const auto levels = predictLevels(*idle, library(), {1000, 0.1, false});
    if (!levels) {
      EXPECT_FALSE(levels.error().message.empty());
      continue;
    }
    for (const auto& level : levels->sections)
      EXPECT_TRUE(std::isfinite(level.rms)) << level.title;
    if (d % 10 == 0) {
      const auto clipping = predictClipping(*idle, library(), {1000, ClippingQuestion::Which::first});
      if (!clipping) {
        EXPECT_FALSE(clipping.error().message.empty());
      }
    }
  }
}

} // namespace
} // namespace vinegar::predict
