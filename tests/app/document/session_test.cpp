// The document session on its own: undo, what is saved, safety copies.
#include "document/session.h"
#include "predict/overview/steps.h"
#include "run/run_view.h"
#include "support/samples.h"
#include "theme/theme.h"
#include "units/json.h"
#include "widgets/dial.h"
#include "widgets/figure_table.h"
#include "widgets/readings.h"

#include <QApplication>
#include <QDir>
#include <QElapsedTimer>
#include <QFile>
#include <QScrollBar>
#include <QSignalSpy>
#include <QTemporaryDir>
#include <QTest>
#include <QWheelEvent>
#include <cmath>
#include <functional>
#include <gtest/gtest.h>

namespace vinegar::app {
namespace {

using testing_support::library;

void pencil(Session& session, const char* part, double value) {
  session.edit(
      QStringLiteral("pencil ") + QLatin1String(part),
      [&](amp::Document& d) { amp::pencil(d, library(), part, "value", value); },
      QStringLiteral("pencil ") + QLatin1String(part));
}

struct OpenSession {
  QTemporaryDir folder;
  Session session{library(), folder.path() + QStringLiteral("/recovery")};
  OpenSession() {
    EXPECT_FALSE(session.open(QString::fromStdString(testing_support::samplePath("slipway").string()), true));
  }
  [[nodiscard]] QStringList copies() const {
    return QDir(folder.path() + QStringLiteral("/recovery")).entryList({QStringLiteral("*.recovery")});
  }
};

TEST(Session, StepsOfOneTurnAreOneUndo) {
  OpenSession open;
  auto& session = open.session;
  for (const double value : {15e-6, 10e-6, 6.8e-6})
    pencil(session, "C2", value);
  pencil(session, "R3", 100e3);
  pencil(session, "C2", 4.7e-6);
  EXPECT_EQ(session.undoName(), QStringLiteral("pencil C2"));
  session.undo();
  EXPECT_EQ(amp::findPart(session.pencilled(), library(), "C2")->value(), 6.8e-6);
  session.undo();
  EXPECT_EQ(session.undoName(), QStringLiteral("pencil C2"));
  session.undo();
  EXPECT_FALSE(session.canUndo());
  EXPECT_FALSE(session.modified());
  EXPECT_EQ(session.redoName(), QStringLiteral("pencil C2"));
  session.redo();
  session.redo();
  session.redo();
  EXPECT_FALSE(session.canRedo());
  EXPECT_EQ(amp::findPart(session.pencilled(), library(), "C2")->value(), 4.7e-6);
}

TEST(Session, ANewChangeDropsWhatWasUndone) {
  OpenSession open;
  auto& session = open.session;
  pencil(session, "C2", 10e-6);
  session.undo();
  pencil(session, "R3", 100e3);
  EXPECT_FALSE(session.canRedo());
  EXPECT_EQ(session.document().sheet().marks.size(), 1U);
}

TEST(Session, AnEditThatChangesNothingLeavesNoStep) {
  OpenSession open;
  QSignalSpy spy(&open.session, &Session::changed);
  open.session.edit(QStringLiteral("nothing"), [](amp::Document&) {});
  EXPECT_EQ(spy.count(), 0);
  EXPECT_FALSE(open.session.canUndo());
}

TEST(Session, KnowsWhatIsSavedAcrossUndo) {
  OpenSession open;
  auto& session = open.session;
  const QString path = open.folder.filePath(QStringLiteral("a.vinegar"));
  EXPECT_TRUE(session.path().isEmpty()); // a shipped sample is not saved over
  pencil(session, "C2", 10e-6);
  ASSERT_FALSE(session.save(path));
  EXPECT_FALSE(session.modified());
  pencil(session, "C2", 15e-6); // must not melt into the saved step
  EXPECT_TRUE(session.modified());
  session.undo();
  EXPECT_FALSE(session.modified());
  session.undo();
  EXPECT_TRUE(session.modified());
  pencil(session, "R3", 100e3);
  EXPECT_TRUE(session.modified());
}

TEST(Session, KeepsASafetyCopyOnlyWhileThereIsUnsavedWork) {
  OpenSession open;
  auto& session = open.session;
  session.keepSafetyCopy();
  EXPECT_TRUE(open.copies().isEmpty());
  pencil(session, "C2", 10e-6);
  session.keepSafetyCopy();
  EXPECT_EQ(open.copies().size(), 1);
  EXPECT_TRUE(session.recoverable().empty()); // its writer is alive: nothing to recover
  ASSERT_FALSE(session.save(open.folder.filePath(QStringLiteral("a.vinegar"))));
  session.keepSafetyCopy();
  EXPECT_TRUE(open.copies().isEmpty());
}

TEST(Session, WritesTheSafetyCopyByItselfSoonAfterAChange) {
  OpenSession open;
  pencil(open.session, "C2", 10e-6);
  EXPECT_TRUE(QTest::qWaitFor([&] { return !open.copies().isEmpty(); }, 5000));
}

TEST(Session, ADamagedSafetyCopyIsPassedOver) {
  OpenSession open;
  QDir().mkpath(open.folder.path() + QStringLiteral("/recovery"));
  for (const char* content : {"", "{", "{\"pid\": \"x\"}", "[1,2]"}) {
    QFile file(open.folder.path() + QStringLiteral("/recovery/old.recovery"));
    ASSERT_TRUE(file.open(QIODevice::WriteOnly));
    file.write(content);
    file.close();
    EXPECT_TRUE(open.session.recoverable().empty()) << content;
    EXPECT_TRUE(file.exists());
  }
}

TEST(Session, SaysWhenNoSafetyCopyCanBeKept) {
  QTemporaryDir folder;
  QFile inTheWay(folder.filePath(QStringLiteral("recovery")));
  ASSERT_TRUE(inTheWay.open(QIODevice::WriteOnly)); // a file where the folder should be
  Session session(library(), inTheWay.fileName());
  ASSERT_FALSE(session.open(QString::fromStdString(testing_support::samplePath("net-loft").string()), true));
  QSignalSpy spy(&session, &Session::safetyFailed);
  pencil(session, "R3", 120e3);
  session.keepSafetyCopy();
  ASSERT_EQ(spy.count(), 1);
  EXPECT_TRUE(spy.front().front().toString().contains(QStringLiteral("Save your work")));
}

} // namespace
} // namespace vinegar::app
