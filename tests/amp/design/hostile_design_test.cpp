// Amplifiers that cannot work are told what is wrong and where; what is merely odd is told and stands in nobody's way.
#include "amp/acts/acts.h"
#include "amp/compile/compile.h"
#include "amp/drawing/drawing.h"
#include "files/design_file.h"
#include "support/samples.h"
#include "units/file.h"
#include "units/json.h"

#include <functional>
#include <gtest/gtest.h>

namespace vinegar::amp {
namespace {

using testing_support::library;
using testing_support::sample;

struct Wrong {
  const char* what;
  std::function<void(Design&)> make;
  const char *place, *says;
};

SectionUse& supplyOf(Design& d, const std::string& id) {
  return *std::find_if(d.supply.begin(), d.supply.end(), [&](const auto& use) { return use.id == id; });
}

TEST(Check, TellsWhyAnAmplifierCannotWork) {
  const std::vector<Wrong> cases{
      {"joined to itself", [](Design& d) { supplyOf(d, "reservoir").joins["from"] = "A"; }, "reservoir",
       "no rail before"},
      {"from a later rail", [](Design& d) { supplyOf(d, "choke").joins["from"] = "D"; }, "choke", "no rail before"},
      {"from a signal", [](Design& d) { supplyOf(d, "choke").joins["from"] = "first.out"; }, "choke", "no rail before"},
      {"in reversed order", [](Design& d) { std::reverse(d.supply.begin(), d.supply.end()); }, "drop2", "none"},
      {"two mains",
       [](Design& d) {
         auto second = d.supply.front();
         second.id = "again";
         second.node = "K2";
         second.parts.clear();
         d.supply.push_back(second);
       },
       "again", "second connection to the mains"},
      {"a rail by join", [](Design& d) { supplyOf(d, "choke").joins["node"] = "A"; }, "choke", "named by its node"},
      {"a rail called 0", [](Design& d) { d.supply.back().node = "0"; }, "drop2", "cannot be called"},
      {"a rail called ground", [](Design& d) { d.supply.back().node = "ground"; }, "drop2", "cannot be called"},
      {"a rail with a dot", [](Design& d) { d.supply.back().node = "first.out"; }, "drop2", "cannot be called"},
      {"a stage on ground", [](Design& d) { d.line[1].joins["rail"] = "ground"; }, "first", "needs a supply node"},
      {"a stage on nothing", [](Design& d) { d.line[1].joins["rail"] = "open"; }, "first", "needs a supply node"},
      {"feedback from nowhere", [](Design& d) { d.sides[0].from.clear(); }, "feedback", "joined to nothing"},
      {"feedback to nowhere", [](Design& d) { d.sides[0].to.clear(); }, "feedback", "joined to nothing"},
      {"a port on itself", [](Design& d) { d.sides[0].to = "feedback.to"; }, "feedback", "itself"}};
  for (const auto& wrong : cases) {
    auto design = sample("slipway").ink;
    ASSERT_TRUE(check(design, library()).empty());
    wrong.make(design);
    const auto problems = check(design, library());
    const auto found = std::find_if(problems.begin(), problems.end(), [&](const Problem& p) {
      return p.place == wrong.place && p.message.find(wrong.says) != std::string::npos;
    });
    EXPECT_NE(found, problems.end()) << wrong.what << ": " << problems.size() << " "
                                     << (problems.empty() ? "" : problems.front().line());
    EXPECT_FALSE(compile(design, library())) << wrong.what;
    drawRun(design, library()); // is drawn as far as it goes
  }
}

/// What the rules must not refuse.
TEST(Check, ABranchFromAnyRailBeforeItWorks) {
  auto design = sample("slipway").ink;
  for (const char* from : {"A", "B", "C"}) {
    supplyOf(design, "drop2").joins["from"] = from;
    EXPECT_TRUE(check(design, library()).empty()) << from;
    const auto solved = testing_support::solve(design);
    EXPECT_LT(solved.point.volts(solved.circuit.probe("D")), solved.point.volts(solved.circuit.probe(from))) << from;
  }
}

/// Chains and sections of one name, or none: each gets its own when the file is read, which is told, and can then be
/// pencilled, taken out and walked back like any other.
TEST(HostileFile, NamesGivenTwiceAreToldApart) {
  auto json = units::Json::parse(*units::readFile(testing_support::samplePath("chandlery")));
  json["sides"][0]["id"] = "line";
  json["sides"][1]["id"] = json["sides"][2]["id"] = "same";
  json["sides"][3]["id"] = "";
  json["line"][2]["id"] = json["line"][3]["id"];
  json["sides"][1]["sections"][2]["id"] = "a.b";
  const auto loaded = files::readDesignText(json.dump(), "x", library());
  ASSERT_TRUE(loaded) << loaded.error().line();
  for (const char* told : {"\"line-2\"", "\"same-2\"", "\"side\"", "\"stack-2\"", "\"section\""})
    EXPECT_NE(loaded->note.find(told), std::string::npos) << told << " in " << loaded->note;
  auto document = loaded->document;
  EXPECT_TRUE(check(document.ink, library()).empty());
  const auto before = document.ink;
  int acts = 0;
  for (const auto* use : std::as_const(before).sections()) {
    const auto next = removeSection(pencilled(document, library()), library(), use->id);
    if (!next) continue; // went with its chain
    pencil(document, library(), *next);
    EXPECT_EQ(pencilled(document, library()), *next) << use->id;
    ++acts;
  }
  EXPECT_GT(acts, 20);
  ink(document, library(), "all of it", "2026-11-26T10:00:00+00:00");
  EXPECT_EQ(*atRevision(document, library(), static_cast<int>(document.log.size()) - 1), before);
}

/// In memory, where nobody has told them apart: no act may fall over it.
TEST(HostileFile, ActsOnChainsOfOneNameDoNotFall) {
  for (const char* name : {"line", "supply", "reverb", ""}) {
    Document document = sample("chandlery");
    document.ink.sides[2].id = name;
    EXPECT_FALSE(check(document.ink, library()).empty()) << name;
    for (const auto* use : std::as_const(document.ink).sections()) {
      for (const auto& next :
           {removeSection(document.ink, library(), use->id), moveSectionBy(document.ink, library(), use->id, 1),
            duplicateSection(document.ink, library(), NameBook(document), use->id)})
        if (next) pencil(document, library(), *next);
      pencilled(document, library());
      rubOutAll(document);
    }
    apply(document.ink, library(), RemoveChain{{}, {name, {}, {}, {}, {}}});
  }
}

TEST(Remarks, TellWhatIsOddAndKeepIt) {
  const auto text = R"({"format":"vinegar-design","version":1,"name":"odd","shelf":3,
    "line":[{"id":"in","section":"line-input","glued":true},
            {"id":"v","section":"volume","parts":{"Volume":{"name":"Volume","vaule":"1M"}}},
            {"id":"out","section":"single-ended-pentode","joins":{"rail":"A","plate":"A","screen":"A","plates":"A","screens":"A"}},
            {"id":"s","section":"speaker-load"}],
    "supply":[{"id":"b","section":"supply-fixed-reservoir","node":"A"}],
    "knobs":{"Volume":0.5,"Gain":0.5},
    "sheets":[{"name":"s","changes":[{"part":"R99","field":"value","from":1,"to":2},
                                     {"part":"Volume","field":"value","from":1e6,"to":-5},
                                     {"part":"Volume","field":"colour","from":1,"to":2,"mood":"blue"}]}]})";
  const auto loaded = files::readDesignText(text, "odd", library());
  ASSERT_TRUE(loaded) << loaded.error().line();
  std::string all;
  for (const auto& remark : remarks(loaded->document, library()))
    all += remark.line() + "\n";
  for (const char* said : {"\"shelf\"", "\"glued\"", "\"vaule\"", "Gain: is the name of no knob", "s: R99: no part",
                           "s: Volume: Value must lie between", "has no setting \"colour\"", "\"mood\""})
    EXPECT_NE(all.find(said), std::string::npos) << said << " in\n" << all;
  const auto again = files::writeDesignText(loaded->document, library());
  for (const char* kept : {"shelf", "glued", "vaule", "mood", "Gain", "R99"})
    EXPECT_NE(again.find(kept), std::string::npos) << kept;
  for (const char* name : {"slipway", "net-loft", "harbour-office", "chandlery"})
    EXPECT_TRUE(remarks(sample(name), library()).empty()) << name;
}

TEST(Shape, FollowsWhatIsDrawnAndNothingElse) {
  const auto ink = sample("slipway").ink;
  const auto shape = [&](const std::vector<SetField>& changes) {
    return shapeOf(withChanges(ink, library(), changes), library());
  };
  EXPECT_EQ(shape({{"R3", "value", 120e3, 100e3}}), shapeOf(ink, library()));
  EXPECT_FALSE(shape({{"C2", "fitted", true, false}}) == shapeOf(ink, library()));
  // A bottle becomes a pair of silicon diodes.
  EXPECT_FALSE(shape({{"V5", "tube", std::string("5Y3GT"), std::string("1N4007")}}) == shapeOf(ink, library()));
  const auto silicon =
      drawRun(withChanges(ink, library(), {{"V5", "tube", std::string("5Y3GT"), std::string("1N4007")}}), library());
  EXPECT_TRUE(silicon.part("V5")->silicon);
}

TEST(ChangesFor, AMixedBottleChangesToTheOtherTypesOwnHalves) {
  Design design;
  design.name = "mixed";
  design.supply = {{"b", "supply-fixed-reservoir", {}, {}, "A", {}}};
  design.line = {
      {"in", "line-input", {}, {}, {}, {}},
      {"first",
       "triode-common-cathode",
       {{"V", {"V1a", {{"tube", std::string("ECL82:triode")}}, {}}}},
       {{"rail", "A"}},
       {},
       {}},
      {"out", "single-ended-pentode", {{"V", {"V1b", {{"tube", std::string("ECL82:pentode")}}, {}}}}, {}, {}, {}},
      {"s", "speaker-load", {}, {}, {}, {}}};
  for (const auto& rail : library().sections.at("single-ended-pentode").railPorts)
    design.line[2].joins[rail] = "A";
  nameParts(design, library());
  ASSERT_EQ(bottleOf("V1a"), bottleOf("V1b"));
  const auto after = [&](const char* type) {
    return withChanges(design, library(), changesFor(design, library(), "V1a", "tube", std::string(type)));
  };
  EXPECT_EQ(findPart(after("ECL86:triode"), library(), "V1b")->text("tube"), "ECL86:pentode");
  EXPECT_TRUE(check(after("ECL86:triode"), library()).empty());
  // A twin triode has no pentode to give: the other half stays what it is.
  EXPECT_EQ(findPart(after("12AX7"), library(), "V1b")->text("tube"), "ECL82:pentode");
  EXPECT_TRUE(check(after("12AX7"), library()).empty());
}

/// Thousands of sections and knobs: each would take minutes if anything looked everything up for everything.
TEST(LargeDesigns, AreReadCheckedDrawnAndWrittenInTheTimeTheirSizeTakes) {
  auto document = sample("slipway");
  std::vector<SectionUse> many;
  for (int i = 0; i < 1500; ++i) {
    const auto n = std::to_string(i);
    many.push_back({"stage" + n, "triode-common-cathode", {}, {{"rail", "D"}}, {}, {}});
    many.push_back({"volume" + n, "volume", {}, {}, {}, {}});
  }
  document.ink.line.insert(document.ink.line.begin() + 4, many.begin(), many.end());
  for (int i = 0; i < 30000; ++i)
    document.ink.knobs["Unknown " + std::to_string(i)] = 0.5;
  const auto loaded = files::readDesignText(files::writeDesignText(document, library()), "large", library());
  ASSERT_TRUE(loaded) << loaded.error().line();
  const auto& ink = loaded->document.ink;
  EXPECT_TRUE(check(ink, library()).empty());
  EXPECT_EQ(remarks(loaded->document, library()).size(), 1U); // all unknown knobs are one remark
  EXPECT_GT(drawRun(ink, library()).parts.size(), 12000U);
  const auto solved = testing_support::solve(ink);
  EXPECT_EQ(solved.point.tubes.size(), 1506U);
  // The pages' answers are not waited for at that size, and say why.
  const auto idle = predict::predictIdle(ink, library());
  ASSERT_FALSE(idle);
  EXPECT_NE(idle.error().message.find("3015 sections"), std::string::npos) << idle.error().line();
  EXPECT_EQ(difference(ink, withChanges(ink, library(), {{"R3", "value", 120e3, 100e3}}), library()).size(), 1U);
}

} // namespace
} // namespace vinegar::amp
