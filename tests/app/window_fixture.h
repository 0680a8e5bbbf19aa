// The window as the tests drive it: opened on a sample, by mouse and keyboard, settled after every act.
#pragma once

#include "pages/voice/voice_page.h"
#include "plots/curve_plot.h"
#include "run/run_view.h"
#include "support/paths.h"
#include "support/samples.h"
#include "units/file.h"
#include "widgets/figure_sheet.h"
#include "widgets/figure_table.h"
#include "window/main_window.h"

#include <QApplication>
#include <QDialog>
#include <QElapsedTimer>
#include <QLabel>
#include <QLineEdit>
#include <QMessageBox>
#include <QPushButton>
#include <QSettings>
#include <QTemporaryDir>
#include <QTest>
#include <QTextBrowser>
#include <QTimer>
#include <fstream>
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
  /// Until every page shows what it will.
  void settle() {
    waitFor([this] { return window_->pagesAnswered(); });
  }
  /// Until findings, clipping and sag stand too, which play a chord.
  void settleAll() {
    waitFor([this] { return window_->idle(); });
  }
  void waitFor(const std::function<bool()>& stands) {
    QElapsedTimer timer;
    timer.start();
    do {
      QTest::qWait(5);
    } while (!stands() && timer.elapsed() < 120000);
    ASSERT_TRUE(stands());
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

  QString file(const QString& name) const { return folder_.filePath(name); }
  void write(const QString& path, const std::string& text) { std::ofstream(path.toStdString()) << text; }
  std::string read(const QString& path) { return *units::readFile(path.toStdString()); }
  std::string sampleText(const char* name) { return *units::readFile(testing_support::samplePath(name)); }
  void pencil(const char* part, double value) {
    window_->session().edit(QStringLiteral("pencil"), [&](amp::Document& d) {
      amp::pencil(d, testing_support::library(), part, "value", value);
    });
  }
  void key(QWidget* widget, Qt::Key key, Qt::KeyboardModifiers modifiers = {}) {
    QTest::keyClick(widget, key, modifiers);
    settle();
  }
  void openSample(const char* name) {
    EXPECT_TRUE(window_->openSample(QString::fromLatin1(name)));
    settle();
  }
  void trigger(const QString& text) {
    for (auto* action : window_->findChildren<QAction*>())
      if (action->text() == text) return action->trigger();
    ADD_FAILURE() << "no action " << text.toStdString();
  }
  /// Runs `act` as soon as a dialog of that kind is up.
  template <class Dialog> void whenAsked(std::function<void(Dialog&)> act) {
    auto* timer = new QTimer(window_.get());
    QObject::connect(timer, &QTimer::timeout, window_.get(), [timer, act, tries = 0]() mutable {
      auto* dialog = qobject_cast<Dialog*>(QApplication::activeModalWidget());
      if (!dialog && ++tries < 400) return;
      timer->stop();
      timer->deleteLater();
      ASSERT_TRUE(dialog) << "nobody asked";
      act(*dialog);
    });
    timer->start(5);
  }
  void answerBox(const QString& button) {
    whenAsked<QMessageBox>([button](QMessageBox& box) {
      for (auto* b : box.buttons())
        if (b->text().remove(QLatin1Char('&')) == button) return b->click();
      ADD_FAILURE() << "no button " << button.toStdString();
      box.reject();
    });
  }
  /// Every text on screen.
  QString allTexts() {
    QStringList texts;
    for (auto* widget : window_->findChildren<QWidget*>()) {
      if (auto* label = qobject_cast<QLabel*>(widget)) texts << label->text();
      if (auto* table = qobject_cast<FigureTable*>(widget)) texts << table->text();
      if (auto* browser = qobject_cast<QTextBrowser*>(widget)) texts << browser->toPlainText();
      if (auto* table = qobject_cast<FigureSheet*>(widget))
        for (int r = 0; r < table->rowCount(); ++r)
          for (int c = 0; c < table->columnCount(); ++c)
            texts << table->text(r, c);
    }
    return texts.join(QLatin1Char('\n'));
  }

  QTemporaryDir folder_;
  std::unique_ptr<MainWindow> window_;
};

} // namespace vinegar::app
