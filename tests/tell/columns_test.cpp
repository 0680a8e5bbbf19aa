#include "tell/columns.h"

#include "predict/choices/swap.h"
#include "support/bench_design.h"
#include "support/samples.h"
#include "tell/clipping.h"
#include "tell/hiss.h"
#include "tell/levels.h"
#include "tell/proposals.h"
#include "tell/ranking.h"
#include "tell/swaps.h"

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
                           "=R1     -                   100 %\n"
                           "\u00b5       -                   0.1 %\n");
  const auto& change = things()[3].head;
  EXPECT_EQ(written(change, -0.04), "0.0 dB"); // no "-0.0"
  EXPECT_EQ(written(change, 3.25), "+3.3 dB");
}

/// Nothing is told twice under one key, no figure is without its unit in the key, and every answer of the sample is
/// whole.
TEST(Told, KeysAreUniqueAndSayTheUnit) {
  const auto idle = testing_support::sampleAtRest("slipway");
  const auto& library = testing_support::library();
  const auto swaps = *predict::predictSwaps(idle, library, {"V1a"});
  std::vector<ToldSwap> told;
  for (const auto& row : swaps.rows)
    told.push_back({row, row.offered()});
  const auto hiss = *predict::predictHiss(idle, library, {true});
  for (const auto& sheet : {sheetOf(tell::swaps(), told), sheetOf(hissSources(), hiss.sources),
                            sheetOf(hissCures(*idle.circuit), hiss.cures),
                            sheetOf(sections(), predict::predictLevels(idle, library, {1000, 0.1, false})->sections),
                            sheetOf(rankedSteps(*idle.circuit),
                                    predict::predictRanking(idle, library, {"jack", "speaker", 300, 600})->steps),
                            sheetOf(limits(), predict::predictClipping(idle, library, {})->limits),
                            sheetOf(proposals(Unit::volt, *idle.circuit),
                                    predict::predictProposals(
                                        idle, library, {"V1a", predict::ProposeQuestion::Wanted::plateVolts, 200, 1000})
                                        ->sets)}) {
    const auto keys = keysOf(sheet.heads);
    EXPECT_EQ(std::set(keys.begin(), keys.end()).size(), keys.size());
    ASSERT_FALSE(sheet.rows.empty()) << keys.front();
    for (const auto& head : sheet.heads) {
      if (head.unit == Unit::none || std::string_view(head.key) == "reached") continue;
      const std::string_view key = head.key;
      bool says = false;
      for (const char* unit : {"volts", "amps", "watts", "ohms", "hertz", "decibels", "volts_rms"})
        says = says || key.ends_with(unit);
      EXPECT_TRUE(says) << key;
    }
    for (const auto& row : sheet.rows)
      EXPECT_EQ(row.size(), sheet.heads.size());
  }
}

} // namespace
} // namespace vinegar::tell
