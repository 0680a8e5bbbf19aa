#include "widgets/knob_grid.h"

#include "document/session.h"
#include "theme/text.h"
#include "widgets/knob.h"

#include <QGridLayout>
#include <QHBoxLayout>

namespace vinegar::app {
namespace {
constexpr int cellWidth = 190, widestName = 90;
constexpr std::size_t mostKnobs = 64;
} // namespace

KnobGrid::KnobGrid(Session& session, Which which, QWidget* parent) : QWidget(parent), session_(session), which_(which) {
  layout_ = new QGridLayout(this);
  layout_->setContentsMargins(0, 0, 0, 2);
  layout_->setHorizontalSpacing(18);
  layout_->setVerticalSpacing(2);
}

void KnobGrid::build(const std::vector<amp::ResolvedPart>& controls) {
  std::vector<std::string> names;
  names.reserve(controls.size());
  for (const auto& control : controls)
    names.push_back(control.section + "." + control.name);
  if (names == names_ && !cells_.empty()) return;
  names_ = names;
  knobs_.clear();
  while (auto* item = layout_->takeAt(0)) {
    delete item->widget();
    delete item;
  }
  cells_.clear();
  if (names.empty()) {
    auto* word = new Label(tr("This design has no knobs"));
    word->setProperty("quiet", true);
    cells_.push_back(word);
  }
  for (const auto& control : controls) {
    if (knobs_.size() == mostKnobs) { // no panel has as many; the others are turned in the drawer
      auto* word = new Label(tr("and %1 more, in the drawer").arg(controls.size() - mostKnobs));
      word->setProperty("quiet", true);
      cells_.push_back(word);
      break;
    }
    auto* cell = new QWidget;
    auto* row = new QHBoxLayout(cell);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(6);
    const auto name = QString::fromStdString(control.name);
    auto* caption = new Label;
    caption->setText(caption->fontMetrics().elidedText(name, Qt::ElideRight, widestName));
    caption->setToolTip(plainTip(name));
    auto* knob = new Knob(session_, control);
    row->addWidget(caption);
    row->addWidget(knob, 1);
    knobs_.push_back(knob);
    cells_.push_back(cell);
  }
  columns_ = 0;
  place();
}

void KnobGrid::place() {
  const int most = std::max(1, width() / cellWidth), count = static_cast<int>(cells_.size());
  const int rows = (count + most - 1) / most, columns = (count + rows - 1) / std::max(rows, 1);
  if (columns == columns_) return;
  for (auto* cell : cells_)
    layout_->removeWidget(cell);
  for (int c = 0; c < std::max(columns_, columns); ++c)
    layout_->setColumnStretch(c, c < columns ? 1 : 0);
  for (int i = 0; i < count; ++i)
    layout_->addWidget(cells_[static_cast<std::size_t>(i)], i / columns, i % columns);
  columns_ = columns;
}

void KnobGrid::resizeEvent(QResizeEvent* event) {
  QWidget::resizeEvent(event);
  place();
}

void KnobGrid::refresh() {
  std::vector<amp::ResolvedPart> controls;
  for (const auto& part : session_.pencilledParts())
    if (amp::isControl(part.part->kind) && part.knob == part.name && part.fitted() &&
        amp::isPlayed(part, session_.library()) == (which_ == Which::played))
      controls.push_back(part);
  build(controls);
  if (which_ == Which::ofSupply) setVisible(!controls.empty());
  for (auto* knob : knobs_)
    knob->refresh();
}

} // namespace vinegar::app

#include "moc_knob_grid.cpp"
