// The Stages and Levels pages by mouse and keyboard, their numbers against a fresh solve.
#include "app/page_fixture.h"
#include "pages/kit/page_view.h"
#include "plots/curve_plot.h"
#include "predict/levels/clip_order.h"
#include "predict/levels/levels.h"
#include "predict/stages/propose.h"
#include "predict/stages/stages.h"
#include "tell/swaps.h"
#include "widgets/figure_sheet.h"
#include "widgets/figure_table.h"

#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QRegularExpression>
#include <QToolButton>
#include <algorithm>
#include <numbers>
#include <numeric>
#include <random>

namespace vinegar::app {
namespace {

using testing_support::library;

class StagesFixture : public PageFixture {
protected:
  ViewsPage* views() { return static_cast<ViewsPage*>(page_.get()); }
  void view(const char* id) {
    QTest::mouseClick(child<QPushButton>((std::string("view ") + id).c_str()), Qt::LeftButton);
    settle();
  }
  predict::Idle solved(const amp::Design& design) {
    auto idle = predict::predictIdle(design, library());
    EXPECT_TRUE(idle);
    return std::move(*idle);
  }
  QString text(const char* label) { return child<QLabel>(label)->text(); }
  /// The first number after a word in a table told as text.
  static double after(const QString& text, const QString& word) {
    const auto at = text.indexOf(word);
    EXPECT_GE(at, 0) << word.toStdString() << " in " << text.toStdString();
    return text.mid(at + word.size()).trimmed().section(QLatin1Char(' '), 0, 0).toDouble();
  }
  int rowOf(FigureSheet* sheet, const QString& start) {
    for (int r = 0; r < sheet->rowCount(); ++r)
      for (int c = 0; c < 3; ++c)
        if (sheet->text(r, c).startsWith(start)) return r;
    ADD_FAILURE() << start.toStdString();
    return 0;
  }
};

TEST_F(StagesFixture, ATubesReadingsAreThoseOfAFreshSolveInInkAndPencil) {
  openSample("slipway");
  openPage(QStringLiteral("Stages"));
  selection_.select("V1b");
  settle();
  pencil("R9", 2700.0);
  pencil("R4", 2700.0);
  selection_.select("V1a");
  settle();
  const auto ink = predict::predictStage(solved(session_.document().ink), library(), "V1a");
  const auto now = predict::predictStage(solved(session_.pencilled()), library(), "V1a");
  const auto table = child<FigureTable>("stageReadings")->text();
  EXPECT_NEAR(after(table, QStringLiteral("; current")), 1e6 * ink->tube.plateAmps, 1);
  EXPECT_TRUE(table.contains(QString::fromStdString(units::reading(now->tube.plateAmps, units::Unit::ampere))));
  EXPECT_TRUE(text("stageVerdict").startsWith(QStringLiteral("V1a sits")));
  // A dot for ink and one for the pencil, the load lines through both.
  const auto& picture = views()->plot()->picture();
  ASSERT_EQ(picture.dots.size(), 2U);
  EXPECT_NEAR(picture.dots[0].x, ink->tube.plateVolts, 0.1);
  EXPECT_NEAR(picture.dots[1].x, now->tube.plateVolts, 0.1);
  EXPECT_FALSE(picture.dots[0].movable);
  EXPECT_TRUE(picture.dots[1].movable);
}

TEST_F(StagesFixture, InkAndPencilBothHaveRoomInTheReadings) {
  openSample("slipway");
  openPage(QStringLiteral("Stages"));
  pencil("R4", 3300.0);
  pencil("R28", 330.0);
  for (const char* tube : {"V1a", "V1b", "V3"}) {
    selection_.select(tube);
    settle();
    const auto* table = child<FigureTable>("stageReadings");
    ASSERT_GE(table->rows().size(), 15U) << tube;
    EXPECT_LE(table->neededWidth(), table->width()) << tube << ": " << table->text().toStdString();
  }
}

/// In the narrowest window and at its widest the views' titles stand in full.
TEST_F(StagesFixture, ViewsHaveRoomInANarrowWindowAndStandBesideTheTitleInAWideOne) {
  openSample("slipway");
  openPage(QStringLiteral("Stages"));
  const auto buttons = page_->findChildren<QPushButton*>(QRegularExpression(QStringLiteral("^view ")));
  ASSERT_GT(buttons.size(), 3);
  QWidget window; // a page of its own would not become narrower than it likes
  page_->setParent(&window);
  window.resize(1200, 600);
  window.show();
  page_->show();
  for (const int width : {610, 1100, 610}) {
    page_->setGeometry(0, 0, width, 500);
    settle();
    for (const auto* button : buttons)
      EXPECT_GE(button->width(), button->sizeHint().width()) << button->text().toStdString() << " at " << width;
    const int title = page_->findChild<QToolButton*>(QStringLiteral("export"))->mapTo(page_.get(), QPoint()).y();
    const int views = buttons.front()->mapTo(page_.get(), QPoint()).y();
    EXPECT_EQ(views - title > 10, width < 800) << width;
  }
  page_->setParent(nullptr);
}

TEST_F(StagesFixture, ThePointIsDraggedAndARowPencilledIn) {
  openSample("slipway");
  openPage(QStringLiteral("Stages"));
  page_->resize(1000, 600);
  selection_.select("V1a");
  settle();
  auto* plot = views()->plot()->plot();
  const auto dot = views()->plot()->picture().dots.front();
  const QPoint from(qRound(plot->xAxis->coordToPixel(dot.x)), qRound(plot->yAxis->coordToPixel(dot.y)));
  const QPoint to(qRound(plot->xAxis->coordToPixel(dot.x + 25)), from.y());
  QTest::mousePress(plot, Qt::LeftButton, {}, from);
  QTest::mouseMove(plot, (from + to) / 2);
  QTest::mouseMove(plot, to);
  EXPECT_TRUE(text("proposed").contains(QStringLiteral("?")));
  QTest::mouseRelease(plot, Qt::LeftButton, {}, to);
  settle();
  auto* sets = child<FigureSheet>("proposals");
  ASSERT_TRUE(sets->isVisible());
  ASSERT_GT(sets->rowCount(), 0);
  ASSERT_LE(sets->rowCount(), 5);
  const double promised = sets->text(0, 2).section(QLatin1Char(' '), 0, 0).toDouble();
  auto* button = sets->findChild<QPushButton*>(QStringLiteral("pencil ") + sets->text(0, 1));
  ASSERT_NE(button, nullptr);
  QTest::mouseClick(button, Qt::LeftButton);
  settle();
  EXPECT_FALSE(session_.document().sheet().marks.empty());
  const auto now = predict::predictStage(solved(session_.pencilled()), library(), "V1a");
  EXPECT_NEAR(now->tube.plateVolts + now->tube.cathodeVoltsToGround, promised, 0.6);
  EXPECT_NEAR(promised, dot.x + 25, 30);
}

TEST_F(StagesFixture, AWantedValueIsTypedAndNonsenseSaysSo) {
  openSample("slipway");
  openPage(QStringLiteral("Stages"));
  selection_.select("V1a");
  settle();
  auto* value = child<QLineEdit>("wantedValue");
  QTest::keyClicks(value, QStringLiteral("lots"));
  QTest::keyClick(value, Qt::Key_Return);
  EXPECT_FALSE(text("proposed").isEmpty());
  EXPECT_FALSE(child<FigureSheet>("proposals")->isVisible());
  value->clear();
  QTest::keyClicks(value, QStringLiteral("180V"));
  QTest::keyClick(value, Qt::Key_Return);
  settle();
  EXPECT_TRUE(child<FigureSheet>("proposals")->isVisible());
  // Another tube has other ways.
  selection_.select("V1b");
  settle();
  EXPECT_FALSE(child<FigureSheet>("proposals")->isVisible());
}

TEST_F(StagesFixture, AMetersReadingIsTypedKeptAndExplained) {
  openSample("slipway");
  openPage(QStringLiteral("Stages"));
  page_->resize(1100, 500);
  selection_.select("V1a");
  view("Tubes");
  auto* table = child<FigureSheet>("tubes");
  const int row = rowOf(table, QStringLiteral("V1a"));
  const double predicted = table->text(row, 3).section(QLatin1Char(' '), 0, 0).toDouble();
  // As a builder does: the cell, then the keys.
  table->setCurrentIndex(table->model()->index(row, 4));
  QTest::keyClick(table->viewport(), Qt::Key_F2);
  auto* editor = table->viewport()->findChild<QLineEdit*>();
  ASSERT_NE(editor, nullptr);
  editor->selectAll();
  QTest::keyClicks(editor, QStringLiteral("190V"));
  QTest::keyClick(editor, Qt::Key_Return);
  settle();
  ASSERT_TRUE(QTest::qWaitFor([this] { return !session_.document().measured.empty(); }, 2000));
  settle();
  EXPECT_DOUBLE_EQ(session_.document().measured.at("V1a").at("plate"), 190);
  EXPECT_EQ(table->text(row, 4), QStringLiteral("190.0 V"));
  EXPECT_TRUE(table->text(row, 5).startsWith(QStringLiteral("+%1").arg(100 * (190 / predicted - 1), 0, 'f', 0)));
  EXPECT_TRUE(text("meaning").contains(QStringLiteral("best by"))) << text("meaning").toStdString();
  EXPECT_EQ(session_.undoName(), QStringLiteral("reading at V1a"));
  session_.undo();
  settle();
  EXPECT_TRUE(session_.document().measured.empty());
}

TEST_F(StagesFixture, AScreensReadingIsTypedUnderTheTableAndGoesWithIt) {
  openSample("slipway");
  openPage(QStringLiteral("Stages"));
  page_->resize(1100, 500);
  selection_.select("V1a");
  view("Tubes");
  auto* read = child<QLineEdit>("screenRead");
  EXPECT_FALSE(read->isVisibleTo(page_.get())); // a triode
  selection_.select("V3");
  settle();
  ASSERT_TRUE(read->isVisibleTo(page_.get()));
  EXPECT_TRUE(text("screenSaid").contains(QStringLiteral("V3"))) << text("screenSaid").toStdString();
  QTest::keyClicks(read, QStringLiteral("300"));
  QTest::keyClick(read, Qt::Key_Return);
  settle();
  EXPECT_DOUBLE_EQ(session_.document().measured.at("V3").at("screen"), 300);
  EXPECT_TRUE(text("screenOff").contains(QLatin1Char('%'))) << text("screenOff").toStdString();
  EXPECT_TRUE(text("meaning").contains(QStringLiteral("V3"))) << text("meaning").toStdString();
  // Far off is never called as predicted.
  read->selectAll();
  QTest::keyClicks(read, QStringLiteral("100"));
  QTest::keyClick(read, Qt::Key_Return);
  settle();
  EXPECT_FALSE(text("meaning").contains(QStringLiteral("as predicted"))) << text("meaning").toStdString();
  read->selectAll();
  QTest::keyClicks(read, QStringLiteral("300"));
  QTest::keyClick(read, Qt::Key_Return);
  settle();
  // Leaving without having typed is no edit; nonsense is refused and the reading stays.
  const auto undo = session_.undoName();
  Q_EMIT read->editingFinished();
  EXPECT_EQ(session_.undoName(), undo);
  auto* table = child<FigureSheet>("tubes");
  EXPECT_EQ(table->chosen(), rowOf(table, QStringLiteral("V3")));
  table->setFocus();
  EXPECT_EQ(selection_.part(), "V3"); // gone into by the keys, it chooses no other
  read->selectAll();
  QTest::keyClicks(read, QStringLiteral("lo"));
  // An answer that comes meanwhile takes nothing away.
  session_.edit(QStringLiteral("p"), [](amp::Document& d) { amp::pencil(d, library(), "R4", "value", 2200.0); });
  settle();
  EXPECT_EQ(read->text(), QStringLiteral("lo"));
  QTest::keyClicks(read, QStringLiteral("ts"));
  QTest::keyClick(read, Qt::Key_Return);
  settle();
  EXPECT_DOUBLE_EQ(session_.document().measured.at("V3").at("screen"), 300);
  EXPECT_EQ(read->text(), QStringLiteral("300.0 V"));
  read->selectAll();
  QTest::keyClick(read, Qt::Key_Delete);
  QTest::keyClick(read, Qt::Key_Return);
  settle();
  EXPECT_EQ(session_.document().measured.count("V3"), 0U);
}

TEST_F(StagesFixture, ASwapIsPencilledWithItsBiasOrWithout) {
  openSample("slipway");
  openPage(QStringLiteral("Stages"));
  page_->resize(1100, 600);
  selection_.select("V1a");
  view("Swap");
  auto* table = child<FigureSheet>("swaps");
  ASSERT_GE(table->rowCount(), 5);
  // Exported as the command line writes it, in the order that is shown.
  table->sortByColumn(1, Qt::DescendingOrder);
  const auto csv = QString::fromStdString(table->csv()).split(QLatin1Char('\n'));
  QStringList keys;
  for (const auto& key : tell::keysOf(tell::sheetOf(tell::swaps(), std::vector<tell::ToldSwap>{}).heads))
    keys << QString::fromStdString(key);
  EXPECT_EQ(csv.front(), keys.join(QLatin1Char(',')));
  EXPECT_TRUE(csv[1].startsWith(table->text(0, 1) + QLatin1Char(','))) << csv[1].toStdString();
  table->sortByColumn(-1, Qt::AscendingOrder);
  QTest::mouseClick(table->findChild<QPushButton*>(QStringLiteral("pencil 12AU7")), Qt::LeftButton);
  settle();
  const auto parts = session_.pencilledParts();
  const auto part = [&](const char* name) {
    return *std::find_if(parts.begin(), parts.end(), [&](const auto& p) { return p.name == name; });
  };
  EXPECT_EQ(part("V1a").text("tube"), "12AU7");
  EXPECT_EQ(part("V1b").text("tube"), "12AU7"); // the other half of the bottle
  EXPECT_GT(part("R4").value(), 1800);
  session_.undo();
  settle();
  child<QPushButton>("withRebias")->click();
  settle();
  QTest::mouseClick(table->findChild<QPushButton*>(QStringLiteral("pencil 12AU7")), Qt::LeftButton);
  settle();
  for (const auto& now : session_.pencilledParts())
    if (now.name == "R4") {
      EXPECT_EQ(now.value(), 1800);
    }
}

TEST_F(StagesFixture, EveryViewAnswersForEverySampleAndSaysWhyForAnEmptyOne) {
  VINEGAR_LONG_TEST(window);
  openPage(QStringLiteral("Stages"));
  page_->resize(1000, 500);
  for (const char* name : {"net-loft", "chandlery", "harbour-office"}) {
    openSample(name);
    for (const char* id : {"Curves", "Tubes", "Swap", "Splitter", "Power", "Spread"}) {
      SCOPED_TRACE(std::string(name) + " " + id);
      view(id);
      EXPECT_FALSE(page_->grab().isNull());
    }
    EXPECT_FALSE(child<FigureTable>("bands")->rows().empty());
    view("Power");
    EXPECT_TRUE(text("powerAnswer").contains(QStringLiteral("%")));
  }
  session_.startEmpty();
  settle();
  EXPECT_TRUE(said().contains(QStringLiteral("empty")));
}

/// Every build is drawn where it stands, ink beside pencil, under the rating of the tube.
TEST_F(StagesFixture, BuildsAreDrawnWhereTheyStand) {
  openSample("slipway");
  openPage(QStringLiteral("Stages"));
  page_->resize(1000, 500);
  selection_.select("V3");
  view("Spread");
  const auto clouds = [&] {
    std::vector<CurvePlot::Path> found;
    for (const auto& path : child<CurvePlot>("cloud")->picture().paths)
      if (path.cloud) found.push_back(path);
    return found;
  };
  ASSERT_EQ(clouds().size(), 1U);
  pencil("R28", 470.0);
  settle();
  ASSERT_EQ(clouds().size(), 2U);
  const auto told = child<CurvePlot>("cloud")->figures();
  EXPECT_GT(std::count(told.begin(), told.end(), char(10)), 1000); // every build goes along when it is exported
  const auto meanAmps = [](const CurvePlot::Path& cloud) {
    return std::accumulate(cloud.y.begin(), cloud.y.end(), 0.0) / static_cast<double>(cloud.y.size()) / 1000;
  };
  // About the points that the operating point tells.
  for (const auto& [cloud, design] :
       {std::pair{clouds()[0], session_.document().ink}, {clouds()[1], session_.pencilled()}}) {
    ASSERT_EQ(cloud.x.size(), 500U);
    const auto idle = solved(design);
    for (const auto& tube : idle.point.tubes)
      if (tube.name == "V3") {
        EXPECT_NEAR(meanAmps(cloud), tube.plateAmps, 0.03 * tube.plateAmps);
      }
  }
  const auto& paths = child<CurvePlot>("cloud")->picture().paths;
  EXPECT_TRUE(std::any_of(paths.begin(), paths.end(), [](const auto& path) { return path.danger; })) << "no rating";
  EXPECT_TRUE(text("spreadTold").contains(QStringLiteral("(in ink: "))) << text("spreadTold").toStdString();
  session_.edit(QStringLiteral("off"), [](amp::Document& d) { d.ink.knobs["Power"] = 2; });
  settle();
  EXPECT_TRUE(text("spreadTold").contains(QStringLiteral("no current"))) << text("spreadTold").toStdString();
}

TEST_F(StagesFixture, LevelsTellWhatClipsFirstAsTheWavesHaveIt) {
  openSample("slipway");
  openPage(QStringLiteral("Levels"));
  settle();
  const auto idle = solved(session_.document().ink);
  const auto clipping = predict::predictClipping(idle, library(), {1000, predict::ClippingQuestion::Which::first});
  const auto level =
      QString::fromStdString(units::reading(clipping->first()->inputPeak / std::numbers::sqrt2, units::Unit::volt));
  EXPECT_TRUE(text("clipsFirst").contains(level)) << text("clipsFirst").toStdString();
  EXPECT_TRUE(text("clipsFirst").contains(QString::fromStdString(clipping->first()->tubes.front())));
  // Something else is played: every level follows.
  auto* input = child<QComboBox>("inputLevel");
  input->setEditText(QStringLiteral("2mV"));
  QTest::keyClick(input->lineEdit(), Qt::Key_Return);
  settle();
  EXPECT_NEAR(selection_.played().inputPeak, 2e-3 * std::numbers::sqrt2, 1e-9);
  const auto levels = predict::predictLevels(idle, library(), {1000, selection_.played().inputPeak, true});
  EXPECT_TRUE(
      text("levelsMore").contains(QString::fromStdString(units::reading(*levels->speakerWatts, units::Unit::watt))))
      << text("levelsMore").toStdString();
  input->setEditText(QStringLiteral("a lot"));
  QTest::keyClick(input->lineEdit(), Qt::Key_Return);
  EXPECT_NEAR(selection_.played().inputPeak, 2e-3 * std::numbers::sqrt2, 1e-9); // nothing else was understood
}

/// What the rails do under a held sine stands in the order, with the volts; not as something that bends at once.
TEST_F(StagesFixture, TheOrderTellsWhereTheSupplyGivesWay) {
  openSample("chandlery");
  openPage(QStringLiteral("Levels"));
  page_->resize(1000, 600);
  view("Order");
  const auto* order = child<FigureSheet>("order");
  const auto idle = solved(session_.pencilled());
  const auto clipping = predict::predictClipping(idle, library(), {});
  ASSERT_TRUE(clipping);
  int row = -1;
  for (std::size_t k = 0; k < clipping->limits.size(); ++k)
    if (clipping->limits[k].sag) row = static_cast<int>(k);
  ASSERT_GE(row, 0);
  const auto& sag = *clipping->limits[static_cast<std::size_t>(row)].sag;
  EXPECT_TRUE(order->text(row, 0).isEmpty());
  for (const double volts : {sag.volts, sag.sagged})
    EXPECT_TRUE(order->text(row, 2).contains(QString::fromStdString(units::reading(volts, units::Unit::volt, 3))))
        << order->text(row, 2).toStdString();
}

TEST_F(StagesFixture, AClickOnTheMapSetsControlAndInput) {
  VINEGAR_LONG_TEST(window);
  openSample("slipway");
  openPage(QStringLiteral("Levels"));
  page_->resize(1000, 600);
  view("Map");
  auto* plot = views()->plot()->plot();
  ASSERT_FALSE(views()->plot()->picture().curves.empty());
  const QPoint at(qRound(plot->xAxis->coordToPixel(2.5)), qRound(plot->yAxis->coordToPixel(-20)));
  QTest::mouseClick(plot, Qt::LeftButton, {}, at);
  settle();
  EXPECT_NEAR(session_.document().ink.knobs.at("Volume"), 0.25, 0.02);
  EXPECT_NEAR(selection_.played().inputPeak, 0.1 * std::numbers::sqrt2, 0.01);
  EXPECT_EQ(session_.undoName(), QStringLiteral("turn Volume"));
}

TEST_F(StagesFixture, HeadroomIsPencilledAndEveryViewOfLevelsAnswers) {
  VINEGAR_LONG_TEST(both);
  openSample("slipway");
  openPage(QStringLiteral("Levels"));
  page_->resize(1000, 600);
  view("Headroom");
  auto* table = child<FigureSheet>("headroom");
  ASSERT_GT(table->rowCount(), 0);
  const auto title = table->text(0, 1);
  QTest::mouseClick(table->findChild<QPushButton*>(QStringLiteral("pencil ") + title), Qt::LeftButton);
  settle();
  EXPECT_FALSE(session_.document().sheet().marks.empty());
  for (const char* name : {"net-loft", "chandlery"}) {
    if (testing_support::stride() > 1 && name != std::string("net-loft")) continue; // a map of many limits
    openSample(name);
    for (const char* id : {"Levels", "Order", "Gain", "Map"}) {
      SCOPED_TRACE(std::string(name) + " " + id);
      view(id);
      EXPECT_FALSE(page_->grab().isNull());
    }
    view("Order");
    const auto* order = child<FigureSheet>("order");
    EXPECT_GT(order->rowCount(), 4);
    // A setting under its head, whether or not a column of ink stands before it.
    EXPECT_FALSE(order->text(order->rowCount() - 1, order->columnCount() - 1).isEmpty());
    view("Gain");
    // Levels are those of the waves: no plate swings by what a small signal would make of it.
    auto* gains = child<FigureSheet>("gains");
    const auto waves = predict::predictLevels(solved(session_.pencilled()), library(),
                                              {selection_.played().hertz, selection_.played().inputPeak, true});
    ASSERT_TRUE(waves);
    int row = 0;
    for (const auto& section : waves->sections)
      if (section.gainDecibels) {
        EXPECT_EQ(gains->text(row++, 3).toStdString(), units::reading(section.rms, units::Unit::volt)) << section.title;
      }
    EXPECT_EQ(row, gains->rowCount());
    EXPECT_GT(row, 3);
    const auto clean = predict::predictCleanPower(solved(session_.pencilled()), library());
    ASSERT_TRUE(clean && clean->power);
    const double spare = units::decibels(selection_.played().inputPeak / clean->power->atOnce.inputPeak);
    const auto told = QStringLiteral("%1 dB %2 than clean power").arg(std::abs(spare), 0, 'f', 0);
    EXPECT_TRUE(text("gainAnswer").contains(told.arg(spare > 0 ? QStringLiteral("more") : QStringLiteral("less"))))
        << text("gainAnswer").toStdString();
    // Whatever clips is on the map, down to microvolts.
    view("Map");
    double least = 1e9;
    for (const auto& curve : views()->plot()->picture().curves)
      least = std::min(least, *std::min_element(curve.y.begin(), curve.y.end()));
    EXPECT_GT(least, views()->plot()->plot()->yAxis->range().lower);
    if (name != std::string("net-loft")) continue;
    // The worst of the range is played: which tone that is stands with every answer.
    auto played = selection_.played();
    played.hertz = 0;
    selection_.play(played);
    const auto hertz = predict::worstHertz(solved(session_.pencilled()));
    ASSERT_TRUE(hertz) << hertz.error().line();
    const auto worst = QString::fromStdString(units::reading(*hertz, units::Unit::hertz));
    for (const auto& [id, answer] :
         {std::pair("Order", "orderAnswer"), {"Map", "mapAnswer"}, {"Headroom", "headroomAnswer"}}) {
      view(id);
      EXPECT_TRUE(text(answer).contains(QStringLiteral(" at %1").arg(worst))) << text(answer).toStdString();
    }
    played.hertz = 1000;
    selection_.play(played);
  }
}

/// Turned, switched, opened and taken away while it works: what stands at the end is the last that was asked.
TEST_F(StagesFixture, TurnedFastWhileItWorksTheLastAnswerStands) {
  VINEGAR_LONG_TEST(window);
  std::mt19937 random(7);
  const auto pick = [&](int n) { return std::uniform_int_distribution<int>(0, n - 1)(random); };
  for (const char* pageId : {"Stages", "Levels"}) {
    openSample("slipway");
    openPage(QLatin1String(pageId));
    const auto views = page_->findChildren<QPushButton*>(QRegularExpression(QStringLiteral("^view ")));
    ASSERT_GT(views.size(), 3);
    for (int step = 0; step < 40; ++step) {
      const char* parts[] = {"R3", "R4", "R9", "R28"};
      pencil(parts[pick(4)], units::nextUp(units::Series::e24, 1000.0 * (1 + pick(200))));
      if (pick(4) == 0) views[pick(static_cast<int>(views.size()))]->click();
      if (pick(5) == 0) selection_.select(pick(2) ? "V1a" : "V3");
      if (pick(6) == 0) selection_.play({0.01 * (1 + pick(50)), pick(3) ? 1000.0 : 82.4});
      if (pick(9) == 0) session_.undo();
      if (step == 20) {
        ASSERT_FALSE(session_.open(QString::fromStdString(testing_support::samplePath("slipway").string()), true));
      }
      QTest::qWait(pick(12));
    }
    if (QLatin1String(pageId) == QLatin1String("Stages")) {
      selection_.select("V1a");
      view("Curves");
      const auto now = predict::predictStage(solved(session_.pencilled()), library(), "V1a");
      EXPECT_NEAR(this->views()->plot()->picture().dots.back().x, now->tube.plateVolts, 0.2);
    } else {
      view("Levels");
      const auto clipping =
          predict::predictClipping(solved(session_.pencilled()), library(),
                                   {selection_.played().hertz, predict::ClippingQuestion::Which::first});
      if (clipping && clipping->first()) {
        EXPECT_TRUE(text("clipsFirst")
                        .contains(QString::fromStdString(
                            units::reading(clipping->first()->inputPeak / std::numbers::sqrt2, units::Unit::volt))))
            << text("clipsFirst").toStdString();
      }
    }
  }
  page_.reset(); // in the middle of work
}

} // namespace
} // namespace vinegar::app
