// What the window shows at which size, in which theme, and what it remembers.
#include "amp/acts/acts.h"
#include "app/window_fixture.h"
#include "drawer/drawer.h"
#include "files/safe_file.h"
#include "pages/kit/page_frame.h"
#include "pages/log/log_page.h"
#include "plots/curve_graph.h"
#include "plots/curve_plot.h"
#include "plots/response_picture.h"
#include "support/samples.h"
#include "theme/text.h"
#include "theme/theme.h"
#include "units/file.h"
#include "units/json.h"
#include "widgets/dial.h"
#include "widgets/figure_sheet.h"
#include "widgets/figure_table.h"
#include "widgets/readings.h"
#include "widgets/state_pane.h"
#include "window/actions.h"
#include "window/page_stack.h"

#include <QAction>
#include <QApplication>
#include <QCheckBox>
#include <QClipboard>
#include <QComboBox>
#include <QDBusVariant>
#include <QDir>
#include <QFile>
#include <QFileDialog>
#include <QFileInfo>
#include <QHeaderView>
#include <QMessageBox>
#include <QProcess>
#include <QProgressDialog>
#include <QPushButton>
#include <QRegularExpression>
#include <QScrollArea>
#include <QScrollBar>
#include <QSignalSpy>
#include <QSlider>
#include <QSplitter>
#include <QTableWidget>
#include <QTextBrowser>
#include <QTimer>
#include <QToolButton>
#include <cmath>
#include <csignal>
#include <fstream>
#include <gtest/gtest.h>
#include <random>
#include <set>
#include <sys/stat.h>

namespace vinegar::app {
namespace {

using testing_support::library;

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

TEST_F(Window, ThePaneSizesThatTheBuilderChoseStay) {
  auto* splitter = window_->findChild<QSplitter*>();
  auto* handle = splitter->handle(1);
  QTest::mousePress(handle, Qt::LeftButton, {}, handle->rect().center());
  QTest::mouseMove(handle, handle->rect().center() - QPoint(0, 60));
  QTest::mouseRelease(handle, Qt::LeftButton, {}, handle->rect().center());
  const auto sizes = splitter->sizes();
  clickPart("C7");
  child<QCheckBox>("fitted")->click(); // the run is drawn anew
  settle();
  EXPECT_EQ(splitter->sizes(), sizes);
}

TEST_F(Window, TheThemeFollowsTheDesktopUntilOneIsChosen) {
  VINEGAR_LONG_TEST(window);
  const auto chosen = [&](const QString& text) {
    trigger(text);
    settle();
    return theme().name;
  };
  const auto desktop = chosen(QStringLiteral("As the desktop"));
  EXPECT_EQ(desktop, vellum().name); // there is no desktop here, and what the toolkit starts with is light
  EXPECT_EQ(chosen(QStringLiteral("Lamp, dark")), lamp().name);
  QMetaObject::invokeMethod(window_->findChild<DesktopLook*>(), "changed"); // no longer followed
  EXPECT_EQ(theme().name, lamp().name);
  EXPECT_EQ(chosen(QStringLiteral("As the desktop")), vellum().name);
  // As the desktop's settings service tells of it.
  const auto wish = [&](uint value) {
    QMetaObject::invokeMethod(window_->findChild<DesktopLook*>(), "settingChanged",
                              Q_ARG(QString, QStringLiteral("org.freedesktop.appearance")),
                              Q_ARG(QString, QStringLiteral("color-scheme")), Q_ARG(QDBusVariant, QDBusVariant(value)));
    return theme().name;
  };
  EXPECT_EQ(wish(1), lamp().name);
  EXPECT_EQ(wish(2), vellum().name);
  EXPECT_EQ(wish(1), lamp().name);
  EXPECT_EQ(chosen(QStringLiteral("Vellum, light")), vellum().name);
  EXPECT_EQ(wish(2), vellum().name);
  EXPECT_EQ(wish(1), vellum().name); // chosen is chosen
}

TEST_F(Window, TheWindowFitsASmallScreen) {
  VINEGAR_LONG_TEST(window);
  MainWindow fresh(library(), dataFolder(), {});
  const auto room = QGuiApplication::primaryScreen()->availableSize();
  EXPECT_LE(fresh.height(), room.height() - 30);
}

TEST_F(Window, DigitsOnAxesAreThoseOfTheReadings) {
  const QLocale before;
  QLocale::setDefault(QLocale(QLocale::German, QLocale::Germany));
  window_->showPage(QStringLiteral("Supply"));
  window_->setTheme(vellum().name);
  settle();
  for (auto* plot : window_->findChildren<QCustomPlot*>())
    EXPECT_EQ(plot->locale().decimalPoint(), QStringLiteral("."));
  QLocale::setDefault(before);
}

/// What a page answers has more than half of the room; each page keeps the line where the builder drew it.
TEST_F(Window, ThePageHasMoreThanHalfTheHeightAndEachItsOwnLine) {
  auto* splitter = window_->findChild<QSplitter*>();
  const auto share = [&] { return double(splitter->sizes()[1]) / splitter->height(); };
  for (const auto& page : PageStack::ids()) {
    window_->showPage(page);
    EXPECT_GE(share(), 0.55) << page.toStdString();
  }
  window_->showPage(QStringLiteral("Voice"));
  const double usual = share();
  auto* handle = splitter->handle(1);
  const QPoint at = handle->rect().center();
  QTest::mousePress(handle, Qt::LeftButton, {}, at);
  QTest::mouseMove(handle, at + QPoint(0, 60));
  QTest::mouseRelease(handle, Qt::LeftButton, {}, at + QPoint(0, 60));
  const double drawn = share();
  EXPECT_LT(drawn, usual - 0.03);
  window_->showPage(QStringLiteral("Supply"));
  EXPECT_NEAR(share(), usual, 0.01);
  window_->showPage(QStringLiteral("Voice"));
  EXPECT_NEAR(share(), drawn, 0.01);
}

TEST_F(Window, EveryVitalLeadsSomewhere) {
  VINEGAR_LONG_TEST(window);
  settleAll();
  for (const int index : {4, 5}) { // B+ and what is drawn from it
    window_->selectPart({});
    child<QWidget>("vitals")->findChildren<QPushButton*>().at(index)->click();
    settle();
    EXPECT_EQ(selectedName(), "C15");
  }
  child<QWidget>("vitals")->findChildren<QPushButton*>().at(3)->click(); // what clips first
  settle();
  EXPECT_TRUE(child<QPushButton>("page Levels")->isChecked());
  EXPECT_TRUE(child<QLabel>("clipsFirst")->text().contains(QStringLiteral("V3")));
  auto* sag = child<QWidget>("vitals")->findChildren<QPushButton*>().at(6);
  const auto told = sag->findChild<FigureTable*>()->text();
  EXPECT_TRUE(told.endsWith(QLatin1Char('%'))) << told.toStdString();
  sag->click();
  settle();
  EXPECT_TRUE(child<QPushButton>("page Feel")->isChecked());
  // The page's own droop of the whole chord, finely played, comes to the same percent or the next.
  const auto answer = child<QLabel>("burstAnswer")->text();
  const auto share = answer.left(answer.indexOf(QStringLiteral(" %"))).section(QLatin1Char(' '), -1).toDouble();
  EXPECT_NEAR(share, told.section(QLatin1Char(' '), 0, 0).toDouble(), 1);
}

/// Ink and pencil of every vital are whole, in a small window too: where there is no room for both, their unit is
/// written once, and the cells take room from each other.
TEST_F(Window, VitalsAreNotCutOff) {
  window_->session().edit(QStringLiteral("p"), [](amp::Document& d) {
    amp::pencil(d, testing_support::library(), "C15", "value", 10e-6);
    amp::pencil(d, testing_support::library(), "C4", "value", 150e-12);
    amp::pencil(d, testing_support::library(), "R28", "value", 330.0);
  });
  settleAll();
  const auto places = [&] {
    std::vector<int> lefts;
    for (auto* vital : child<QWidget>("vitals")->findChildren<QPushButton*>())
      lefts.push_back(vital->x());
    return lefts;
  };
  for (const int width : {1280, 1000}) {
    window_->resize(width, 800);
    QTest::qWait(20);
    int both = 0;
    for (auto* vital : child<QWidget>("vitals")->findChildren<QPushButton*>()) {
      auto* values = vital->findChild<FigureTable*>();
      const auto text = values->text().simplified();
      EXPECT_LE(values->x() + QFontMetrics(figureFont(10.5)).horizontalAdvance(text), vital->width())
          << text.toStdString() << " " << width;
      auto* caption = vital->findChild<QLabel*>();
      EXPECT_GE(caption->width(), caption->fontMetrics().horizontalAdvance(caption->text())) << width;
      both += vital->accessibleName().contains(QStringLiteral("pencil"));
    }
    EXPECT_GT(both, 4);
  }
  // While a value is turned they stand still; rubbed out they stand where they were.
  const auto turned = places();
  for (const double value : {340.0, 350.0}) {
    window_->session().edit(QStringLiteral("p"), [&](amp::Document& d) {
      amp::pencil(d, testing_support::library(), "R28", "value", value);
    });
    settleAll();
    EXPECT_EQ(places(), turned);
  }
  QTest::mouseClick(child<QPushButton>("rubOut"), Qt::LeftButton);
  settleAll();
  EXPECT_NE(places(), turned);
}

/// Keys as a builder looks them up: the sheet has every action's, and no two actions share one.
TEST_F(Window, F1ShowsEveryKeyAndNoTwoActionsShareOne) {
  std::set<QString> keys;
  int actions = 0;
  for (auto* action : window_->findChildren<QAction*>())
    for (const auto& key : action->shortcuts()) {
      EXPECT_TRUE(keys.insert(key.toString()).second) << key.toString().toStdString();
      ++actions;
    }
  EXPECT_GT(actions, 15);
  QTest::keyClick(window_.get(), Qt::Key_F1);
  auto* sheet = child<QDialog>("keys");
  ASSERT_NE(sheet, nullptr);
  QStringList told;
  for (auto* label : sheet->findChildren<QLabel*>())
    told << label->text().split(QStringLiteral(", "));
  for (const auto& key : keys)
    EXPECT_TRUE(told.contains(key)) << key.toStdString() << " in " << told.join(QLatin1Char('|')).toStdString();
  sheet->close();
  QTest::keyClick(window_.get(), Qt::Key_PageDown, Qt::AltModifier);
  EXPECT_TRUE(child<QPushButton>("page Feel")->isChecked());
  QTest::keyClick(window_.get(), Qt::Key_1, Qt::AltModifier);
  EXPECT_TRUE(child<QPushButton>("page Arrange")->isChecked());
}

/// The least window is lower than the names of fourteen pages: they scroll.
TEST_F(Window, TheRailScrollsWhereItMust) {
  window_->resize(1000, 560);
  settle();
  auto* rail = child<QScrollArea>("railScroll");
  EXPECT_TRUE(rail->widgetResizable());
  EXPECT_GE(rail->viewport()->height(), 200);
  rail->widget()->setMinimumHeight(1200);
  QTest::qWait(5);
  EXPECT_GT(rail->verticalScrollBar()->maximum(), 0);
}

TEST_F(Window, RemembersWhatEachPageWasShowing) {
  window_->showPage(QStringLiteral("Supply"));
  child<QPushButton>("view Budgets")->click();
  window_->showPage(QStringLiteral("Voice"));
  child<QCheckBox>("phase")->click();
  settle();
  close();
  start();
  EXPECT_TRUE(child<QCheckBox>("phase")->isChecked());
  EXPECT_EQ(voice()->plot()->plot()->axisRectCount(), 2);
  window_->showPage(QStringLiteral("Supply"));
  EXPECT_TRUE(child<QPushButton>("view Budgets")->isChecked());
}

} // namespace
} // namespace vinegar::app
