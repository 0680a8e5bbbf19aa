#include "widgets/knob_grid.h"

#include "document/session.h"
#include "theme/text.h"
#include "widgets/knob.h"

#include <QGridLayout>
#include <QHBoxLayout>
#include <QPushButton>

namespace vinegar::app {
namespace {
constexpr int cellWidth = 190, moreWidth = 120, widestName = 90;
constexpr std::size_t mostKnobs = 64;
} // namespace

KnobGrid::KnobGrid(Session& session, Which which, QWidget* parent) : QWidget(parent), session_(session), which_(which) {
  layout_ = new QGridLayout(this);
  layout_->setContentsMargins(0, 0, 0, 2);
  layout_->setHorizontalSpacing(18);
  layout_->setVerticalSpacing(2);
  more_ = new QPushButton(this);
  more_->setObjectName(QStringLiteral("moreControls"));
  more_->setCheckable(true);
  more_->hide();
  connect(more_, &QPushButton::toggled, this, &KnobGrid::place);
}

void KnobGrid::build(const std::vector<amp::ResolvedPart>& controls) {
  std::vector<std::string> names;
  names.reserve(controls.size());
  for (const auto& control : controls)
    names.push_back(control.section + "." + control.name);
  if (names == names_ && !cells_.empty()) return;
  names_ = names;
  knobs_.clear();
  layout_->removeWidget(more_);
  qDeleteAll(cells_);
  cells_.clear();
  if (names.empty()) {
    auto* word = new Label(tr("This design has no knobs"), this);
    word->setProperty("quiet", true);
    cells_.push_back(word);
  }
  for (const auto& control : controls) {
    if (knobs_.size() == mostKnobs) { // no panel has as many; the others are turned in the drawer
      auto* word = new Label(tr("and %1 more, in the drawer").arg(controls.size() - mostKnobs), this);
      word->setProperty("quiet", true);
      cells_.push_back(word);
      break;
    }
    auto* cell = new QWidget(this);
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

/// One row: what has no room in it is behind a button, all of it in rows of as many while that is pressed.
void KnobGrid::place() {
  const int count = static_cast<int>(cells_.size()), room = width() + layout_->horizontalSpacing();
  const bool folds = count * cellWidth > room;
  const int columns = folds ? std::max(1, (room - moreWidth) / cellWidth) : count;
  const bool open = folds && more_->isChecked();
  if (columns == columns_ && open == open_) return;
  for (auto* cell : cells_)
    layout_->removeWidget(cell);
  layout_->removeWidget(more_);
  for (int c = 0; c <= std::max(columns_, columns); ++c)
    layout_->setColumnStretch(c, c < columns ? 1 : 0);
  for (int i = 0; i < count; ++i) {
    auto* cell = cells_[static_cast<std::size_t>(i)];
    const bool shown = open || i < columns;
    if (shown) layout_->addWidget(cell, i / columns, i % columns);
    cell->setVisible(shown);
  }
  more_->setVisible(folds);
  if (folds) {
    more_->setText(open ? tr("fewer controls") : tr("%1 more controls").arg(count - columns));
    layout_->addWidget(more_, 0, columns);
  }
  columns_ = columns;
  open_ = open;
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
