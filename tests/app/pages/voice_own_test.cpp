// What a builder brings to the Voice page himself: targets, bands, measured speakers, a switch's values, and what he
// compares with what.
#include "amp/acts/acts.h"
#include "app/voice_fixture.h"
#include "plots/curve_plot.h"
#include "predict/voice/hearing.h"
#include "predict/voice/loudspeaker.h"
#include "predict/voice/readouts.h"
#include "predict/voice/travel.h"
#include "support/bench_design.h"

#include <QApplication>
#include <QComboBox>
#include <QDialog>
#include <QDoubleSpinBox>
#include <QFile>
#include <QLineEdit>
#include <QMenu>
#include <QTableWidget>
#include <QTemporaryDir>
#include <QTimer>

namespace vinegar::app {
namespace {

class VoiceOwn : public VoiceFixture {
protected:
  QString file(const char* name, const QByteArray& content) {
    QFile file(folder_.filePath(QLatin1String(name)));
    EXPECT_TRUE(file.open(QIODevice::WriteOnly));
    file.write(content);
    return file.fileName();
  }
  static void choose(QComboBox* box, const QString& words) {
    const int at = box->findText(words);

    ASSERT_GE(at, 0) << words.toStdString();
    box->setCurrentIndex(at);
    Q_EMIT box->activated(at);
  }
  bool call(const char* view, const char* method, const QString& text) {
    auto* found = page_->findChild<QWidget*>(QLatin1String(view));
    const bool called = found && QMetaObject::invokeMethod(found, method, Qt::DirectConnection, Q_ARG(QString, text));
    settle();
    return called;
  }
  QTemporaryDir folder_;
};

TEST_F(VoiceOwn, TargetsAreKeptWithTheDesignAndComeBack) {
  open();
  view("Target");
  const double before = picture().dots[3].y;
  Q_EMIT views()->plot()->handleMoved(3, 500, before + 4, true);
  child<QLineEdit>("fitParts")->setText(QStringLiteral("C4 R5=68k,82k"));
  ASSERT_TRUE(call("targetView", "keep", QStringLiteral("less mud")));
  const auto& targets = session_.document().targets;
  ASSERT_EQ(targets.size(), 1U);
  const auto& kept = targets.at("less mud");
  EXPECT_EQ(kept.parts, (std::vector<std::string>{"C4", "R5"}));
  EXPECT_EQ(kept.atHand.at("R5"), (std::vector<double>{68e3, 82e3}));
  EXPECT_NEAR(kept.target[3].decibels, before + 4, 1e-9);
  // Saved, opened again, and taken: the points and the parts are there.
  const auto path = folder_.filePath(QStringLiteral("kept.vinegar"));
  ASSERT_FALSE(session_.save(path));
  ASSERT_FALSE(session_.open(path));
  settle();
  view("Target");
  EXPECT_NEAR(picture().dots[3].y, before, 0.06);
  ASSERT_TRUE(call("targetView", "takeKept", QStringLiteral("less mud")));
  EXPECT_NEAR(picture().dots[3].y, before + 4, 1e-9);
  EXPECT_EQ(child<QLineEdit>("fitParts")->text(), QStringLiteral("C4 R5=68k,82k"));
  // With another span than it was kept for, that span comes with it.
  const auto other = child<QComboBox>("to")->itemText(1);
  ASSERT_NE(other, QStringLiteral("speaker"));
  choose(child<QComboBox>("to"), other);
  settle();
  EXPECT_GT(std::abs(picture().dots[3].y - before - 4), 0.5); // a target of its own, from that curve
  ASSERT_TRUE(call("targetView", "takeKept", QStringLiteral("less mud")));
  EXPECT_EQ(child<QComboBox>("to")->currentText(), QStringLiteral("speaker"));
  EXPECT_NEAR(picture().dots[3].y, before + 4, 1e-9);
  session_.undo();
  settle();
  EXPECT_TRUE(call("targetView", "takeKept", QStringLiteral("nonesuch"))); // nothing happens
}

TEST_F(VoiceOwn, ATargetComesFromWhatTheAmplifierWas) {
  open();
  pencil("C4", 100e-12);
  settle();
  view("Target");
  auto* button = child<QPushButton>("targets");
  QTimer::singleShot(0, page_.get(), [&] {
    for (auto* action : button->menu()->actions())
      if (action->menu() && action->text() == QStringLiteral("From a revision"))
        action->menu()->actions().first()->trigger();
    button->menu()->close();
  });
  QTest::mouseClick(button, Qt::LeftButton);
  settle();
  ASSERT_GT(picture().dots.size(), 20U);
  const auto last = testing_support::sampleAtRest("slipway"); // the last revision is the ink
  for (std::size_t d = 0; d < picture().dots.size(); d += 10)
    EXPECT_NEAR(picture().dots[d].y, testing_support::levels(last, {picture().dots[d].x})[0], 1e-6);
}

TEST_F(VoiceOwn, ABandsPointsMoveTogether) {
  open();
  view("Target");
  const auto before = picture().dots;
  ASSERT_EQ(before.size(), 8U);
  choose(child<QComboBox>("grip"), QStringLiteral("voice")); // 400 Hz to 1.5 kHz: the points at 500 and 1000
  ASSERT_EQ(picture().marks.size(), 2U);
  EXPECT_EQ(picture().marks[0].at, 400);
  Q_EMIT views()->plot()->handleMoved(4, 1000, before[4].y - 3, true);
  for (std::size_t d = 0; d < 8; ++d)
    EXPECT_NEAR(picture().dots[d].y, before[d].y - (d == 3 || d == 4 ? 3 : 0), 1e-9) << d;
  Q_EMIT views()->plot()->handleMoved(0, 60, before[0].y + 2, true); // outside of the band: alone
  EXPECT_NEAR(picture().dots[0].y, before[0].y + 2, 1e-9);
  EXPECT_NEAR(picture().dots[3].y, before[3].y - 3, 1e-9);
}

TEST_F(VoiceOwn, BandsAreTheBuildersOwn) {
  open();
  auto* readouts = child<FigureSheet>("readouts");
  const auto row = [&](const QString& words) {
    for (int r = 0; r < readouts->rowCount(); ++r)
      if (readouts->text(r, 0) == words) return r;
    return -1;
  };
  EXPECT_GE(row(QStringLiteral("Bite to voice")), 0);
  view("Parts");
  auto* band = child<QComboBox>("band");
  QString said;
  bool wasOff = false;
  QTimer::singleShot(0, page_.get(), [&] {
    auto* dialog = QApplication::activeModalWidget();
    auto* table = dialog->findChild<QTableWidget*>();
    auto* take = dialog->findChild<QPushButton*>(QStringLiteral("takeTable"));
    table->item(0, 0)->setText(QStringLiteral("growl"));
    table->item(0, 2)->setText(QStringLiteral("10")); // under where it begins
    said = dialog->findChild<QLabel*>(QStringLiteral("tableWrong"))->text();
    wasOff = !take->isEnabled();
    table->item(0, 1)->setText(QStringLiteral("80"));
    table->item(0, 2)->setText(QStringLiteral("0.24k"));
    QTest::mouseClick(take, Qt::LeftButton);
  });
  choose(band, QStringLiteral("edit bands..."));
  settle();
  EXPECT_TRUE(said.startsWith(QStringLiteral("growl"))) << said.toStdString();
  EXPECT_TRUE(wasOff);
  ASSERT_EQ(session_.document().bands.size(), 5U);
  EXPECT_EQ(session_.document().bands[0], (amp::ToneBand{"growl", 80, 240}));
  choose(band, QStringLiteral("growl"));
  settle();
  EXPECT_NEAR(picture().dots[0].x, 80, 1e-9);
  EXPECT_NEAR(picture().dots[1].x, 240, 1e-9);
  view("Curve");
  readouts = child<FigureSheet>("readouts");
  const int growl = row(QStringLiteral("Growl to voice"));
  ASSERT_GE(growl, 0);
  const auto read = predict::predictReadouts(now(), library(), {"jack", "speaker", session_.document().bands});
  ASSERT_TRUE(read);
  EXPECT_NEAR(numberOf(readouts->text(growl, 1)), read->of(predict::Readout::Kind::tilt, "growl")->value, 0.051);
  session_.undo();
  settle();
  EXPECT_LT(row(QStringLiteral("Growl to voice")), 0);
}

TEST_F(VoiceOwn, ThroughAMeasuredSpeaker) {
  open();
  const double plain = CurvePlot::valueAt(picture().curves[0], 1000, true);
  auto* curve = page_->findChild<QWidget*>(QStringLiteral("curveView"));
  ASSERT_NE(curve, nullptr);
  ASSERT_TRUE(
      call("curveView", "openSound", file("old twelve.frd", "* shed\n50 -20 3\n500 -2 4\n2000 -2 5\n8000 -15 6\n")));
  EXPECT_TRUE(said_.isEmpty()) << said_.join(QLatin1Char(' ')).toStdString();
  ASSERT_TRUE(session_.document().sound);
  EXPECT_EQ(session_.document().sound->name, "old twelve");
  EXPECT_EQ(child<QComboBox>("heard")->currentText(), QStringLiteral("through old twelve"));
  EXPECT_NEAR(CurvePlot::valueAt(picture().curves[0], 1000, true), plain - 2, 0.05);
  EXPECT_LE(picture().curves[0].x.back(), 8000);
  // What the speaker makes of its volts, wherever the span ends.
  choose(child<QComboBox>("to"), child<QComboBox>("to")->itemText(1));
  settle();
  EXPECT_NEAR(CurvePlot::valueAt(picture().curves[0], 1000, true), plain - 2, 0.05);
  choose(child<QComboBox>("to"), QStringLiteral("speaker"));
  settle();
  ASSERT_TRUE(call("curveView", "openSound", file("bad.frd", "50 loud\n")));
  ASSERT_EQ(said_.size(), 1);
  EXPECT_TRUE(said_.last().contains(QStringLiteral("bad.frd:1"))) << said_.last().toStdString();
  EXPECT_EQ(session_.document().sound->name, "old twelve"); // what was there stays
  for (const auto& [words, phons] :
       {std::pair{"as loud as heard at 60 phon", 60.0}, {"as loud as heard at 90 phon", 90.0}}) {
    choose(child<QComboBox>("heard"), QLatin1String(words));
    settle();
    EXPECT_NEAR(CurvePlot::valueAt(picture().curves[0], 1000, true), plain, 0.1);
    const auto idle = now();
    const auto low = predict::predictResponse(idle, library(), {"jack", "speaker", {80}});
    EXPECT_NEAR(CurvePlot::valueAt(picture().curves[0], 80, true),
                low->decibels[0] - (predict::equallyLoud(80, phons) - phons), 0.1);
  }
}

TEST_F(VoiceOwn, ASpeakerIsFoundByItsImpedance) {
  open();
  view("Ends");
  const predict::Loudspeaker speaker{6.9, 700e-6, 33, 96, 7, 1.2};
  QByteArray impedance("Hz ohms degrees\n");
  for (const double f : circuit::logSpaced(20, 2e4, 80))
    impedance += QByteArray::number(f) + ' ' + QByteArray::number(std::abs(predict::impedanceOf(speaker, f))) + " 0\n";
  auto* sheet = child<FigureSheet>("ends");
  const int before = sheet->rowCount();
  ASSERT_TRUE(call("endsView", "openImpedance", file("closed twelve.zma", impedance)));
  ASSERT_EQ(sheet->rowCount(), before + 1);
  EXPECT_EQ(sheet->text(before, 1), QStringLiteral("closed twelve"));
  sheet->choose(before);
  EXPECT_TRUE(text("endsAnswer").contains(QStringLiteral("96"))) << text("endsAnswer").toStdString();
  press(QStringLiteral("pencil closed twelve"));
  for (const auto& part : session_.pencilledParts())
    if (part.part->kind == amp::PartKind::speaker) {
      EXPECT_NEAR(part.number("resonanceHertz"), 96, 1);
      EXPECT_NEAR(part.value() * part.number("voiceCoilShare"), 6.9, 0.1);
    }
  EXPECT_EQ(sheet->text(before, 0), QStringLiteral("as it is"));
  ASSERT_TRUE(call("endsView", "openImpedance", file("levels.zma", "100 -3\n200 4\n")));
  EXPECT_FALSE(said_.isEmpty());
}

TEST_F(VoiceOwn, TheCableIsTurnedByItsLength) {
  open();
  view("Ends");
  auto* metres = child<QDoubleSpinBox>("cableMetres");
  const auto farads = [&] {
    const auto& parts = session_.pencilledParts();
    const auto cable = std::find_if(parts.begin(), parts.end(), [](const auto& part) { return part.name == "Cable"; });
    return cable->value();
  };
  EXPECT_NEAR(metres->value(), 3.9, 1e-9); // 470 pF, 80 of them jack and wires
  const auto plain = predict::predictResponse(now(), library(), {"pickup", "speaker", {5000}})->decibels[0];
  const auto undone = session_.undoName();
  metres->setFocus();
  for (int i = 0; i < 12; ++i)
    QTest::keyClick(metres, Qt::Key_Up);
  settle();
  EXPECT_NEAR(metres->value(), 9.9, 1e-9);
  EXPECT_NEAR(farads(), 1070e-12, 1e-15);
  EXPECT_LT(predict::predictResponse(now(), library(), {"pickup", "speaker", {5000}})->decibels[0], plain - 3);
  child<QDoubleSpinBox>("cablePicofarads")->setValue(60);
  settle();
  EXPECT_NEAR(farads(), 674e-12, 1e-15);
  session_.undo(); // all of it is one step
  settle();
  EXPECT_EQ(session_.undoName(), undone);
  EXPECT_NEAR(farads(), 470e-12, 1e-15);
  EXPECT_NEAR(metres->value(), 6.5, 1e-9); // of 60 pF each
}

TEST_F(VoiceOwn, ASwitchIsDesignedByTypingItsValues) {
  open("chandlery");
  view("Controls");
  choose(child<QComboBox>("travelControl"), QStringLiteral("Bright"));
  settle();
  auto* sheet = child<FigureSheet>("tapers");
  const int last = sheet->rowCount() - 1;
  const auto part = sheet->text(last, 1).section(QLatin1Char(' '), 0, 0);
  const double before = sheet->text(last, 4).toDouble();
  const auto type = [&](const QString& words) {
    const auto index = sheet->model()->index(last, 1);
    sheet->setCurrentIndex(index);
    QTest::keyClick(sheet->viewport(), Qt::Key_F2);
    auto* editor = sheet->viewport()->findChild<QLineEdit*>();
    ASSERT_NE(editor, nullptr);
    editor->selectAll();
    QTest::keyClicks(editor, words);
    const auto stood = session_.document();
    const auto told = said_.size();
    QTest::keyClick(editor, Qt::Key_Return);
    EXPECT_TRUE(QTest::qWaitFor([&] { return !(session_.document() == stood) || said_.size() > told; }, 2000));
    settle();
  };
  type(QStringLiteral("15p"));
  EXPECT_NEAR(value(part.toUtf8().constData()), 15e-12, 1e-15);
  EXPECT_EQ(sheet->text(last, 1), part + QStringLiteral(" 15p"));
  EXPECT_LT(sheet->text(last, 4).toDouble(), before);
  type(part + QStringLiteral(" 470p")); // with its name, as it stands there
  EXPECT_NEAR(value(part.toUtf8().constData()), 470e-12, 1e-15);
  type(QStringLiteral("plenty"));
  EXPECT_FALSE(said_.isEmpty());
  EXPECT_EQ(sheet->text(last, 1), part + QStringLiteral(" 470p"));
  EXPECT_NEAR(value(part.toUtf8().constData()), 470e-12, 1e-15);
}

/// A guitar's own controls stand before the jack, which cannot tell them against itself; and they start at full.
TEST_F(VoiceOwn, AGuitarsOwnControlsAreLookedAtFromThePickup) {
  open();
  session_.edit(QStringLiteral("guitar"), [](amp::Document& document) {
    auto design = document.ink;
    auto replaced = amp::replaceSection(design, library(), amp::NameBook(document), "input", "guitar-input");
    ASSERT_TRUE(replaced);
    amp::pencil(document, library(), *replaced);
  });
  settle();
  for (const auto& part : session_.pencilledParts())
    if (part.name.starts_with("Guitar ") && part.part->kind == amp::PartKind::pot) {
      EXPECT_EQ(amp::knobOf(session_.pencilled(), part), 1) << part.name;
    }
  view("Controls");
  choose(child<QComboBox>("travelControl"), QStringLiteral("Guitar tone"));
  settle();
  EXPECT_TRUE(picture().title.contains(QStringLiteral("Pickup to speaker"))) << picture().title.toStdString();
  const auto travel = predict::predictTravel(now(), library(), {"Guitar tone", "pickup", "speaker"});
  ASSERT_TRUE(travel) << travel.error().line();
  EXPECT_GT(travel->whole, 3);
  EXPECT_NEAR(picture().curves[0].y[80], travel->curves[0].decibels[80], 1e-6);
  EXPECT_FALSE(text("controlAnswer").contains(QStringLiteral("nothing")));
  choose(child<QComboBox>("travelControl"), QStringLiteral("Treble"));
  settle();
  EXPECT_TRUE(picture().title.contains(QStringLiteral("jack to speaker"))) << picture().title.toStdString();
}

TEST_F(VoiceOwn, AnyTwoStandBesideEachOther) {
  open();
  const auto inkIn = [&](double farads, const char* why) {
    pencil("C4", farads);
    session_.edit(QStringLiteral("ink"),
                  [&](amp::Document& d) { amp::ink(d, library(), why, "2026-01-01T10:00:00+00:00"); });
  };
  inkIn(330e-12, "more treble");
  inkIn(470e-12, "more still");
  pencil("R3", 220e3);
  settle();
  view("Compare");
  const auto level = [&](double farads, double ohms) {
    const auto other = testing_support::changed(testing_support::sampleAtRest("slipway"),
                                                {{"C4", "value", 0.0, farads}, {"R3", "value", 0.0, ohms}});
    return testing_support::levels(other, {2000})[0];
  };
  const auto here = [&](std::size_t c) { return CurvePlot::valueAt(picture().curves[c], 2000, true); };
  const double r3 = testing_support::sampleAtRest("slipway").circuit->part("R3")->resolved.value();
  // At first the design as it stands, beside what the last revision changed.
  EXPECT_NEAR(here(0), level(470e-12, 220e3), 0.02);
  EXPECT_NEAR(here(1), level(330e-12, r3), 0.02);
  choose(child<QComboBox>("here"), QStringLiteral("the ink"));
  settle();
  EXPECT_NEAR(here(0), level(470e-12, r3), 0.02);
  choose(child<QComboBox>("here"), QStringLiteral("Sheet 1"));
  choose(child<QComboBox>("others"), QStringLiteral("the ink"));
  settle();
  EXPECT_NEAR(here(0), level(470e-12, 220e3), 0.02);
  EXPECT_NEAR(here(1), level(470e-12, r3), 0.02);
  // What the changed section gives is told on both sides.
  auto* sheet = child<FigureSheet>("differences");
  int told = 0;
  for (int r = 0; r < sheet->rowCount(); ++r)
    told += sheet->text(r, 0).startsWith(QStringLiteral("dB by")) ? 1 : 0;
  EXPECT_GE(told, 1);
  EXPECT_TRUE(text("compareAnswer").contains(QStringLiteral("70 phon")));
  choose(child<QComboBox>("here"), QStringLiteral("revision 4, more treble"));
  choose(child<QComboBox>("others"), QStringLiteral("as it was at first"));
  settle();
  EXPECT_NEAR(here(0), level(330e-12, r3), 0.02);
}

} // namespace
} // namespace vinegar::app
