#include "pages/stages/swap_view.h"

#include "pages/kit/input_box.h"
#include "tell/swaps.h"
#include "theme/text.h"
#include "widgets/figure_sheet.h"
#include "widgets/told.h"

#include <QHBoxLayout>
#include <QPushButton>
#include <QVBoxLayout>

namespace vinegar::app {

SwapView::SwapView(Page& page, TubeChoice& choice) : StageView(page, choice) {
  auto* column = contentColumn(4);
  auto* row = new QHBoxLayout;
  auto* words = quietLabel(tr("Another type in its place, in the whole output stage"));
  row->addWidget(words, 1);
  rebias_ = new QPushButton(tr("With its new bias"));
  rebias_->setCheckable(true);
  rebias_->setChecked(true);
  rebias_->setObjectName(QStringLiteral("withRebias"));
  rebias_->setToolTip(tr("Pencil brings the stock value in that the type's bias asks for"));
  row->addWidget(rebias_);
  others_ = new QPushButton(tr("Other sockets too"));
  others_->setCheckable(true);
  others_->setObjectName(QStringLiteral("otherSockets"));
  row->addWidget(others_);
  column->addLayout(row);
  table_ = newSheet("swaps", tr("Tube types and what comes of them"), tr("tube swaps"));
  column->addWidget(table_, 1);
  for (auto* button : {others_, rebias_})
    connect(button, &QPushButton::toggled, this, &SwapView::draw);
}

void SwapView::draw() {
  const auto* swaps = standing(*swaps_);
  if (!swaps) return;
  // As it is offered: with its new bias where that is chosen.
  const bool biased = rebias_->isChecked();
  std::vector<tell::ToldSwap> rows;
  for (const auto& row : swaps->rows)
    if (others_->isChecked() || row.rewiring.empty()) rows.push_back({row, biased ? row.offered() : row.plugged});
  Told<tell::ToldSwap> told{true};
  told.finish = [this, biased](const tell::ToldSwap& swap, FigureSheet::Row& row) {
    const bool current = swap.row.changes.empty();
    auto changes = swap.row.changes;
    if (biased) changes.insert(changes.end(), swap.row.rebias.begin(), swap.row.rebias.end());
    if (current)
      row.stands = QStringLiteral("  ") + tr("now");
    else
      letPencil(row, page().session(), changes, row.cells.front().text);
    for (auto& cell : row.cells)
      cell.strong = current;
  };
  showTold(*table_, tell::swaps(), rows, told);
}

} // namespace vinegar::app

#include "moc_swap_view.cpp"
