// The controls over a curve: one row, the others a click away.
#include "widgets/knob_grid.h"

#include "document/session.h"
#include "support/samples.h"

#include <QPushButton>
#include <QTest>
#include <gtest/gtest.h>

namespace vinegar::app {
namespace {

TEST(KnobGrid, IsOneRowAndUnfoldsTheOthersByAButton) {
  Session session(testing_support::library(), {});
  ASSERT_FALSE(session.open(QString::fromStdString(testing_support::samplePath("chandlery").string()), true));
  KnobGrid grid(session, KnobGrid::Which::played);
  grid.resize(860, 40);
  grid.refresh();
  grid.show();
  QTest::qWait(1);
  auto* more = grid.findChild<QPushButton*>(QStringLiteral("moreControls"));
  ASSERT_TRUE(more->isVisible());
  const auto shown = [&] {
    int count = 0;
    for (auto* knob : grid.findChildren<QWidget*>())
      count += knob->objectName().startsWith(QStringLiteral("knob ")) && knob->isVisible();
    return count;
  };
  const int row = shown(), height = grid.sizeHint().height();
  EXPECT_EQ(row, 3);
  QTest::mouseClick(more, Qt::LeftButton);
  const int all = shown();
  EXPECT_GE(all, 11);
  EXPECT_GT(grid.sizeHint().height(), 2 * height);
  QTest::mouseClick(more, Qt::LeftButton);
  EXPECT_EQ(shown(), row);
  // Where all have room there is no button.
  grid.resize(190 * (all + 1), 40);
  QTest::qWait(1);
  EXPECT_EQ(shown(), all);
  EXPECT_FALSE(more->isVisible());
}

} // namespace
} // namespace vinegar::app
