// Tables of figures, readings, and what is said in place of content.
#include "app/window_fixture.h"
#include "document/session.h"
#include "pages/kit/page_frame.h"
#include "plots/curve_graph.h"
#include "plots/curve_plot.h"
#include "plots/response_picture.h"
#include "predict/overview/steps.h"
#include "run/run_view.h"
#include "support/samples.h"
#include "theme/theme.h"
#include "units/json.h"
#include "widgets/dial.h"
#include "widgets/figure_sheet.h"
#include "widgets/figure_table.h"
#include "widgets/readings.h"
#include "widgets/state_pane.h"
#include "window/actions.h"

#include <QAction>
#include <QApplication>
#include <QCheckBox>
#include <QClipboard>
#include <QComboBox>
#include <QDir>
#include <QElapsedTimer>
#include <QFile>
#include <QHeaderView>
#include <QPushButton>
#include <QRegularExpression>
#include <QScrollArea>
#include <QScrollBar>
#include <QSignalSpy>
#include <QTemporaryDir>
#include <QTest>
#include <QWheelEvent>
#include <cmath>
#include <functional>
#include <gtest/gtest.h>
#include <set>

namespace vinegar::app {
namespace {

FigureSheet::Row row(const QString& name, double value) {
  FigureSheet::Row row;
  row.cells.push_back({name});
  row.cells.push_back({QString::number(value)});
  row.cells.back().order = value;
  return row;
}

/// What may be typed into is told of; the rest of a table is not to be changed.
TEST(FigureSheet, ACellTakesWhatIsTypedWhereItMay) {
  FigureSheet sheet;
  sheet.resize(500, 200);
  sheet.show();
  QStringList typed;
  std::vector<FigureSheet::Row> rows;
  for (const char* name : {"V1a", "V1b"}) {
    FigureSheet::Row row;
    row.cells.push_back({QString::fromLatin1(name)});
    FigureSheet::Cell cell{QStringLiteral("1 V")};
    cell.typed = [&typed, name](const QString& text) { typed << QLatin1String(name) + QLatin1Char('=') + text; };
    row.cells.push_back(std::move(cell));
    rows.push_back(std::move(row));
  }
  sheet.setSheet({QStringLiteral("tube"), QStringLiteral("read")}, rows);
  const auto edit = [&](int row, int column, const QString& text) {
    sheet.setCurrentIndex(sheet.model()->index(row, column));
    sheet.edit(sheet.currentIndex());
    auto* editor = sheet.viewport()->findChild<QLineEdit*>();
    if (!editor) return false;
    editor->selectAll();
    QTest::keyClicks(editor, text);
    QTest::keyClick(editor, Qt::Key_Return);
    QTest::qWait(30);
    return true;
  };
  EXPECT_TRUE(typed.isEmpty()); // filling it is no typing
  EXPECT_TRUE(edit(1, 1, QStringLiteral("160")));
  EXPECT_EQ(typed, QStringList{QStringLiteral("V1b=160")});
  EXPECT_FALSE(sheet.model()->flags(sheet.model()->index(0, 0)) & Qt::ItemIsEditable);
}

/// In a small window the names of a page's views stand closer, and whole; there is room for seven.
TEST(PageFrame, ViewsStandCloserWhereThereIsLittleRoom) {
  QWidget holder; // as narrow as the window makes it
  PageFrame frame(QStringLiteral("Feel"), QStringLiteral("what gives way?"), &holder);
  for (const char* name : {"Burst", "Rails", "Causes", "More or less", "Rectifiers", "Compression", "Live"})
    frame.addView(QLatin1String(name), QLatin1String(name));
  const auto buttons = frame.findChildren<QPushButton*>(QRegularExpression(QStringLiteral("^view ")));
  ASSERT_EQ(buttons.size(), 7);
  int natural = 28;
  for (const auto* button : buttons)
    natural += button->sizeHint().width() + 4;
  holder.resize(2000, 300);
  holder.show();
  const auto widthOfFirst = [&] { return buttons.front()->sizeHint().width(); };
  frame.resize(natural + 300, 300);
  QTest::qWait(20);
  const int roomy = widthOfFirst();
  frame.resize(natural - 60, 300);
  QTest::qWait(20);
  EXPECT_LT(widthOfFirst(), roomy);
  for (const auto* button : buttons) {
    EXPECT_GE(button->width(), button->sizeHint().width()) << button->text().toStdString();
    EXPECT_LE(button->mapTo(&frame, QPoint(button->width(), 0)).x(), frame.width()) << button->text().toStdString();
  }
  // Where even that is too wide they are a list, which does the same.
  frame.resize(natural / 2, 300);
  QTest::qWait(20);
  auto* list = frame.findChild<QComboBox*>(QStringLiteral("viewList"));
  ASSERT_TRUE(list->isVisible());
  EXPECT_FALSE(buttons.front()->isVisible());
  EXPECT_EQ(list->count(), 7);
  int chosen = -1;
  QObject::connect(&frame, &PageFrame::viewChosen, [&](int view) { chosen = view; });
  frame.setView(2);
  EXPECT_EQ(list->currentText(), QStringLiteral("Causes"));
  QTest::keyClick(list, Qt::Key_Down);
  EXPECT_EQ(chosen, 3);
  frame.resize(natural + 300, 300);
  QTest::qWait(20);
  EXPECT_GE(widthOfFirst(), roomy);
  EXPECT_TRUE(buttons.front()->isVisible());
  EXPECT_FALSE(list->isVisible());
}

/// Filled again and again while a value turns: the figures are the new ones, nobody has typed them, and a longer one
/// finds room.
TEST(FigureSheet, FiguresAreWrittenWhereTheyStand) {
  FigureSheet sheet;
  sheet.resize(400, 200);
  sheet.show();
  QStringList typed;
  const auto fill = [&](const char* name, double value, bool danger) {
    std::vector<FigureSheet::Row> rows{row(QLatin1String(name), value), row(QStringLiteral("b"), 2)};
    rows[0].cells[1].danger = danger;
    rows[0].cells[1].typed = [&](const QString& text) { typed << text; };
    sheet.setSheet({QStringLiteral("name"), QStringLiteral("value")}, std::move(rows));
    QCoreApplication::processEvents();
  };
  fill("a", 1, false);
  sheet.choose(1);
  const auto* model = sheet.model();
  const int width = sheet.columnWidth(0);
  fill("a", 3, true);
  EXPECT_EQ(sheet.chosen(), 1);
  EXPECT_EQ(sheet.text(0, 1), FigureSheet::Row(row(QStringLiteral("a"), 3)).cells[1].text);
  EXPECT_TRUE(model->index(0, 1).data(Qt::ForegroundRole).isValid());
  EXPECT_EQ(sheet.columnWidth(0), width);
  fill("a", 3, false);
  EXPECT_FALSE(model->index(0, 1).data(Qt::ForegroundRole).isValid());
  fill("a name that is much longer than it was", 3, false);
  EXPECT_GT(sheet.columnWidth(0), width);
  EXPECT_TRUE(typed.isEmpty()) << typed.join(QLatin1Char(' ')).toStdString();
  sheet.sortByColumn(1, Qt::DescendingOrder);
  fill("a", 1, false); // in its order all the same
  EXPECT_EQ(sheet.text(0, 0), QStringLiteral("b"));
}

TEST(FigureSheet, SortsByValueKeepsItsChoiceAndCopiesWhatIsShown) {
  FigureSheet sheet;
  sheet.setSheet({QStringLiteral("name"), QStringLiteral("value")},
                 {row(QStringLiteral("a,b"), 9e-3), row(QStringLiteral("c"), 1.2), row(QStringLiteral("d"), 300e-6)});
  sheet.choose(1);
  EXPECT_EQ(sheet.chosen(), 1);
  sheet.sortByColumn(1, Qt::AscendingOrder); // by what it is worth, not by its letters
  EXPECT_EQ(sheet.text(0, 0), QStringLiteral("d"));
  EXPECT_EQ(sheet.text(2, 0), QStringLiteral("c"));
  EXPECT_EQ(sheet.chosen(), 1);
  EXPECT_EQ(sheet.csv().substr(0, sheet.csv().find('\n')), "name,value");
  EXPECT_NE(sheet.csv().find("\"a,b\""), std::string::npos);
  sheet.sortByColumn(-1, Qt::AscendingOrder); // as it came
  EXPECT_EQ(sheet.text(0, 0), QStringLiteral("a,b"));
  QTest::keyClick(&sheet, Qt::Key_C, Qt::ControlModifier);
  EXPECT_EQ(QApplication::clipboard()->text().split(QLatin1Char('\n')).size(), 4);
  sheet.setSheet({QStringLiteral("name"), QStringLiteral("value")}, {row(QStringLiteral("e"), 1)});
  EXPECT_EQ(sheet.rowCount(), 1);
}

TEST(FigureSheet, AButtonStaysWithItsRowHoweverItIsSorted) {
  FigureSheet sheet;
  QStringList acted;
  std::vector<FigureSheet::Row> rows;
  for (const auto& [name, value] : {std::pair{"x", 3.0}, {"y", 1.0}, {"z", 2.0}}) {
    rows.push_back(row(QLatin1String(name), value));
    rows.back().act = QStringLiteral("Do");
    rows.back().actName = QLatin1String(name);
    rows.back().acted = [&acted, name = QString::fromLatin1(name)] { acted << name; };
  }
  sheet.setSheet({QStringLiteral("name"), QStringLiteral("value")}, rows, true);
  sheet.sortByColumn(2, Qt::AscendingOrder);
  EXPECT_EQ(sheet.text(0, 1), QStringLiteral("y"));
  static_cast<QPushButton*>(sheet.indexWidget(sheet.model()->index(0, 0)))->click();
  EXPECT_EQ(acted, QStringList{QStringLiteral("y")});
}

TEST(Readings, AMeterShowsNothingWhereThereIsNextToNothing) {
  EXPECT_EQ(meterReading(3e-9, units::Unit::volt), QStringLiteral("0 V"));
  EXPECT_EQ(meterReading(-3e-9, units::Unit::volt), QStringLiteral("0 V"));
  EXPECT_EQ(readingOf(23e-6, units::Unit::volt, 2), QStringLiteral("23 \u00b5V")); // ripple is no meter's matter
  EXPECT_EQ(signedVolts(0.001), QStringLiteral("0 V"));
  EXPECT_TRUE(signedVolts(12.5).startsWith(QLatin1Char('+')));
  EXPECT_EQ(signedDecibels(-0.04), QStringLiteral("0.0"));
}

TEST(StatePane, SaysWhatIsWrongAsTextAndOffersWhatToDo) {
  StatePane pane(new QLabel(QStringLiteral("content")));
  int acted = 0;
  pane.say(QStringLiteral("<b>R3</b>"), true, QStringLiteral("Select"), [&] { ++acted; });
  EXPECT_TRUE(pane.said().contains(QStringLiteral("<b>R3</b>")));
  auto* label = pane.findChild<QLabel*>(QStringLiteral("said"));
  EXPECT_EQ(label->textFormat(), Qt::PlainText);
  EXPECT_TRUE(label->property("danger").toBool());
  pane.findChild<QPushButton*>(QStringLiteral("saidAct"))->click();
  EXPECT_EQ(acted, 1);
  // However narrow the pane, the words are whole.
  pane.say(QString(QStringLiteral("many words to say ")).repeated(20), true);
  for (const int width : {300, 700}) {
    pane.resize(width, 400);
    pane.show();
    QTest::qWait(5);
    EXPECT_GE(label->height(), label->heightForWidth(label->width())) << width;
    EXPECT_LE(label->width(), width);
  }
  pane.showContent();
  EXPECT_TRUE(pane.said().isEmpty());
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
