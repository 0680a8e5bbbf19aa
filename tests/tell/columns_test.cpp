#include "tell/columns.h"

#include "predict/choices/swap.h"
#include "support/bench_design.h"
#include "support/samples.h"
#include "tell/clipping.h"
#include "tell/feel.h"
#include "tell/hiss.h"
#include "tell/levels.h"
#include "tell/proposals.h"
#include "tell/ranking.h"
#include "tell/supply.h"
#include "tell/swaps.h"
#include "tell/tubes.h"
#include "tell/voice.h"

#include <cmath>
#include <gtest/gtest.h>
#include <set>

namespace vinegar::tell {
namespace {

using units::Unit;

struct Thing {
  std::string name;
  std::optional<double> amps, limit;
  double share, change;
};
const Columns<Thing>& things() {
  static const Columns<Thing> columns{
      {{"name", "name"}, &Thing::name},
      {{"plate_amps", "current", Unit::ampere, Style::reading, "", "plate_amps_limit"},
       [](const Thing& t) { return Cell::held(t.amps, t.limit, t.limit && t.amps > t.limit); }},
      {{"share", "share", Unit::none, Style::share}, &Thing::share},
      {{"change_decibels", "", Unit::decibel, Style::change}, &Thing::change}};
  return columns;
}

TEST(Told, OneListOfColumnsServesTextCsvAndJson) {
  const auto sheet = sheetOf(things(), std::vector<Thing>{{"V1, V2", 0.0125, 0.02, 0.413, -0.04},
                                                          {"=R1", std::nullopt, std::nullopt, 1, 3.25},
                                                          {"\u00b5", NAN, std::nullopt, 0.001, NAN}});
  EXPECT_EQ(csvOf(sheet), "name,plate_amps,plate_amps_limit,share,change_decibels\n"
                          "\"V1, V2\",0.0125,0.02,0.413,-0.04\n"
                          "'=R1,,,1,3.25\n"
                          "\u00b5,,,0.001,\n");
  const auto json = jsonOf(sheet);
  EXPECT_EQ(json[0]["plate_amps_limit"], 0.02);
  EXPECT_TRUE(json[1]["plate_amps"].is_null());
  EXPECT_TRUE(json[2]["change_decibels"].is_null());
  // What has no title is for machines alone; a letter of two bytes is as wide as one.
  EXPECT_EQ(textOf(sheet), "name    current             share\n"
                           "V1, V2  12.5 mA of 20.0 mA  41.3 %\n"
                           "=R1     -                   100.0 %\n"
                           "\u00b5       -                   0.1 %\n");
  const auto& change = things()[3].head;
  EXPECT_EQ(written(change, -0.04), "0.0 dB"); // no "-0.0"
  EXPECT_EQ(written(change, 3.25), "+3.3 dB");
  EXPECT_EQ(written({"gain"}, 0.937), "0.937");
  EXPECT_EQ(written({"mu"}, 1234.5), "1234");
}

/// Every table that is told, of a sample, by the name that a failure is found by.
std::vector<std::pair<std::string, Sheet>> allSheets() {
  static const auto idle = testing_support::sampleAtRest("slipway");
  const auto& library = testing_support::library();
  const auto& design = *idle.circuit->design;
  const auto swaps = *predict::predictSwaps(idle, library, {"V1a"});
  std::vector<ToldSwap> told;
  for (const auto& row : swaps.rows)
    told.push_back({row, row.offered()});
  const auto hiss = *predict::predictHiss(idle, library, {true});
  const auto report = predict::readSupply(*idle.circuit, library, idle.point);
  const predict::BurstQuestion burst{testing_support::hardChord(), 0.3, 6000};
  const auto feel = *predict::predictFeel(idle, library, burst);
  const auto rows = *predict::predictFeelRows(idle, library, {predict::FeelSubject::rectifiers, burst});
  const auto readings = *predict::predictReadouts(idle, library, {});
  const auto other = testing_support::sample("harbour-office").ink;
  predict::FitQuestion wanted;
  wanted.target = {{80, 20}, {1000, 30}, {4000, 30}};
  wanted.parts = {"C4"};
  const auto unplugged = *predict::predictDischarge(idle, library, {true}, {});
  return {
      {"swaps", sheetOf(tell::swaps(), told)},
      {"hiss", sheetOf(hissSources(), hiss.sources)},
      {"cures", sheetOf(hissCures(*idle.circuit), hiss.cures)},
      {"sections", sheetOf(sections(), predict::predictLevels(idle, library, {1000, 0.1, false})->sections)},
      {"steps", sheetOf(rankedSteps(*idle.circuit),
                        predict::predictRanking(idle, library, {"jack", "speaker", 300, 600})->steps)},
      {"limits", sheetOf(limits(), predict::predictClipping(idle, library, {})->limits)},
      {"proposals", sheetOf(proposals(Unit::volt, *idle.circuit),
                            predict::predictProposals(idle, library,
                                                      {"V1a", predict::ProposeQuestion::Wanted::plateVolts, 200, 1000})
                                ->sets)},
      {"stages", sheetOf(stages(), toldStages(*predict::predictStages(idle, library, {1000}),
                                              {{"V1a", {{"plate", 190}, {"cathode", 1.5}}}}))},
      {"dips", sheetOf(dips(), feel.rails)},
      {"bias", sheetOf(biasMoves(), feel.bias)},
      {"stresses", sheetOf(stresses(), feel.stresses)},
      {"rows", sheetOf(feelRows(rows.subject), rows.rows)},
      {"readouts", sheetOf(readouts(design, library, "voice"), readings.all)},
      {"fit", sheetOf(fitSets(*idle.circuit), predict::predictFit(idle, library, wanted)->sets)},
      {"spread", sheetOf(spreads(), spreadOf(*predict::predictTolerance(idle, library, {"jack", "speaker", {}, 20})))},
      {"culprits",
       sheetOf(culprits(), predict::predictTolerance(idle, library, {"jack", "speaker", {}, 20})->culprits)},
      {"differences", sheetOf(differences("here", "there"), differencesOf({design}, {other}, library, "voice"))},
      {"rails", sheetOf(rails(50), rowsOf(report.rails))},
      {"rectifiers", sheetOf(rectifiers(), report.rectifiers)},
      {"windings", sheetOf(windings(), report.windings)},
      {"primaries", sheetOf(primaries(), report.primaries)},
      {"heaters", sheetOf(heaters(), report.heaters)},
      {"heater to cathode", sheetOf(heaterCathodes(), report.heaterCathodes)},
      {"discharge", sheetOf(discharges(), std::vector<ToldDischarge>{{unplugged.rails.front(), true, 1200}})},
      {"findings", sheetOf(findings(), std::vector<audit::Finding>{{"R1", "is hot.", "Cool it.", true}})}};
}

/// Nothing is told twice under one key, no figure is without its unit in the key, and every answer of the sample is
/// whole.
TEST(Told, KeysAreUniqueAndSayTheUnit) {
  for (const auto& [name, sheet] : allSheets()) {
    SCOPED_TRACE(name);
    const auto keys = keysOf(sheet.heads);
    EXPECT_EQ(std::set(keys.begin(), keys.end()).size(), keys.size());
    ASSERT_FALSE(sheet.rows.empty());
    for (const auto& head : sheet.heads) {
      if (head.unit == Unit::none || head.key == "reached") continue;
      bool says = false;
      for (const char* unit : {"volts", "amps", "watts", "ohms", "hertz", "decibels", "siemens", "farads"})
        says = says || head.key.find(unit) != std::string::npos;
      EXPECT_TRUE(says) << head.key;
    }
    for (const auto& row : sheet.rows)
      EXPECT_EQ(row.size(), sheet.heads.size());
  }
}

/// Whole sentences with places, in whatever order another language wants them.
TEST(Told, WordsHavePlacesForValues) {
  const Said said{"%1 to %2", {"50 %1", "%"}}; // what stands in a place is no place itself
  EXPECT_EQ(said.english(), "50 %1 to %");
  EXPECT_EQ(said.filled("von %2 bis %1, %3 100 %"), "von % bis 50 %1, %3 100 %");
  EXPECT_EQ(Said("95 % under %1").english(), "95 % under %1");
}

} // namespace
} // namespace vinegar::tell
