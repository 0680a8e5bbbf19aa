#include "amp/acts/acts.h"
#include "amp/drawing/drawing.h"
#include "support/samples.h"

#include <cmath>
#include <cstdio>
#include <fmt/format.h>
#include <functional>
#include <gtest/gtest.h>
#include <random>
#include <set>

namespace vinegar::amp {
namespace {

using testing_support::library;
using testing_support::sample;

TEST(Pencil, IsOneMarkPerPartAndRubsOutAtTheInkValue) {
  auto document = sample("slipway");
  pencil(document, library(), "C2", "value", 330e-9);
  pencil(document, library(), "C2", "value", 470e-9);
  ASSERT_EQ(document.sheet().marks.size(), 1U);
  EXPECT_EQ(*document.sheet().marks[0].field(), (SetField{"C2", "value", 22e-6, 470e-9}));
  EXPECT_EQ(findPart(pencilled(document, library()), library(), "C2")->value(), 470e-9);
  EXPECT_EQ(findPart(document.ink, library(), "C2")->value(), 22e-6);
  pencil(document, library(), "C2", "value", 22e-6);
  EXPECT_TRUE(document.sheet().marks.empty());
}

TEST(Pencil, ATubeTypeChangesTheWholeBottle) {
  auto document = sample("slipway");
  pencil(document, library(), "V1a", "tube", std::string("12AU7"));
  ASSERT_EQ(document.sheet().marks.size(), 1U);
  EXPECT_EQ(document.sheet().marks[0].changes.size(), 2U);
  EXPECT_EQ(findPart(pencilled(document, library()), library(), "V1b")->text("tube"), "12AU7");
  EXPECT_EQ(findPart(pencilled(document, library()), library(), "V2a")->text("tube"), "12AT7");
  rubOut(document, library(), "V1b");
  EXPECT_TRUE(document.sheet().marks.empty());
}

TEST(Ink, MakesARevisionThatCanBeWalkedBack) {
  auto document = sample("slipway");
  document.log.clear();
  const Design before = document.ink;
  pencil(document, library(), "C2", "value", 330e-9);
  pencil(document, library(), "C10", "fitted", false);
  ink(document, library(), "less mud", "2026-11-23T19:00:00+00:00");
  pencil(document, library(), "C2", "value", 680e-9);
  ink(document, library(), "a little back", "2026-11-24T19:00:00+00:00");
  EXPECT_EQ(document.revision(), 2);
  EXPECT_TRUE(document.sheet().marks.empty());
  EXPECT_EQ(findPart(document.ink, library(), "C2")->value(), 680e-9);
  EXPECT_EQ(findPart(*atRevision(document, library(), 1), library(), "C2")->value(), 330e-9);
  EXPECT_EQ(*atRevision(document, library(), 0), before);
  EXPECT_EQ(difference(before, document.ink, library()).size(), 2U);
}

TEST(Ink, OtherSheetsKeepTheirMarksAgainstTheNewInk) {
  auto document = sample("slipway");
  document.sheets.push_back({"darker", {}, {}});
  pencil(document, library(), "C2", "value", 330e-9);
  document.activeSheet = 1;
  pencil(document, library(), "C2", "value", 330e-9);
  pencil(document, library(), "R3", "value", 220e3);
  document.activeSheet = 0;
  ink(document, library(), "try", "2026-11-23T19:00:00+00:00");
  ASSERT_EQ(document.sheets[1].marks.size(), 1U);
  EXPECT_EQ(document.sheets[1].marks[0].field()->part, "R3");
}

TEST(Names, AreUniqueStableAndPairBottles) {
  Design design;
  design.line = {{"jack", "instrument-input", {}, {}, {}, {}},
                 {"one", "triode-common-cathode", {}, {{"rail", "ground"}}, {}, {}},
                 {"two", "triode-common-cathode", {}, {{"rail", "ground"}}, {}, {}},
                 {"three", "triode-common-cathode", {}, {{"rail", "ground"}}, {}, {}}};
  nameParts(design, library());
  std::set<std::string> names;
  for (const auto& part : resolveParts(design, library()))
    EXPECT_TRUE(names.insert(part.name).second) << part.name;
  EXPECT_EQ(design.line[1].parts["V"].name, "V1a");
  EXPECT_EQ(design.line[2].parts["V"].name, "V1b");
  EXPECT_EQ(design.line[3].parts["V"].name, "V2a");
  const auto before = design.line[3].parts["Ra"].name;
  std::swap(design.line[1], design.line[3]);
  nameParts(design, library());
  EXPECT_EQ(design.line[1].parts["Ra"].name, before);
}

struct Mistake {
  const char* what;
  std::function<void(Design&)> make;
  const char* place;
  const char* says;
};

TEST(Check, NamesThePlaceOfEachMistake) {
  const Mistake mistakes[] = {
      {"unknown section", [](Design& d) { d.line[1].section = "flux-stage"; }, "first", "not in the library"},
      {"negative value", [](Design& d) { d.line[1].parts["Ra"].settings["value"] = -5.0; }, "R3", "between"},
      {"wrong type", [](Design& d) { d.line[1].parts["Ra"].settings["value"] = std::string("big"); }, "R3", "type"},
      {"unknown tube", [](Design& d) { d.line[1].parts["V"].settings["tube"] = std::string("99ZZ9"); }, "V1a",
       "catalogue"},
      {"pentode in a triode's place", [](Design& d) { d.line[1].parts["V"].settings["tube"] = std::string("EL84"); },
       "V1a", "does not fit"},
      {"twice the same name", [](Design& d) { d.line[1].parts["Ra"].name = "R7"; }, "R7", "two parts"},
      {"rail to nowhere", [](Design& d) { d.line[1].joins["rail"] = "Q"; }, "first", "supply node"},
      {"no rail", [](Design& d) { d.line[1].joins.clear(); }, "first", "needs a supply node"},
      {"side to nowhere", [](Design& d) { d.sides[0].from = "nowhere.out"; }, "feedback", "not there"},
      {"splitter missing", [](Design& d) { d.line.erase(d.line.begin() + 6); }, "output", "cannot follow"},
      {"something after the speaker",
       [](Design& d) {
         d.line.push_back({"late", "triode-common-cathode", {}, {{"rail", "D"}}, {}, {}});
         nameParts(d, library());
       },
       "late", "cannot follow"},
      {"two of a name", [](Design& d) { d.sides.push_back(d.sides[0]); }, "feedback", "two sections"},
      {"an empty side",
       [](Design& d) {
         d.sides.push_back({"echo", {}, {}, {}, {}});
       },
       "echo", "without a section"},
      {"part that must be there", [](Design& d) { d.line[1].parts["Ra"].settings["fitted"] = false; }, "R3",
       "left out"},
      {"knob past its stop", [](Design& d) { d.knobs["Volume"] = 1.5; }, "Volume", "between 0 and 1"},
      {"switch past its positions",
       [](Design& d) {
         d.line[3].section = "volume-bright-switch";
         d.line[3].parts.erase("Cbr");
         d.line[3].parts["Bright"].name = "Bright";
         d.knobs["Bright"] = 3;
       },
       "Bright", "1 to 2"},
      {"empty", [](Design& d) { d = Design{}; }, "line", "no sections"}};
  EXPECT_TRUE(check(sample("slipway").ink, library()).empty());
  for (const auto& [what, make, place, says] : mistakes) {
    auto design = sample("slipway").ink;
    make(design);
    const auto problems = check(design, library());
    ASSERT_FALSE(problems.empty()) << what;
    EXPECT_EQ(problems.front().place, place) << what << ": " << problems.front().message;
    EXPECT_NE(problems.front().message.find(says), std::string::npos) << what << ": " << problems.front().message;
    EXPECT_FALSE(compile(design, library())) << what;
    drawRun(design, library()); // what is broken is still drawn
  }
}

/// What a builder has on the bench before the rest is there: computed as far as it goes.
TEST(Check, APieceOfAnAmplifierIsADesign) {
  auto design = sample("slipway").ink;
  const auto whole = testing_support::solve(design);
  design.line.pop_back(); // no speaker
  const auto unloaded = testing_support::solve(design);
  EXPECT_NEAR(unloaded.point.part("R3")->volts, whole.point.part("R3")->volts, 5e-3);
  design = *removeSection(design, library(), design.line.front().id); // no source
  EXPECT_NEAR(testing_support::solve(design).point.part("R3")->volts, whole.point.part("R3")->volts, 5e-3);
  Document document;
  document.ink = design;
  std::string odd;
  for (const auto& remark : remarks(document, library()))
    odd += remark.line() + "\n";
  EXPECT_NE(odd.find("nothing drives it"), std::string::npos) << odd;
  EXPECT_NE(odd.find("never be driven without"), std::string::npos) << odd;
}

/// Which points of a drawing its lines, links, grounds and rail flags join.
class DrawnNodes {
public:
  explicit DrawnNodes(const Drawing& drawing) {
    std::vector<Point> ends;
    for (const auto& line : drawing.lines) {
      ends.insert(ends.end(), line.points.begin(), line.points.end());
      for (const auto& p : line.points)
        join(id(p), id(line.points.front()));
    }
    for (const auto& part : drawing.parts) {
      ends.insert(ends.end(), part.pins.begin(), part.pins.end());
      if (!part.fitted && part.linkWhenAbsent) join(id(part.pins.front()), id(part.pins.back()));
    }
    for (const auto& p : drawing.grounds)
      ends.push_back(p);
    for (const auto& flag : drawing.flags)
      ends.push_back(flag.at);
    // An end that lies on a line touches it.
    for (const auto& line : drawing.lines)
      for (std::size_t i = 0; i + 1 < line.points.size(); ++i)
        for (const auto& p : ends)
          if (on(p, line.points[i], line.points[i + 1])) join(id(p), id(line.points[i]));
    const int ground = id({-1e6, -1e6});
    for (const auto& p : drawing.grounds)
      join(id(p), ground);
    // A flag stands for its rail wherever it is.
    std::map<std::string, int> rails;
    for (const auto& flag : drawing.flags) {
      const auto [entry, isNew] = rails.try_emplace(flag.rail, id(flag.at));
      join(id(flag.at), entry->second);
    }
  }
  int at(Point p) { return root(id(p)); }

  /// Fails unless every pin of `drawing` meets just the pins that `nodeOf` gives the same node.
  template <class NodeOf> void expectJoins(const Drawing& drawing, const NodeOf& nodeOf) {
    std::map<int, decltype(nodeOf(drawing.parts[0], 0))> drawnToNode;
    std::map<decltype(nodeOf(drawing.parts[0], 0)), int> nodeToDrawn;
    for (const auto& part : drawing.parts) {
      if (!part.fitted) continue;
      for (std::size_t pin = 0; pin < part.pins.size(); ++pin) {
        const int drawn = at(part.pins[pin]);
        const auto node = nodeOf(part, pin);
        EXPECT_EQ(drawnToNode.try_emplace(drawn, node).first->second, node)
            << part.name << " pin " << pin << ": drawn joined to another node";
        EXPECT_EQ(nodeToDrawn.try_emplace(node, drawn).first->second, drawn)
            << part.name << " pin " << pin << ": drawn apart from its node";
      }
    }
  }

private:
  int id(Point p) {
    const auto [entry, isNew] = ids_.try_emplace({p.x, p.y}, static_cast<int>(parent_.size()));
    if (isNew) parent_.push_back(entry->second);
    return entry->second;
  }
  int root(int n) {
    while (parent_[static_cast<std::size_t>(n)] != n)
      n = parent_[static_cast<std::size_t>(n)];
    return n;
  }
  void join(int a, int b) { parent_[static_cast<std::size_t>(root(a))] = root(b); }
  static bool on(Point p, Point a, Point b) {
    return std::min(a.x, b.x) <= p.x && p.x <= std::max(a.x, b.x) && std::min(a.y, b.y) <= p.y &&
           p.y <= std::max(a.y, b.y) && (a.x == b.x || a.y == b.y);
  }
  std::map<std::pair<double, double>, int> ids_;
  std::vector<int> parent_;
};

/// The schematic must show the circuit: points joined by drawn lines are exactly the netlist's nodes.
void expectDrawingShowsNetlist(const Design& design) {
  const auto circuit = compile(design, library());
  ASSERT_TRUE(circuit) << circuit.error().line();
  const auto drawing = drawRun(design, library());
  DrawnNodes(drawing).expectJoins(
      drawing, [&](const Drawing::Part& part, std::size_t pin) { return circuit->part(part.name)->nodes[pin]; });
}

TEST(Drawing, EverySectionShowsItsOwnNodes) {
  for (const auto& [name, ofLibrary] : library().sections) {
    const auto& id = name;
    const auto& section = ofLibrary;
    SCOPED_TRACE(id);
    auto all = section; // with every part fitted
    for (auto& part : all.parts)
      part.defaults["fitted"] = true;
    const auto drawing = drawSection(all, library());
    DrawnNodes drawn(drawing);
    drawn.expectJoins(drawing, [&](const Drawing::Part& part, std::size_t pin) {
      for (const auto& port : section.ports)
        if (port.join == "ground" && part.nodes[pin] == id + "/" + port.node) return std::string("ground");
      return part.nodes[pin];
    });
    for (const auto& port : section.ports)
      for (const auto& part : drawing.parts)
        for (std::size_t pin = 0; pin < part.pins.size(); ++pin)
          if (port.stub.empty() && part.nodes[pin] == id + "/" + port.node) {
            EXPECT_TRUE(drawn.at(port.at) == drawn.at(part.pins[pin]) || port.join == "ground")
                << "port " << port.name << " stands apart from " << part.name;
          }
  }
}

TEST(Drawing, ShowsTheSamplesNetlists) {
  for (const char* name : {"slipway", "net-loft"}) {
    SCOPED_TRACE(name);
    expectDrawingShowsNetlist(sample(name).ink);
  }
}

/// A branch of the supply shows the rail it comes from by its name, not by where it stands.
TEST(Drawing, ShowsABranchOfTheSupply) {
  auto design = sample("slipway").ink;
  design.supply.back().joins["from"] = "B";
  expectDrawingShowsNetlist(design);
}

TEST(Drawing, PartsDoNotOverlapAndAllCanBeReachedByArrowKeys) {
  for (const char* name : {"slipway", "net-loft"}) {
    const auto drawing = drawRun(sample(name).ink, library());
    std::set<std::string> reached{drawing.parts.front().name};
    std::vector<std::string> open{drawing.parts.front().name};
    while (!open.empty()) {
      const auto from = open.back();
      open.pop_back();
      for (const auto way : {Direction::right, Direction::down, Direction::left, Direction::up})
        if (const auto to = neighbour(drawing, from, way); reached.insert(to).second) open.push_back(to);
    }
    EXPECT_EQ(reached.size(), drawing.parts.size()) << name;
    std::set<std::tuple<double, double>> middles;
    for (const auto& part : drawing.parts)
      EXPECT_TRUE(middles.insert({part.place.at.x, part.place.at.y}).second) << part.name;
  }
}

/// Every shipped section in random legal order, values over four decades: it compiles, solves or says why not, is drawn
/// as it is wired, and never crashes. With values within a factor of three of a sensible default, DC always converges.
Design randomDesign(std::mt19937& random, double decades, bool rectified = false) {
  const auto pick = [&](std::size_t n) { return std::uniform_int_distribution<std::size_t>(0, n - 1)(random); };
  Design design;
  design.name = "random";
  const auto add = [&](std::vector<SectionUse>& list, const std::string& section) -> SectionUse& {
    list.push_back({section + "-" + std::to_string(list.size()), section, {}, {}, {}, {}});
    return list.back();
  };
  const std::size_t nodes = 1 + pick(4);
  for (std::size_t i = 0; i < nodes; ++i) {
    auto& use = add(design.supply, i == 0    ? "supply-fixed-reservoir"
                                   : pick(2) ? "supply-rc-node"
                                             : "supply-choke-node");
    use.node = std::string(1, static_cast<char>('A' + i));
  }
  if (rectified) { // from the mains, whose reservoir takes the bench supply's place
    constexpr const char* fronts[] = {"supply-full-wave", "supply-full-wave-bias", "supply-bridge",
                                      "supply-hybrid-bridge", "supply-doubler"};
    constexpr const char* reservoirs[] = {"supply-reservoir",      "supply-reservoir-parallel",
                                          "supply-reservoir-pair", "supply-zener-node",
                                          "supply-standby",        "supply-choke-node"};
    design.supply.front().section = reservoirs[pick(6)];
    SectionUse front{"mains", fronts[pick(5)], {}, {}, "K", {}};
    design.supply.insert(design.supply.begin(), front);
  }
  Carries carried = Carries::nothing;
  do {
    std::vector<const SectionTemplate*> fitting;
    for (const auto& [id, section] : library().sections)
      if (section.deck == "line" && section.in == carried) fitting.push_back(&section);
    // After enough stages only go forward, so that the line ends.
    if (design.line.size() > 5)
      std::erase_if(fitting, [&](const auto* s) { return s->out == Carries::single && carried == Carries::single; });
    const auto& section = *fitting[pick(fitting.size())];
    auto& use = add(design.line, section.id);
    for (const auto& rail : section.railPorts)
      use.joins[rail] = design.supply[pick(nodes) + (rectified ? 1 : 0)].node;
    carried = section.out;
  } while (carried != Carries::nothing);
  const auto addRails = [&](SectionUse& use) {
    for (const auto& rail : library().sections.at(use.section).railPorts)
      use.joins[rail] = design.supply[pick(nodes) + (rectified ? 1 : 0)].node;
  };
  const auto side = [&](const char* section, const std::string& from, const std::string& to) -> SectionUse& {
    design.sides.push_back({fmt::format("side-{}", design.sides.size()), {}, from, to, {}});
    auto& use = add(design.sides.back().sections, section);
    use.id += "-of-" + design.sides.back().id;
    return use;
  };
  const auto line = design.line;
  std::set<std::string> fed;
  for (const auto& use : line)
    for (const auto& port : library().sections.at(use.section).ports) {
      const std::string target = use.id + "." + port.name;
      const bool foot = port.name == "cathodeFoot" || port.name == "cathode" || port.name == "tailFoot";
      if (foot && pick(3) == 0 && fed.insert(use.id).second) { // feedback wherever it can enter
        constexpr const char* kinds[] = {"feedback-to-cathode", "feedback-direct", "feedback-switched",
                                         "feedback-presence", "feedback-presence-resonance"};
        side(kinds[pick(5)], line[line.size() - 2].id + ".out", target);
      } else if (port.name == "bias" && pick(2)) {
        addRails(side("tremolo-oscillator", "", target));
      } else if (port.name == "second" && use.section == "mix-two" && pick(2)) { // a reverb round the stages before
        design.sides.push_back({"reverb-" + use.id, {}, line.front().id + ".out", target, {}});
        for (const char* section : {"reverb-driver", "spring-tank", "triode-common-cathode", "volume"}) {
          auto& lane = add(design.sides.back().sections, section);
          lane.id += "-reverb-" + use.id;
          addRails(lane);
        }
      }
    }
  nameParts(design, library());
  std::uniform_real_distribution<double> exponent(-decades / 2, decades / 2);
  for (const auto& part : resolveParts(design, library())) {
    for (auto* use : design.sections())
      for (auto& [ref, own] : use->parts)
        if (own.name == part.name) {
          if (hasValue(part.part->kind) && part.part->kind != PartKind::signalSource) {
            const double value = part.value() * std::pow(10.0, exponent(random));
            if (!checkSetting(part, "value", value, library())) own.settings["value"] = value;
          }
          if (part.part->optional) own.settings["fitted"] = pick(2) == 0;
          if (part.part->kind == PartKind::selector && part.knob == part.name)
            design.knobs[part.name] = 1 + static_cast<double>(pick(part.part->positions.size()));
          if (part.part->kind == PartKind::pot)
            design.knobs[part.name] = std::uniform_real_distribution<double>(0, 1)(random);
        }
  }
  return design;
}

TEST(RandomDesigns, LoadSolveDrawAndSave) {
  std::mt19937 random(1918);
  int solved = 0, floating = 0, unsolved = 0;
  for (int i = 0; i < testing_support::trials(2000); ++i) {
    const auto design = randomDesign(random, 4);
    SCOPED_TRACE("design " + std::to_string(i));
    const auto problems = check(design, library());
    ASSERT_TRUE(problems.empty()) << problems.front().line();
    Document document;
    document.ink = design;
    const auto again = files::readDesignText(files::writeDesignText(document, library()), "random", library());
    ASSERT_TRUE(again) << again.error().line();
    ASSERT_TRUE(difference(design, again->document.ink, library()).empty());
    if (i % 3 == 0)
      expectDrawingShowsNetlist(design);
    else
      ASSERT_FALSE(drawRun(design, library()).parts.empty());
    const auto circuit = compile(design, library());
    ASSERT_TRUE(circuit) << circuit.error().line();
    const auto point = predict::predictOperatingPoint(*circuit);
    if (!point) {
      ASSERT_FALSE(point.error().message.empty());
      (point.error().message.find("no DC path") != std::string::npos ? floating : unsolved)++;
      continue;
    }
    ++solved;
    ASSERT_LT(point->dc.residual, 1e-9);
    const auto response = predict::responseOf(*circuit, *point, {"jack", "speaker", circuit::logSpaced(20, 20000, 16)});
    if (response) {
      for (const double level : response->decibels)
        ASSERT_TRUE(std::isfinite(level));
    } else {
      ASSERT_FALSE(response.error().message.empty());
    }
  }
  std::printf("random designs: %d solved, %d with a node without DC path, %d without an operating point\n", solved,
              floating, unsolved);
  EXPECT_EQ(unsolved, 0);
  EXPECT_GT(solved, testing_support::trials(1000));
}

/// The same from the mains: every front end with every reservoir, its steady state found or the reason told.
TEST(RandomDesigns, FromTheMainsLoadSolveAndDraw) {
  VINEGAR_LONG_TEST(numbers);
  std::mt19937 random(1904);
  int solved = 0, unsolved = 0;
  for (int i = 0; i < 150; ++i) {
    const auto design = randomDesign(random, i % 2 ? 4 : 0.6, true);
    SCOPED_TRACE("design " + std::to_string(i));
    expectDrawingShowsNetlist(design);
    const auto circuit = compile(design, library());
    ASSERT_TRUE(circuit) << circuit.error().line();
    const auto point = predict::predictOperatingPoint(*circuit);
    if (!point) {
      ASSERT_FALSE(point.error().message.empty());
      if (point.error().message.find("no DC path") == std::string::npos) ++unsolved;
      continue;
    }
    ++solved;
    ASSERT_LT(point->dc.residual, 1e-9);
    // Of a dead supply the slopes are a guess, and where nothing is drawn insulation alone makes a rail behind an open
    // switch.
    const double near = point->supply->loadAmps > 0 ? 0.002 : 0.05;
    for (const auto& rail : circuit->rails)
      ASSERT_NEAR(point->volts(rail.node), point->supply->meanVolts(rail.node),
                  0.05 + near * std::abs(point->volts(rail.node)))
          << rail.name;
  }
  std::printf("random designs from the mains: %d solved, %d without a steady state\n", solved, unsolved);
  // Half of them have values up to fifty times off: mains that are switched off, a rectifier without a capacitor worth
  // the name. Of those a few may be refused; the sensible ones below may not.
  EXPECT_LE(unsolved, 5);
  EXPECT_GT(solved, 100);
}

TEST(RandomDesigns, SensibleOnesAllConverge) {
  VINEGAR_LONG_TEST(numbers);
  std::mt19937 random(42);
  for (int i = 0; i < 500; ++i) {
    const auto circuit = compile(randomDesign(random, 0.95), library());
    ASSERT_TRUE(circuit) << circuit.error().line();
    const auto point = predict::predictOperatingPoint(*circuit);
    if (!point) {
      EXPECT_NE(point.error().message.find("no DC path"), std::string::npos) << i << ": " << point.error().line();
    }
  }
  for (int i = 0; i < 60; ++i) {
    auto design = randomDesign(random, 0.3, true);
    for (const auto& part : resolveParts(design, library()))
      if (part.part->role == "power-switch") design.knobs.erase(part.name); // on
    const auto circuit = compile(design, library());
    ASSERT_TRUE(circuit) << circuit.error().line();
    const auto point = predict::predictOperatingPoint(*circuit);
    if (!point) {
      EXPECT_NE(point.error().message.find("no DC path"), std::string::npos) << i << ": " << point.error().line();
    }
  }
}

TEST(Compile, ResultsDoNotDependOnTheOrderOfTheSupplyInTheFile) {
  auto design = sample("slipway").ink;
  const auto before = testing_support::solve(design);
  std::reverse(design.sides.begin(), design.sides.end());
  for (auto& use : design.line)
    use.id = "x" + use.id; // node numbering and naming follow the ids
  design.sides[0].from = "xoutput.out";
  design.sides[0].to = "xdriver.cathodeFoot";
  const auto after = testing_support::solve(design);
  for (const auto& part : before.point.parts)
    EXPECT_NEAR(after.point.part(part.name)->volts, part.volts, 1e-6) << part.name;
}

TEST(Bottles, HalvesShareAndSparesAreNamed) {
  const auto harbour = testing_support::sample("harbour-office").ink;
  const auto spares = spareHalves(harbour, library());
  ASSERT_EQ(spares.size(), 1U);
  EXPECT_EQ(spares[0].name, "V1b");
  EXPECT_EQ(spares[0].type, "12AT7");
  EXPECT_TRUE(spareHalves(testing_support::sample("slipway").ink, library()).empty());

  // A triode stage and a pentode output take the two halves of one mixed bottle; a second triode opens another.
  Design mixed;
  const auto stage = [](const char* id, const char* section, const char* tube) {
    SectionUse use{id, section, {}, {}, {}, {}};
    use.parts["V"].settings["tube"] = std::string(tube);
    return use;
  };
  mixed.line = {stage("one", "triode-common-cathode", "ECL82:triode"),
                stage("two", "triode-common-cathode", "ECL82:triode"),
                stage("out", "single-ended-pentode", "ECL82:pentode")};
  nameParts(mixed, library());
  EXPECT_EQ(mixed.line[0].parts["V"].name, "V1a");
  EXPECT_EQ(mixed.line[1].parts["V"].name, "V2a");
  EXPECT_EQ(mixed.line[2].parts["V"].name, "V2b");
  const auto left = spareHalves(mixed, library());
  ASSERT_EQ(left.size(), 1U);
  EXPECT_EQ(left[0].type, "ECL82:pentode");
}

} // namespace
} // namespace vinegar::amp
