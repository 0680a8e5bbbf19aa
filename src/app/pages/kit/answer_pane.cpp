#include "pages/kit/answer_pane.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QVBoxLayout>

namespace vinegar::app {

AnswerPane::AnswerPane(PageView& view, const Names& names)
    : column_(view.contentColumn(4)), row_(new QHBoxLayout), answer_(view.newAnswer(names.answer)),
      plot_(view.newPlot(names.plotFile)), sheet_(view.newSheet(names.sheet, names.about, names.sheetFile)) {
  column_->addWidget(answer_);
  row_->setSpacing(10);
  row_->addWidget(plot_, 1);
  row_->addWidget(sheet_);
  column_->addLayout(row_, 1);
}

void AnswerPane::setShares(int plot, int sheet) {
  row_->setStretch(0, plot);
  row_->setStretch(1, sheet);
}

void AnswerPane::addFields(QLayout* fields) { column_->insertLayout(0, fields); }

void AnswerPane::addUnderAnswer(QWidget* fields) { column_->insertWidget(1, fields); }

} // namespace vinegar::app
