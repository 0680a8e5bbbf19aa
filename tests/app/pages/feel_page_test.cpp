// The Feel page by itself: what it plays and reads, against fresh solutions.
#include "app/voice_fixture.h"
#include "files/phrases.h"
#include "pages/feel/feel_view.h"
#include "predict/feel/compression.h"
#include "predict/feel/feel_choices.h"

#include <QComboBox>
#include <QDir>
#include <QDoubleSpinBox>
#include <QSlider>
#include <QTemporaryDir>

namespace vinegar::app {
namespace {

/// Phrases of a fifth of a second: what is looked at here does not take longer ones.
class FeelFixture : public VoiceFixture {
protected:
  FeelFixture() {
    QDir(folder_.path()).mkdir(QStringLiteral("phrases"));
    QFile file(folder_.filePath(QStringLiteral("phrases/short.json")));
    EXPECT_TRUE(file.open(QIODevice::WriteOnly));
    file.write(
        R"({ "instruments": [ { "id": "guitar", "title": "Guitar", "pluck": 0.16, "pickup": 0.17, "decay": 2, "partials": 12, "times": 1 } ],
      "phrases": [ { "id": "chord", "title": "Short chord", "seconds": 0.22, "notes": [[0, 0.12, 165, 1], [0, 0.12, 247, 1]] },
                   { "id": "drone", "title": "Short drone", "seconds": 0.24, "held": true, "notes": [[0, 0.14, 110, 1]] } ] })");
    file.close();
    dataFolder_ = folder_.path();
  }
  void open(const char* sample = "net-loft") {
    openSample(sample);
    openPage(QStringLiteral("Feel"));
    page_->resize(900, 460);
    settle();
  }
  predict::BurstQuestion asked(double rate) {
    const auto all = files::readPhrases(folder_.path().toStdString());
    EXPECT_TRUE(all);
    return {std::make_shared<const predict::Sound>(all->phrases.front(), all->instruments.front()),
            selection_.played().inputPeak, rate};
  }
  /// As the page asks it.
  predict::Feel fresh(double rate = 48000) {
    auto question = asked(rate);
    question.mostStepError = 0.1;
    auto feel = predict::predictFeel(now(), library(), question);
    EXPECT_TRUE(feel);
    return std::move(*feel);
  }
  void choose(const char* box, int index) {
    auto* combo = child<QComboBox>(box);
    combo->setCurrentIndex(index);
    Q_EMIT combo->activated(index);
    settle();
  }
  static int rowOf(const FigureSheet* sheet, const QString& title) {
    for (int i = 0; i < sheet->rowCount(); ++i)
      if (sheet->text(i, 1) == title) return i;
    return -1;
  }
  QTemporaryDir folder_;
  QString reading(const QString& what, int column = 1) {
    auto* sheet = child<FigureSheet>("burst");
    for (int row = 0; row < sheet->rowCount(); ++row)
      if (sheet->text(row, 0) == what) return sheet->text(row, column);
    ADD_FAILURE() << what.toStdString();
    return {};
  }
};

TEST_F(FeelFixture, NotesAreNamedByTheTemperedScale) {
  EXPECT_EQ(noteWords(440), QStringLiteral("440 Hz, A4 +0 ct"));
  EXPECT_EQ(noteWords(261.63), QStringLiteral("262 Hz, C4 +0 ct"));
  EXPECT_EQ(noteWords(182.41), QStringLiteral("182 Hz, F#3 -24 ct"));
  EXPECT_EQ(noteWords(17.6), QStringLiteral("17.6 Hz, a beat"));
}

TEST_F(FeelFixture, WhatIsReadIsWhatPlayingItTells) {
  open();
  const auto feel = fresh();
  const auto& dip = feel.rails[static_cast<std::size_t>(feel.fed)];
  EXPECT_TRUE(text("burstAnswer").contains(QString::fromStdString(dip.rail)));
  EXPECT_FALSE(text("burstAnswer").contains(QStringLiteral("coarse")));
  EXPECT_TRUE(reading(QStringLiteral("droop")).endsWith(QStringLiteral("%1 %").arg(100 * dip.share(), 0, 'f', 1)));
  ASSERT_EQ(picture().curves.size(), 2U);
  const auto volts = predict::overPeriods(feel.burst.track(predict::Track::What::rail, dip.rail)->mean);
  ASSERT_EQ(picture().curves[0].y.size(), volts.size());
  for (std::size_t k = 0; k < volts.size(); k += 50)
    EXPECT_NEAR(picture().curves[0].y[k], volts[k], 1e-6);
  const auto blame = predict::predictBlame(now(), library(), asked(24000));
  ASSERT_TRUE(blame);
  EXPECT_TRUE(
      reading(QStringLiteral("attack loss")).startsWith(QStringLiteral("%1 dB").arg(blame->attackLoss, 0, 'f', 1)));
  EXPECT_EQ(reading(QStringLiteral("bloom")), QStringLiteral("%1 dB").arg(blame->bloom, 0, 'f', 1));
}

TEST_F(FeelFixture, InkAndPencilStandSideBySideInEveryLook) {
  open();
  pencil("C7", 100e-6);
  settle();
  auto* sheet = child<FigureSheet>("burst");
  EXPECT_EQ(sheet->columnCount(), 3);
  EXPECT_TRUE(text("burstAnswer").contains(QStringLiteral("in ink by")));
  for (int look = 0; look < child<QComboBox>("burstLook")->count(); ++look) {
    choose("burstLook", look);
    ASSERT_FALSE(picture().curves.empty()) << look;
    EXPECT_TRUE(std::any_of(picture().curves.begin(), picture().curves.end(), [](const auto& curve) {
      return curve.look == CurvePlot::Look::pencil;
    })) << look;
  }
  // A moment: three periods of the mains, wherever the slider stands.
  auto* moment = child<QSlider>("moment");
  ASSERT_TRUE(moment->isVisible());
  for (const int at : {0, 500, 1000}) {
    moment->setValue(at);
    const auto& x = picture().curves[0].x;
    EXPECT_NEAR(x.back() - x.front(), 0.06, 1e-3) << at;
  }
  moment->setValue(500);
  moment->setFocus();
  const double from = picture().curves[0].x.front();
  QTest::keyClick(moment, Qt::Key_Right);
  EXPECT_GT(picture().curves[0].x.front(), from);
}

/// While a value is turned the ink stays whole and its axes with it; the pencil's beginning is there first.
TEST_F(FeelFixture, TheInkStaysWholeWhileThePencilIsTurned) {
  open();
  const auto ink = picture().curves[0];
  int seen = 0;
  for (int attempt = 1; attempt <= 10 && seen == 0; ++attempt) { // on a busy machine both may come at once
    pencil("C7", 40e-6 + attempt * 1e-6);
    EXPECT_TRUE(QTest::qWaitFor(
        [&] {
          if (!text("burstAnswer").contains(QStringLiteral("coarse"))) return asker_.quiet();
          ++seen;
          return true;
        },
        20000));
    EXPECT_EQ(picture().curves[0].y, ink.y);
  }
  EXPECT_GT(seen, 0);
  const auto pencilled = std::find_if(picture().curves.begin(), picture().curves.end(),
                                      [](const auto& curve) { return curve.look == CurvePlot::Look::pencil; });
  ASSERT_NE(pencilled, picture().curves.end());
  settle();
  EXPECT_EQ(picture().curves[0].y, ink.y);
  EXPECT_FALSE(text("burstAnswer").contains(QStringLiteral("coarse")));
}

TEST_F(FeelFixture, ARectifierIsPencilledFromItsRow) {
  VINEGAR_LONG_TEST(window);
  open();
  view("Rectifiers");
  auto* sheet = child<FigureSheet>("rectifiers");
  const int row = rowOf(sheet, QStringLiteral("5AR4"));
  ASSERT_GE(row, 0);
  const auto droop = sheet->text(row, 4);
  clickCell(sheet, row, 1);
  EXPECT_TRUE(std::any_of(picture().curves.begin(), picture().curves.end(),
                          [](const auto& curve) { return curve.label == QStringLiteral("5AR4"); }));
  EXPECT_FALSE(text("rectifiersAnswer").contains(QStringLiteral("coarse")));
  press(QStringLiteral("pencil 5AR4"));
  EXPECT_EQ(sheet->text(0, 1), QStringLiteral("as it is"));
  EXPECT_EQ(sheet->text(0, 4), droop); // now it is what stands
}

TEST_F(FeelFixture, ARectifierIsPencilledWithItsRebias) {
  VINEGAR_LONG_TEST(window);
  open("slipway");
  view("Rectifiers");
  auto* sheet = child<FigureSheet>("rectifiers");
  const int row = rowOf(sheet, QStringLiteral("5AR4"));
  ASSERT_GE(row, 0);
  EXPECT_FALSE(sheet->text(row, 2).isEmpty()); // something speaks against it, and is counted where it is seen
  const auto rebias = sheet->text(row, 9);
  ASSERT_TRUE(rebias.startsWith(QStringLiteral("R28 "))) << rebias.toStdString();
  clickCell(sheet, row, 9);
  EXPECT_EQ(session_.document().sheet().marks.size(), 2U);
  EXPECT_GT(value("R28"), 271);
  // What it was does not need it any more.
  EXPECT_TRUE(sheet->text(0, 9).isEmpty());
}

TEST_F(FeelFixture, CompressionIsToldAgainstLevel) {
  VINEGAR_LONG_TEST(window);
  open();
  view("Compression");
  const auto fresh = predict::predictCompression(now(), library(), asked(24000));
  ASSERT_TRUE(fresh);
  const auto& row = fresh->rows[fresh->now];
  EXPECT_TRUE(
      text("compressionAnswer").contains(QStringLiteral("%1 dB of compression sustained").arg(row.late, 0, 'f', 1)))
      << text("compressionAnswer").toStdString();
  auto* sheet = child<FigureSheet>("compression");
  ASSERT_EQ(sheet->rowCount(), static_cast<int>(fresh->rows.size()));
  for (std::size_t i = 0; i < fresh->rows.size(); ++i)
    if (std::abs(fresh->rows[i].late) > 0.1) {
      EXPECT_TRUE(sheet->text(static_cast<int>(i), 3).startsWith(QString::number(fresh->rows[i].late, 'f', 1))) << i;
    }
  // Ink and pencil, struck and late.
  EXPECT_EQ(picture().curves.size(), 2U);
  pencil("C7", 100e-6);
  settle();
  EXPECT_EQ(picture().curves.size(), 4U);
  EXPECT_TRUE(text("compressionAnswer").contains(QStringLiteral("in ink")));
}

TEST_F(FeelFixture, EveryViewAnswersAndIsLeftInTheMiddleOfWork) {
  VINEGAR_LONG_TEST(window);
  open();
  const std::vector<std::pair<const char*, const char*>> answers{
      {"Burst", "burstAnswer"},           {"Causes", "causesAnswer"}, {"Compression", "compressionAnswer"},
      {"Rectifiers", "rectifiersAnswer"}, {"Sag", "sagAnswer"},       {"Balance", "balanceAnswer"},
      {"Conditions", "conditionsAnswer"}};
  for (const auto& [id, label] : answers) {
    view(id);
    EXPECT_FALSE(text(label).isEmpty()) << id;
    EXPECT_FALSE(picture().curves.empty() && picture().paths.empty()) << id;
  }
  for (int round = 0; round < 3; ++round)
    for (const auto& [id, label] : answers) {
      QTest::mouseClick(child<QPushButton>((std::string("view ") + id).c_str()), Qt::LeftButton);
      pencil("C7", round % 2 == 0 ? 22e-6 : 47e-6);
      QTest::qWait(5);
    }
  ASSERT_FALSE(session_.open(QString::fromStdString(testing_support::samplePath("harbour-office").string()), true));
  settle();
  view("Burst");
  EXPECT_TRUE(reading(QStringLiteral("droop")).contains(QStringLiteral("%")));
}

TEST_F(FeelFixture, TheWishedSagIsTypedOrTakenFromARectifier) {
  VINEGAR_LONG_TEST(window);
  open();
  view("Sag");
  auto* sheet = child<FigureSheet>("sag");
  const int rows = sheet->rowCount();
  ASSERT_GT(rows, 2);
  auto* like = child<QComboBox>("sagLike");
  ASSERT_GT(like->count(), 2);
  auto* share = child<QDoubleSpinBox>("wantedDroop");
  like->setCurrentIndex(like->count() - 1);
  Q_EMIT like->activated(like->count() - 1);
  settle();
  EXPECT_TRUE(like->itemText(like->count() - 1).endsWith(QStringLiteral("%1 %").arg(share->value(), 0, 'f', 1)));
  EXPECT_TRUE(text("sagAnswer").contains(QStringLiteral("%1 %").arg(share->value(), 0, 'f', 1)));
}

TEST_F(FeelFixture, ARecordingIsPlayedAndABadOneRefused) {
  VINEGAR_LONG_TEST(window);
  open();
  auto& folder = folder_;
  const auto chord = reading(QStringLiteral("droop"));
  QFile bad(folder.filePath(QStringLiteral("notes.wav")));
  ASSERT_TRUE(bad.open(QIODevice::WriteOnly));
  bad.write("no sound");
  bad.close();
  ASSERT_TRUE(QMetaObject::invokeMethod(page_.get(), "openRecording", Q_ARG(QString, bad.fileName())));
  ASSERT_TRUE(QTest::qWaitFor([&] { return !said_.isEmpty(); }, 20000));
  EXPECT_TRUE(said_.last().contains(QStringLiteral("notes.wav")));
  EXPECT_EQ(reading(QStringLiteral("droop")), chord); // what was played stays
  QByteArray wav("RIFF");
  const auto put = [&](quint32 value, int bytes) {
    for (int i = 0; i < bytes; ++i)
      wav.append(static_cast<char>(value >> (8 * i) & 0xFFU));
  };
  const quint32 samples = 8000;
  put(36 + 2 * samples, 4);
  wav.append("WAVEfmt ");
  for (const auto& [value, bytes] : {std::pair{16U, 4}, {1U, 2}, {1U, 2}, {8000U, 4}, {16000U, 4}, {2U, 2}, {16U, 2}})
    put(value, bytes);
  wav.append("data");
  put(2 * samples, 4);
  for (quint32 k = 0; k < samples; ++k)
    put(k % 40 < 20 ? 20000U : 45536U, 2);
  QFile good(folder.filePath(QStringLiteral("square.wav")));
  ASSERT_TRUE(good.open(QIODevice::WriteOnly));
  good.write(wav);
  good.close();
  ASSERT_TRUE(QMetaObject::invokeMethod(page_.get(), "openRecording", Q_ARG(QString, good.fileName())));
  ASSERT_TRUE(
      QTest::qWaitFor([&] { return child<QComboBox>("phrase")->currentText() == QStringLiteral("square"); }, 20000));
  settle();
  EXPECT_EQ(child<QComboBox>("phrase")->currentText(), QStringLiteral("square"));
  EXPECT_FALSE(child<QComboBox>("instrument")->isEnabled());
  EXPECT_NE(reading(QStringLiteral("droop")), chord);
  choose("phrase", 0);
  EXPECT_EQ(reading(QStringLiteral("droop")), chord);
}

TEST_F(FeelFixture, AnotherPhraseLevelAndABenchSupply) {
  open();
  const auto chord = text("burstAnswer");
  auto* phrase = child<QComboBox>("phrase");
  phrase->setCurrentIndex(1);
  Q_EMIT phrase->activated(1);
  // What is shown until all is there is the former phrase's words, whole, or the new one's beginning.
  QStringList shown;
  ASSERT_TRUE(QTest::qWaitFor(
      [&] {
        shown << text("burstAnswer");
        return asker_.quiet();
      },
      20000));
  for (const auto& words : shown)
    EXPECT_TRUE(words == chord || words == shown.last() || words.contains(QStringLiteral("coarse")))
        << words.toStdString();
  EXPECT_NE(shown.last(), chord);
  settle();
  EXPECT_FALSE(text("burstAnswer").contains(QStringLiteral("coarse")));
  const auto drone = text("burstAnswer");
  auto* level = child<QComboBox>("inputLevel");
  level->setCurrentIndex(3);
  Q_EMIT level->activated(3);
  settle();
  EXPECT_NE(text("burstAnswer"), drone);
  // What is chosen comes back with the page.
  const auto kept = page_->saveView();
  openPage(QStringLiteral("Feel"));
  page_->restoreView(kept);
  settle();
  EXPECT_EQ(child<QComboBox>("phrase")->currentIndex(), 1);
  ASSERT_FALSE(
      session_.open(QString::fromStdString(testing_support::folder("data") + "/skeletons/9-one-stage.vinegar"), true));
  settle();
  EXPECT_TRUE(text("burstAnswer").contains(QStringLiteral("bench supply")));
  for (auto* sheet : page_->findChildren<FigureSheet*>()) // without a loudspeaker nothing is told in watts
    for (int row = 0; row < sheet->rowCount(); ++row)
      if (sheet->isVisible() && sheet->text(row, 0) == tr("loudest")) {
        EXPECT_FALSE(sheet->text(row, 1).contains(QLatin1Char('W'))) << sheet->text(row, 1).toStdString();
      }
  view("Rectifiers");
  const auto labels = page_->findChildren<QLabel*>(QStringLiteral("said"));
  EXPECT_TRUE(std::any_of(labels.begin(), labels.end(), [](const QLabel* label) {
    return label->isVisible() && label->text().contains(QStringLiteral("bench supply"));
  }));
}

} // namespace
} // namespace vinegar::app
