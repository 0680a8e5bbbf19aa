// The Voice page by mouse and keyboard: every view's answer against a fresh prediction, and what a click does.
#include "app/voice_fixture.h"
#include "predict/quiet/hiss.h"
#include "predict/voice/fit.h"
#include "predict/voice/rank.h"
#include "predict/voice/readouts.h"
#include "predict/voice/travel.h"

#include <QCheckBox>
#include <QComboBox>
#include <QFile>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QPushButton>
#include <QTemporaryDir>
#include <QTimer>

namespace vinegar::app {
namespace {

TEST_F(VoiceFixture, ReadingsStandInInkAndPencilAndLeadToWhatMakesThem) {
  open();
  pencil("C4", 470e-12);
  settle();
  auto* sheet = child<FigureSheet>("readouts");
  const auto fresh = predict::predictReadouts(now(), library(), {});
  ASSERT_TRUE(fresh);
  ASSERT_EQ(static_cast<std::size_t>(sheet->rowCount()), fresh->all.size());
  const auto* dip = fresh->of(predict::Readout::Kind::dip);
  ASSERT_TRUE(dip);
  int row = -1;
  for (int r = 0; r < sheet->rowCount(); ++r)
    if (sheet->text(r, 0) == QStringLiteral("Dip")) row = r;
  ASSERT_GE(row, 0);
  EXPECT_EQ(sheet->text(row, 1).toStdString(), units::reading(dip->value, units::Unit::hertz));
  EXPECT_NE(sheet->text(row, 1), sheet->text(row, 2)); // the ink's is another
  EXPECT_TRUE(sheet->text(row, 3).startsWith(QString::fromStdString(dip->makers[0].part)));
  clickCell(sheet, row, 3);
  EXPECT_EQ(selection_.part(), dip->makers[0].part);
  clickCell(sheet, row, 3);
  EXPECT_EQ(selection_.part(), dip->makers[1].part);
  sheet->setCurrentIndex(sheet->model()->index(row, 0));
  QTest::keyClick(sheet, Qt::Key_Return);
  EXPECT_EQ(selection_.part(), dip->makers[0].part);
  // And it is marked where it is on the curve.
  const auto dot = std::find_if(picture().dots.begin(), picture().dots.end(),
                                [&](const auto& d) { return std::abs(d.x / dip->hertz - 1) < 1e-6; });
  ASSERT_NE(dot, picture().dots.end());
  EXPECT_NEAR(dot->y, dip->decibels, 0.1);
}

TEST_F(VoiceFixture, TheReadingThatIsLookedAtIsMarkedOnTheCurve) {
  open();
  auto* sheet = child<FigureSheet>("readouts");
  const auto before = picture().dots.size();
  for (int r = 0; r < sheet->rowCount(); ++r)
    for (const char* words : {"Level at E4", "Bite to voice", "Loss in"})
      if (sheet->text(r, 0).startsWith(QLatin1String(words))) {
        clickCell(sheet, r, 1);
        ASSERT_EQ(picture().dots.size(), before + 1) << words;
        const auto& dot = picture().dots.back();
        EXPECT_TRUE(dot.word.startsWith(QLatin1String(words))) << dot.word.toStdString();
        EXPECT_TRUE(dot.word.endsWith(sheet->text(r, 1))) << dot.word.toStdString();
        EXPECT_NEAR(dot.y, CurvePlot::valueAt(picture().curves[0], dot.x, true), 1e-9);
        if (std::string(words) == "Level at E4") {
          EXPECT_NEAR(dot.x, 329.628, 1e-3);
          EXPECT_NEAR(dot.y, numberOf(sheet->text(r, 1)), 0.06);
        }
      }
  view("Parts");
  view("Curve");
}

TEST_F(VoiceFixture, DifferenceIsWhatThePencilIsOverTheInk) {
  open();
  pencil("C4", 470e-12);
  settle();
  EXPECT_EQ(picture().panes.size(), 1U);
  QTest::mouseClick(child<QCheckBox>("difference"), Qt::LeftButton, {}, QPoint(8, 8));
  settle();
  ASSERT_EQ(picture().panes.size(), 2U);
  const auto& over = picture().curves.back();
  EXPECT_EQ(over.pane, 1);
  EXPECT_NEAR(CurvePlot::valueAt(over, 1000, true),
              CurvePlot::valueAt(picture().curves[1], 1000, true) - CurvePlot::valueAt(picture().curves[0], 1000, true),
              1e-9);
  QTest::mouseClick(child<QCheckBox>("phase"), Qt::LeftButton, {}, QPoint(8, 8));
  EXPECT_FALSE(child<QCheckBox>("difference")->isChecked()); // one pane under the level
  EXPECT_EQ(picture().panes.size(), 2U);
}

TEST_F(VoiceFixture, PartsAreRankedForTheMarkedBandTriedAndPencilled) {
  open();
  view("Parts");
  auto* sheet = child<FigureSheet>("ranking");
  auto fresh = predict::predictRanking(now(), library(), {"jack", "speaker", 300, 600});
  ASSERT_TRUE(fresh);
  ASSERT_EQ(static_cast<std::size_t>(sheet->rowCount()), fresh->steps.size());
  EXPECT_TRUE(sheet->text(0, 1).startsWith(QString::fromStdString(fresh->steps[0].part)));
  EXPECT_EQ(picture().curves.size(), 1U);
  clickCell(sheet, 2, 1); // looked at: its curve is drawn
  ASSERT_EQ(picture().curves.size(), 2U);
  EXPECT_NEAR(picture().curves[1].y[60] - picture().curves[0].y[60], fresh->steps[2].change[60], 1e-6);
  EXPECT_EQ(selection_.part(), fresh->steps[2].part);
  auto* band = child<QComboBox>("band");
  band->setCurrentIndex(3);
  Q_EMIT band->activated(3);
  settle();
  fresh = predict::predictRanking(now(), library(), {"jack", "speaker", 1500, 4000});
  EXPECT_TRUE(sheet->text(0, 1).startsWith(QString::fromStdString(fresh->steps[0].part)));
  Q_EMIT views()->plot()->handleMoved(0, 8000, 60, true); // past the other edge: it stops there
  settle();
  ASSERT_EQ(picture().dots.size(), 2U);
  EXPECT_LT(picture().dots[0].x, picture().dots[1].x);
  const auto title = sheet->text(0, 1);
  press(QStringLiteral("pencil ") + title);
  EXPECT_EQ(session_.document().sheet().marks.size(), 1U);
}

TEST_F(VoiceFixture, AControlsTravelIsDrawnAndAnotherTaperPencilled) {
  open();
  view("Controls");
  auto* box = child<QComboBox>("travelControl");
  EXPECT_EQ(box->findText(QStringLiteral("Power")), -1); // of the supply: not played
  EXPECT_EQ(box->currentText(), QStringLiteral("Treble"));
  EXPECT_EQ(picture().curves.size(), 11U);
  EXPECT_TRUE(text("controlAnswer").contains(QStringLiteral("first third"))) << text("controlAnswer").toStdString();
  QTest::mouseClick(child<QCheckBox>("reach"), Qt::LeftButton, {}, QPoint(8, 8));
  settle();
  ASSERT_EQ(picture().curves.size(), 13U);
  for (std::size_t f = 0; f < 120; f += 10)
    for (std::size_t c = 0; c < 11; ++c) {
      EXPECT_LE(picture().curves[c].y[f], picture().curves[11].y[f] + 0.01);
      EXPECT_GE(picture().curves[c].y[f], picture().curves[12].y[f] - 0.01);
    }
  press(QStringLiteral("pencil Treble log20"));
  ASSERT_EQ(session_.document().sheet().marks.size(), 1U);
  EXPECT_TRUE(text("controlAnswer").contains(QStringLiteral("evenly")) ||
              text("controlAnswer").contains(QStringLiteral("last third")))
      << text("controlAnswer").toStdString();
}

TEST_F(VoiceFixture, ASwitchsPositionsStandSideBySide) {
  open("chandlery");
  view("Controls");
  auto* box = child<QComboBox>("travelControl");
  const int bright = box->findText(QStringLiteral("Bright"));
  ASSERT_GE(bright, 0);
  box->setCurrentIndex(bright);
  Q_EMIT box->activated(bright);
  settle();
  auto* sheet = child<FigureSheet>("tapers");
  ASSERT_EQ(static_cast<std::size_t>(sheet->rowCount()), picture().curves.size());
  ASSERT_GE(sheet->rowCount(), 2);
  // The last position has a capacitor that lifts the top; its name leads to it.
  const int last = sheet->rowCount() - 1;
  EXPECT_GT(sheet->text(last, 4).toDouble(), 1) << sheet->text(last, 1).toStdString();
  clickCell(sheet, last, 1);
  EXPECT_TRUE(sheet->text(last, 1).startsWith(QString::fromStdString(selection_.part())));
  EXPECT_FALSE(selection_.part().empty());
  const double before = CurvePlot::valueAt(picture().curves.back(), 1000, true);
  QTest::mouseClick(child<QCheckBox>("alike"), Qt::LeftButton, {}, QPoint(8, 8));
  EXPECT_NEAR(CurvePlot::valueAt(picture().curves.back(), 1000, true),
              CurvePlot::valueAt(picture().curves.front(), 1000, true), 1e-6);
  EXPECT_NE(CurvePlot::valueAt(picture().curves.back(), 1000, true), before);
}

TEST_F(VoiceFixture, ATargetIsDraggedAndStockValuesFoundForIt) {
  VINEGAR_LONG_TEST(window);
  open();
  view("Target");
  EXPECT_EQ(child<QLineEdit>("fitParts")->text(), QStringLiteral("C4 R5 C5 C6"));
  ASSERT_EQ(picture().dots.size(), 8U);
  const double before = picture().dots[3].y;
  Q_EMIT views()->plot()->handleMoved(3, 500, before + 4, true);
  EXPECT_NEAR(picture().dots[3].y, before + 4, 1e-9);
  EXPECT_NEAR(picture().dots[3].x, 500, 1e-9); // it stays at its frequency
  press(QStringLiteral("findValues"));
  auto* sheet = child<FigureSheet>("fits");
  ASSERT_GT(sheet->rowCount(), 0) << text("fitAnswer").toStdString();
  EXPECT_LE(sheet->rowCount(), 5);
  ASSERT_EQ(picture().curves.size(), 3U);
  // Another target: what was found for the old one does not stay.
  const auto old = sheet->text(0, 2);
  Q_EMIT views()->plot()->handleMoved(4, 1000, picture().dots[4].y + 1, false);
  EXPECT_TRUE(sheet->isHidden());
  Q_EMIT views()->plot()->handleMoved(4, 1000, picture().dots[4].y + 3, true);
  settle();
  ASSERT_GT(sheet->rowCount(), 0);
  predict::FitQuestion question;
  for (std::size_t d = 0; d < 8; ++d)
    question.target.push_back({picture().dots[d].x, picture().dots[d].y});
  question.parts = {"C4", "R5", "C5", "C6"};
  const auto fit = predict::predictFit(now(), library(), question);
  ASSERT_TRUE(fit && !fit->sets.empty());
  EXPECT_NEAR(sheet->text(0, 2).section(QLatin1Char(' '), 0, 0).toDouble(), fit->sets[0].distance, 0.006);
  EXPECT_NE(sheet->text(0, 2), old);
  const auto title = sheet->text(0, 1);
  press(QStringLiteral("pencil ") + title);
  EXPECT_FALSE(session_.document().sheet().marks.empty());
  // What is pencilled is what was promised.
  const auto idle = now();
  const auto level = predict::predictResponse(idle, library(), {"jack", "speaker", {500}});
  ASSERT_TRUE(level);
  EXPECT_GT(level->decibels[0], before + 0.5);
  // The chosen part is added by its button; what is no part is told.
  selection_.select("R3");
  press(QStringLiteral("addPart"));
  EXPECT_TRUE(child<QLineEdit>("fitParts")->text().endsWith(QStringLiteral("R3")));
  child<QLineEdit>("fitParts")->setText(QStringLiteral("C4 nonsense"));
  QTest::keyClick(child<QLineEdit>("fitParts"), Qt::Key_Return);
  settle();
  EXPECT_TRUE(text("fitAnswer").contains(QStringLiteral("nonsense")));
  // From what is at hand, and nothing else.
  child<QLineEdit>("fitParts")->setText(QStringLiteral("C4=120p,1n C6=22n"));
  press(QStringLiteral("findValues"));
  for (int r = 0; r < sheet->rowCount(); ++r)
    EXPECT_TRUE(sheet->text(r, 1).contains(QStringLiteral("C4 120p")) ||
                sheet->text(r, 1).contains(QStringLiteral("C4 1n")) ||
                !sheet->text(r, 1).contains(QStringLiteral("C4")))
        << sheet->text(r, 1).toStdString();
  child<QLineEdit>("fitParts")->setText(QStringLiteral("C4=much"));
  press(QStringLiteral("findValues"));
  EXPECT_TRUE(text("fitAnswer").contains(QStringLiteral("much")));
  // By the menu, as a hand does.
  auto* targets = child<QPushButton>("targets");
  QTimer::singleShot(0, page_.get(), [&] {
    for (auto* action : targets->menu()->actions())
      if (action->text() == QStringLiteral("Start from the curve")) action->trigger();
    targets->menu()->close();
  });
  QTest::mouseClick(targets, Qt::LeftButton);
  settle();
  EXPECT_NEAR(picture().dots[3].y, level->decibels[0], 0.06);
}

TEST_F(VoiceFixture, BuildsAndHissAreTold) {
  open();
  view("Builds");
  EXPECT_TRUE(text("buildsAnswer").contains(QStringLiteral("dB in voice")));
  ASSERT_EQ(picture().curves.size(), 3U);
  EXPECT_LT(picture().curves[0].y[50], picture().curves[2].y[50]);
  clickCell(child<FigureSheet>("culprits"), 0, 0);
  EXPECT_EQ(QString::fromStdString(selection_.part()), child<FigureSheet>("culprits")->text(0, 0));
  view("Hiss");
  const auto hiss = predict::predictHiss(now(), library(), {true});
  ASSERT_TRUE(hiss);
  EXPECT_TRUE(text("hissAnswer").startsWith(QString::fromStdString(units::reading(hiss->weighted, units::Unit::volt))))
      << text("hissAnswer").toStdString();
  EXPECT_EQ(child<FigureSheet>("hissSources")->text(0, 0).toStdString(), hiss->sources[0].part);
  const auto cure = child<FigureSheet>("hissCures")->text(0, 1);
  press(QStringLiteral("pencil ") + cure);
  EXPECT_EQ(session_.document().sheet().marks.size(), 1U);
  EXPECT_TRUE(text("hissAnswer").contains(QStringLiteral("against ink")));
}

/// Without a jack, without a speaker, without controls: every view says so or answers, and nothing else is left over.
TEST_F(VoiceFixture, EveryViewOfAHalfBuiltAmplifierSaysWhatIsMissing) {
  VINEGAR_LONG_TEST(window);
  open();
  for (const char* id : {"Curve", "Parts", "Controls", "Target", "Compare", "Builds", "Ends", "Hiss"})
    view(id);
  for (const char* name : {"8-preamplifier", "9-one-stage", "7-reverb-unit"}) {
    const auto path = testing_support::folder("data") + "/skeletons/" + name + ".vinegar";
    ASSERT_FALSE(session_.open(QString::fromStdString(path), true)) << name;
    settle();
    for (const char* id : {"Curve", "Parts", "Controls", "Target", "Compare", "Builds", "Ends", "Hiss"}) {
      view(id);
      EXPECT_TRUE(said().isEmpty()) << name << " " << id << ": " << said().toStdString(); // the page itself answers
    }
  }
  session_.startEmpty();
  settle();
  EXPECT_FALSE(said().isEmpty());
}

TEST_F(VoiceFixture, ATargetFileIsReadAndAFaultyOneIsTold) {
  open();
  view("Target");
  QTemporaryDir folder;
  const auto write = [&](const char* name, const char* content) {
    QFile file(folder.filePath(QLatin1String(name)));
    EXPECT_TRUE(file.open(QIODevice::WriteOnly));
    file.write(content);
    return file.fileName();
  };
  auto* target = views()->findChild<QWidget*>(QStringLiteral("targetView"));
  ASSERT_NE(target, nullptr);
  const auto openFile = [&](const QString& path) {
    return QMetaObject::invokeMethod(target, "open", Qt::DirectConnection, Q_ARG(QString, path));
  };
  ASSERT_TRUE(openFile(write("wanted.csv", "Hz,dB\n100,60\n1000,55\n5000,62\n")));
  ASSERT_EQ(picture().dots.size(), 3U);
  EXPECT_EQ(picture().dots[1].y, 55);
  ASSERT_TRUE(openFile(write("bad.json", R"({"format": "vinegar-target", "target": [[100]]})")));
  ASSERT_FALSE(said_.isEmpty());
  EXPECT_TRUE(said_.last().contains(QStringLiteral("bad.json")));
  EXPECT_EQ(picture().dots.size(), 3U); // what was there stays
  // Another design's curve as the target.
  ASSERT_TRUE(openFile(QString::fromStdString(testing_support::samplePath("net-loft").string())));
  settle();
  ASSERT_GT(picture().dots.size(), 40U);
  const auto loft = predict::predictIdle(testing_support::sample("net-loft").ink, library());
  const auto& last = picture().dots.back();
  const auto level = predict::predictResponse(*loft, library(), {"jack", "speaker", {last.x}});
  EXPECT_GT(last.x, 7000);
  EXPECT_NEAR(last.y, level->decibels[0], 1e-6);
}

TEST_F(VoiceFixture, AnEarlierRevisionAndAnotherAmplifierStandBeside) {
  open();
  pencil("C4", 470e-12);
  settle();
  view("Compare");
  ASSERT_EQ(picture().curves.size(), 2U);
  const double over = picture().curves[0].y[100] - picture().curves[1].y[100];
  const auto difference = [&] {
    QTest::mouseClick(child<QCheckBox>("differenceAlone"), Qt::LeftButton, {}, QPoint(8, 8));
  };
  difference();
  ASSERT_EQ(picture().curves.size(), 1U);
  EXPECT_NEAR(picture().curves[0].y[100], over, 1e-9);
  difference();
  auto* sheet = child<FigureSheet>("differences");
  const auto has = [&](const QString& here) {
    for (int r = 0; r < sheet->rowCount(); ++r)
      if (sheet->text(r, 1).contains(here)) return true;
    return false;
  };
  EXPECT_TRUE(has(QStringLiteral("C4 470p")));
  auto* compare = views()->findChild<QWidget*>(QStringLiteral("compareView"));
  const auto path = QString::fromStdString(testing_support::samplePath("net-loft").string());
  ASSERT_TRUE(QMetaObject::invokeMethod(compare, "open", Qt::DirectConnection, Q_ARG(QString, path)));
  settle();
  EXPECT_EQ(picture().curves[1].name, QStringLiteral("Net Loft"));
  QTest::mouseClick(child<QCheckBox>("levelled"), Qt::LeftButton, {}, QPoint(8, 8));
  difference();
  EXPECT_NEAR(CurvePlot::valueAt(picture().curves[0], 1000, true), 0, 0.02);
  difference();
  ASSERT_TRUE(
      QMetaObject::invokeMethod(compare, "open", Qt::DirectConnection, Q_ARG(QString, QStringLiteral("/none"))));
  EXPECT_FALSE(said_.isEmpty());
  EXPECT_EQ(picture().curves[1].name, QStringLiteral("Net Loft")); // what was there stays
}

TEST_F(VoiceFixture, TheCurveIsTakenAsTheEarDoesAndANotesPartialsAreMarked) {
  open();
  const double plain = CurvePlot::valueAt(picture().curves[0], 100, true);
  const auto pick = [&](const char* name, int index) {
    auto* box = child<QComboBox>(name);
    box->setCurrentIndex(index);
    Q_EMIT box->activated(index);
  };
  pick("heard", 2);
  EXPECT_NEAR(CurvePlot::valueAt(picture().curves[0], 100, true), plain - 19.1, 0.2);
  pick("heard", 0);
  pick("note", 1);
  ASSERT_EQ(picture().dots.size(), 16U);
  EXPECT_NEAR(picture().dots[3].x, 4 * 82.407, 0.01);
  EXPECT_NEAR(picture().dots[3].y, CurvePlot::valueAt(picture().curves[0], 4 * 82.407, true), 1e-6);
}

TEST_F(VoiceFixture, AnotherSourceOrSpeakerIsLookedAtAndPencilled) {
  open();
  view("Ends");
  auto* sheet = child<FigureSheet>("ends");
  ASSERT_GT(sheet->rowCount(), 10);
  clickCell(sheet, 3, 1);
  ASSERT_EQ(picture().curves.size(), 2U);
  EXPECT_TRUE(text("endsAnswer").startsWith(sheet->text(3, 1)));
  const double change = sheet->text(3, 4).toDouble();
  EXPECT_LT(change, -3); // two hot coils are dull
  const auto before = predict::predictResponse(now(), library(), {"pickup", "speaker", {5000}});
  press(QStringLiteral("pencil ") + sheet->text(3, 1));
  const auto after = predict::predictResponse(now(), library(), {"pickup", "speaker", {5000}});
  EXPECT_NEAR(after->decibels[0] - before->decibels[0], change, 0.06);
  EXPECT_FALSE(session_.document().sheet().marks.empty());
}

TEST_F(VoiceFixture, WhatIsHeardOfTheSpeakerIsItsConesSound) {
  open();
  auto* box = child<QComboBox>("heard");
  const double volts =
      CurvePlot::valueAt(picture().curves[0], 30, true) - CurvePlot::valueAt(picture().curves[0], 400, true);
  for (const int index : {3, 4, 0}) {
    box->setCurrentIndex(index);
    Q_EMIT box->activated(index);
    settle();
    const double sound =
        CurvePlot::valueAt(picture().curves[0], 30, true) - CurvePlot::valueAt(picture().curves[0], 400, true);
    if (index == 0) {
      EXPECT_NEAR(sound, volts, 1e-6);
    } else {
      EXPECT_LT(sound, volts - 6); // a cone does not move air at 30 Hz as its terminals' volts would have it
    }
  }
}

/// Another file is opened while values are sought, values are turned while every view works: nothing of what was asked
/// before is shown, and what is shown at the end is what a fresh solve tells.
TEST_F(VoiceFixture, HasteLeavesNothingStale) {
  open();
  view("Target");
  child<QLineEdit>("fitParts")->setText(QStringLiteral("C4 R5 C5 C6 C2 R7"));
  QTest::mouseClick(child<QPushButton>("findValues"), Qt::LeftButton);
  QTest::qWait(30);
  openSample("net-loft");
  EXPECT_EQ(child<FigureSheet>("fits")->rowCount(), 0);
  EXPECT_FALSE(child<QLineEdit>("fitParts")->text().contains(QStringLiteral("R7")));
  openSample("slipway");
  int turn = 0;
  for (const char* id : {"Parts", "Controls", "Target", "Compare", "Builds", "Ends", "Hiss", "Parts", "Curve"}) {
    QTest::mouseClick(child<QPushButton>((std::string("view ") + id).c_str()), Qt::LeftButton);
    for (int i = 0; i < 3; ++i) {
      pencil("C4", 100e-12 * ++turn);
      pencil("R7", 47e3 + 1e3 * turn);
      QTest::qWait(turn % 4);
    }
  }
  session_.undo();
  pencil("C4", 470e-12);
  settle();
  const auto level = predict::predictResponse(now(), library(), {"jack", "speaker", {1000}});
  ASSERT_TRUE(level);
  EXPECT_NEAR(CurvePlot::valueAt(picture().curves[1], 1000, true), level->decibels[0], 0.01);
  const auto fresh = predict::predictReadouts(now(), library(), {});
  ASSERT_TRUE(fresh);
  auto* sheet = child<FigureSheet>("readouts");
  ASSERT_EQ(static_cast<std::size_t>(sheet->rowCount()), fresh->all.size());
  for (int r = 0; r < sheet->rowCount(); ++r) {
    const auto& readout = fresh->all[static_cast<std::size_t>(r)];
    if (!readout.isFrequency()) continue;
    EXPECT_EQ(sheet->text(r, 1).toStdString(), units::reading(readout.value, units::Unit::hertz)) << r;
  }
}

/// What is set at the bench is not among what is played; it is where the supply is.
TEST_F(VoiceFixture, OnlyWhatIsPlayedHasAKnobHere) {
  open("chandlery");
  const auto knobs = [&] {
    QStringList names;
    for (const auto* widget : page_->findChildren<QWidget*>())
      if (widget->objectName().startsWith(QStringLiteral("knob "))) names << widget->objectName().mid(5);
    return names;
  };
  EXPECT_TRUE(knobs().contains(QStringLiteral("Treble")));
  EXPECT_FALSE(knobs().contains(QStringLiteral("Bias")));
  openPage(QStringLiteral("Supply"));
  settle();
  EXPECT_TRUE(knobs().contains(QStringLiteral("Bias")));
  EXPECT_FALSE(knobs().contains(QStringLiteral("Treble")));
}

} // namespace
} // namespace vinegar::app
