// The drawer: values typed and turned, readings, knobs.
#include "amp/acts/acts.h"
#include "app/window_fixture.h"
#include "drawer/drawer.h"
#include "files/safe_file.h"
#include "pages/log/log_page.h"
#include "theme/text.h"
#include "theme/theme.h"
#include "units/file.h"
#include "units/json.h"
#include "widgets/dial.h"
#include "widgets/figure_sheet.h"
#include "widgets/figure_table.h"
#include "window/page_stack.h"

#include <QCheckBox>
#include <QComboBox>
#include <QDBusVariant>
#include <QDir>
#include <QFile>
#include <QFileDialog>
#include <QFileInfo>
#include <QMessageBox>
#include <QProcess>
#include <QProgressDialog>
#include <QPushButton>
#include <QScrollBar>
#include <QSlider>
#include <QSplitter>
#include <QTableWidget>
#include <QTextBrowser>
#include <QTimer>
#include <QToolButton>
#include <csignal>
#include <fstream>
#include <gtest/gtest.h>
#include <random>
#include <set>
#include <sys/stat.h>

namespace vinegar::app {
namespace {

using testing_support::library;

TEST_F(Window, SteppingTheDialMovesThePencilAndLeavesTheInk) {
  VINEGAR_LONG_TEST(window);
  clickPart("C2");
  ASSERT_EQ(curves().size(), 1U);
  const double inkBefore = level(0, 82.4);
  const auto range = voice()->plot()->plot()->yAxis->range();
  auto* dial = child<Dial>("dial");
  dial->setFocus();
  QTest::keyClick(dial, Qt::Key_PageDown);
  settle();
  QTest::keyClick(dial, Qt::Key_PageDown);
  settle();
  ASSERT_EQ(curves().size(), 2U);
  EXPECT_NEAR(level(0, 82.4), inkBefore, 1e-9);
  const double once = level(1, 82.4);
  EXPECT_LT(once, inkBefore - 2);
  // The wheel steps one stock value; the curve on screen is the one that another way of asking gives.
  QWheelEvent wheel(QPointF(20, 20), dial->mapToGlobal(QPointF(20, 20)), {}, {0, 120}, Qt::NoButton, Qt::NoModifier,
                    Qt::NoScrollPhase, false);
  QApplication::sendEvent(dial, &wheel);
  settle();
  ASSERT_EQ(document().sheet().marks.size(), 1U);
  EXPECT_DOUBLE_EQ(std::get<double>(document().sheet().marks[0].field()->to), 330e-9);
  const auto solved = testing_support::solve(window_->session().pencilled());
  EXPECT_NEAR(level(1, 1000),
              predict::responseOf(solved.circuit, solved.point, {"jack", "speaker", {1000}})->decibels[0], 0.01);
  EXPECT_EQ(voice()->plot()->plot()->yAxis->range().lower, range.lower); // the axes stay where they were
  EXPECT_EQ(voice()->plot()->plot()->yAxis->range().upper, range.upper);
  EXPECT_EQ(child<FigureTable>("values")->rows()[1][1].text.toStdString(), "330 nF");
  EXPECT_TRUE(child<QPushButton>("marks")->text().contains(QStringLiteral("1 pencil mark")));
}

/// Numbers as the builder reads them, off the widgets, against the netlist's own answer in another way: tube volts by
/// the operating point of a fresh compile, power by volts times ampere, gain by one frequency alone.
TEST_F(Window, VitalsAndReadingsShowTheCircuitsNumbers) {
  clickPart("V3");
  window_->session().edit(QStringLiteral("test"),
                          [](amp::Document& d) { amp::pencil(d, library(), "R28", "value", 390.0); });
  settle();
  const auto ink = testing_support::solve(document().ink);
  const auto pencil = testing_support::solve(window_->session().pencilled());
  const auto gain = [](const testing_support::Solved& s, double hertz) {
    return predict::responseOf(s.circuit, s.point, {"jack", "speaker", {hertz}})->decibels[0];
  };
  const auto vital = [&](const QString& caption) {
    for (auto* b : window_->findChildren<QPushButton*>(QStringLiteral("vital")))
      if (b->accessibleName().startsWith(caption)) return b->findChild<FigureTable*>();
    return static_cast<FigureTable*>(nullptr);
  };
  const auto number = [](const QString& text) {
    const auto parts = text.split(QLatin1Char(' '));
    return parts[0].toDouble();
  };
  auto* level = vital(QStringLiteral("Gain at 1 kHz"));
  ASSERT_NE(level, nullptr);
  EXPECT_NEAR(number(level->rows()[0][0].text), gain(ink, 1000), 0.06);
  EXPECT_NEAR(number(level->rows()[0][1].text), gain(pencil, 1000), 0.06);
  auto* lean = vital(QStringLiteral("5 kHz to"));
  EXPECT_NEAR(number(lean->rows()[0][0].text), gain(ink, 5000) - gain(ink, 1000), 0.06);
  // The reservoir feeds everything: what leaves it is what the cathodes and screens pass, grids draw nothing at idle.
  double amps = 0;
  for (const auto& tube : pencil.point.tubes)
    amps += tube.plateAmps + tube.screenAmps.value_or(0);
  auto* draw = vital(QStringLiteral("Idle draw"));
  EXPECT_NEAR(number(draw->rows()[0][1].text), amps * 1000, 0.06);
  const auto& tube =
      *std::find_if(pencil.point.tubes.begin(), pencil.point.tubes.end(), [](const auto& t) { return t.name == "V3"; });
  for (const auto& row : child<FigureTable>("readings")->rows()) {
    const auto& pencilled = row.back().text;
    if (row[0].text == QStringLiteral("Plate to cathode")) {
      EXPECT_NEAR(number(pencilled), tube.plateVolts, 0.6);
    }
    if (row[0].text == QStringLiteral("Plate power")) {
      EXPECT_NEAR(number(pencilled), tube.plateVolts * tube.plateAmps, 0.006);
    }
  }
}

TEST_F(Window, HalfTypedValuesDoNotLinger) {
  clickPart("R3");
  auto* typed = child<QLineEdit>("typedValue");
  typed->setFocus();
  QTest::keyClicks(typed, "99");
  EXPECT_TRUE(typed->text().contains(QStringLiteral("99")));
  run()->setFocus();
  settle();
  EXPECT_EQ(typed->text().toStdString(), "120k");
  EXPECT_TRUE(document().sheet().marks.empty());
}

TEST_F(Window, TypedValuesAreReadAndBadOnesRefusedWithAReason) {
  clickPart("R3");
  auto* typed = child<QLineEdit>("typedValue");
  typed->setFocus();
  typed->selectAll();
  QTest::keyClicks(typed, "220k");
  QTest::keyClick(typed, Qt::Key_Return);
  settle();
  EXPECT_EQ(amp::findPart(window_->session().pencilled(), library(), "R3")->value(), 220e3);
  typed->selectAll();
  QTest::keyClicks(typed, "22uF");
  QTest::keyClick(typed, Qt::Key_Return);
  settle();
  EXPECT_EQ(amp::findPart(window_->session().pencilled(), library(), "R3")->value(), 220e3);
  EXPECT_TRUE(child<QLabel>("valueError")->isVisible());
  EXPECT_TRUE(child<QLabel>("valueError")->text().contains(QStringLiteral("farads")));
}

TEST_F(Window, RubsOutOneMarkOrAll) {
  VINEGAR_LONG_TEST(window);
  for (const char* part : {"C2", "R3"}) {
    clickPart(part);
    QTest::keyClick(child<Dial>("dial"), Qt::Key_Up);
    settle();
  }
  ASSERT_EQ(document().sheet().marks.size(), 2U);
  QTest::mouseClick(child<QPushButton>("rubOutPart"), Qt::LeftButton);
  settle();
  ASSERT_EQ(document().sheet().marks.size(), 1U);
  EXPECT_EQ(document().sheet().marks[0].field()->part, "C2");
  QTest::mouseClick(child<QPushButton>("rubOut"), Qt::LeftButton);
  settle();
  EXPECT_TRUE(document().sheet().marks.empty());
  EXPECT_FALSE(child<QPushButton>("inkIt")->isEnabled());
}

TEST_F(Window, KnobsAreNotPencilMarks) {
  auto* volume = child<QSlider>("knob Volume");
  const double before = level(0, 1000);
  volume->setFocus();
  QTest::keyClick(volume, Qt::Key_PageDown);
  settle();
  EXPECT_LT(level(0, 1000), before - 1);
  EXPECT_EQ(curves().size(), 1U);
  EXPECT_TRUE(document().sheet().marks.empty());
  QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier);
  settle();
  EXPECT_NEAR(level(0, 1000), before, 1e-9);
  EXPECT_EQ(volume->value(), 60);
}

TEST_F(Window, ATubeSwapChangesTheBottleAndTheReadings) {
  clickPart("V1a");
  auto* type = child<QComboBox>("tubeType");
  type->setCurrentText(QStringLiteral("12AU7"));
  Q_EMIT type->textActivated(QStringLiteral("12AU7"));
  settle();
  ASSERT_EQ(document().sheet().marks.size(), 1U); // a bottle is one mark
  EXPECT_EQ(document().sheet().marks[0].changes.size(), 2U);
  EXPECT_LT(level(1, 1000), level(0, 1000) - 10);
}

/// A pot of one's own: measured at four places, its law is pencilled, drawn and described in few words.
TEST_F(Window, APotsMeasuredLawIsPencilled) {
  clickPart("Volume");
  auto* taper = child<QComboBox>("taper");
  const double before = level(0, 1000);
  QString wrong;
  QTimer::singleShot(0, window_.get(), [&] {
    auto* dialog = QApplication::activeModalWidget();
    auto* table = dialog->findChild<QTableWidget*>();
    EXPECT_EQ(table->item(10, 0)->text(), QStringLiteral("10"));
    for (const auto& [row, ohms] : {std::pair{0, "0"}, {3, "4k"}, {6, "900k"}, {10, "480k"}})
      table->item(row, 1)->setText(QLatin1String(ohms));
    wrong = dialog->findChild<QLabel*>(QStringLiteral("tableWrong"))->text();
    table->item(6, 1)->setText(QStringLiteral("60k"));
    QTest::mouseClick(dialog->findChild<QPushButton*>(QStringLiteral("takeTable")), Qt::LeftButton);
  });
  const int measured = taper->findText(QStringLiteral("measured..."));
  ASSERT_GE(measured, 0);
  taper->setCurrentIndex(measured);
  Q_EMIT taper->activated(measured);
  settle();
  EXPECT_TRUE(wrong.contains(QStringLiteral("rise"))) << wrong.toStdString();
  ASSERT_EQ(document().sheet().marks.size(), 1U);
  const auto* mark = document().sheet().marks[0].field();
  ASSERT_NE(mark, nullptr);
  const auto law = amp::taperNamed(std::get<std::string>(mark->to));
  ASSERT_TRUE(law);
  EXPECT_NEAR(circuit::taperShare(*law, 0.6), 60.0 / 480, 1e-4);
  EXPECT_EQ(taper->currentText(), QStringLiteral("as measured"));
  EXPECT_GT(std::abs(level(1, 1000) - before), 0.5);
  const auto said =
      amp::describe(document().sheet().marks[0], document().ink, window_->session().pencilled(), library());
  EXPECT_EQ(said, "Volume taper log15 \u2192 as measured");
  // Given up, the list shows what stands.
  QTimer::singleShot(0, window_.get(), [] { static_cast<QDialog*>(QApplication::activeModalWidget())->reject(); });
  const int again = taper->findText(QStringLiteral("measured..."));
  taper->setCurrentIndex(again);
  Q_EMIT taper->activated(again);
  settle();
  EXPECT_EQ(taper->currentText(), QStringLiteral("as measured"));
  EXPECT_EQ(document().sheet().marks.size(), 1U);
}

/// Digits typed at the run belong to the value of the part that is selected there; letters find one.
TEST_F(Window, DigitsTypedAtThePartAreItsValue) {
  clickPart("C2");
  run()->setFocus();
  for (const char letter : std::string("33n"))
    QTest::keyClick(QApplication::focusWidget(), letter);
  QTest::keyClick(QApplication::focusWidget(), Qt::Key_Return);
  settle();
  EXPECT_NEAR(amp::findPart(window_->session().pencilled(), library(), "C2")->value(), 33e-9, 1e-15);
  run()->setFocus();
  QTest::keyClick(run(), 'r');
  settle();
  EXPECT_EQ(selectedName(), "C2"); // a letter begins a search and changes nothing
  EXPECT_NEAR(amp::findPart(window_->session().pencilled(), library(), "C2")->value(), 33e-9, 1e-15);
}

TEST_F(Window, KnobsHaveRoomToTravel) {
  for (const int width : {1000, 1280, 1600}) {
    window_->resize(width, 760);
    settle();
    const auto sliders = voice()->findChildren<QSlider*>();
    EXPECT_GE(sliders.size(), 4);
    for (auto* slider : sliders)
      EXPECT_GE(slider->width(), 55) << slider->objectName().toStdString() << " at " << width;
  }
}

TEST_F(Window, NothingSelectedTheDrawerTellsOfTheWhole) {
  window_->selectPart({});
  settle();
  EXPECT_EQ(selectedName(), "Slipway");
  const auto tubes = child<FigureTable>("tubes")->text();
  for (const char* name : {"V1a", "V2b", "V3", "6V6GT"})
    EXPECT_TRUE(tubes.contains(QLatin1String(name))) << tubes.toStdString();
  pencil("C2", 330e-9);
  settle();
  EXPECT_TRUE(child<QLabel>("allMarks")->text().contains(QStringLiteral("330n")));
}

} // namespace
} // namespace vinegar::app
