// The Voice page by itself, on a sample.
#pragma once

#include "app/page_fixture.h"
#include "pages/kit/page_view.h"
#include "widgets/figure_sheet.h"

#include <QLabel>
#include <QPushButton>

namespace vinegar::app {

using testing_support::library;

class VoiceFixture : public PageFixture {
protected:
  void open(const char* sample = "slipway") {
    openSample(sample);
    openPage(QStringLiteral("Voice"));
    page_->resize(900, 460);
    settle();
  }
  ViewsPage* views() { return static_cast<ViewsPage*>(page_.get()); }
  void view(const char* id) {
    QTest::mouseClick(child<QPushButton>((std::string("view ") + id).c_str()), Qt::LeftButton);
    settle();
  }
  predict::Idle now() {
    auto idle = predict::predictIdle(session_.pencilled(), library());
    EXPECT_TRUE(idle);
    return std::move(*idle);
  }
  QString text(const char* label) { return child<QLabel>(label)->text(); }
  const CurvePlot::Picture& picture() { return views()->plot()->picture(); }
  void clickCell(FigureSheet* sheet, int row, int column) {
    const auto index = sheet->model()->index(row, column);
    sheet->scrollTo(index);
    QTest::mouseClick(sheet->viewport(), Qt::LeftButton, {}, sheet->visualRect(index).center());
    settle();
  }
  /// Of a cell's words the number, without its unit.
  static double numberOf(const QString& words) {
    bool isNumber = false;
    const double number = words.section(QLatin1Char(' '), 0, 0).toDouble(&isNumber);
    EXPECT_TRUE(isNumber) << words.toStdString();
    return number;
  }
  void press(const QString& name) {
    auto* button = page_->findChild<QPushButton*>(name);
    ASSERT_NE(button, nullptr) << name.toStdString();
    QTest::mouseClick(button, Qt::LeftButton);
    settle();
  }
  double value(const char* part) {
    for (const auto& p : session_.pencilledParts())
      if (p.name == part) return p.value();
    ADD_FAILURE() << part;
    return 0;
  }
};

} // namespace vinegar::app
