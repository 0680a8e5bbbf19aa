#include "pages/levels/headroom_view.h"

#include "pages/kit/input_box.h"
#include "pages/stages/stage_words.h"
#include "theme/text.h"
#include "widgets/pick_list.h"
#include "widgets/readings.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QVBoxLayout>
#include <cmath>

namespace vinegar::app {

HeadroomView::HeadroomView(Page& page) : LevelView(page) {
  auto* column = contentColumn(4);
  auto* row = new QHBoxLayout;
  auto* word = quietLabel(tr("I want"));
  row->addWidget(word);
  wish_ = new QComboBox;
  wish_->setObjectName(QStringLiteral("headroomWish"));
  wish_->setAccessibleName(tr("Wish"));
  wish_->addItems({tr("more headroom before"), tr("to break up first:")});
  row->addWidget(wish_);
  tube_ = new QComboBox;
  tube_->setObjectName(QStringLiteral("headroomTube"));
  tube_->setAccessibleName(tr("Tube"));
  tube_->setSizeAdjustPolicy(QComboBox::AdjustToContents);
  row->addWidget(tube_);
  row->addStretch(1);
  column->addLayout(row);
  answer_ = newAnswer("headroomAnswer");
  column->addWidget(answer_);
  table_ = newSheet("headroom", tr("Changes that help"), tr("headroom"));
  column->addWidget(table_, 1);
  for (auto* box : {wish_, tube_})
    connect(box, &QComboBox::activated, this, &HeadroomView::put);
}

void HeadroomView::ask(const Answers<predict::Idle>& idle) {
  const auto* now = idle.nowValue() ? idle.nowValue() : idle.any();
  QStringList tubes;
  for (const auto& tube : now->point.tubes)
    tubes << QString::fromStdString(tube.name);
  refill(*tube_, tubes);
  if (tubes.isEmpty()) {
    changes_.rest();
    return state().say(tr("There is no tube in this design. Put in a stage on the Arrange page."));
  }
  put();
}

void HeadroomView::put() {
  changes_.ask({tube_->currentText().toStdString(), wish_->currentIndex() == 1, played().hertz});
}

void HeadroomView::clear() { tube_->clear(); }

void HeadroomView::draw() {
  const auto* now = standing(*changes_);
  if (!now) return;
  const auto tube = tube_->currentText();
  answer_->setText(tr("%1 clips at %2 in%3; first is %4, at %5")
                       .arg(tube, InputBox::level(now->stagePeak), atWorst(now->hertz),
                            QString::fromStdString(now->firstTube), InputBox::level(now->firstPeak)));
  std::vector<FigureSheet::Row> rows;
  for (const auto& change : now->best) {
    const auto title = wordsOf(change.changes);
    auto row = pencilRow(page().session(), change.changes, title);
    row.cells.push_back({title, {}, false, true});
    row.cells.push_back({InputBox::level(change.stagePeak), {}, false, false, false, change.stagePeak});
    const double db = 20 * std::log10(change.stagePeak / now->stagePeak);
    row.cells.push_back({signedDecibels(db), {}, false, false, false, db});
    row.cells.push_back(
        {tr("%1 at %2").arg(QString::fromStdString(change.firstTube), InputBox::level(change.firstPeak)),
         {},
         false,
         false,
         true,
         change.firstPeak});
    row.cells.push_back({signedDecibels(change.gainDecibels), {}, false, false, false, change.gainDecibels});
    rows.push_back(std::move(row));
  }
  if (rows.empty()) answer_->setText(answer_->text() + tr("; no stock step of a part helps"));
  table_->setSheet({tr("change"), tr("%1 clips at").arg(tube), tr("dB"), tr("first is then"), tr("gain, dB")},
                   std::move(rows), true);
  table_->setStretched({4});
}

} // namespace vinegar::app

#include "moc_headroom_view.cpp"
