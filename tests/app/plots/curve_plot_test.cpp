// The one plot.
#include "app/window_fixture.h"
#include "pages/kit/page_frame.h"
#include "plots/curve_graph.h"
#include "plots/curve_plot.h"
#include "plots/response_picture.h"
#include "support/samples.h"
#include "theme/theme.h"
#include "widgets/figure_sheet.h"
#include "widgets/readings.h"
#include "widgets/state_pane.h"
#include "window/actions.h"

#include <QAction>
#include <QApplication>
#include <QCheckBox>
#include <QClipboard>
#include <QHeaderView>
#include <QPushButton>
#include <QRegularExpression>
#include <QScrollArea>
#include <QScrollBar>
#include <QSignalSpy>
#include <cmath>
#include <set>

namespace vinegar::app {
namespace {

CurvePlot::Picture responses(double lift, bool phase = false) {
  CurvePlot::Picture picture;
  picture.title = QStringLiteral("t");
  picture.hertz = picture.stay = picture.againstInk = true;
  picture.panes = {{QStringLiteral("dB"), QStringLiteral("dB"), CurvePlot::Pane::Scale::decibels}};
  if (phase)
    picture.panes.push_back({QStringLiteral("degrees"), QStringLiteral("\u00b0"), CurvePlot::Pane::Scale::degrees});
  picture.notes = {{82.4, QStringLiteral("E2")}};
  for (const auto look : {CurvePlot::Look::ink, CurvePlot::Look::pencil, CurvePlot::Look::other})
    for (int pane = 0; pane < (phase ? 2 : 1); ++pane) {
      CurvePlot::Curve curve{QStringLiteral("c"), {}, {}, look, pane};
      for (const double hertz : circuit::logSpaced(10, 100000, 200)) {
        curve.x.push_back(hertz);
        curve.y.push_back(20 * std::sin(std::log(hertz)) + (look == CurvePlot::Look::ink ? 0 : lift));
      }
      picture.curves.push_back(std::move(curve));
    }
  return picture;
}

/// Turning a value draws the pencil alone: the picture must be the one that drawing everything gives.
TEST(CurvePlot, ThePencilAloneIsDrawnAsIfEverythingWere) {
  for (const bool phase : {false, true}) {
    CurvePlot live, whole;
    for (auto* plot : {&live, &whole}) {
      plot->resize(700, 320);
      plot->plot()->setFocusPolicy(Qt::NoFocus); // which one has it is no matter here
      plot->QWidget::show();
      plot->show(responses(1, phase));
      plot->grab();
    }
    QTest::qWait(20);
    for (const double lift : {2.0, -4.0, 8.5}) {
      live.show(responses(lift, phase));
      QTest::qWait(20);
      whole.show(responses(lift, phase));
      whole.plot()->replot(QCustomPlot::rpImmediateRefresh);
      QTest::qWait(20);
      EXPECT_EQ(live.grab().toImage(), whole.grab().toImage()) << lift << " " << phase;
      EXPECT_EQ(live.readout(), whole.readout());
    }
  }
}

TEST(CurvePlot, ReadsBetweenPointsAndOutsideSaysNothing) {
  CurvePlot::Curve curve{{}, {10, 100, 1000}, {0, 20, 30}};
  EXPECT_DOUBLE_EQ(CurvePlot::valueAt(curve, 10, true), 0);
  EXPECT_NEAR(CurvePlot::valueAt(curve, std::sqrt(1000.0), true), 10, 1e-9);
  EXPECT_NEAR(CurvePlot::valueAt(curve, 55, false), 10, 1e-9);
  EXPECT_TRUE(std::isnan(CurvePlot::valueAt(curve, 5, true)));
  EXPECT_TRUE(std::isnan(CurvePlot::valueAt(curve, 2000, false)));
  EXPECT_TRUE(std::isnan(CurvePlot::valueAt({}, 1, false)));
}

/// Dashes against the pattern laid along the line by hand; and as few as the picture holds, however far it runs.
TEST(CurveGraph, DashesLieWhereThePatternPutsThem) {
  const QVector<double> pattern{4, 2};
  const QVector<QPointF> bent{{0, 0}, {9, 0}, {9, 12}}; // 21 long, with a corner in the middle of a gap's period
  double drawn = 0;
  for (const auto& dash : dashes(bent, pattern, {-1, -1, 30, 30})) {
    drawn += dash.length();
    const double start = dash.x1() < 9 || dash.y1() == 0 ? dash.x1() : 9 + dash.y1();
    EXPECT_LT(std::fmod(start + 1e-9, 6), 4) << start;
  }
  EXPECT_NEAR(drawn, 4 + 4 + 4 + 3, 1e-9);
  const auto far = dashes({{-1e9, 5}, {1e9, 5}}, pattern, {0, 0, 60, 10});
  EXPECT_LE(far.size(), 12);
  EXPECT_GE(far.size(), 10);
  EXPECT_LE(dashes({{3, -1e15}, {3, 1e15}}, pattern, {0, 0, 60, 60}).size(), 14);
  EXPECT_TRUE(dashes({{0, -50}, {60, -20}}, pattern, {0, 0, 60, 60}).empty());
  EXPECT_TRUE(dashes({{0, std::nan("")}, {60, INFINITY}}, pattern, {0, 0, 60, 60}).empty());
}

TEST(CurveGraph, KeepsThePointsThatTheCurveTurnsAt) {
  std::vector<QPointF> points;
  for (int i = 0; i <= 400; ++i)
    points.emplace_back(i, i < 200 ? 0.5 * i : 200 - 0.5 * i);
  const auto kept = neededPoints(points);
  EXPECT_LE(kept.size(), 5U);
  EXPECT_TRUE(std::any_of(kept.begin(), kept.end(), [](auto k) { return k == 199 || k == 200 || k == 201; }));
  for (auto& point : points)
    point.ry() = 40 * std::sin(point.x() / 9);
  // There, and straight back on another way.
  const auto there = neededPoints(points).size();
  for (int i = 399; i >= 0; --i)
    points.emplace_back(i, 70 - i / 9.0);
  const auto curved = neededPoints(points);
  EXPECT_LE(curved.size(), there + 4);
  // No point lies further than an eighth of a pixel from the line through those that are kept.
  for (std::size_t k = 0; k + 1 < curved.size(); ++k)
    for (std::size_t i = curved[k]; i <= curved[k + 1]; ++i) {
      const QPointF a = points[curved[k]], d = points[curved[k + 1]] - a, p = points[i] - a;
      EXPECT_LE(std::abs(d.x() * p.y() - d.y() * p.x()) / std::hypot(d.x(), d.y()), 0.125) << i;
    }
}

TEST(CurvePlot, WithoutAnInkNothingIsComparedWithIt) {
  CurvePlot plot;
  auto picture = responses(3);
  picture.curves.erase(picture.curves.begin());
  plot.show(picture);
  EXPECT_FALSE(plot.readout().contains(QLatin1Char('('))) << plot.readout().toStdString();
  plot.show(responses(3));
  EXPECT_TRUE(plot.readout().contains(QStringLiteral("(+3.0)"))) << plot.readout().toStdString();
}

int shownPlottables(QCustomPlot& plot) {
  int shown = 0;
  for (int i = 0; i < plot.plottableCount(); ++i)
    shown += plot.plottable(i)->visible();
  return shown;
}

CurvePlot::Picture plane(bool movable) {
  CurvePlot::Picture picture;
  picture.title = QStringLiteral("plane");
  picture.panes = {{QStringLiteral("mA"), QStringLiteral("mA"), CurvePlot::Pane::Scale::fromZero}};
  picture.silent = true;
  picture.axes = QRectF(0, 0, 200, 4);
  picture.curves = {{QStringLiteral("c"), {0, 100, 200}, {0, 1, 4}, CurvePlot::Look::ground}};
  // A loop: x turns back.
  picture.paths = {{QStringLiteral("way"), {50, 100, 150, 100, 50}, {1, 2, 1, 0.5, 1}, CurvePlot::Look::ink}};
  picture.dots = {{100, 1, QStringLiteral("here"), CurvePlot::Look::ink, movable}};
  return picture;
}

/// A dot is taken along by the mouse, let go of where it is told, and moved by the arrow keys; a click beside it is a
/// click on the place.
TEST(CurvePlot, AMovableDotIsDraggedAndKeyedAndAPlaceClicked) {
  CurvePlot plot;
  plot.resize(600, 320);
  plot.QWidget::show();
  plot.show(plane(true));
  QTest::qWait(20);
  struct Moved {
    double x, y;
    bool done;
  };
  std::vector<Moved> moves;
  std::vector<QPointF> clicks;
  QObject::connect(&plot, &CurvePlot::handleMoved, &plot, [&](int, double x, double y, bool done) {
    moves.push_back({x, y, done});
  });
  QObject::connect(&plot, &CurvePlot::placeClicked, &plot, [&](double x, double y) { clicks.emplace_back(x, y); });
  auto* canvas = plot.plot();
  const auto at = [&](double x, double y) {
    return QPoint(qRound(canvas->xAxis->coordToPixel(x)), qRound(canvas->yAxis->coordToPixel(y)));
  };
  EXPECT_NEAR(canvas->xAxis->range().upper, 200, 1e-9);
  EXPECT_TRUE(plot.readout().isEmpty()); // a ground has nothing to read
  QTest::mousePress(canvas, Qt::LeftButton, {}, at(100, 1));
  QTest::mouseMove(canvas, at(120, 1.5));
  QTest::mouseRelease(canvas, Qt::LeftButton, {}, at(140, 2));
  ASSERT_GE(moves.size(), 2U);
  EXPECT_FALSE(moves.front().done);
  EXPECT_TRUE(moves.back().done);
  EXPECT_NEAR(moves.back().x, 140, 1);
  EXPECT_NEAR(moves.back().y, 2, 0.05);
  EXPECT_TRUE(clicks.empty());
  QTest::mouseClick(canvas, Qt::LeftButton, {}, at(30, 3));
  ASSERT_EQ(clicks.size(), 1U);
  EXPECT_NEAR(clicks[0].x(), 30, 1);
  // Keys go on from where the last one led, though the dot stays until something is pencilled.
  moves.clear();
  canvas->setFocus();
  for (int i = 0; i < 3; ++i)
    QTest::keyClick(canvas, Qt::Key_Right);
  ASSERT_EQ(moves.size(), 3U);
  EXPECT_NEAR(moves[2].x - 100, 3 * (moves[0].x - 100), 1e-6);
  QTest::keyClick(canvas, Qt::Key_Up, Qt::ShiftModifier);
  EXPECT_GT(moves.back().y, 1.1);
  // One that is not movable stays.
  moves.clear();
  plot.show(plane(false));
  QTest::mousePress(canvas, Qt::LeftButton, {}, at(100, 1));
  QTest::mouseRelease(canvas, Qt::LeftButton, {}, at(140, 2));
  EXPECT_TRUE(moves.empty());
  plot.clear();
  plot.show(responses(1)); // another kind of picture, nothing left of the former one
  EXPECT_EQ(shownPlottables(*canvas), static_cast<int>(plot.picture().curves.size()));
}

/// Names of curves stand before their lines, also where another picture was there first.
TEST(CurvePlot, ALaterPictureIsDrawnAsIfItWereTheFirst) {
  auto named = responses(3);
  named.stay = false; // nor does the cursor
  for (auto& curve : named.curves) {
    curve.label = QStringLiteral("a name on its line");
    curve.labelAt = 0.5;
  }
  CurvePlot fresh, used;
  for (auto* plot : {&fresh, &used}) {
    plot->resize(600, 320);
    plot->plot()->setFocusPolicy(Qt::NoFocus);
    plot->QWidget::show();
  }
  used.show(plane(false));
  used.show(responses(1, true));
  used.show(plane(true));
  for (auto* plot : {&fresh, &used}) {
    plot->show(named);
    plot->plot()->replot(QCustomPlot::rpImmediateRefresh);
    QTest::qWait(20);
  }
  EXPECT_EQ(used.plot()->grab().toImage(), fresh.plot()->grab().toImage());
}

/// However narrow or low the plot, labels at its ticks lie on no other: words below each other, a long one cut short,
/// numbers whole or left out.
TEST(CurvePlot, LabelsAtTicksLieOnNoOther) {
  CurvePlot plot;
  plot.QWidget::show();
  auto named = responses(1);
  named.hertz = false;
  named.panes[0].range = {299.99, 300.01}; // of a stiff rail
  for (int i = 0; i < 9; ++i)
    named.panes[0].xTicks.emplace_back(5000.0 * i, QStringLiteral("three-control passive\n%1\u00a0dB past").arg(i));
  bool cut = false, wrapped = false;
  for (const auto& picture : {responses(1), responses(1, true), named})
    for (const auto size : {QSize(900, 500), QSize(420, 220), QSize(640, 130)}) {
      plot.resize(size);
      plot.show(picture);
      for (int k = 0; k < 3; ++k) {
        plot.grab();
        QApplication::processEvents();
      }
      for (auto* rect : plot.plot()->axisRects())
        for (const auto* axis : {rect->axis(QCPAxis::atBottom), rect->axis(QCPAxis::atLeft)}) {
          if (!axis->tickLabels()) continue;
          const QFontMetricsF metrics(axis->tickLabelFont());
          const bool across = axis->orientation() == Qt::Horizontal;
          std::vector<std::pair<double, double>> taken;
          const auto at = axis->tickVector();
          const auto labels = axis->tickVectorLabels(); // as drawn
          for (int i = 0; i < labels.size(); ++i) {
            if (labels[i].isEmpty()) continue;
            const auto lines = labels[i].split(QLatin1Char('\n'));
            double length = 0;
            for (const auto& line : lines)
              length = across ? std::max(length, metrics.horizontalAdvance(line)) : length + metrics.lineSpacing();
            cut = cut || labels[i].contains(QChar(0x2026));
            wrapped = wrapped || lines.size() > 2;
            const double middle = axis->coordToPixel(at[i]);
            for (const auto& [from, to] : taken)
              EXPECT_FALSE(middle - length / 2 < to && from < middle + length / 2)
                  << labels[i].toStdString() << " at " << size.width() << " by " << size.height();
            taken.emplace_back(middle - length / 2, middle + length / 2);
            EXPECT_TRUE(across || !labels[i].contains(QChar(0x2026)));
          }
          EXPECT_FALSE(taken.empty());
        }
    }
  EXPECT_TRUE(cut);
  EXPECT_TRUE(wrapped);
}

/// A word near an edge is as whole as one in the middle.
TEST(CurvePlot, NoWordIsCutOffByTheEdge) {
  CurvePlot plot;
  plot.resize(600, 320);
  plot.QWidget::show();
  const auto drawn = [&](double x, double y, const QString& word, bool bare) {
    auto picture = plane(false);
    picture.dots.push_back({x, y, word, CurvePlot::Look::ink, false, false, bare});
    plot.show(picture);
    plot.plot()->replot(QCustomPlot::rpImmediateRefresh);
    return plot.grab().toImage().convertToFormat(QImage::Format_RGB32);
  };
  const auto inked = [&](double x, double y, bool bare) {
    const auto with = drawn(x, y, QStringLiteral("a word of some length"), bare), without = drawn(x, y, {}, bare);
    int pixels = 0;
    for (int row = 0; row < with.height(); ++row)
      for (int column = 0; column < with.width(); ++column)
        pixels += with.pixel(column, row) != without.pixel(column, row);
    return pixels;
  };
  const int whole = inked(100, 3, true);
  ASSERT_GT(whole, 100);
  for (const auto& [x, y] : {std::pair{198.0, 3.0}, {2.0, 3.0}, {100.0, 3.97}, {160.0, 3.0}})
    for (const bool bare : {true, false})
      EXPECT_NEAR(inked(x, y, bare), whole, 0.12 * whole) << x << " " << y << " " << bare;
}

TEST(CurvePlot, WhatIsPencilledIsDrawnAloneOnTheGroundThatStands) {
  CurvePlot plot;
  plot.resize(600, 320);
  plot.QWidget::show();
  auto picture = plane(true);
  const auto path = [](double end) {
    return CurvePlot::Path{QStringLiteral("load"), {0, end}, {4, 0}, CurvePlot::Look::pencil, false, false,
                           QStringLiteral("line")};
  };
  picture.paths.push_back(path(180));
  picture.marks = {{150, QStringLiteral("cut-off"), true, false, 0}};
  plot.show(picture);
  auto* canvas = plot.plot();
  QSignalSpy all(canvas, &QCustomPlot::afterReplot);
  do { // what showing it asked for is done, however busy the machine is
    all.clear();
    QTest::qWait(50);
  } while (all.count() > 0);
  const int before = shownPlottables(*canvas);
  for (int step = 1; step <= 5; ++step) {
    picture.paths.back() = path(180 - 10 * step);
    picture.marks.front().at = 150 - step;
    plot.show(picture);
    QTest::qWait(5);
  }
  EXPECT_EQ(all.count(), 0);
  EXPECT_EQ(shownPlottables(*canvas), before); // nothing of the former steps is left
  const auto* last = qobject_cast<QCPCurve*>(canvas->plottable(canvas->plottableCount() - 1));
  ASSERT_NE(last, nullptr);
  EXPECT_EQ(last->data()->at(1)->key, 130);
  picture.paths.pop_back();
  plot.show(picture);
  EXPECT_EQ(shownPlottables(*canvas), before - 1);
  // What is of the ink moves the ground.
  picture.dots.front().x += 1;
  picture.dots.front().look = CurvePlot::Look::ink;
  plot.show(picture);
  QTest::qWait(20);
  EXPECT_GE(all.count(), 1);
}

/// Curves that run with each other have their names beside each other, and those that find no place have none.
TEST(CurvePlot, NoNameOfACurveLiesOnAnother) {
  CurvePlot plot;
  plot.resize(600, 320);
  plot.QWidget::show();
  const auto named = [&](int count) {
    CurvePlot::Picture picture;
    picture.title = QString::number(count);
    picture.panes = {{QStringLiteral("V"), QStringLiteral("V")}};
    for (int c = 0; c < count; ++c) {
      const double level = c == 0 ? 0 : 1 + 0.01 * c;
      CurvePlot::Curve curve{{}, {0, 50, 100}, {level, level, level}, CurvePlot::Look::ink};
      curve.label = QStringLiteral("V%1 grid current").arg(c);
      curve.labelAt = 0.5;
      picture.curves.push_back(curve);
    }
    plot.show(picture);
    QTest::qWait(20);
    std::vector<QRectF> words;
    for (int i = 0; i < plot.plot()->itemCount(); ++i)
      if (const auto* word = qobject_cast<QCPItemText*>(plot.plot()->item(i));
          word && word->visible() && word->text().contains(QStringLiteral("grid")))
        words.emplace_back(word->topLeft->pixelPosition(), word->bottomRight->pixelPosition());
    for (std::size_t a = 0; a < words.size(); ++a)
      for (std::size_t b = a + 1; b < words.size(); ++b)
        EXPECT_FALSE(words[a].intersects(words[b])) << a << " " << b << " of " << count;
    return words.size();
  };
  EXPECT_EQ(named(1), 1U);
  EXPECT_EQ(named(4), 4U);
  const auto many = named(30);
  EXPECT_GE(many, 4U);
  EXPECT_LT(many, 30U);
}

TEST(CurvePlot, NamedPlacesStandInPlaceOfNumbersAndRangesAreKept) {
  CurvePlot plot;
  plot.resize(600, 320);
  plot.QWidget::show();
  auto picture = plane(false);
  picture.axes.reset();
  picture.panes[0].xTicks = {{0, QStringLiteral("jack")}, {100, QStringLiteral("V1a\n12 dB left")}};
  picture.panes[0].range = {{-3, 7}};
  plot.show(picture);
  QTest::qWait(20);
  EXPECT_EQ(plot.plot()->yAxis->range(), QCPRange(-3, 7));
  const auto ticker = plot.plot()->xAxis->ticker().dynamicCast<QCPAxisTickerText>();
  ASSERT_TRUE(ticker);
  EXPECT_EQ(ticker->ticks().value(0), QStringLiteral("jack"));
}

} // namespace
} // namespace vinegar::app
