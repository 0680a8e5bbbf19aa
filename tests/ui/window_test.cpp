// The real window, driven by mouse and keyboard.
#include "pages/log/log_page.h"
#include "theme/theme.h"
#include "ui/window_fixture.h"
#include "units/json.h"
#include "widgets/dial.h"
#include "widgets/figure_sheet.h"
#include "widgets/figure_table.h"
#include "window/page_stack.h"

#include <QCheckBox>
#include <QComboBox>
#include <QDir>
#include <QFile>
#include <QProcess>
#include <QSlider>
#include <QTableWidget>
#include <QTimer>
#include <QToolButton>
#include <csignal>
#include <fstream>
#include <gtest/gtest.h>
#include <set>

namespace vinegar::app {
namespace {

using testing_support::library;

TEST_F(Window, SelectsByClickByArrowsAndByName) {
  clickPart("C2");
  EXPECT_EQ(selectedName(), "C2");
  run()->setFocus();
  QTest::keyClick(run(), Qt::Key_Left);
  settle();
  EXPECT_EQ(selectedName(), "R4");
  QTest::keyClicks(run(), "r"); // a letter starts a name
  EXPECT_EQ(QApplication::focusWidget(), child<QLineEdit>("find"));
  QTest::keyClicks(child<QLineEdit>("find"), "18");
  QTest::keyClick(child<QLineEdit>("find"), Qt::Key_Return);
  settle();
  EXPECT_EQ(selectedName(), "R18");
  QTest::keyClicks(child<QLineEdit>("find"), "Log");
  QTest::keyClick(child<QLineEdit>("find"), Qt::Key_Return);
  settle();
  EXPECT_TRUE(child<FigureSheet>("revisions")->isVisible());
}

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
              predict::predictResponse(solved.circuit, solved.point, {"jack", "speaker", {1000}})->decibels[0], 0.01);
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
    return predict::predictResponse(s.circuit, s.point, {"jack", "speaker", {hertz}})->decibels[0];
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

/// Text that has the colour of what it stands on is as good as none, in either theme.
TEST_F(Window, VitalsCanBeSeen) {
  VINEGAR_LONG_TEST(window);
  window_->session().edit(QStringLiteral("test"),
                          [](amp::Document& d) { amp::pencil(d, library(), "C2", "value", 330e-9); });
  settle();
  for (const auto& name : {lamp().name, vellum().name}) { // the usual one last: the theme outlives the window
    window_->setTheme(name);
    QTest::qWait(20);
    auto* cell = window_->findChildren<QPushButton*>(QStringLiteral("vital")).front()->findChild<FigureTable*>();
    const QImage shot = window_->grab(QRect(cell->mapTo(window_.get(), QPoint()), cell->size())).toImage();
    int ink = 0, pencil = 0;
    const auto near = [](QColor a, QColor b) {
      return std::abs(a.red() - b.red()) + std::abs(a.green() - b.green()) + std::abs(a.blue() - b.blue()) < 60;
    };
    for (int y = 0; y < shot.height(); ++y)
      for (int x = 0; x < shot.width(); ++x) {
        ink += near(shot.pixelColor(x, y), theme().footerText);
        pencil += near(shot.pixelColor(x, y), theme().footerPencil);
      }
    EXPECT_GT(ink, 20) << name.toStdString();
    EXPECT_GT(pencil, 20) << name.toStdString();
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

TEST_F(Window, ASelectedPartStaysInViewWhenTheWindowShrinks) {
  clickPart("C2");
  window_->resize(1000, 560);
  settle();
  EXPECT_TRUE(run()->viewport()->rect().contains(run()->partPosition("C2")));
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

TEST_F(Window, InkingUndoingSavingAndReopening) {
  VINEGAR_LONG_TEST(window);
  const auto before = document().log.size();
  clickPart("C2");
  QTest::keyClick(child<Dial>("dial"), Qt::Key_Down);
  settle();
  const double pencilled = level(1, 82.4);
  inkWithReason(QStringLiteral("tighter low end"));
  ASSERT_EQ(document().log.size(), before + 1);
  EXPECT_EQ(document().log.back().reason, "tighter low end");
  ASSERT_EQ(curves().size(), 1U);
  EXPECT_NEAR(level(0, 82.4), pencilled, 1e-9);
  window_->showPage(QStringLiteral("Log"));
  EXPECT_EQ(child<FigureSheet>("revisions")->rowCount(), static_cast<int>(before) + 1);
  window_->showPage(QStringLiteral("Voice"));

  QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier);
  settle();
  EXPECT_EQ(document().log.size(), before);
  EXPECT_EQ(document().sheet().marks.size(), 1U);
  QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier);
  settle();
  EXPECT_TRUE(document().sheet().marks.empty());
  EXPECT_FALSE(window_->session().modified());
  QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
  QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
  settle();
  ASSERT_EQ(document().log.size(), before + 1);

  const QString path = folder_.filePath(QStringLiteral("mine.vinegar"));
  ASSERT_FALSE(window_->session().save(path));
  const auto saved = document();
  close();
  start();
  ASSERT_TRUE(window_->openFile(path));
  settle();
  EXPECT_EQ(document(), saved);
  window_->showPage(QStringLiteral("Log"));
  settle();
  auto* table = child<FigureSheet>("revisions");
  ASSERT_EQ(table->rowCount(), static_cast<int>(before) + 1);
  EXPECT_TRUE(table->text(0, 2).contains(QStringLiteral("C2")));
  EXPECT_EQ(table->text(0, 3), QStringLiteral("tighter low end"));
  const auto& revision = window_->findChild<LogPage*>()->plot()->picture().curves;
  ASSERT_EQ(revision.size(), 2U); // before and after
  EXPECT_NEAR(levelOf(revision[1], 82.4), pencilled, 1e-6);
  EXPECT_GT(levelOf(revision[0], 82.4), pencilled);
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

TEST_F(Window, ShowsASpanAndItsPhase) {
  auto* from = child<QComboBox>("from");
  auto* to = child<QComboBox>("to");
  from->setFocus();
  from->setCurrentText(QStringLiteral("stack.in"));
  Q_EMIT from->activated(from->currentIndex());
  to->setCurrentText(QStringLiteral("stack.out"));
  Q_EMIT to->activated(to->currentIndex());
  settle();
  EXPECT_LT(level(0, 500), 0) << from->currentText().toStdString() << " to "
                              << to->currentText().toStdString(); // a passive network only loses
  child<QCheckBox>("phase")->click();
  settle();
  EXPECT_EQ(voice()->plot()->plot()->axisRectCount(), 2);
  EXPECT_EQ(voice()->plot()->plot()->graphCount(), 2);
  QTest::mouseClick(child<QPushButton>("wholeAmp"), Qt::LeftButton);
  settle();
  EXPECT_GT(level(0, 1000), 20);
  child<QCheckBox>("phase")->click();
  settle();
  EXPECT_EQ(voice()->plot()->plot()->axisRectCount(), 1);
}

TEST_F(Window, CursorReadsTheCurvesAndTheirDifference) {
  clickPart("C2");
  QTest::keyClick(child<Dial>("dial"), Qt::Key_PageDown);
  settle();
  auto* plot = voice()->plot()->plot();
  plot->setFocus();
  QTest::keyClick(plot, Qt::Key_Left, Qt::ShiftModifier);
  const double at = voice()->plot()->cursor();
  EXPECT_LT(at, 1000);
  const auto difference = level(1, at) - level(0, at);
  EXPECT_TRUE(voice()->plot()->readout().contains(QString::number(difference, 'f', 1)))
      << voice()->plot()->readout().toStdString();
}

/// A bright switch in the place of Slipway's volume control: thrown by the keyboard it moves the curve and the drawing.
TEST_F(Window, ASwitchIsThrownAndRedrawn) {
  auto changed = document();
  for (auto& use : changed.ink.line)
    if (use.section == "volume") {
      use.section = "volume-bright-switch";
      use.parts["Bright"].name = "Bright";
    }
  const QString path = folder_.filePath(QStringLiteral("switched.vinegar"));
  std::ofstream(path.toStdString()) << files::writeDesignText(changed, testing_support::library());
  ASSERT_TRUE(window_->openFile(path));
  settle();
  const double off = level(0, 5000);
  const auto picture = child<QAbstractScrollArea>("run")->viewport()->grab().toImage();
  auto* bright = voice()->findChild<QComboBox*>(QStringLiteral("knob Bright"));
  ASSERT_NE(bright, nullptr);
  EXPECT_EQ(bright->currentText(), QStringLiteral("off"));
  bright->setFocus();
  QTest::keyClick(bright, Qt::Key_Down);
  settle();
  EXPECT_EQ(document().ink.knobs.at("Bright"), 2);
  EXPECT_GT(level(0, 5000), off + 0.3);
  EXPECT_NE(child<QAbstractScrollArea>("run")->viewport()->grab().toImage(), picture);
  clickPart("Bright");
  EXPECT_TRUE(child<QWidget>("drawer")->findChild<QComboBox*>(QStringLiteral("knob Bright"))->isVisible());
}

TEST_F(Window, ExportsThePlotInEveryForm) {
  for (const char* ending : {"svg", "pdf", "png", "csv"}) {
    const QString path = folder_.filePath(QStringLiteral("plot.") + QLatin1String(ending));
    EXPECT_TRUE(voice()->plot()->exportTo(path).isEmpty()) << ending;
    EXPECT_GT(QFileInfo(path).size(), 1000) << ending;
  }
  EXPECT_FALSE(voice()->plot()->exportTo(QStringLiteral("/no/such/folder/plot.svg")).isEmpty());
  EXPECT_FALSE(voice()->plot()->exportTo(folder_.filePath(QStringLiteral("plot.doc"))).isEmpty());
}

TEST_F(Window, SheetsAreComparedSideBySide) {
  clickPart("C2");
  QTest::keyClick(child<Dial>("dial"), Qt::Key_PageDown);
  settle();
  auto* sheets = child<QToolButton>("sheet");
  Q_EMIT sheets->menu()->aboutToShow();
  for (auto* action : sheets->menu()->actions())
    if (action->text() == QStringLiteral("New sheet")) action->trigger();
  settle();
  ASSERT_EQ(document().sheets.size(), 2U);
  clickPart("R3");
  QTest::keyClick(child<Dial>("dial"), Qt::Key_Up);
  settle();
  ASSERT_EQ(curves().size(), 3U); // ink, active sheet, other sheet
  EXPECT_EQ(curves()[1].look, CurvePlot::Look::pencil);
  EXPECT_EQ(curves()[2].name, QStringLiteral("Sheet 1"));
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

TEST_F(Window, ABadFileIsNamedAndTheOpenDesignStays) {
  const QString path = folder_.filePath(QStringLiteral("bad.vinegar"));
  QFile file(path);
  ASSERT_TRUE(file.open(QIODevice::WriteOnly));
  file.write("{\"format\": \"vinegar-design\", \"version\": 1, \"name\": 5, \"line\": []}");
  file.close();
  EXPECT_FALSE(window_->openFile(path));
  settle();
  EXPECT_TRUE(notices().contains(QStringLiteral("bad.vinegar/name"))) << notices().toStdString();
  EXPECT_EQ(document().ink.name, "Slipway");
}

TEST_F(Window, ANewerFileIsReadOnly) {
  auto text = *units::readFile(testing_support::samplePath("net-loft"));
  text.replace(text.find("\"version\": 1"), 12, "\"version\": 9");
  const QString path = folder_.filePath(QStringLiteral("newer.vinegar"));
  ASSERT_FALSE(files::saveAtomically(path.toStdString(), text));
  ASSERT_TRUE(window_->openFile(path));
  EXPECT_TRUE(window_->session().readOnly());
  EXPECT_TRUE(notices().contains(QStringLiteral("newer version")));
  EXPECT_TRUE(window_->session().save(path));
  EXPECT_EQ(*units::readFile(path.toStdString()), text);
  EXPECT_FALSE(window_->session().save(folder_.filePath(QStringLiteral("copy.vinegar"))));
  EXPECT_FALSE(window_->session().readOnly());
}

TEST_F(Window, ABrokenDesignSaysWhatIsWrongAndCanBeMended) {
  clickPart("R9"); // a grid leak with a capacitor before it
  auto* fitted = child<QCheckBox>("fitted");
  QTest::mouseClick(fitted, Qt::LeftButton, {}, {8, fitted->height() / 2});
  settle();
  EXPECT_TRUE(notices().contains(QStringLiteral("no DC path"))) << notices().toStdString();
  ASSERT_EQ(curves().size(), 1U); // the ink still answers
  QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier);
  settle();
  EXPECT_TRUE(document().sheet().marks.empty());
}

TEST_F(Window, AnEmptyDesignIsShownAsEmpty) {
  VINEGAR_LONG_TEST(window);
  window_->session().startEmpty();
  settle();
  EXPECT_TRUE(curves().empty());
  // It says so, and what to do, on every page.
  for (const auto& page : MainWindow::pages()) {
    window_->showPage(page);
    settle();
    const auto said = window_->findChild<PageStack*>()->page()->frame().state().said();
    if (page == QStringLiteral("Arrange")) continue; // offers what to start from: see the Arrange tests
    EXPECT_FALSE(said.isEmpty()) << page.toStdString();
    EXPECT_EQ(said.contains(QStringLiteral("Open a design")), page != QStringLiteral("Log")) << said.toStdString();
  }
  window_->grab();
}

TEST_F(Window, EverythingFocusableIsReachedByTabAndHasAName) {
  clickPart("C2");
  QTest::keyClick(child<Dial>("dial"), Qt::Key_Down); // so that every button is enabled
  settle();
  std::set<QWidget*> reached;
  run()->setFocus();
  for (int i = 0; i < 80; ++i) {
    reached.insert(QApplication::focusWidget());
    QTest::keyClick(QApplication::focusWidget(), Qt::Key_Tab);
  }
  for (auto* widget : window_->findChildren<QWidget*>()) {
    if (!widget->isVisible() || !widget->isEnabled() || !(widget->focusPolicy() & Qt::TabFocus) || widget->focusProxy())
      continue;
    if (qobject_cast<QPushButton*>(widget) && widget->parentWidget()->objectName() == QStringLiteral("rail") &&
        !qobject_cast<QPushButton*>(widget)->isChecked())
      continue; // arrows within the group
    EXPECT_TRUE(reached.contains(widget))
        << widget->metaObject()->className() << " " << widget->objectName().toStdString();
    const auto* button = qobject_cast<QAbstractButton*>(widget);
    EXPECT_TRUE(!widget->accessibleName().isEmpty() || (button && !button->text().isEmpty()))
        << widget->metaObject()->className() << " " << widget->objectName().toStdString();
  }
  EXPECT_TRUE(reached.contains(run()));
  EXPECT_TRUE(reached.contains(child<Dial>("dial")));
}

TEST_F(Window, RemembersThemeAndPage) {
  QTest::mouseClick(child<QToolButton>("theme"), Qt::LeftButton);
  EXPECT_EQ(theme().name, lamp().name);
  window_->showPage(QStringLiteral("Log"));
  close();
  window_ = std::make_unique<MainWindow>(library(), dataFolder(), QString());
  EXPECT_EQ(theme().name, lamp().name);
  EXPECT_TRUE(child<QPushButton>("page Log")->isChecked());
  window_->setTheme(vellum().name);
  close();
}

TEST_F(Window, ZoomsAndScrollsTheRun) {
  const int before = run()->partPosition("T1").x();
  QTest::keyClick(run(), Qt::Key_Plus);
  EXPECT_GT(run()->zoom(), 1.1);
  window_->selectPart("T1");
  const QPoint at = run()->partPosition("T1");
  EXPECT_TRUE(run()->viewport()->rect().contains(at)) << before;
  settle();
}

TEST_F(Window, ShowsTheWholeAmplifierAndGoesBack) {
  window_->selectPart("T1");
  const auto before = run()->partPosition("T1");
  ASSERT_FALSE(run()->viewport()->rect().contains(run()->partPosition("R3")));
  QTest::keyClick(window_.get(), Qt::Key_9, Qt::ControlModifier);
  for (const auto* part : {"R3", "T1", "LS1"})
    EXPECT_TRUE(run()->viewport()->rect().contains(run()->partPosition(part))) << part;
  const auto small = run()->viewport()->grab().toImage();
  QTest::mouseClick(run()->viewport(), Qt::LeftButton, {}, run()->partPosition("R3"));
  EXPECT_EQ(run()->selected(), "R3");
  window_->selectPart("T1");
  QTest::keyClick(window_.get(), Qt::Key_9, Qt::ControlModifier);
  EXPECT_EQ(run()->partPosition("T1"), before);
  EXPECT_NE(run()->viewport()->grab().toImage(), small);
  settle();
}

TEST_F(Window, RecoversAfterTheProcessWasKilled) {
  VINEGAR_LONG_TEST(window);
  QProcess process;
  auto environment = QProcessEnvironment::systemEnvironment();
  environment.insert(QStringLiteral("XDG_DATA_HOME"), folder_.path());
  environment.insert(QStringLiteral("QT_QPA_PLATFORM"), QStringLiteral("offscreen"));
  process.setProcessEnvironment(environment);
  process.start(QStringLiteral(VINEGAR_PROGRAM), {QStringLiteral("--pencil"), QStringLiteral("C2=330n")});
  ASSERT_TRUE(process.waitForStarted());
  const QDir recovery(folder_.path() + QStringLiteral("/vinegar/vinegar/recovery"));
  QElapsedTimer timer;
  timer.start();
  while (recovery.entryList({QStringLiteral("*.recovery")}).isEmpty() && timer.elapsed() < 60000)
    QTest::qWait(20);
  ::kill(static_cast<pid_t>(process.processId()), SIGKILL);
  ASSERT_TRUE(process.waitForFinished());
  ASSERT_EQ(recovery.entryList({QStringLiteral("*.recovery")}).size(), 1);

  close();
  window_ = std::make_unique<MainWindow>(library(), dataFolder(), recovery.path());
  window_->openSample(QStringLiteral("net-loft"));
  window_->show();
  window_->offerRecovery();
  settle();
  EXPECT_TRUE(notices().contains(QStringLiteral("Slipway")));
  auto* recover = button(QStringLiteral("Recover"));
  ASSERT_NE(recover, nullptr);
  QTest::mouseClick(recover, Qt::LeftButton);
  settle();
  EXPECT_EQ(document().ink.name, "Slipway");
  ASSERT_EQ(document().sheet().marks.size(), 1U);
  EXPECT_EQ(document().sheet().marks[0].field()->part, "C2");
  EXPECT_TRUE(window_->session().modified());
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

} // namespace
} // namespace vinegar::app
