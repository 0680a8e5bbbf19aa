// Numbers that follow the signal.
#include "amp/acts/acts.h"
#include "amp/acts/numbering.h"
#include "files/design_file.h"
#include "predict/rest/idle.h"
#include "support/paths.h"
#include "support/samples.h"

#include <filesystem>
#include <gmock/gmock.h>
#include <gtest/gtest.h>

namespace vinegar::amp {
namespace {

using testing_support::library;
using testing_support::sample;

std::vector<std::string> allNames(const Design& design) {
  std::vector<std::string> names;
  for (const auto& part : resolveParts(design, library()))
    names.push_back(part.name);
  std::sort(names.begin(), names.end());
  return names;
}

/// What is beside which part: the name of each by its place in the amplifier.
std::map<std::string, std::string> byPlace(const Design& design) {
  std::map<std::string, std::string> names;
  for (const auto* use : design.sections())
    for (const auto& [ref, part] : use->parts)
      names[use->id + "/" + ref] = part.name;
  return names;
}

TEST(Numbering, FollowsTheSignalAndEndsWithTheSupply) {
  auto document = sample("chandlery");
  EXPECT_FALSE(renumber(document, library(), "2026-12-02T10:00:00+00:00").empty());
  std::vector<std::string> line;
  for (const auto& use : document.ink.line)
    for (const auto& [ref, part] : use.parts)
      if (part.name.starts_with("V")) line.push_back(bottleOf(part.name));
  ASSERT_FALSE(line.empty());
  EXPECT_EQ(line.front(), "V1");
  int last = 0;
  for (const auto& part : resolveParts(document.ink, library()))
    if (part.part->kind == PartKind::rectifier && part.name.starts_with("V")) last = std::stoi(part.name.substr(1));
  for (const auto& name : allNames(document.ink))
    if (name.starts_with("V") && std::isdigit(static_cast<unsigned char>(name[1]))) {
      EXPECT_LE(std::stoi(name.substr(1)), last);
    }
  EXPECT_TRUE(check(document.ink, library()).empty());
  EXPECT_TRUE(numbersBySignal(document.ink, library()).empty()); // once is enough
  EXPECT_NE(describe(document.log.back().marks[0], document.ink, document.ink, library()).find("is now V1a"),
            std::string::npos);
}

/// Bottles hold the tubes they held, nothing but names is another, and the log leads back.
TEST(Numbering, IsAnotherNameForTheSameAmplifier) {
  for (const char* name : {"slipway", "net-loft", "harbour-office", "chandlery"}) {
    SCOPED_TRACE(name);
    const auto before = sample(name);
    auto document = before;
    document.measured = {{"V2a", {{"plate", 140}}}};
    document.targets["bright"].parts = {"C4", "V2a"};
    document.targets["bright"].atHand = {{"V2a", {1}}};
    const auto names = renumber(document, library(), "2026-12-02T10:00:00+00:00");
    const auto old = byPlace(before.ink), now = byPlace(document.ink);
    std::map<std::string, std::string> bottles;
    for (const auto& [place, was] : old) {
      const auto& is = now.at(place);
      EXPECT_EQ(is, names.contains(was) ? names.at(was) : was);
      if (bottleOf(was) == was) continue;
      const auto [found, isNew] = bottles.try_emplace(bottleOf(was), bottleOf(is));
      EXPECT_EQ(found->second, bottleOf(is));
    }
    auto unique = allNames(document.ink);
    EXPECT_EQ(std::unique(unique.begin(), unique.end()), unique.end());
    EXPECT_EQ(document.ink.knobs, before.ink.knobs);
    EXPECT_EQ(document.measured.begin()->first, names.contains("V2a") ? names.at("V2a") : "V2a");
    EXPECT_EQ(document.targets["bright"].parts[1], document.measured.begin()->first);
    EXPECT_EQ(document.targets["bright"].atHand.begin()->first, document.measured.begin()->first);
    if (names.empty()) continue;
    EXPECT_EQ(*atRevision(document, library(), before.revision()), before.ink);
    const auto was = predict::predictIdle(before.ink, library()), is = predict::predictIdle(document.ink, library());
    ASSERT_TRUE(was && is);
    const auto watts = [](const predict::Idle& idle) {
      std::vector<double> all;
      for (const auto& tube : idle.point.tubes)
        all.push_back(tube.plateWatts);
      std::sort(all.begin(), all.end());
      return all;
    };
    EXPECT_THAT(watts(*is), testing::Pointwise(testing::DoubleNear(1e-6), watts(*was)));
    const auto text = files::writeDesignText(document, library());
    EXPECT_EQ(files::readDesignText(text, "x", library())->document, document);
  }
}

/// Pencil on every sheet goes with its part, and what is pencilled in keeps a name of its own.
TEST(Numbering, TakesThePencilAlong) {
  auto document = sample("chandlery");
  const auto cathode = byPlace(document.ink);
  pencil(document, library(), "R47", "value", 120e3);
  document.sheets.push_back({"other", {}, {}});
  document.activeSheet = 1;
  const auto first = document.ink.line[2].id;
  pencil(document, library(),
         *insertSection(pencilled(document, library()), library(), NameBook(document), {"line", first},
                        "triode-common-cathode"));
  const auto names = renumber(document, library(), "2026-12-02T10:00:00+00:00");
  const auto* field = document.sheets[0].marks.at(0).field();
  ASSERT_NE(field, nullptr);
  EXPECT_EQ(field->part, names.contains("R47") ? names.at("R47") : "R47");
  EXPECT_EQ(std::get<double>(field->to), 120e3);
  const auto design = pencilled(document, library());
  auto unique = allNames(design);
  EXPECT_EQ(std::unique(unique.begin(), unique.end()), unique.end());
  EXPECT_EQ(design.line.size(), document.ink.line.size() + 1);
  EXPECT_TRUE(remarks(document, library()).empty());
}

/// What waits for a place, as after the section before it was taken out elsewhere, takes no name that the ink has now.
TEST(Numbering, LeavesWhatWaitsANameOfItsOwn) {
  auto document = sample("chandlery");
  const auto before = document.ink.line[2].id;
  pencil(document, library(),
         *insertSection(document.ink, library(), NameBook(document), {"line", before}, "triode-common-cathode"));
  auto& add = std::get<AddSection>(document.sheets[0].marks.at(0).changes.at(0));
  add.spot.after = "gone"; // as a file edited by hand may have it
  for (auto& [ref, part] : add.use.parts)
    if (part.name.starts_with("R")) part.name = "R1"; // once the ink has one
  renumber(document, library(), "2026-12-02T10:00:00+00:00");
  const auto inked = allNames(document.ink);
  ASSERT_EQ(document.sheets[0].marks.size(), 1U);
  for (const auto& [ref, part] : std::get<AddSection>(document.sheets[0].marks[0].changes.at(0)).use.parts)
    EXPECT_FALSE(std::binary_search(inked.begin(), inked.end(), part.name)) << part.name;
}

TEST(Numbering, OfTheSkeletonsFollowsTheSignal) {
  for (const auto& entry : std::filesystem::directory_iterator(testing_support::folder("data") + "/skeletons")) {
    const auto names = numbersBySignal(files::readDesign(entry.path(), library())->document.ink, library());
    for (const auto& [from, to] : names)
      ADD_FAILURE() << entry.path().filename() << ": " << from << " would be " << to;
  }
}

} // namespace
} // namespace vinegar::amp
