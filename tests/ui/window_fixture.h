// The window as the tests drive it: opened on a sample, by mouse and keyboard, settled after every act.
#pragma once

#include "pages/voice/voice_page.h"
#include "plots/curve_plot.h"
#include "run/run_view.h"
#include "support/paths.h"
#include "support/samples.h"
#include "window/main_window.h"

#include <QApplication>
#include <QDialog>
#include <QElapsedTimer>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QSettings>
#include <QTemporaryDir>
#include <QTest>
#include <gtest/gtest.h>

namespace vinegar::app {

inline QString dataFolder() { return QString::fromStdString(testing_support::folder("data")); }

class Window : public testing::Test {
protected:
  void SetUp() override {
    QSettings().clear(); // what the test before was looking at
    start();
  }
  void TearDown() override {
    if (window_) close();
  }

  void start() {
    window_ = std::make_unique<MainWindow>(testing_support::library(), dataFolder(),
                                           folder_.path() + QStringLiteral("/recovery"));
    window_->resize(1280, 800);
    window_->openSample(QStringLiteral("slipway"));
    window_->showPage(QStringLiteral("Voice"));
    window_->show();
    EXPECT_TRUE(QTest::qWaitForWindowActive(window_.get()));
    settle();
  }
  void close() {
    // A changed document would ask; these tests have said all they want to say.
    window_->session().startEmpty();
    window_->close();
    window_.reset();
  }
  void settle() {
    QElapsedTimer timer;
    timer.start();
    do {
      QTest::qWait(5);
    } while (!window_->idle() && timer.elapsed() < 120000);
    ASSERT_TRUE(window_->idle());
    QTest::qWait(5);
  }

  template <class T> T* child(const char* name) {
    auto* found = window_->findChild<T*>(QString::fromUtf8(name));
    EXPECT_NE(found, nullptr) << name;
    return found;
  }
  RunView* run() { return child<RunView>("run"); }
  VoicePage* voice() { return window_->findChild<VoicePage*>(); }
  const amp::Document& document() { return window_->session().document(); }
  std::string selectedName() { return child<QLabel>("partName")->text().toStdString(); }
  void clickPart(const std::string& name) {
    run()->select(name); // scrolls it into view
    QTest::mouseClick(run()->viewport(), Qt::LeftButton, {}, run()->partPosition(name));
    settle();
  }
  const std::vector<CurvePlot::Curve>& curves() { return voice()->plot()->picture().curves; }
  static double levelOf(const CurvePlot::Curve& curve, double hertz) { return CurvePlot::valueAt(curve, hertz, true); }
  double level(std::size_t curve, double hertz) { return levelOf(curves().at(curve), hertz); }
  QString notices() {
    QStringList texts;
    for (auto* widget : window_->findChildren<QWidget*>())
      if (const auto message = widget->property("message"); message.isValid()) texts << message.toString();
    return texts.join(QLatin1Char('\n'));
  }
  QPushButton* button(const QString& text) {
    for (auto* b : window_->findChildren<QPushButton*>())
      if (b->text() == text && b->isVisible()) return b;
    return nullptr;
  }
  void inkWithReason(const QString& reason) {
    QTest::mouseClick(child<QPushButton>("inkIt"), Qt::LeftButton);
    auto* dialog = child<QDialog>("inkDialog");
    auto* edit = dialog->findChild<QLineEdit*>(QStringLiteral("reason"));
    EXPECT_FALSE(dialog->findChild<QPushButton*>(QStringLiteral("inkNow"))->isEnabled()); // no reason, no ink
    QTest::keyClicks(edit, reason);
    QTest::keyClick(edit, Qt::Key_Return);
    window_->activateWindow();
    EXPECT_TRUE(QTest::qWaitForWindowActive(window_.get()));
    settle();
  }

  QTemporaryDir folder_;
  std::unique_ptr<MainWindow> window_;
};

} // namespace vinegar::app
