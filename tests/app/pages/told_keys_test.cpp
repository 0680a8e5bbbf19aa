// What a table of the window writes as CSV has the columns that the command line writes of the same answer.
#include "app/page_fixture.h"
#include "support/samples.h"
#include "units/json.h"
#include "widgets/figure_sheet.h"

#include <QProcess>
#include <set>

namespace vinegar::app {
namespace {

struct Twins {
  const char *page, *view, *sheet; ///< of the window
  const char *command, *rows;      ///< of the command line; empty: JSON is the rows themselves
};
void PrintTo(const Twins& twins, std::ostream* out) { *out << twins.page << ' ' << twins.view; }

class SameKeys : public PageFixture, public testing::WithParamInterface<Twins> {
protected:
  static std::set<std::string> keysOfCommand(const Twins& twins) {
    QProcess process;
    auto arguments = QString::fromUtf8(twins.command).split(QLatin1Char(' '));
    arguments << QString::fromStdString(testing_support::samplePath("slipway").string()) << QStringLiteral("--format")
              << QStringLiteral("json");
    process.start(QStringLiteral(VINEGAR_CLI), arguments);
    EXPECT_TRUE(process.waitForFinished(120000));
    const auto json = units::parseJson(process.readAllStandardOutput().toStdString(), "the command line");
    EXPECT_TRUE(json) << process.readAllStandardError().toStdString();
    std::set<std::string> keys;
    const auto& rows = *twins.rows ? json->at(twins.rows) : *json;
    EXPECT_FALSE(rows.empty());
    for (const auto& [key, value] : rows.front().items())
      keys.insert(key);
    return keys;
  }
};

TEST_P(SameKeys, InWindowAndCommandLine) {
  const auto& twins = GetParam();
  if (twins.page == std::string_view("Feel")) {
    VINEGAR_LONG_TEST(window);
  }
  openPage(QLatin1String(twins.page));
  openSample("slipway");
  selection_.select("V1a");
  settle();
  page_->restoreView(twins.view);
  settle();
  auto* sheet = child<FigureSheet>(twins.sheet);
  EXPECT_TRUE(page_->saveView().startsWith(twins.view)); // it comes back as it was left
  ASSERT_GT(sheet->rowCount(), 0);
  const auto csv = QString::fromStdString(sheet->csv());
  std::set<std::string> keys;
  for (const auto& key : csv.section(QLatin1Char('\n'), 0, 0).split(QLatin1Char(',')))
    keys.insert(key.toStdString());
  EXPECT_EQ(keys, keysOfCommand(twins));
}

INSTANTIATE_TEST_SUITE_P(
    All, SameKeys,
    testing::Values(Twins{"Stages", "Tubes", "tubes", "stages", "tubes"},
                    Twins{"Stages", "Swap", "swaps", "swap --tube V1a", "types"},
                    Twins{"Levels", "Gain", "gains", "levels", "sections"},
                    Twins{"Levels", "Order", "order", "levels", "limits"},
                    Twins{"Voice", "Curve", "readouts", "readouts", "readings"},
                    Twins{"Voice", "Parts", "ranking", "rank --band 300,600", "steps"},
                    Twins{"Voice", "Builds", "culprits", "tolerance --builds 20", "culprits"},
                    Twins{"Voice", "Hiss", "hissSources", "noise --cures", "sources"},
                    Twins{"Voice", "Hiss", "hissCures", "noise --cures", "cures"},
                    Twins{"Feel", "Rectifiers", "rectifiers", "feel --compare rectifiers", "rows"},
                    Twins{"Feel", "Conditions", "conditions", "feel --compare conditions", "rows"},
                    Twins{"Feel", "Compression", "compression", "feel --compare levels", ""}));

} // namespace
} // namespace vinegar::app
