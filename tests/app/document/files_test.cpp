// Files by the window: opening, saving, other programs, full disks, recovery.
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

struct FaultGuard {
  ~FaultGuard() { files::setFaultHook({}); }
};

/// A part of the same name in two amplifiers, of another kind and with other fields.
TEST_F(Window, OpeningOverASelectedPartOfTheSameNameIsNoAccident) {
  VINEGAR_LONG_TEST(window);
  clickPart("T2");
  openSample("harbour-office");
  EXPECT_EQ(selectedName(), "Harbour Office"); // nothing selected
  std::vector<std::string> names;
  for (const auto& part : window_->session().inkParts())
    names.push_back(part.name);
  for (std::size_t i = 0; i < names.size(); i += 4) {
    openSample("slipway");
    window_->selectPart(names[i]);
    openSample("harbour-office");
    window_->selectPart(names[i]);
    settle();
    EXPECT_EQ(selectedName(), names[i]);
  }
}

TEST_F(Window, AFileThatCannotBeOpenedLeavesAllAsItWas) {
  auto* from = child<QComboBox>("from");
  const auto before = from->currentText();
  const auto count = curves().size();
  clickPart("R3");
  EXPECT_FALSE(window_->openFile(file(QStringLiteral("not-there.vinegar"))));
  settle();
  EXPECT_EQ(from->currentText(), before);
  EXPECT_FALSE(from->currentText().isEmpty());
  EXPECT_EQ(curves().size(), count);
  EXPECT_EQ(selectedName(), "R3");
  ASSERT_EQ(mkfifo(file(QStringLiteral("pipe.vinegar")).toLocal8Bit().constData(), 0600), 0);
  EXPECT_FALSE(window_->openFile(file(QStringLiteral("pipe.vinegar")))); // and comes back
  EXPECT_TRUE(notices().contains(QStringLiteral("no ordinary file")));
}

TEST_F(Window, SaveAsPutsTheEndingOnBeforeItAsksAndOverwritesNothingUnasked) {
  const auto target = file(QStringLiteral("amp.vinegar"));
  write(target, "somebody else's");
  pencil("C2", 10e-6);
  bool asked = false;
  whenAsked<QFileDialog>([&](QFileDialog& dialog) {
    dialog.setDirectory(folder_.path());
    dialog.findChild<QLineEdit*>()->setText(QStringLiteral("amp")); // without the ending
    QTimer::singleShot(200, &dialog, [&] {
      auto* box = qobject_cast<QMessageBox*>(QApplication::activeModalWidget());
      asked = box != nullptr;
      if (box) box->button(QMessageBox::No)->click();
      QTimer::singleShot(100, &dialog, &QDialog::reject);
    });
    QMetaObject::invokeMethod(&dialog, "accept", Qt::QueuedConnection);
  });
  trigger(QStringLiteral("Save as\u2026"));
  EXPECT_TRUE(asked);
  EXPECT_EQ(read(target), "somebody else's");
  whenAsked<QFileDialog>([&](QFileDialog& dialog) {
    dialog.setDirectory(folder_.path());
    dialog.findChild<QLineEdit*>()->setText(QStringLiteral("other"));
    QMetaObject::invokeMethod(&dialog, "accept", Qt::QueuedConnection);
  });
  trigger(QStringLiteral("Save as\u2026"));
  EXPECT_TRUE(QFile::exists(file(QStringLiteral("other.vinegar"))));
  EXPECT_FALSE(window_->session().modified());
}

TEST_F(Window, AFileThatSomebodyElseChangedIsAskedAbout) {
  const auto path = file(QStringLiteral("amp.vinegar"));
  ASSERT_FALSE(window_->session().save(path));
  const auto theirs = sampleText("net-loft");
  pencil("C2", 10e-6);
  write(path, theirs);
  answerBox(QStringLiteral("Cancel"));
  trigger(QStringLiteral("Save"));
  EXPECT_EQ(read(path), theirs);
  EXPECT_TRUE(window_->session().modified());
  answerBox(QStringLiteral("Keep mine"));
  trigger(QStringLiteral("Save"));
  EXPECT_NE(read(path), theirs);
  EXPECT_FALSE(window_->session().modified());
  trigger(QStringLiteral("Save")); // ours by now: nobody asks
  // Taking theirs.
  write(path, theirs);
  pencil("C2", 15e-6);
  answerBox(QStringLiteral("Take theirs"));
  trigger(QStringLiteral("Save"));
  settle();
  EXPECT_EQ(document().ink.name, "Net Loft");
  EXPECT_EQ(read(path), theirs);
  // One that was removed is not made again unasked.
  pencil("R3", 100e3);
  QFile::remove(path);
  answerBox(QStringLiteral("Cancel"));
  trigger(QStringLiteral("Save"));
  EXPECT_FALSE(QFile::exists(path));
  answerBox(QStringLiteral("Save it there again"));
  trigger(QStringLiteral("Save"));
  EXPECT_TRUE(QFile::exists(path));
  // Touched, but the same inside: nobody is bothered.
  pencil("R3", 82e3);
  write(path, read(path));
  trigger(QStringLiteral("Save"));
  EXPECT_FALSE(window_->session().modified());
}

/// Thirty clicks at a tenth of a second and then a kill: the last second may be lost, not all of it.
TEST_F(Window, WorkThatNeverRestsHasASafetyCopyAllTheSame) {
  VINEGAR_LONG_TEST(window);
  for (int i = 0; i < 12; ++i) {
    pencil("C2", (i % 2 ? 10 : 15) * 1e-6);
    pencil("R3", 100e3 + i);
    QTest::qWait(100);
  }
  const QDir recovery(folder_.path() + QStringLiteral("/recovery"));
  const auto copies = recovery.entryInfoList({QStringLiteral("*.recovery")});
  ASSERT_EQ(copies.size(), 1);
  const auto text = read(copies.front().absoluteFilePath());
  const auto loaded = files::readDesignText(text.substr(text.find('\n') + 1), "copy", library());
  ASSERT_TRUE(loaded) << loaded.error().line();
  const auto kept = amp::findPart(amp::pencilled(loaded->document, library()), library(), "R3")->value();
  EXPECT_GT(kept, 100e3 + 1);
}

TEST_F(Window, RecoveryLosesNothingToAFullDiskOrANewerFormat) {
  const FaultGuard guard;
  const QString recovery = folder_.path() + QStringLiteral("/recovery/");
  auto newer = units::Json::parse(sampleText("slipway"));
  newer["version"] = 3;
  const auto path = file(QStringLiteral("newer.vinegar"));
  write(path, newer.dump());
  const auto copy = recovery + QStringLiteral("77-1-1.recovery");
  {
    Session other(library(), folder_.path() + QStringLiteral("/elsewhere"));
    ASSERT_FALSE(other.open(path));
    ASSERT_TRUE(other.readOnly());
    other.edit(QStringLiteral("x"), [](amp::Document& d) { amp::pencil(d, library(), "C2", "value", 1e-6); });
    other.keepSafetyCopy();
    const auto kept = QDir(folder_.path() + QStringLiteral("/elsewhere")).entryInfoList({QStringLiteral("*.recovery")});
    ASSERT_EQ(kept.size(), 1);
    ASSERT_TRUE(QFile::copy(kept.front().absoluteFilePath(), copy)); // as a killed process leaves it
  }
  ASSERT_EQ(window_->session().recoverable().size(), 1U);
  files::setFaultHook([](std::string_view call) { return call == "write" ? ENOSPC : 0; }); // no room for anything
  ASSERT_FALSE(window_->session().recover(window_->session().recoverable().front()));
  window_->session().keepSafetyCopy();
  settle();
  EXPECT_TRUE(notices().contains(QStringLiteral("Save your work"))) << notices().toStdString();
  EXPECT_EQ(QDir(recovery).entryList({QStringLiteral("*.recovery")}).size(), 1); // ours now, and whole
  files::setFaultHook({});
  EXPECT_EQ(amp::findPart(window_->session().pencilled(), library(), "C2")->value(), 1e-6);
  EXPECT_TRUE(window_->session().readOnly());
  EXPECT_TRUE(window_->session().save(path)); // refused
  EXPECT_EQ(units::Json::parse(read(path))["version"], 3);
  // By another way to the same file too.
  ASSERT_TRUE(QFile::link(path, file(QStringLiteral("link.vinegar"))));
  EXPECT_TRUE(window_->session().save(file(QStringLiteral("link.vinegar"))));
  EXPECT_EQ(units::Json::parse(read(path))["version"], 3);
}

TEST_F(Window, AnOfferOfRecoveryThatIsNotTakenStays) {
  write(folder_.path() + QStringLiteral("/recovery/88-1-1.recovery"),
        R"({"recovery":2,"path":"","name":"Old work","when":"2026-01-01T10:00:00"})"
        "\n" +
            sampleText("net-loft"));
  window_->offerRecovery();
  pencil("C2", 10e-6); // something to lose
  settle();
  answerBox(QStringLiteral("Cancel"));
  QTest::mouseClick(button(QStringLiteral("Recover")), Qt::LeftButton);
  settle();
  ASSERT_NE(button(QStringLiteral("Recover")), nullptr);
  EXPECT_EQ(document().ink.name, "Slipway");
  answerBox(QStringLiteral("Discard"));
  QTest::mouseClick(button(QStringLiteral("Recover")), Qt::LeftButton);
  settle();
  EXPECT_EQ(document().ink.name, "Net Loft");
  EXPECT_EQ(button(QStringLiteral("Recover")), nullptr);
}

/// A process that lives under the number of one that was killed hides nothing.
TEST_F(Window, ACopyOfADeadProcessIsOfferedThoughItsNumberIsInUse) {
  write(folder_.path() + QStringLiteral("/recovery/%1-1-1.recovery").arg(QCoreApplication::applicationPid()),
        R"({"recovery":2,"path":"","name":"Old work","when":"2026-01-01T10:00:00"})"
        "\n" +
            sampleText("net-loft"));
  EXPECT_EQ(window_->session().recoverable().size(), 1U);
}

TEST_F(Window, ExportsToAFullDiskAreToldOfAndSpareTheFormerFile) {
  VINEGAR_LONG_TEST(window);
  const FaultGuard guard;
  for (const char* ending : {"svg", "pdf", "png", "csv"}) {
    const auto path = file(QStringLiteral("plot.") + QLatin1String(ending));
    write(path, "former");
    files::setFaultHook([](std::string_view call) { return call == "write" ? ENOSPC : 0; });
    EXPECT_TRUE(voice()->plot()->exportTo(path).contains(QStringLiteral("disk is full"))) << ending;
    EXPECT_EQ(read(path), "former") << ending;
    files::setFaultHook({});
    EXPECT_EQ(voice()->plot()->exportTo(path), QString()) << ending;
    EXPECT_GT(QFileInfo(path).size(), 500) << ending;
    if (QLatin1String(ending) == QLatin1String("csv")) continue;
    const auto run = file(QStringLiteral("run.") + QLatin1String(ending));
    write(run, "former");
    files::setFaultHook([](std::string_view call) { return call == "sync" ? ENOSPC : 0; });
    EXPECT_FALSE(window_->exportRunTo(run, QPageSize::A4, true)) << ending;
    EXPECT_EQ(read(run), "former") << ending;
    files::setFaultHook({});
    EXPECT_TRUE(window_->exportRunTo(run, QPageSize::A4, true)) << ending;
    EXPECT_GT(QFileInfo(run).size(), 2000) << ending;
  }
}

/// New numbers go straight into ink and the log; the part in hand stays in hand, its pencil stays on it.
TEST_F(Window, PartsAreNumberedByTheSignal) {
  openSample("chandlery");
  pencil("R47", 120e3);
  clickPart("R47");
  settle();
  const auto revision = document().revision();
  trigger(QStringLiteral("Number parts by the signal"));
  settle();
  const auto now = selectedName();
  EXPECT_NE(now, "R47");
  const auto* mark = document().sheet().marks.at(0).field();
  ASSERT_NE(mark, nullptr);
  EXPECT_EQ(mark->part, now);
  EXPECT_EQ(document().revision(), revision + 1);
  EXPECT_TRUE(notices().contains(QStringLiteral("V1 is the first tube")));
  trigger(QStringLiteral("Number parts by the signal"));
  EXPECT_EQ(document().revision(), revision + 1);
  EXPECT_TRUE(notices().contains(QStringLiteral("already")));
  QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier);
  settle();
  EXPECT_EQ(document().revision(), revision);
  EXPECT_EQ(document().sheet().marks.at(0).field()->part, "R47");
}

/// Ctrl+P shows the sheets; another paper folds them anew, and they go to the file that is named.
TEST_F(Window, TheRunGoesOnPaperAsItIsShown) {
  const FaultGuard guard;
  openSample("chandlery");
  QTest::keyClick(window_.get(), Qt::Key_P, Qt::ControlModifier);
  auto* dialog = child<QDialog>("sheetDialog");
  ASSERT_NE(dialog, nullptr);
  auto* told = dialog->findChild<QLabel*>(QStringLiteral("sheetsTold"));
  const auto sheets = [&] { return told->text().section(QLatin1Char(' '), 0, 0).toInt(); };
  const int small = sheets();
  EXPECT_GT(small, 1) << told->text().toStdString();
  auto* paper = dialog->findChild<QComboBox*>(QStringLiteral("paper"));
  const auto shown = [&] {
    return dialog->findChild<QLabel*>(QStringLiteral("sheets"))->pixmap(Qt::ReturnByValue).toImage();
  };
  const auto before = shown();
  QTest::mouseClick(dialog->findChild<QCheckBox*>(QStringLiteral("volts")), Qt::LeftButton, {}, {8, 8});
  EXPECT_NE(shown(), before);
  paper->setCurrentIndex(paper->findText(QStringLiteral("A3"), Qt::MatchContains));
  EXPECT_LT(sheets(), small) << told->text().toStdString();
  // What could not be done is told where it was asked for.
  files::setFaultHook([](std::string_view call) { return call == "write" ? ENOSPC : 0; });
  whenAsked<QFileDialog>([&](QFileDialog& save) {
    save.selectFile(file(QStringLiteral("full.pdf")));
    QMetaObject::invokeMethod(&save, "accept");
  });
  auto* saveButton = dialog->findChild<QPushButton*>(QStringLiteral("saveSheets"));
  QTest::mouseClick(saveButton, Qt::LeftButton);
  EXPECT_TRUE(told->text().contains(QStringLiteral("disk is full"))) << told->text().toStdString();
  EXPECT_TRUE(dialog->isVisible());
  files::setFaultHook({});
  const auto path = file(QStringLiteral("bench.pdf"));
  whenAsked<QFileDialog>([&](QFileDialog& save) {
    EXPECT_TRUE(save.selectedFiles().value(0).endsWith(QStringLiteral("chandlery.pdf")));
    save.selectFile(path);
    for (const auto* tool : save.findChildren<QToolButton*>()) // on a desktop without icons, too
      EXPECT_FALSE(tool->icon().isNull()) << tool->objectName().toStdString();
    QMetaObject::invokeMethod(&save, "accept");
  });
  QTest::mouseClick(saveButton, Qt::LeftButton);
  EXPECT_GT(QFileInfo(path).size(), 10000);
  EXPECT_NE(read(path).find("/MediaBox"), std::string::npos);
}

/// A red notice that a later save has proved wrong is gone.
TEST_F(Window, AGoodSaveTakesTheNoticeOfABadOneAway) {
  const FaultGuard guard;
  const auto path = file(QStringLiteral("work.vinegar"));
  ASSERT_FALSE(window_->session().save(path));
  const auto before = read(path);
  pencil("R3", 33e3);
  settle();
  files::setFaultHook([](std::string_view call) { return call == "write" ? ENOSPC : 0; });
  key(window_.get(), Qt::Key_S, Qt::ControlModifier);
  EXPECT_TRUE(notices().contains(QStringLiteral("disk is full"))) << notices().toStdString();
  files::setFaultHook({});
  key(window_.get(), Qt::Key_S, Qt::ControlModifier);
  EXPECT_FALSE(notices().contains(QStringLiteral("disk is full"))) << notices().toStdString();
  EXPECT_NE(read(path), before);
}

/// A file that takes its time: the window says so, and can be told not to wait.
TEST_F(Window, OpeningALargeFileCanBeGivenUp) {
  VINEGAR_LONG_TEST(window);
  std::string marks;
  for (int i = 0; i < 150000; ++i)
    marks += std::string(i ? "," : "") + R"({"part":"R3","field":"value","from":120000,"to":)" +
             std::to_string(100000 + i) + "}";
  auto json = sampleText("slipway");
  json.insert(json.rfind('}'), R"(, "sheets": [{"name": "many", "changes": [)" + marks + "]}]");
  write(file(QStringLiteral("large.vinegar")), json);
  bool shown = false;
  auto* timer = new QTimer(window_.get());
  QObject::connect(timer, &QTimer::timeout, window_.get(), [&] {
    auto* progress = window_->findChild<QProgressDialog*>(QStringLiteral("opening"));
    if (!progress || !progress->isVisible()) return;
    shown = true;
    progress->findChild<QPushButton*>()->click();
  });
  timer->start(10);
  const bool opened = window_->openFile(file(QStringLiteral("large.vinegar")));
  timer->stop();
  EXPECT_NE(opened, shown) << "given up where it could be, opened where it was quick";
  settle();
  if (shown) {
    EXPECT_TRUE(document().sheets.front().marks.empty());
    EXPECT_GT(curves().size(), 0U);
  }
  QTest::qWait(50);
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

} // namespace
} // namespace vinegar::app
