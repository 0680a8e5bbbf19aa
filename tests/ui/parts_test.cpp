// The window's parts on their own: the document session, background work, the dial, the schematic's picture.
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

struct OpenDial {
  Dial dial;
  std::vector<double> chosen;
  double value;
  explicit OpenDial(const char* part) {
    const auto resolved = *amp::findPart(testing_support::sample("slipway").ink, library(), part);
    value = resolved.value();
    const auto stepper = [resolved](double v, bool up) {
      auto other = resolved;
      other.settings["value"] = v;
      return predict::steppedValue(other, library(), up);
    };
    const auto set = [this, stepper, resolved](double v) {
      dial.setDial(v, resolved.value(), amp::valueUnit(resolved.part->kind), stepper);
    };
    QObject::connect(&dial, &Dial::valueChosen, &dial, [this, set](double v) {
      chosen.push_back(v);
      set(v);
    });
    set(value);
    dial.resize(250, 58);
    dial.show();
  }
};

TEST(Dial, KeysStepAndMoveADecade) {
  OpenDial open("C2"); // 22 uF, E6
  for (const auto key : {Qt::Key_Up, Qt::Key_Right, Qt::Key_Down, Qt::Key_Left, Qt::Key_PageDown, Qt::Key_PageUp})
    QTest::keyClick(&open.dial, key);
  const std::vector<double> expected{33e-6, 47e-6, 33e-6, 22e-6, 2.2e-6, 22e-6};
  ASSERT_EQ(open.chosen.size(), expected.size());
  for (std::size_t i = 0; i < expected.size(); ++i)
    EXPECT_NEAR(open.chosen[i] / expected[i], 1, 1e-9) << i;
}

TEST(Dial, AClickOnANeighbourTakesIt) {
  OpenDial open("R3"); // 120 k, E12
  QTest::mouseClick(&open.dial, Qt::LeftButton, {}, {125 + 50, 20});
  QTest::mouseClick(&open.dial, Qt::LeftButton, {}, {125 - 100, 20});
  QTest::mouseClick(&open.dial, Qt::LeftButton, {}, {125, 20}); // the middle is where it is
  ASSERT_EQ(open.chosen.size(), 2U);
  EXPECT_DOUBLE_EQ(open.chosen[0], 150e3);
  EXPECT_DOUBLE_EQ(open.chosen[1], 100e3);
}

TEST(Dial, StopsAtTheEndOfTheStock) {
  OpenDial open("LS1");
  for (int i = 0; i < 5; ++i)
    QTest::keyClick(&open.dial, Qt::Key_Up);
  EXPECT_EQ(open.chosen, std::vector<double>{16});
  QTest::keyClick(&open.dial, Qt::Key_PageDown);
  EXPECT_EQ(open.chosen.back(), 2);
}

TEST(Dial, FineWheelsAddUp) {
  OpenDial open("C2");
  for (int i = 0; i < 4; ++i) {
    QWheelEvent wheel({20, 20}, open.dial.mapToGlobal(QPointF(20, 20)), {}, {0, 30}, Qt::NoButton, Qt::NoModifier,
                      Qt::NoScrollPhase, false);
    QApplication::sendEvent(&open.dial, &wheel);
  }
  EXPECT_EQ(open.chosen.size(), 1U);
}

RunContent contentOf(const amp::Design& design) {
  RunContent content;
  content.drawing = amp::drawRun(design, library());
  for (const auto& part : amp::resolveParts(design, library()))
    content.labels[part.name].ink = QString::fromStdString(part.label());
  return content;
}

QImage pictureOf(const RunPainter& painter, double unit = 5) {
  const auto& d = painter.content().drawing;
  QImage image(static_cast<int>((d.right - d.left) * unit), static_cast<int>((d.bottom - d.top) * unit),
               QImage::Format_RGB32);
  image.fill(theme().ground);
  QPainter p(&image);
  p.translate(-d.left * unit, -d.top * unit);
  painter.paint(p, unit, {}, {}, false);
  return image;
}

int inkedPixels(const QImage& image, const QColor& colour, int tolerance = 24) {
  int count = 0;
  for (int y = 0; y < image.height(); ++y)
    for (int x = 0; x < image.width(); ++x)
      if (const QColor c = image.pixelColor(x, y);
          std::abs(c.red() - colour.red()) + std::abs(c.green() - colour.green()) + std::abs(c.blue() - colour.blue()) <
          tolerance)
        ++count;
  return count;
}

TEST(RunPainter, PencilAndStressShowInTheirColours) {
  applyTheme(vellum().name);
  RunPainter painter(contentOf(testing_support::sample("slipway").ink), ResistorStyle::box);
  const auto before = pictureOf(painter);
  EXPECT_GT(inkedPixels(before, theme().ink), 1000);
  EXPECT_EQ(inkedPixels(before, theme().pencilLine), 0);
  EXPECT_EQ(inkedPixels(before, theme().danger), 0);
  auto labels = painter.content().labels;
  labels["C2"].pencil = QStringLiteral("330n");
  const auto changed = painter.setReadings(labels, {}, {"V3"});
  // Only C2 and V3 need painting again, each with its words.
  for (const auto& area : changed) {
    const auto near = [&](const char* part) {
      return area.intersects(painter.partArea(part).adjusted(-12, -6, 12, 6)) && area.width() < 30;
    };
    EXPECT_TRUE(near("C2") || near("V3")) << area.x() << " " << area.y();
  }
  EXPECT_GE(changed.size(), 2U);
  const auto after = pictureOf(painter);
  EXPECT_GT(inkedPixels(after, theme().pencilLine), 20);
  EXPECT_GT(inkedPixels(after, theme().danger), 20);
  EXPECT_TRUE(painter.setReadings(labels, {}, {"V3"}).empty());
}

TEST(RunView, LooksTheSameAfterAnyActsAsWhenItIsOpenedAnew) {
  applyTheme(vellum().name);
  const auto content = contentOf(testing_support::sample("slipway").ink);
  auto labels = content.labels;
  auto volts = content.volts;
  std::set<std::string> stressed;
  RunView view;
  const auto open = [](RunView& run, const RunContent& shown) {
    run.setFocusPolicy(Qt::NoFocus); // the one opened last would have it
    run.resize(900, 320);
    run.setRun({shown.drawing, shown.labels, shown.volts, shown.stressed}, ResistorStyle::box);
    run.show();
    QCoreApplication::processEvents();
  };
  open(view, content);
  const auto node = content.drawing.tags.front().node;
  const std::pair<const char*, std::function<void(RunView&)>> acts[] = {
      {"a pencilled value", [&](RunView&) { labels["C2"].pencil = QStringLiteral("330n"); }},
      {"another", [&](RunView&) { labels["C2"].pencil = QStringLiteral("470n"); }},
      {"volts",
       [&](RunView&) {
         volts[node] = {QStringLiteral("166 V"), QStringLiteral("170 V")};
       }},
      {"volts everywhere",
       [&](RunView&) {
         for (auto& [key, words] : volts)
           words.pencil = QStringLiteral("123.4 V");
       }},
      {"shorter ones",
       [&](RunView&) {
         for (auto& [key, words] : volts)
           words.pencil = QStringLiteral("9 V");
         labels["C2"].pencil = QStringLiteral("1n");
       }},
      {"gone again",
       [&](RunView&) {
         for (auto& [key, words] : volts)
           words.pencil.clear();
       }},
      {"selected", [](RunView& run) { run.select("C2"); }},
      {"over a rating", [&](RunView&) { stressed = {"V1a"}; }},
      {"ink as pencilled",
       [&](RunView&) {
         labels["C2"] = {QStringLiteral("470n"), {}};
       }},
      {"another ink", [&](RunView&) { labels["R3"].ink = QStringLiteral("220k"); }},
      {"zoomed", [](RunView& run) { run.zoomTo(1.3); }},
      {"moved", [](RunView& run) { run.horizontalScrollBar()->setValue(400); }},
      {"the other theme", [](RunView&) { applyTheme(lamp().name); }},
      {"larger", [](RunView& run) { run.resize(1100, 400); }},
  };
  for (const auto& [name, act] : acts) {
    SCOPED_TRACE(name);
    const QImage before = view.grab().toImage();
    act(view);
    view.setReadings(labels, volts, stressed);
    QCoreApplication::processEvents();
    const QImage after = view.grab().toImage();
    EXPECT_TRUE(before != after);
    RunView anew;
    open(anew, {content.drawing, labels, volts, stressed});
    anew.select(view.selected());
    anew.resize(view.size());
    anew.zoomTo(view.zoom());
    QCoreApplication::processEvents();
    anew.horizontalScrollBar()->setValue(view.horizontalScrollBar()->value());
    anew.verticalScrollBar()->setValue(view.verticalScrollBar()->value());
    EXPECT_TRUE(after == anew.grab().toImage());
  }
  applyTheme(vellum().name);
}

TEST(RunPainter, BothResistorStylesAndThemesDrawEveryPart) {
  for (const auto* t : {&vellum(), &lamp()})
    for (const auto style : {ResistorStyle::box, ResistorStyle::zigzag}) {
      applyTheme(t->name);
      const RunPainter painter(contentOf(testing_support::sample("net-loft").ink), style);
      const auto image = pictureOf(painter, 8);
      for (const auto& part : painter.content().drawing.parts) {
        if (!part.fitted) continue;
        const QRectF area = painter.partArea(part.name);
        const auto& d = painter.content().drawing;
        const QRect pixels =
            QRectF((area.left() - d.left) * 8, (area.top() - d.top) * 8, area.width() * 8, area.height() * 8).toRect();
        EXPECT_GT(inkedPixels(image.copy(pixels), theme().ink, 200), 10) << part.name;
        EXPECT_EQ(painter.partAt(area.center()), part.name);
      }
    }
  applyTheme(vellum().name);
}

TEST(Theme, TextStandsOutFromItsGround) {
  // W3C, Web Content Accessibility Guidelines 2.1, contrast ratio: at least 4.5 for text.
  const auto luminance = [](const QColor& c) {
    const auto channel = [](double v) { return v <= 0.03928 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4); };
    return 0.2126 * channel(c.redF()) + 0.7152 * channel(c.greenF()) + 0.0722 * channel(c.blueF());
  };
  const auto contrast = [&](const QColor& a, const QColor& b) {
    const double x = luminance(a), y = luminance(b);
    return (std::max(x, y) + 0.05) / (std::min(x, y) + 0.05);
  };
  for (const auto* t : {&vellum(), &lamp()}) {
    for (const auto& ground : {t->ground, t->panel})
      for (const auto& text : {t->ink, t->quiet, t->signal, t->danger, t->pencil})
        EXPECT_GE(contrast(text, ground), 4.5) << t->name.toStdString() << " " << text.name().toStdString();
    for (const auto& text : {t->footerText, t->footerQuiet, t->footerPencil})
      EXPECT_GE(contrast(text, t->footer), 4.5) << t->name.toStdString();
  }
}

TEST(FigureTable, SaysItsFiguresToScreenReaders) {
  FigureTable table;
  table.setRows({{{QStringLiteral("Volts across"), FigureTable::Look::quiet}, {QStringLiteral("1.40 V")}}}, 99);
  EXPECT_EQ(table.accessibleDescription(), QStringLiteral("Volts across 1.40 V"));
}

TEST(SignedDecibels, SayNothingOfWhatRoundsToNothing) {
  const std::pair<double, const char*> rows[] = {
      {1.44, "+1.4"}, {-0.26, "-0.3"}, {0.04, "0.0"}, {-0.04, "0.0"}, {-0.06, "-0.1"}};
  for (const auto& [db, text] : rows)
    EXPECT_EQ(signedDecibels(db).toStdString(), text) << db;
}

} // namespace
} // namespace vinegar::app
