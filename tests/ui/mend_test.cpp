// What must never happen again: the former amplifier on screen, a name taken for mark-up, work lost to a save or to
// another program.
#include "amp/acts/acts.h"
#include "drawer/drawer.h"
#include "files/safe_file.h"
#include "theme/text.h"
#include "theme/theme.h"
#include "ui/window_fixture.h"
#include "units/file.h"
#include "units/json.h"
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
#include <QProgressDialog>
#include <QPushButton>
#include <QScrollBar>
#include <QSlider>
#include <QSplitter>
#include <QTextBrowser>
#include <QTimer>
#include <csignal>
#include <fstream>
#include <random>
#include <sys/stat.h>

namespace vinegar::app {
namespace {

using testing_support::library;

struct FaultGuard {
  ~FaultGuard() { files::setFaultHook({}); }
};

class Mend : public Window {
protected:
  QString file(const QString& name) const { return folder_.filePath(name); }
  void write(const QString& path, const std::string& text) { std::ofstream(path.toStdString()) << text; }
  std::string read(const QString& path) { return *units::readFile(path.toStdString()); }
  std::string sampleText(const char* name) { return *units::readFile(testing_support::samplePath(name)); }
  void pencil(const char* part, double value) {
    window_->session().edit(QStringLiteral("pencil"),
                            [&](amp::Document& d) { amp::pencil(d, library(), part, "value", value); });
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
};

/// A part of the same name in two amplifiers, of another kind and with other fields.
TEST_F(Mend, OpeningOverASelectedPartOfTheSameNameIsNoAccident) {
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

/// Rounds of one file over another, whatever is selected, shown, at work or pencilled.
TEST_F(Mend, NothingOfTheFormerAmplifierStaysOnScreen) {
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
  for (const auto& page : MainWindow::pages()) // a page is made when it is shown
    window_->showPage(page);
  for (int round = 0; round < rounds; ++round) {
    window_->showPage(MainWindow::pages()[static_cast<int>(pick(3))]);
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

TEST_F(Mend, AFileThatCannotBeOpenedLeavesAllAsItWas) {
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

TEST_F(Mend, NewLeavesNoTableOfTheFormerAmplifierToPencilFrom) {
  window_->showPage(QStringLiteral("Supply"));
  child<QPushButton>("view Choices")->click();
  settle();
  EXPECT_GT(child<FigureSheet>("choices")->rowCount(), 3);
  window_->session().startEmpty();
  settle();
  EXPECT_EQ(child<FigureSheet>("choices")->rowCount(), 0);
  EXPECT_FALSE(window_->findChild<PageStack*>()->page()->frame().state().said().isEmpty());
}

TEST_F(Mend, AnotherRectifierIsDrawnAsWhatItIs) {
  const auto bottle = run()->grab().toImage();
  window_->session().edit(QStringLiteral("silicon"),
                          [&](amp::Document& d) { amp::pencil(d, library(), "V5", "tube", std::string("1N4007")); });
  settle();
  const auto silicon = amp::drawRun(window_->session().pencilled(), library());
  EXPECT_TRUE(silicon.part("V5")->silicon);
  window_->selectPart("V5");
  EXPECT_NE(run()->grab().toImage(), bottle);
}

/// Names that another program would take for mark-up, a path, a format or a link.
const std::vector<std::string> hostileNames{
    "<img src='/dev/zero'>", "<h1>All safe</h1>", "%1 %2 %n", "a&b", "#?\"'<>", "x\ny", "&lt;b&gt;"};

TEST_F(Mend, NamesAreShownAsTheyAreOnEveryPage) {
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
      settle();
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

TEST_F(Mend, SaveAsPutsTheEndingOnBeforeItAsksAndOverwritesNothingUnasked) {
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

TEST_F(Mend, AFileThatSomebodyElseChangedIsAskedAbout) {
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
TEST_F(Mend, WorkThatNeverRestsHasASafetyCopyAllTheSame) {
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

TEST_F(Mend, RecoveryLosesNothingToAFullDiskOrANewerFormat) {
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

TEST_F(Mend, AnOfferOfRecoveryThatIsNotTakenStays) {
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
TEST_F(Mend, ACopyOfADeadProcessIsOfferedThoughItsNumberIsInUse) {
  write(folder_.path() + QStringLiteral("/recovery/%1-1-1.recovery").arg(QCoreApplication::applicationPid()),
        R"({"recovery":2,"path":"","name":"Old work","when":"2026-01-01T10:00:00"})"
        "\n" +
            sampleText("net-loft"));
  EXPECT_EQ(window_->session().recoverable().size(), 1U);
}

TEST_F(Mend, ExportsToAFullDiskAreToldOfAndSpareTheFormerFile) {
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
    EXPECT_FALSE(window_->exportRunTo(run, Pages::one)) << ending;
    EXPECT_EQ(read(run), "former") << ending;
    files::setFaultHook({});
    EXPECT_TRUE(window_->exportRunTo(run, Pages::one)) << ending;
    EXPECT_GT(QFileInfo(run).size(), 2000) << ending;
  }
}

/// A red notice that a later save has proved wrong is gone.
TEST_F(Mend, AGoodSaveTakesTheNoticeOfABadOneAway) {
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

/// Digits typed at the run belong to the value of the part that is selected there; letters find one.
TEST_F(Mend, DigitsTypedAtThePartAreItsValue) {
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

/// A section that nobody has is drawn, says so, and can be replaced or taken out.
TEST_F(Mend, ASectionNobodyHasIsAnEmptyFrame) {
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

TEST_F(Mend, ASpanWithoutAnAnswerTakesNothingElseAway) {
  const auto vitals = [&] { return child<QWidget>("vitals")->findChildren<FigureTable*>().at(3)->text(); };
  const auto volts = vitals();
  auto* to = child<QComboBox>("to");
  auto* from = child<QComboBox>("from");
  for (int i = 0; i < from->count(); ++i) { // every end as the start: some carry nothing
    from->setCurrentIndex(i);
    to->setCurrentText(QStringLiteral("jack"));
    Q_EMIT from->activated(i);
    settle();
    EXPECT_EQ(vitals(), volts) << from->currentText().toStdString();
  }
}

TEST_F(Mend, KnobsHaveRoomToTravel) {
  for (const int width : {1000, 1280, 1600}) {
    window_->resize(width, 760);
    settle();
    const auto sliders = voice()->findChildren<QSlider*>();
    EXPECT_GE(sliders.size(), 4);
    for (auto* slider : sliders)
      EXPECT_GE(slider->width(), 55) << slider->objectName().toStdString() << " at " << width;
  }
}

TEST_F(Mend, SupplyOpensOnTheSuppliesEndOfTheRun) {
  window_->selectPart({});
  auto* bar = run()->horizontalScrollBar();
  window_->showPage(QStringLiteral("Supply"));
  EXPECT_GT(bar->maximum(), 100);
  EXPECT_EQ(bar->value(), bar->maximum());
  window_->showPage(QStringLiteral("Voice"));
  EXPECT_EQ(bar->value(), 0);
}

TEST_F(Mend, NothingSelectedTheDrawerTellsOfTheWhole) {
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

TEST_F(Mend, ThePaneSizesThatTheBuilderChoseStay) {
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

TEST_F(Mend, TheThemeFollowsTheDesktopUntilOneIsChosen) {
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

TEST_F(Mend, TheWindowFitsASmallScreen) {
  VINEGAR_LONG_TEST(window);
  MainWindow fresh(library(), dataFolder(), {});
  const auto room = QGuiApplication::primaryScreen()->availableSize();
  EXPECT_LE(fresh.height(), room.height() - 30);
}

TEST_F(Mend, DigitsOnAxesAreThoseOfTheReadings) {
  const QLocale before;
  QLocale::setDefault(QLocale(QLocale::German, QLocale::Germany));
  window_->showPage(QStringLiteral("Supply"));
  window_->setTheme(vellum().name);
  settle();
  for (auto* plot : window_->findChildren<QCustomPlot*>())
    EXPECT_EQ(plot->locale().decimalPoint(), QStringLiteral("."));
  QLocale::setDefault(before);
}

TEST_F(Mend, EveryVitalLeadsSomewhere) {
  VINEGAR_LONG_TEST(window);
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
TEST_F(Mend, VitalsAreNotCutOff) {
  window_->session().edit(QStringLiteral("p"), [](amp::Document& d) {
    amp::pencil(d, testing_support::library(), "C15", "value", 10e-6);
    amp::pencil(d, testing_support::library(), "C4", "value", 150e-12);
    amp::pencil(d, testing_support::library(), "R28", "value", 330.0);
  });
  settle();
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
    settle();
    EXPECT_EQ(places(), turned);
  }
  QTest::mouseClick(child<QPushButton>("rubOut"), Qt::LeftButton);
  settle();
  EXPECT_NE(places(), turned);
}

TEST_F(Mend, TheLogFollowsTheKnobsItSaysItStandsAt) {
  window_->showPage(QStringLiteral("Log"));
  settle();
  const auto before = child<QLabel>("revisionDetail")->text();
  ASSERT_FALSE(before.isEmpty());
  window_->session().edit(QStringLiteral("turn"), [](amp::Document& d) { d.ink.knobs["Volume"] = 0.1; });
  settle();
  EXPECT_NE(child<QLabel>("revisionDetail")->text(), before);
}

/// A file that takes its time: the window says so, and can be told not to wait.
TEST_F(Mend, OpeningALargeFileCanBeGivenUp) {
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

} // namespace
} // namespace vinegar::app
