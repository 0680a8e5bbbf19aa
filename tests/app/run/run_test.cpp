// The run in the window.
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

TEST_F(Window, ASelectedPartStaysInViewWhenTheWindowShrinks) {
  clickPart("C2");
  window_->resize(1000, 560);
  settle();
  EXPECT_TRUE(run()->viewport()->rect().contains(run()->partPosition("C2")));
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

TEST_F(Window, AnotherRectifierIsDrawnAsWhatItIs) {
  const auto bottle = run()->grab().toImage();
  window_->session().edit(QStringLiteral("silicon"),
                          [&](amp::Document& d) { amp::pencil(d, library(), "V5", "tube", std::string("1N4007")); });
  settle();
  const auto silicon = amp::drawRun(window_->session().pencilled(), library());
  EXPECT_TRUE(silicon.part("V5")->silicon);
  window_->selectPart("V5");
  EXPECT_NE(run()->grab().toImage(), bottle);
}

/// A section that nobody has is drawn, says so, and can be replaced or taken out.
TEST_F(Window, ASectionNobodyHasIsAnEmptyFrame) {
  auto json = units::Json::parse(sampleText("net-loft"));
  json["line"][1]["section"] = "flux-stage";
  write(file(QStringLiteral("flux.vinegar")), json.dump());
  ASSERT_TRUE(window_->openFile(file(QStringLiteral("flux.vinegar")))) << notices().toStdString();
  window_->showPage(QStringLiteral("Arrange"));
  settle();
  const auto id = window_->session().pencilled().line[1].id;
  EXPECT_TRUE(child<QLabel>("whyNot")->text().contains(QStringLiteral("flux-stage")))
      << child<QLabel>("whyNot")->text().toStdString();
  QTest::mouseClick(run()->viewport(), Qt::LeftButton, {}, run()->piecePosition({id, {}}));
  settle();
  key(run(), Qt::Key_Delete);
  EXPECT_EQ(window_->session().pencilled().section(id), nullptr);
  window_->session().undo();
  settle();
  EXPECT_NE(window_->session().pencilled().section(id), nullptr);
  const auto other = amp::replaceSection(window_->session().pencilled(), library(), amp::NameBook(document()), id,
                                         "triode-common-cathode");
  ASSERT_TRUE(other) << other.error().line();
  window_->session().edit(QStringLiteral("replace"), [&](amp::Document& d) { amp::pencil(d, library(), *other); });
  settle();
  EXPECT_FALSE(child<QLabel>("whyNot")->text().contains(QStringLiteral("flux-stage")));
}

TEST_F(Window, SupplyOpensOnTheSuppliesEndOfTheRun) {
  window_->selectPart({});
  auto* bar = run()->horizontalScrollBar();
  window_->showPage(QStringLiteral("Supply"));
  EXPECT_GT(bar->maximum(), 100);
  EXPECT_EQ(bar->value(), bar->maximum());
  window_->showPage(QStringLiteral("Voice"));
  EXPECT_EQ(bar->value(), 0);
}

} // namespace
} // namespace vinegar::app
