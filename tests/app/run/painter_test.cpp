// The schematic's picture: its colours, its styles, what is drawn anew.
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

} // namespace
} // namespace vinegar::app
