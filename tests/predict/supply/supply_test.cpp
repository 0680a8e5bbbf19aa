// The supply against a stepper of the tests' own, published rectifier figures, and the arithmetic of the handbooks.
#include "amp/drawing/drawing.h"
#include "predict/supply/supply_budget.h"
#include "predict/supply/supply_events.h"
#include "support/samples.h"
#include "support/supply_designs.h"

#include "circuit/transient.h"

#include <cmath>
#include <gtest/gtest.h>

namespace vinegar::predict {
namespace {

using amp::SectionUse;
using testing_support::library;
using testing_support::onSupply;
using testing_support::sample;
using testing_support::sectionsOf;
using testing_support::SolvedSupply;
using testing_support::solveSupply;
using testing_support::supplyUse;
using testing_support::TestSupply;
using PartSettings = amp::Settings;

std::function<double(double)> lawOf(const std::string& type) {
  const auto model = std::get<tubes::RectifierModel>(library().tubes.find(type)->model);
  if (model.silicon)
    return [model](double v) { return model.saturationAmps * std::expm1(v / (model.emission * 0.025852)); };
  return [model](double v) { return v > 0 ? model.perveance * std::pow(v, 1.5) : 0; };
}

/// Everything twice, winding, tube, capacitor and load, is the same supply side by side with itself.
TEST(Supply, TwoRectifiersAreOneAtHalfTheLoad) {
  const TestSupply s{"one", "supply-full-wave", "5Y3GT", 320, 110, 50, 0, 16e-6, {}, 0.08};
  const auto one = solveSupply(onSupply(sectionsOf(s)), {0, s.amps, 0}, "N0");
  auto twice = s;
  twice.section = "supply-two-rectifiers";
  twice.ohms = s.ohms / 2;
  twice.farads = 2 * s.farads;
  // With cold tubes the amplifier's own draw is next to nothing beside the load.
  const auto two = solveSupply(onSupply(sectionsOf(twice)), {0, 2 * s.amps, 0}, "N0");
  EXPECT_NEAR(two.report.rails.back().volts / one.report.rails.back().volts, 1, 2e-3);
  ASSERT_EQ(two.report.rectifiers.size(), 2U);
  for (const auto& rectifier : two.report.rectifiers)
    EXPECT_NEAR(rectifier.peakAmps / one.report.rectifiers.front().peakAmps, 1, 5e-3) << rectifier.part;
}

/// Two transformers on one mains: the second rail is what plain stepping says of its own parts alone, whatever the
/// first one feeds; the mains give what both take.
TEST(Supply, ASecondTransformersRailIsItsOwn) {
  const auto design = [](double ohms) {
    const TestSupply s{"", "supply-two-transformers", "5Y3GT", 320, 110, 50, 0, 32e-6, {}, 0};
    auto supply = sectionsOf(s);
    supply[0].parts["T2"].settings = {{"htVolts", 260.0}, {"htOhms", ohms}, {"primaryOhms", 1e-3}};
    supply.push_back(
        supplyUse("other", "supply-reservoir", "M0", {{"C", {{"value", 22e-6}}}, {"Rbl", {{"fitted", false}}}}));
    supply.back().joins["from"] = "front.otherRail";
    supply.push_back(
        supplyUse("lower", "supply-rc-node", "M1", {{"R", {{"value", 1000.0}}}, {"C", {{"value", 10e-6}}}}));
    auto made = onSupply(std::move(supply));
    for (auto* section : made.sections())
      for (auto& [port, target] : section->joins)
        if (target == "M1") target = "N0";
    return made;
  };
  testing_support::ReferenceSupply reference;
  reference.voltsRms = 260;
  reference.sourceOhms = 130;
  reference.farads = 22e-6;
  reference.sections = {{0, 1000, 10e-6}};
  reference.loadAmps = 0.05;
  reference.diode = lawOf("1N4007");
  const auto waited = testing_support::stepThrough(reference);
  const auto loaded = solveSupply(design(130), {0, 0.05, 0}, "M1");
  const auto rail = [](const SolvedSupply& solved, const char* name) {
    const auto& rails = solved.report.rails;
    const auto found = std::find_if(rails.begin(), rails.end(), [&](const auto& r) { return r.name == name; });
    EXPECT_NE(found, rails.end()) << name;
    return *found;
  };
  for (const auto& [name, index] : {std::pair{"M0", 0U}, {"M1", 1U}}) {
    EXPECT_NEAR(rail(loaded, name).volts / waited.volts[index], 1, 0.005) << name;
    EXPECT_NEAR(rail(loaded, name).rippleVpp / waited.rippleVpp[index], 1, 0.03) << name;
  }
  const auto first = solveSupply(design(130), {0, 0.1, 0}, "N0"), none = solveSupply(design(130), {0, 0, 0});
  // But for the fuse's tenths of an ohm, which both are fed through.
  EXPECT_NEAR(rail(first, "M0").volts, rail(none, "M0").volts, 0.1);
  EXPECT_NEAR(rail(loaded, "N0").volts, rail(none, "N0").volts, 0.1);
  EXPECT_LT(rail(first, "N0").volts, rail(none, "N0").volts - 20);
  // 50 mA of some 320 V more, and what winding, diodes and dropper lose.
  const double given = rail(loaded, "M1").volts * 0.05 + 1000 * 0.05 * 0.05;
  const double more = loaded.report.primaryWatts - none.report.primaryWatts;
  EXPECT_GT(more, given);
  EXPECT_LT(more, 1.25 * given);
  ASSERT_EQ(loaded.report.primaries.size(), 2U);
  EXPECT_NEAR(loaded.report.primaries[0].watts + loaded.report.primaries[1].watts, loaded.report.primaryWatts, 1e-9);
  EXPECT_NEAR(loaded.report.primaries[1].watts - none.report.primaries[1].watts, more, 0.2); // all of it by the second
  ASSERT_EQ(loaded.report.windings.size(), 4U);
  EXPECT_NE(loaded.report.windings[0].part, loaded.report.windings[3].part);
}

TEST(Supply, TheMainRailIsTheOutputStages) {
  const auto fedOf = [](const amp::Design& design) {
    const auto circuit = amp::compile(design, library());
    if (!circuit) throw std::runtime_error(circuit.error().line());
    const auto fed = mainRails(*circuit).fed;
    const auto found = std::find_if(circuit->rails.begin(), circuit->rails.end(),
                                    [&](const auto& rail) { return rail.node == fed && rail.name != "K"; });
    return found == circuit->rails.end() ? std::string() : found->name;
  };
  auto design = sample("slipway").ink;
  EXPECT_EQ(fedOf(design), "A");
  for (auto& section : design.line)
    if (section.joins.contains("plates")) section.joins["plates"] = "B";
  EXPECT_EQ(fedOf(design), "B");
  for (auto& section : design.line)
    if (section.id == "first") section.joins["rail"] = "A"; // whatever else hangs above
  EXPECT_EQ(fedOf(design), "B");
}

class TenSupplies : public testing::TestWithParam<TestSupply> {};

TEST_P(TenSupplies, AgreeWithPlainStepping) {
  const auto& s = GetParam();
  using Kind = testing_support::ReferenceSupply::Kind;
  testing_support::ReferenceSupply reference;
  reference.kind = s.section == "supply-bridge"    ? Kind::bridge
                   : s.section == "supply-doubler" ? Kind::doubler
                                                   : Kind::fullWave;
  reference.voltsRms = s.volts;
  reference.hertz = s.hertz;
  reference.sourceOhms = s.ohms;
  reference.seriesOhms = s.seriesOhms;
  reference.farads = s.farads;
  reference.sections = s.sections;
  reference.loadAmps = s.amps;
  reference.diode = lawOf(s.rectifier);
  const auto waited = testing_support::stepThrough(reference);

  const auto supply = sectionsOf(s);
  const auto solved = solveSupply(onSupply(supply), {0, s.amps, 0}, supply.back().node);
  // Of a choke-input supply the reference's first entry is the rectifier's output, as the report's is.
  const std::size_t first = solved.report.rails.size() - waited.volts.size();
  for (std::size_t i = 0; i < waited.volts.size(); ++i) {
    const auto& rail = solved.report.rails[first + i];
    EXPECT_NEAR(rail.volts / waited.volts[i], 1, 0.005) << rail.name;
    if (waited.rippleVpp[i] > 0.01) {
      EXPECT_NEAR(rail.rippleVpp / waited.rippleVpp[i], 1, 0.03) << rail.name << " ripple";
    }
  }
  EXPECT_NEAR(solved.report.rectifiers.front().peakAmps / waited.peakAmps, 1, 0.03);
  EXPECT_NEAR(solved.report.rectifiers.front().meanAmps / waited.meanAmps, 1, 0.005);
}

INSTANTIATE_TEST_SUITE_P(
    Supply, TenSupplies,
    testing::Values(
        TestSupply{"small", "supply-full-wave", "5Y3GT", 320, 110, 50, 0, 16e-6, {}, 0.08},
        TestSupply{"large", "supply-full-wave", "5U4GB", 380, 60, 60, 0, 40e-6, {}, 0.2},
        TestSupply{"stiff", "supply-full-wave", "5AR4", 350, 100, 50, 0, 60e-6, {}, 0.12},
        TestSupply{"series", "supply-full-wave", "EZ81", 280, 180, 50, 100, 50e-6, {}, 0.1},
        TestSupply{
            "silicon", "supply-full-wave", "1N4007", 280, 60, 50, 0, 32e-6, {{7, 210, 22e-6}, {0, 2200, 22e-6}}, 0.06},
        TestSupply{"dropper", "supply-full-wave", "5Y3GT", 320, 110, 60, 0, 20e-6, {{0, 1000, 22e-6}}, 0.06},
        TestSupply{"bridge", "supply-bridge", "1N4007", 228, 30, 50, 0, 47e-6, {}, 0.08},
        TestSupply{"doubler", "supply-doubler", "1N4007", 130, 20, 50, 0, 100e-6, {}, 0.08},
        TestSupply{"choke", "supply-full-wave", "5U4GB", 400, 60, 50, 0, 0, {{15, 150, 40e-6}}, 0.15},
        TestSupply{"sag", "supply-full-wave", "5V4GA", 300, 120, 50, 0, 8e-6, {{0, 47, 47e-6}}, 0.1}),
    [](const auto& info) { return info.param.name; });

TEST(Rectifiers, DropAndRegulateAsPublished) {
  std::map<std::string, int> points;
  for (const auto& [name, type] : library().tubes.types()) {
    if (!type.isRectifier()) continue;
    EXPECT_NEAR(lawOf(name)(type.dropVolts) / type.dropAmps, 1, 0.04) << name;
    // European sheets are for 50 Hz.
    const double hertz = name == "5AR4" || name.starts_with("EZ") ? 50 : 60;
    for (const auto& o : type.rectifierOperations) {
      ASSERT_TRUE(o.sourceOhms) << name;
      const TestSupply s{name, "supply-full-wave", name, o.plateVoltsRms, *o.sourceOhms, hertz,
                         0,    o.farads,           {},   o.amps};
      const auto solved = solveSupply(onSupply(sectionsOf(s)), {0, o.amps, 0}, "N0");
      EXPECT_NEAR(solved.report.rails.back().volts / o.volts, 1, 0.04)
          << name << " " << o.plateVoltsRms << " V " << o.amps << " A";
      ++points[name];
    }
  }
  EXPECT_GE(points["5U4GB"], 3);
  EXPECT_GE(points["5AR4"], 3);
}

TEST(Supply, FirstOrderChecksHoldInTheirLimits) {
  // Small ripple from a stiff silicon supply: I / (2 f C), less the share of the half period in which it charges.
  const TestSupply stiff{"", "supply-bridge", "1N4007", 250, 0.2, 50, 0, 100e-6, {}, 0.05};
  const auto still = solveSupply(onSupply(sectionsOf(stiff)), {0, stiff.amps, 0}, "N0");
  const double conducting = still.report.rectifiers.front().conductionDegrees / 360 * 2;
  EXPECT_NEAR(still.report.rails.back().rippleVpp / (stiff.amps / (2 * 50 * 100e-6) * (1 - conducting)), 1, 0.02);

  // RC and LC sections at twice the mains; a dropper's volts.
  const TestSupply chain{"",  "supply-full-wave", "5Y3GT", 320, 110, 50, 0, 32e-6, {{0, 3300, 22e-6}, {12, 1, 30e-6}},
                         0.03};
  const auto filtered = solveSupply(onSupply(sectionsOf(chain)), {0, chain.amps, 0}, "N2");
  const auto& rails = filtered.report.rails;
  const double omega = 4 * M_PI * 50;
  const auto second = [&](std::size_t rail) { return rails[rail].harmonics[2]; };
  // What the choke takes loads the resistor's node but little: the RC corner sees 22 uF and the choke's branch.
  const double loaded = 1 / std::abs(std::complex<double>(1, omega * 3300 * 22e-6) +
                                     3300.0 / std::complex<double>(1, omega * 12 - 1 / (omega * 30e-6)));
  EXPECT_NEAR(second(2) / second(1) / loaded, 1, 0.02);
  EXPECT_NEAR(second(3) / second(2) * (omega * omega * 12 * 30e-6 - 1), 1, 0.02);
  EXPECT_NEAR((rails[1].volts - rails[2].volts) / (0.03 * 3300), 1, 0.02);

  // Choke input above the critical inductance (RL / 6 pi f... = V / I / (3 omega)): 0.9 of the rms volts, less the
  // drops.
  const TestSupply choke{"", "supply-full-wave", "1N4007", 300, 1, 50, 0, 0, {{20, 1, 100e-6}}, 0.1};
  const auto above = solveSupply(onSupply(sectionsOf(choke)), {0, choke.amps, 0}, "N1");
  EXPECT_NEAR(above.report.rails.back().volts / (300 * 2 * std::sqrt(2.0) / M_PI - 0.9), 1, 0.02);
  // Well below it the first capacitor charges towards the peak.
  const auto below = solveSupply(onSupply(sectionsOf(choke)), {0, 0.004, 0}, "N1");
  EXPECT_GT(below.report.rails.back().volts, 300);
}

/// The whole amplifier with its real rectifier and every tube, stepped through a second of mains, stays where the state
/// was found directly: the split of supply and amplifier, and the averaged rectifier, lose nothing that shows.
TEST(Supply, FoundDirectlyAgreesWithWaiting) {
  for (const char* name : {"slipway", "harbour-office"}) {
    const auto solved = testing_support::solve(sample(name).ink);
    const circuit::System whole(solved.circuit.netlist);
    circuit::TransientQuestion question;
    question.duration = 3;
    question.samplesPerSecond = 12800; // 256 a period
    question.mode = circuit::TransientQuestion::Mode::preview;
    const double peak = std::sqrt(2.0) * solved.circuit.supply.volts;
    question.drive[solved.circuit.supply.mains] = {[peak](double t) { return peak * std::sin(2 * M_PI * 50 * t); }, {}};
    for (const auto& rail : solved.circuit.rails)
      question.outputs.push_back(rail.node);
    const auto answer = circuit::solveTransient(whole, solved.point.dc.x, question);
    ASSERT_TRUE(answer) << answer.error().line();
    const auto report = readSupply(solved.circuit, library(), solved.point);
    const Eigen::Index last = 256, n = answer->volts.cols();
    for (std::size_t r = 0; r < report.rails.size(); ++r) {
      const auto period = answer->volts.row(static_cast<Eigen::Index>(r)).segment(n - last, last);
      EXPECT_NEAR(period.mean() / report.rails[r].volts, 1, 0.002) << name << " " << report.rails[r].name;
      if (report.rails[r].rippleVpp > 0.1) {
        EXPECT_NEAR((period.maxCoeff() - period.minCoeff()) / report.rails[r].rippleVpp, 1, 0.03)
            << name << " " << report.rails[r].name;
      }
    }
  }
}

TEST(Supply, MeansObeyKirchhoffAndAgreeWithTheAmplifiersOwnDc) {
  for (const char* name : {"slipway", "net-loft", "harbour-office", "chandlery"}) {
    const auto solved = testing_support::solve(sample(name).ink);
    for (const auto& rail : solved.circuit.rails)
      EXPECT_NEAR(solved.point.volts(rail.node), solved.point.supply->meanVolts(rail.node), 2e-3) << name << rail.name;
    const auto report = readSupply(solved.circuit, library(), solved.point);
    // The mains give at least what heaters and amplifier take; the windings and the rectifier have the rest.
    double taken = solved.point.volts(mainRails(solved.circuit).fed) * report.loadAmps * 0.9;
    for (const auto& heaters : report.heaters)
      taken += heaters.rmsVolts * heaters.rmsAmps;
    EXPECT_GT(report.primaryWatts, taken) << name;
    EXPECT_LT(report.primaryWatts, 1.6 * taken) << name;
    EXPECT_LE(report.primaryWatts, report.primaryVa);
  }
}

TEST(Supply, WarmAndColdGiveTheSameNumbers) {
  const auto before = testing_support::solve(sample("slipway").ink);
  for (const auto& change : {amp::SetField{"C15", "value", 16e-6, 68e-6}, amp::SetField{"R28", "value", 270.0, 330.0},
                             amp::SetField{"V5", "tube", std::string("5Y3GT"), std::string("5AR4")},
                             amp::SetField{"Mains", "value", 230.0, 110.0}}) {
    const auto circuit = amp::compile(amp::withChanges(sample("slipway").ink, library(), {change}), library());
    const auto warm = predictSupplyIdle(*circuit, before.point.supply.get()), cold = predictSupplyIdle(*circuit);
    ASSERT_TRUE(warm && cold) << change.part;
    for (const auto& rail : circuit->rails)
      EXPECT_NEAR(warm->meanVolts(rail.node), cold->meanVolts(rail.node), 2e-3) << change.part << " " << rail.name;
  }
}

/// A small change of load moves the mean as the averaged rectifier's slope says.
TEST(Supply, TheAveragedRectifierHasTheRightSlope) {
  const auto solved = testing_support::solve(sample("slipway").ink);
  const auto rail = mainRails(solved.circuit).fed;
  const auto more = predictSupplyIdle(solved.circuit, solved.point.supply.get(), {1, 1e-3, rail});
  ASSERT_TRUE(more) << more.error().line();
  auto netlist = solved.point.system->netlist();
  netlist.add("extra", {rail, 0}, circuit::CurrentSource{1e-3});
  const auto dc = circuit::solveDc(circuit::System(netlist), nullptr);
  ASSERT_TRUE(dc);
  const double moved = circuit::System::volts(dc->x, rail) - solved.point.volts(rail);
  EXPECT_LT(moved, -0.1);
  EXPECT_NEAR((more->meanVolts(rail) - solved.point.supply->meanVolts(rail)) / moved, 1, 0.02);
}

TEST(Windings, CarryWhatTheirLoadSays) {
  const auto solved = testing_support::solve(sample("slipway").ink);
  const auto report = readSupply(solved.circuit, library(), solved.point);
  ASSERT_EQ(report.heaters.size(), 2U);
  // Two 12AX7/12AT7 bottles at 0.3 A and two 6V6GT at 0.45 A on 6.3 V; a 5Y3GT at 2 A on 5 V.
  EXPECT_NEAR(report.heaters[1].rmsAmps, 1.5 * report.heaters[1].rmsVolts / 6.3, 1e-3);
  EXPECT_NEAR(report.heaters[0].rmsAmps, 2.0 * report.heaters[0].rmsVolts / 5, 1e-3);
  // Open volts less the winding's own drop and its part of the primary's, which only the primary current knows.
  const double left = 1 - report.primaryAmps * 12 / 230;
  EXPECT_NEAR(report.heaters[1].rmsVolts / (6.6 * left - report.windings[2].rmsAmps * 0.05), 1, 0.01);
}

TEST(Transformer, ItsThreeWaysOfBeingGivenAgree) {
  auto unloaded = sample("net-loft").ink;
  const auto with = [&](const char* given, double volts) {
    return amp::withChanges(
        unloaded, library(),
        {{"T2", "given", std::string("measured"), std::string(given)}, {"T2", "htVolts", 230.0, volts}});
  };
  const auto rail = [](const amp::Design& design) { return solveSupply(design).report.rails[1].volts; };
  // A tenth more without load, by the label's regulation.
  EXPECT_NEAR(rail(with("loaded", 210)) / rail(with("unloaded", 231)), 1, 0.01);
}

TEST(Supply, AnswersOrSaysWhyAtTheEdges) {
  VINEGAR_LONG_TEST(numbers);
  // A hundred filter nodes, absurd values, an open switch, volts that nothing survives: an answer or a clear message.
  std::vector<TestSupply> odd{{"hundred", "supply-full-wave", "5Y3GT", 320, 110, 50, 0, 16e-6, {}, 0.001},
                              {"tiny", "supply-full-wave", "5Y3GT", 1, 0.001, 50, 0, 1e-12, {}, 0},
                              {"huge", "supply-full-wave", "1N4007", 5000, 1e5, 1000, 0, 0.5, {}, 0.01},
                              {"short", "supply-bridge", "1N4007", 300, 50, 50, 0, 47e-6, {}, 50}};
  for (int i = 0; i < 100; ++i)
    odd[0].sections.push_back({0, 100, 1e-6});
  for (const auto& s : odd) {
    const auto supply = sectionsOf(s);
    const auto design = onSupply(supply);
    const auto circuit = amp::compile(design, library());
    ASSERT_TRUE(circuit) << s.name << circuit.error().line();
    for (const double emission : {0.0, 1.0}) {
      const auto idle = predictSupplyIdle(*circuit, nullptr, {emission, s.amps, circuit->probe(supply.back().node)});
      if (idle) {
        for (const auto& rail : circuit->rails)
          EXPECT_TRUE(std::isfinite(idle->meanVolts(rail.node))) << s.name;
      } else {
        EXPECT_FALSE(idle.error().message.empty()) << s.name;
      }
    }
  }
  auto off = sample("slipway").ink;
  off.knobs["Power"] = 2;
  const auto dark = testing_support::solve(off);
  EXPECT_NEAR(dark.point.volts(mainRails(dark.circuit).fed), 0, 0.5);
}

TEST(Supply, WithoutIsolationIsRefused) {
  auto design = sample("slipway").ink;
  design.supply.front() = supplyUse("mains", "supply-direct-mains", "K", {});
  const auto circuit = amp::compile(design, library());
  ASSERT_FALSE(circuit);
  EXPECT_NE(circuit.error().message.find("isolation"), std::string::npos);
}

/// A second branch hangs on a rail of its own choosing.
TEST(Supply, ABranchTakesTheRailItNames) {
  auto design = sample("slipway").ink;
  auto& last = design.supply.back(); // D, from C
  last.joins["from"] = "B";
  const auto before = testing_support::solve(sample("slipway").ink), after = testing_support::solve(design);
  EXPECT_NEAR(after.point.part("R19")->volts,
              after.point.volts(after.circuit.probe("B")) - after.point.volts(after.circuit.probe("D")), 1e-6);
  EXPECT_GT(after.point.volts(after.circuit.probe("D")), before.point.volts(before.circuit.probe("D")) + 10);
}

/// A winding's negative supply in place of the fixed one: the grids get what its divider says, and lose it with it.
TEST(BiasSupply, FeedsTheFixedBiasOfAnOutputStage) {
  auto design = sample("slipway").ink;
  auto& output = *std::find_if(design.line.begin(), design.line.end(), [](const auto& s) { return s.id == "output"; });
  output.section = "push-pull-fixed-bias";
  output.parts.clear();
  output.parts["B"].settings["fitted"] = false;
  output.joins["negative"] = "mains.bias";
  design.supply[0].section = "supply-full-wave-bias";
  const auto solved = testing_support::solve(design);
  const auto at = [&](const char* key) { return solved.point.volts(solved.circuit.localNodes.at(key)); };
  const double negative = at("mains/bias");
  EXPECT_LT(negative, -30);
  EXPECT_GT(negative, -64); // the winding's peak
  // 15k, a 22k pot at half, 27k to ground; no grid draws anything.
  EXPECT_NEAR(at("output/bw") / (negative * (11 + 27) / (15 + 22 + 27)), 1, 1e-3);
  EXPECT_LT(solved.point.tubes.back().gridVolts, -15);
  // Both ends of the join are named in the drawing.
  const auto drawing = amp::drawRun(design, library());
  EXPECT_EQ(std::count_if(drawing.flags.begin(), drawing.flags.end(), [](const auto& f) { return f.rail == "bias"; }),
            2);
}

/// Direct current for the heaters: a bridge into ten thousand microfarad, less two drops.
TEST(DcHeaters, AreHeldByTheirCapacitor) {
  auto design = sample("slipway").ink;
  design.supply[0].section = "supply-full-wave-dc-heaters";
  for (const char* ref : {"Rh1", "Rh2", "Hum"})
    design.supply[0].parts.erase(ref);
  const auto solved = testing_support::solve(design);
  const auto report = readSupply(solved.circuit, library(), solved.point);
  const auto heaters =
      std::find_if(report.heaters.begin(), report.heaters.end(), [](const auto& h) { return h.nominalVolts == 6.3; });
  ASSERT_NE(heaters, report.heaters.end());
  EXPECT_NEAR(heaters->rmsVolts, 6.3, 0.9);
  // Nearly all of it is direct: root mean square and mean agree.
  EXPECT_NEAR(2 * heaters->meanVolts / heaters->rmsVolts, 1, 0.02);
}

TEST(HeaterElevation, LiftsTheHeatersByItsDivider) {
  auto design = sample("slipway").ink;
  SectionUse lift{"lift", "heater-elevation", {}, {{"rail", "A"}}, {}, {}};
  design.sides.push_back({"lift", {lift}, {}, "mains.heaterFoot", {}});
  const auto solved = testing_support::solve(design);
  const auto report = readSupply(solved.circuit, library(), solved.point);
  const double rail = solved.point.volts(solved.circuit.probe("A"));
  EXPECT_NEAR(report.heaters[1].meanVolts / (rail * 47 / (220 + 47)), 1, 0.02);
}

/// What the rails give to an ampere more, by the averaged supply, against two whole solves with a current drawn
/// besides.
TEST(SupplyIdle, SlopesAreThoseOfTwoSolves) {
  const auto circuit = amp::compile(sample("slipway").ink, library());
  const auto idle = predictSupplyIdle(*circuit);
  ASSERT_TRUE(idle);
  const AmpLoad load(*circuit);
  for (std::size_t k = 0; k < load.nodes().size(); ++k) {
    const auto node = load.nodes()[k];
    if (idle->meanVolts(node) < 100) continue; // heaters and bias: next to nothing is drawn
    constexpr double more = 2e-3;
    // The amplifier answers too; without it (tubes cold) the supply alone is asked, at another load, so both are
    // compared where the amplifier draws: its own answer is taken out by its slopes.
    const auto drawn = predictSupplyIdle(*circuit, nullptr, {1, more, node});
    ASSERT_TRUE(drawn);
    Eigen::VectorXd moved(static_cast<Eigen::Index>(load.nodes().size()));
    for (std::size_t r = 0; r < load.nodes().size(); ++r)
      moved[static_cast<Eigen::Index>(r)] = drawn->meanVolts(load.nodes()[r]) - idle->meanVolts(load.nodes()[r]);
    Eigen::VectorXd amps = drawn->drawnAmps - idle->drawnAmps;
    amps[static_cast<Eigen::Index>(k)] += more;
    const Eigen::VectorXd foretold = idle->railsByLoad * amps;
    const auto at = static_cast<Eigen::Index>(k);
    EXPECT_NEAR(foretold[at] / moved[at], 1, 0.05) << circuit->netlist.nodeNames()[static_cast<std::size_t>(node)];
  }
}

} // namespace
} // namespace vinegar::predict
