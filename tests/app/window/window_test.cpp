// The real window, driven by mouse and keyboard.
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
  for (const auto& page : PageStack::ids()) {
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

/// Rounds of one file over another, whatever is selected, shown, at work or pencilled.
TEST_F(Window, NothingOfTheFormerAmplifierStaysOnScreen) {
  VINEGAR_LONG_TEST(both);
  std::mt19937 random(9);
  const auto pick = [&](std::size_t n) { return std::uniform_int_distribution<std::size_t>(0, n - 1)(random); };
  write(file(QStringLiteral("empty.vinegar")), R"({"format":"vinegar-design","version":1,"name":"Nothing","line":[]})");
  auto bench = units::Json::parse(sampleText("net-loft"));
  bench["name"] = "Bench";
  bench["supply"] = units::Json::parse(R"([{"id":"b","section":"supply-fixed-reservoir","node":"A"}])");
  write(file(QStringLiteral("bench.vinegar")), bench.dump());
  auto broken = units::Json::parse(sampleText("slipway"));
  broken["name"] = "Broken";
  broken["line"][1]["section"] = "no-such-section";
  write(file(QStringLiteral("broken.vinegar")), broken.dump());
  const auto data = dataFolder() + QStringLiteral("/samples/");
  const QStringList paths{data + QStringLiteral("slipway.vinegar"),        data + QStringLiteral("net-loft.vinegar"),
                          data + QStringLiteral("harbour-office.vinegar"), file(QStringLiteral("empty.vinegar")),
                          file(QStringLiteral("bench.vinegar")),           file(QStringLiteral("broken.vinegar"))};
  const QStringList views{QStringLiteral("Cycles"),     QStringLiteral("Switch-on"), QStringLiteral("Discharge"),
                          QStringLiteral("Regulation"), QStringLiteral("Choices"),   QStringLiteral("Budgets"),
                          QStringLiteral("Findings")};
  const int rounds = std::max(3, testing_support::trials(8));
  for (const auto& page : PageStack::ids()) // a page is made when it is shown
    window_->showPage(page);
  for (int round = 0; round < rounds; ++round) {
    window_->showPage(PageStack::ids()[static_cast<int>(pick(3))]);
    if (pick(2)) child<QPushButton>(("view " + views[static_cast<int>(pick(7))].toStdString()).c_str())->click();
    if (const auto& parts = window_->session().inkParts(); !parts.empty()) {
      window_->selectPart(parts[pick(parts.size())].name);
      const auto& part = parts[pick(parts.size())];
      if (amp::hasValue(part.part->kind) && pick(2)) pencil(part.name.c_str(), part.value() * 1.2);
    }
    if (pick(2)) QTest::qWait(static_cast<int>(pick(120))); // in the middle of work, or not
    window_->session().edit(QStringLiteral("mark"), [](amp::Document& d) { d.ink.name += "!"; });
    const auto path = paths[static_cast<int>(pick(6))];
    ASSERT_TRUE(window_->openFile(path)) << path.toStdString();
    // At once: nothing that was worked out for another one.
    for (const auto* table : {"readings", "steps", "supplySummary"})
      EXPECT_TRUE(child<FigureTable>(table)->text().isEmpty())
          << table << ": " << child<FigureTable>(table)->text().toStdString();
    EXPECT_EQ(child<FigureSheet>("choices")->rowCount(), 0);
    EXPECT_TRUE(child<QTextBrowser>("budgets")->toPlainText().isEmpty());
    EXPECT_TRUE(window_->findings().findings().empty());
    EXPECT_TRUE(curves().empty());
    settle();
    // And in the end what a window shows that never saw another.
    const auto now = allTexts();
    MainWindow fresh(library(), dataFolder(), {});
    fresh.resize(window_->size());
    ASSERT_TRUE(fresh.openFile(path));
    fresh.show();
    EXPECT_TRUE(QTest::qWaitFor([&] { return fresh.idle(); }, 60000));
    for (const auto* table : {"supplySummary", "tubes"}) {
      fresh.showPage(QStringLiteral("Supply"));
      window_->showPage(QStringLiteral("Supply"));
      EXPECT_TRUE(QTest::qWaitFor([&] { return fresh.idle() && window_->idle(); }, 60000));
      EXPECT_EQ(child<FigureTable>(table)->text(), fresh.findChild<FigureTable*>(QLatin1String(table))->text())
          << path.toStdString();
    }
    EXPECT_EQ(window_->findings().findings(), fresh.findings().findings());
    fresh.close();
  }
}

/// A line amplifier is not played at a guitar's strum; what was typed for one amplifier is not kept for the next.
TEST_F(Window, LevelsStartFromTheDesignsOwnSource) {
  const auto level = [&] { return child<QComboBox>("inputLevel")->currentText(); };
  window_->showPage(QStringLiteral("Levels"));
  settle();
  EXPECT_TRUE(level().startsWith(QStringLiteral("100 mV"))) << level().toStdString();
  ASSERT_TRUE(window_->openFile(dataFolder() + QStringLiteral("/skeletons/2-triode-for-records.vinegar")));
  settle();
  EXPECT_TRUE(level().startsWith(QStringLiteral("300 mV"))) << level().toStdString();
  openSample("slipway");
  EXPECT_TRUE(level().startsWith(QStringLiteral("100 mV"))) << level().toStdString();
}

/// A preamplifier has steps in the drawer and revisions in the log, told to where its line ends.
TEST_F(Window, WithoutALoudspeakerStepsAndLogAreToldToTheLinesEnd) {
  window_->showPage(QStringLiteral("Log"));
  settle();
  window_->showPage(QStringLiteral("Supply"));
  ASSERT_TRUE(window_->openFile(dataFolder() + QStringLiteral("/skeletons/8-preamplifier.vinegar")));
  settle();
  clickPart("R11");
  EXPECT_TRUE(child<FigureTable>("steps")->text().contains(QLatin1Char('+')))
      << child<FigureTable>("steps")->text().toStdString();
  window_->session().edit(QStringLiteral("t"), [](amp::Document& d) {
    amp::pencil(d, library(), "C5", "value", 1e-6);
    amp::ink(d, library(), "less bass", "2026-11-26T12:00:00+00:00");
  });
  settle();
  window_->showPage(QStringLiteral("Log"));
  settle();
  const auto told = child<QLabel>("revisionDetail")->text();
  EXPECT_TRUE(told.contains(QStringLiteral("gain at 1 kHz"))) << told.toStdString();
}

TEST_F(Window, NewLeavesNoTableOfTheFormerAmplifierToPencilFrom) {
  window_->showPage(QStringLiteral("Supply"));
  child<QPushButton>("view Choices")->click();
  settle();
  EXPECT_GT(child<FigureSheet>("choices")->rowCount(), 3);
  window_->session().startEmpty();
  settle();
  EXPECT_EQ(child<FigureSheet>("choices")->rowCount(), 0);
  EXPECT_FALSE(window_->findChild<PageStack*>()->page()->frame().state().said().isEmpty());
}

/// Names that another program would take for mark-up, a path, a format or a link.
const std::vector<std::string> hostileNames{
    "<img src='/dev/zero'>", "<h1>All safe</h1>", "%1 %2 %n", "a&b", "#?\"'<>", "x\ny", "&lt;b&gt;"};

TEST_F(Window, NamesAreShownAsTheyAreOnEveryPage) {
  VINEGAR_LONG_TEST(window);
  for (const auto& name : hostileNames) {
    auto json = units::Json::parse(sampleText("slipway"));
    json["name"] = name;
    json["supply"][0]["parts"]["H"]["name"] = name + " heater";
    json["supply"][0]["parts"]["T"]["name"] = name + " trafo";
    json["supply"][1]["parts"]["C"]["name"] = name + " cap";
    json["supply"][1]["parts"]["C"]["value"] = "100u"; // a finding there
    json["line"][1]["parts"]["V"]["name"] = name + " tubea";
    json["log"][0]["reason"] = name;
    json["sheets"] = units::Json::parse(R"([{"name":"s","changes":[]}])");
    json["sheets"][0]["name"] = name;
    write(file(QStringLiteral("hostile.vinegar")), json.dump());
    ASSERT_TRUE(window_->openFile(file(QStringLiteral("hostile.vinegar")))) << notices().toStdString();
    window_->selectPart(name + " cap");
    settle();
    window_->showPage(QStringLiteral("Log"));
    settle();
    window_->showPage(QStringLiteral("Supply"));
    for (const char* view : {"Choices", "Budgets", "Findings"}) {
      child<QPushButton>((std::string("view ") + view).c_str())->click();
      settleAll();
    }
    for (auto* label : window_->findChildren<QLabel*>())
      EXPECT_EQ(label->textFormat(), Qt::PlainText) << label->text().toStdString();
    for (auto* widget : window_->findChildren<QWidget*>()) {
      const auto tip = widget->toolTip();
      if (Qt::mightBeRichText(tip)) {
        EXPECT_TRUE(tip.startsWith(QStringLiteral("<p style='white-space:pre-wrap'>"))) << tip.toStdString();
      }
    }
    const auto expected = QString::fromStdString(name).simplified();
    for (const char* browser : {"budgets", "supplyFindings"}) {
      const auto text = child<QTextBrowser>(browser)->toPlainText();
      EXPECT_TRUE(text.simplified().contains(expected)) << browser << ": " << text.toStdString();
      EXPECT_FALSE(child<QTextBrowser>(browser)->toHtml().contains(QStringLiteral("<img"))) << browser;
    }
    // The link of a finding leads to its part, whatever that is called.
    const auto& findings = window_->findings().findings();
    const auto at =
        std::find_if(findings.begin(), findings.end(), [&](const auto& f) { return f.part == name + " cap"; });
    ASSERT_NE(at, findings.end());
    window_->selectPart("R3");
    Q_EMIT child<QTextBrowser>("supplyFindings")
        ->anchorClicked(QUrl(QStringLiteral("finding:%1").arg(at - findings.begin())));
    settle();
    EXPECT_EQ(child<QLabel>("partFindings")->isVisible(), true);
  }
}

TEST_F(Window, ASpanWithoutAnAnswerTakesNothingElseAway) {
  settleAll();
  const auto vitals = [&] { return child<QWidget>("vitals")->findChildren<FigureTable*>().at(3)->text(); };
  const auto volts = vitals();
  auto* to = child<QComboBox>("to");
  auto* from = child<QComboBox>("from");
  for (int i = 0; i < from->count(); ++i) { // every end as the start: some carry nothing
    from->setCurrentIndex(i);
    to->setCurrentText(QStringLiteral("jack"));
    Q_EMIT from->activated(i);
    settleAll();
    EXPECT_EQ(vitals(), volts) << from->currentText().toStdString();
  }
}

TEST_F(Window, TheLogFollowsTheKnobsItSaysItStandsAt) {
  window_->showPage(QStringLiteral("Log"));
  settle();
  const auto before = child<QLabel>("revisionDetail")->text();
  ASSERT_FALSE(before.isEmpty());
  window_->session().edit(QStringLiteral("turn"), [](amp::Document& d) { d.ink.knobs["Volume"] = 0.1; });
  settle();
  EXPECT_NE(child<QLabel>("revisionDetail")->text(), before);
}

} // namespace
} // namespace vinegar::app
