// The builder's acts: sections put in, taken out, replaced, moved, joined; marks of them, ink and the way back.
#include "amp/acts/acts.h"
#include "amp/drawing/drawing.h"
#include "audit/supply_rules.h"
#include "files/design_file.h"
#include "support/bench_design.h"
#include "support/paths.h"
#include "support/random_builder.h"
#include "support/samples.h"

#include <algorithm>
#include <filesystem>
#include <gtest/gtest.h>

namespace vinegar::amp {
namespace {

using testing_support::library;
using testing_support::must;
using testing_support::problemsOf;
using testing_support::RandomBuilder;
using testing_support::sample;

const PartUse& partOf(const Design& design, const std::string& section, const std::string& ref) {
  return design.section(section)->parts.at(ref);
}

TEST(Build, AStagePutInTakesNamesRailAndPlace) {
  auto document = sample("slipway");
  const auto before = document.ink;
  const auto design =
      must(insertSection(before, library(), NameBook(document), {"line", "first"}, "triode-common-cathode"));
  EXPECT_EQ(problemsOf(design), "");
  ASSERT_EQ(design.line.size(), before.line.size() + 1);
  EXPECT_EQ(design.line[2].section, "triode-common-cathode");
  EXPECT_EQ(design.line[2].joins.at("rail"), before.line[1].joins.at("rail"));
  // The stage before hung on the tone stack by a wire; a grid wants its capacitor.
  EXPECT_TRUE(resolvePart(design.line[1], *library().sections.at("triode-common-cathode").part("Cc")).fitted());
  EXPECT_EQ(difference(before, design, library()).size(), 1U);
  // It lifts the gain by what a stage gives.
  const auto gain = [](const Design& d) {
    const auto solved = testing_support::solve(d);
    return predict::responseOf(solved.circuit, solved.point, {"jack", "speaker", {1000}})->decibels[0];
  };
  EXPECT_GT(gain(design), gain(before) + 20);
  pencil(document, library(), design);
  ASSERT_EQ(document.sheet().marks.size(), 1U);
  EXPECT_EQ(pencilled(document, library()), design);
  const auto words = describe(document.sheet().marks[0], before, design, library());
  EXPECT_NE(words.find("ommon-cathode stage V"), std::string::npos) << words;
  EXPECT_NE(words.find("put in after"), std::string::npos) << words;
  EXPECT_NE(words.find("fed from " + before.line[1].joins.at("rail")), std::string::npos) << words;
}

TEST(Build, ATakenOutSectionHandsItsJoinsToItsNeighbour) {
  auto design = sample("slipway").ink; // feedback is taken from the output, in front of the speaker
  design = must(insertSection(design, library(), NameBook({}), {"line", "output"}, "attenuator-l"));
  const auto id = design.line[design.line.size() - 2].id;
  design.sides[0].from = id + ".out";
  ASSERT_EQ(problemsOf(design), "");
  const auto without = must(removeSection(design, library(), id));
  EXPECT_EQ(without.sides[0].from, "output.out");
  EXPECT_EQ(problemsOf(without), "");
}

TEST(Build, ARailTakenOutLeavesItsStagesOnTheRailBefore) {
  const auto design = sample("slipway").ink;
  const auto& last = design.supply.back();
  const auto without = must(removeSection(design, library(), last.id));
  EXPECT_EQ(problemsOf(without), "");
  for (const auto& use : without.line)
    for (const auto& [port, target] : use.joins)
      EXPECT_NE(target, last.node) << use.id;
  testing_support::solve(without);
}

TEST(Build, AReplacedSectionHandsOnNamesValuesAndTubes) {
  auto document = sample("slipway");
  pencil(document, library(), "R3", "value", 150e3);
  const auto before = pencilled(document, library());
  const auto design = must(replaceSection(before, library(), NameBook(document), "first", "triode-switched-bypass"));
  EXPECT_EQ(problemsOf(design), "");
  EXPECT_EQ(partOf(design, "first", "Ra").name, "R3");
  EXPECT_EQ(findPart(design, library(), "R3")->value(), 150e3);
  EXPECT_EQ(partOf(design, "first", "V").name, "V1a");
  EXPECT_EQ(design.section("first")->joins.at("rail"), before.section("first")->joins.at("rail"));
  // Back again: what was handed on comes back, nothing else is touched.
  const auto back = must(replaceSection(design, library(), NameBook(document), "first", "triode-common-cathode"));
  EXPECT_EQ(findPart(back, library(), "R3")->value(), 150e3);
  EXPECT_EQ(partOf(back, "first", "V").name, "V1a");
}

/// What defines the new section comes from it; what its tubes share is made for their number.
TEST(Build, AReplacedOutputStageWorks) {
  const auto document =
      files::readDesign(testing_support::folder("data") + "/skeletons/3-push-pull-cathode-bias.vinegar", library())
          ->document;
  const auto plateAmps = [](const Design& design) {
    std::map<std::string, double> amps;
    const auto solved = testing_support::solve(design);
    for (const auto& tube : solved.point.tubes)
      if (solved.circuit.part(tube.name)->resolved.part->role == "power-tube") amps[tube.name] = tube.plateAmps;
    return amps;
  };
  const auto before = plateAmps(document.ink);
  for (const char* section : {"push-pull-four-cathode-bias", "push-pull-separate-bias", "push-pull-triode-strapped"}) {
    const auto design = must(replaceSection(document.ink, library(), NameBook(document), "push-pull-pentode", section));
    EXPECT_EQ(problemsOf(design), "");
    const auto after = plateAmps(design);
    for (const auto& [name, amps] : after) {
      EXPECT_NEAR(amps / before.begin()->second, 1, 0.15) << section << " " << name;
      EXPECT_EQ(findPart(design, library(), name)->text("tube"), "6V6GT") << section << " " << name;
    }
  }
  // A single bottle doubled, its transformer made for two.
  const auto single = sample("net-loft");
  const auto parallel =
      must(replaceSection(single.ink, library(), NameBook(single), "output", "single-ended-parallel"));
  const auto one = plateAmps(single.ink);
  for (const auto& [name, amps] : plateAmps(parallel))
    EXPECT_NEAR(amps / one.begin()->second, 1, 0.15) << name;
  EXPECT_NEAR(findPart(parallel, library(), "T1")->value(), findPart(single.ink, library(), "T1")->value() / 2, 200);
  // A cold clipper is cold, and has the bypass that it ships, not the stage's before it.
  const auto slipway = sample("slipway");
  const auto cold = must(replaceSection(slipway.ink, library(), NameBook(slipway), "second", "cold-clipper"));
  const auto& shipped = library().sections.at("cold-clipper");
  for (const auto& part : shipped.parts)
    if (part.role == "cathode-bias") {
      EXPECT_EQ(resolvePart(*cold.section("second"), part).value(), std::get<double>(part.defaults.at("value")));
    }
  // A bridge's heaters stay those of 6.3 V.
  const auto bridge = must(replaceSection(slipway.ink, library(), NameBook(slipway), "mains", "supply-bridge"));
  for (const auto& part : resolveParts(bridge, library()))
    if (part.part->kind == PartKind::heaters) {
      EXPECT_EQ(part.value(), 6.3);
    }
  testing_support::solve(bridge);
}

/// A section nobody has is an empty frame: it can be doubled, moved, taken out and replaced, and never crashes.
TEST(Build, ASectionThatNobodyHasCanBeHandled) {
  auto document = sample("net-loft");
  document.ink.section("volume")->section = "nope";
  const auto& design = document.ink;
  const NameBook names(document);
  const auto drawing = drawRun(design, library());
  const auto frame =
      std::find_if(drawing.frames.begin(), drawing.frames.end(), [](const auto& f) { return f.id == "volume"; });
  ASSERT_NE(frame, drawing.frames.end());
  EXPECT_TRUE(frame->isEmpty);
  EXPECT_EQ(frame->title, "nope");
  EXPECT_GT(frame->right - frame->left, 5);
  for (const auto& other : drawing.frames)
    if (&other != &*frame) {
      EXPECT_TRUE(other.right <= frame->left || other.left >= frame->right || other.bottom < frame->top) << other.id;
    }
  EXPECT_TRUE(duplicateSection(design, library(), names, "volume"));
  EXPECT_TRUE(moveSectionBy(design, library(), "volume", 1));
  EXPECT_EQ(problemsOf(must(removeSection(design, library(), "volume"))), "");
  EXPECT_EQ(problemsOf(must(replaceSection(design, library(), names, "volume", "volume"))), "");
  for (const char* chain : {"supply", "line"}) {
    auto other = sample("net-loft").ink;
    other.chain(chain)->back().section = "nope";
    drawRun(other, library(), Form::spread);
    duplicateSection(other, library(), names, other.chain(chain)->back().id);
  }
}

TEST(Build, NamesThatWereTakenOutAreNotGivenAgain) {
  auto document = sample("slipway");
  const auto stage = [&](const std::string& section) {
    return must(
        insertSection(pencilled(document, library()), library(), NameBook(document), {"line", "first"}, section));
  };
  pencil(document, library(), stage("volume"));
  const auto id = pencilled(document, library()).line[2].id;
  const auto name = partOf(pencilled(document, library()), id, "Volume").name;
  ink(document, library(), "in", "2026-11-26T10:00:00+00:00");
  pencil(document, library(), must(removeSection(document.ink, library(), id)));
  ink(document, library(), "out", "2026-11-26T11:00:00+00:00");
  const auto again = stage("volume");
  EXPECT_NE(again.line[2].id, id);
  EXPECT_NE(partOf(again, again.line[2].id, "Volume").name, name);
  // Nor by another sheet at the same time.
  document.sheets.push_back({"other", {}, {}});
  pencil(document, library(), again);
  document.activeSheet = 1;
  const auto other = stage("volume");
  EXPECT_NE(other.line[2].id, again.line[2].id);
  pencil(document, library(), other);
  ink(document, library(), "both", "2026-11-26T12:00:00+00:00");
  document.activeSheet = 0;
  ink(document, library(), "both", "2026-11-26T13:00:00+00:00");
  EXPECT_EQ(problemsOf(document.ink), "");
}

TEST(Build, ATriodePutInTakesTheSpareHalfOfItsBottle) {
  auto document = sample("harbour-office");
  const auto spares = spareHalves(document.ink, library());
  ASSERT_FALSE(spares.empty());
  auto design = must(insertSection(document.ink, library(), NameBook(document), {"line", document.ink.line[1].id},
                                   "triode-common-cathode"));
  // The section's own type is another, so it opens a bottle; of the spare's type it is that half.
  const auto type = std::get<std::string>(library().sections.at(design.line[2].section).part("V")->defaults.at("tube"));
  EXPECT_EQ(design.line[2].parts.at("V").name == spares[0].name, type == spares[0].type);
  SectionUse use{"more", "triode-common-cathode", {}, {{"rail", design.supply.back().node}}, {}, {}};
  use.parts["V"].settings["tube"] = spares[0].type;
  auto same = document.ink;
  same.line.insert(same.line.begin() + 2, use);
  nameParts(same, library());
  EXPECT_EQ(same.line[2].parts.at("V").name, spares[0].name);
  EXPECT_EQ(problemsOf(design), "");
}

TEST(Build, AStageOnTheBenchBringsItsSupply) {
  const auto design = must(insertSection({}, library(), NameBook({}), {"line", ""}, "triode-common-cathode"));
  EXPECT_EQ(problemsOf(design), "");
  ASSERT_EQ(design.supply.size(), 1U);
  EXPECT_GT(testing_support::solve(design).point.tubes.front().plateWatts, 0.01);
}

/// Each shipped start: sound, as large as its name says, and nothing in it over a rating.
TEST(Skeletons, AreAmplifiersWithoutAMistakeOrAFinding) {
  int count = 0;
  for (const auto& file : std::filesystem::directory_iterator(testing_support::folder("data") + "/skeletons")) {
    SCOPED_TRACE(file.path().string());
    ++count;
    const auto loaded = files::readDesign(file.path(), library());
    ASSERT_TRUE(loaded) << loaded.error().line();
    EXPECT_EQ(loaded->note, "");
    const auto& document = loaded->document;
    EXPECT_TRUE(document.log.empty());
    EXPECT_EQ(problemsOf(document.ink), "");
    EXPECT_TRUE(remarks(document, library()).empty());
    const auto solved = testing_support::solve(document.ink);
    for (const auto& tube : solved.point.tubes) {
      if (tube.plateWattsLimit) {
        EXPECT_LT(tube.plateWatts, *tube.plateWattsLimit) << tube.name;
      }
      EXPECT_GT(tube.plateAmps, 1e-4) << tube.name; // every one at work
      EXPECT_LT(tube.gridVolts, 0) << tube.name;    // and biased
    }
    for (const auto& finding : audit::auditIdle(testing_support::atRest(document.ink), library()))
      ADD_FAILURE() << finding.part << ": " << finding.what;
  }
  EXPECT_GE(count, 9);
}

TEST(Build, AStepAlongTheChainIsTheSameAsAMoveToThatPlace) {
  const auto design = sample("slipway").ink;
  const auto idsAfter = [&](const char* id, int places) {
    std::string ids;
    for (const auto& use : must(moveSectionBy(design, library(), id, places)).line)
      ids += use.id + " ";
    return ids;
  };
  EXPECT_EQ(idsAfter("second", 0), idsAfter("input", -1)); // at the start nothing changes
  EXPECT_NE(idsAfter("second", 1), idsAfter("second", 0));
  EXPECT_EQ(idsAfter("second", 1), idsAfter("driver", -1)); // two neighbours change places, whichever moves
  EXPECT_EQ(idsAfter("second", 99).substr(idsAfter("second", 99).size() - 7), "second ");
}

TEST(Build, AReverbBesideTheLineIsOneMarkAndOneChain) {
  auto document = sample("slipway");
  auto design = must(insertSection(document.ink, library(), NameBook(document), {"line", "first"}, "mix-two"));
  const auto mix = design.line[2].id;
  pencil(document, library(), design);
  design = must(insertChain(design, library(), NameBook(document), "reverb",
                            {"reverb-driver", "spring-tank", "triode-common-cathode", "volume"}, "first.out",
                            mix + ".second"));
  EXPECT_EQ(problemsOf(design), "");
  pencil(document, library(), design);
  ASSERT_EQ(document.sheet().marks.size(), 2U);
  EXPECT_EQ(pencilled(document, library()), design);
  // The chain rests on nothing; the mixer is what it ends on, and without it the chain ends on nothing.
  const auto dry = must(removeSection(design, library(), mix));
  EXPECT_EQ(dry.sides.back().to, "open");
  const auto without = must(removeChain(design, library(), "reverb"));
  pencil(document, library(), without);
  EXPECT_EQ(document.sheet().marks.size(), 1U);
}

TEST(Marks, OneThatOthersRestOnTakesThemWithIt) {
  auto document = sample("slipway");
  const auto act = [&](tl::expected<Design, Problem> design) { pencil(document, library(), must(std::move(design))); };
  const auto now = [&] { return pencilled(document, library()); };
  act(insertSection(now(), library(), NameBook(document), {"line", "first"}, "volume"));
  const auto first = now().line[2].id;
  act(insertSection(now(), library(), NameBook(document), {"line", first}, "triode-common-cathode"));
  pencil(document, library(), "R3", "value", 47e3);
  ASSERT_EQ(document.sheet().marks.size(), 3U);
  const auto leaning = leaningOn(document.ink, library(), document.sheet().marks, 0);
  EXPECT_EQ(leaning.size(), 2U); // the stage stands after the volume
  rubOut(document, library(), std::size_t{0});
  ASSERT_EQ(document.sheet().marks.size(), 1U);
  EXPECT_EQ(document.sheet().marks[0].field()->part, "R3");
  // A value of a part that is itself pencilled in is part of that mark.
  act(insertSection(now(), library(), NameBook(document), {"line", "first"}, "triode-common-cathode"));
  const auto load = partOf(now(), now().line[2].id, "Ra").name;
  pencil(document, library(), load, "value", 220e3);
  EXPECT_EQ(document.sheet().marks.size(), 2U);
  EXPECT_EQ(findPart(now(), library(), load)->value(), 220e3);
}

/// A second supply from the same mains: a branch from the other rail, wherever it stands and whatever goes.
TEST(Build, ASupplySectionTakesItsVoltsFromTheOtherRailOfTheMains) {
  auto document = sample("slipway");
  auto design = must(replaceSection(document.ink, library(), NameBook(document), "mains", "supply-two-transformers"));
  const auto end = design.supply.back().id;
  design = must(insertSection(design, library(), NameBook(document), {"supply", end}, "supply-reservoir"));
  const auto head = design.supply.back().id, headNode = design.supply.back().node;
  design = must(insertSection(design, library(), NameBook(document), {"supply", head}, "supply-rc-node"));
  const auto tail = design.supply.back();
  const auto offered = joinsFor(design, library(), head + ".from");
  EXPECT_NE(std::find(offered.begin(), offered.end(), "mains.otherRail"), offered.end());
  const auto ofRails = joinsFor(design, library(), "first.rail");
  EXPECT_EQ(std::find(ofRails.begin(), ofRails.end(), "mains.otherRail"), ofRails.end()); // it has no name as a rail
  design = must(joinPort(std::move(design), library(), head + ".from", "mains.otherRail"));
  EXPECT_EQ(problemsOf(design), "");
  // Both ends bear one name, and no rail runs on into the branch.
  const auto drawing = drawRun(design, library());
  EXPECT_EQ(std::count_if(drawing.flags.begin(), drawing.flags.end(),
                          [](const auto& flag) { return flag.rail == "other supply"; }),
            2);
  // What feeds the second channel hangs on it now; taken apart from its head, the rest goes on from the same rail.
  for (auto* use : design.sections())
    for (auto& [port, target] : use->joins)
      if (target == "D") target = headNode;
  EXPECT_EQ(problemsOf(design), "");
  const auto shorter = must(removeSection(design, library(), head));
  EXPECT_EQ(problemsOf(shorter), "");
  EXPECT_EQ(shorter.section(tail.id)->joins.at("from"), "mains.otherRail");
  bool handedOn = false;
  for (const auto* use : shorter.sections())
    for (const auto& [port, target] : use->joins)
      handedOn = handedOn || target == tail.node;
  EXPECT_TRUE(handedOn);
  // And once the whole branch is gone, what hung on it hangs on the rail before it.
  EXPECT_EQ(problemsOf(must(removeSection(shorter, library(), tail.id))), "");
  // Another mains has no second rail: the branch goes on from the rail before it.
  const auto plain = must(replaceSection(design, library(), NameBook(document), "mains", "supply-full-wave"));
  EXPECT_EQ(problemsOf(plain), "");
  EXPECT_FALSE(plain.section(head)->joins.contains("from"));
  // One that is before it on paper only.
  auto early = design;
  std::swap(early.supply[1], *(early.supply.end() - 2));
  early.section(head)->joins["from"] = "nowhere.otherRail";
  EXPECT_NE(problemsOf(early).find("no rail before it"), std::string::npos);
}

TEST(Marks, ThatHaveNoPlaceAnyMoreWaitAndAreNotInked) {
  auto document = sample("slipway");
  document.sheets.push_back({"other", {}, {}});
  document.activeSheet = 1;
  pencil(document, library(), "R7", "value", 47e3); // of the second stage
  pencil(document, library(), "R3", "value", 47e3);
  document.activeSheet = 0;
  const auto owner = findPart(document.ink, library(), "R7")->section;
  pencil(document, library(), must(removeSection(document.ink, library(), owner)));
  ink(document, library(), "one stage less", "2026-11-26T10:00:00+00:00");
  document.activeSheet = 1;
  ASSERT_EQ(document.sheet().marks.size(), 2U);
  ink(document, library(), "the rest", "2026-11-26T11:00:00+00:00");
  ASSERT_EQ(document.sheet().marks.size(), 1U); // R7 still waits
  EXPECT_EQ(document.sheet().marks[0].field()->part, "R7");
  EXPECT_EQ(document.log.back().marks.size(), 1U);
}

TEST(Marks, ALogThatDoesNotLeadBackIsToldNotGuessed) {
  auto document = sample("slipway");
  document.log.push_back({document.revision() + 1,
                          "2026-11-26T10:00:00+00:00",
                          "edited elsewhere",
                          {{{SetField{"R999", "value", 1e3, 2e3}}}},
                          {}});
  const auto before = atRevision(document, library(), 0);
  ASSERT_FALSE(before);
  EXPECT_NE(before.error().line().find("R999"), std::string::npos) << before.error().line();
}

std::set<std::string> namesIn(const Design& design) {
  std::set<std::string> names;
  for (const auto* use : design.sections())
    for (const auto& [ref, part] : use->parts)
      EXPECT_TRUE(names.insert(part.name).second) << part.name;
  return names;
}

std::size_t changesOn(const PencilSheet& sheet) {
  std::size_t count = 0;
  for (const auto& mark : sheet.marks)
    count += mark.changes.size();
  return count;
}

/// Whatever is done: it compiles, is drawn, saved and read as it is; undone it is what it was; inked it can be walked
/// back; no name is given twice.
TEST(Build, AnySequenceOfActsHoldsTogether) {
  VINEGAR_LONG_TEST(numbers);
  const char* samples[] = {"slipway", "net-loft", "harbour-office", "chandlery"};
  for (int sequence = 0; sequence < testing_support::trials(1000); ++sequence) {
    SCOPED_TRACE("sequence " + std::to_string(sequence));
    RandomBuilder builder(static_cast<unsigned>(sequence));
    auto document = sample(samples[sequence % 4]);
    document.log.clear();
    for (auto& sheet : document.sheets)
      sheet.marks.clear();
    std::vector<Design> inks{document.ink};
    for (int step = 0; step < 60; ++step) {
      const auto next = builder.act(document);
      if (!next) continue;
      const auto before = pencilled(document, library());
      pencil(document, library(), *next);
      ASSERT_EQ(pencilled(document, library()), *next) << "step " << step;
      // The step by itself leads there and back.
      const auto step1 = difference(before, *next, library());
      ASSERT_EQ(settle(before, library(), step1).design, *next) << "step " << step;
      ASSERT_EQ(settle(*next, library(), inverse(step1)).design, before) << "step " << step;
      namesIn(*next);
      if (!document.sheet().marks.empty() && builder.pick(8) == 0) {
        const auto number = builder.pick(document.sheet().marks.size());
        auto rubbed = document;
        std::size_t leaning = 0;
        for (const auto mark : leaningOn(document.ink, library(), document.sheet().marks, number))
          leaning += document.sheet().marks[mark].changes.size();
        rubOut(rubbed, library(), number);
        // By changes: a grid leak fitted for a neighbour is a mark by itself once that is no neighbour any more.
        EXPECT_LE(changesOn(rubbed.sheet()) + leaning, changesOn(document.sheet()));
        for (const auto& fallen : settle(rubbed.ink, library(), rubbed.sheet().marks).fallen)
          EXPECT_FALSE(fallen);
      }
      if (builder.pick(12) == 0) {
        drawRun(*next, library());
        ASSERT_TRUE(compile(*next, library()));
        const auto again = files::readDesignText(files::writeDesignText(document, library()), "x", library());
        ASSERT_TRUE(again) << again.error().line();
        ASSERT_EQ(again->document, document);
        for (const auto& mark : document.sheet().marks)
          ASSERT_FALSE(describe(mark, document.ink, *next, library()).empty());
      }
      if (builder.pick(10) == 0) {
        ink(document, library(), "as it is", "2026-11-26T10:00:00+00:00");
        inks.push_back(document.ink);
        ASSERT_EQ(document.ink, *next);
        ASSERT_TRUE(document.sheet().marks.empty());
      }
    }
    for (std::size_t revision = 0; revision < inks.size(); ++revision) {
      const auto then = atRevision(document, library(), static_cast<int>(revision));
      ASSERT_TRUE(then) << then.error().line();
      ASSERT_EQ(*then, inks[revision]) << "revision " << revision;
    }
  }
}

} // namespace
} // namespace vinegar::amp
