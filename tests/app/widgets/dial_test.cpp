// The dial on its own.
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

} // namespace
} // namespace vinegar::app
