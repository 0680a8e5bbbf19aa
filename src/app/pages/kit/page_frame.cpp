#include "pages/kit/page_frame.h"

#include "theme/text.h"
#include "theme/theme.h"
#include "widgets/elided_label.h"

#include <QButtonGroup>
#include <QComboBox>
#include <QEvent>
#include <QHBoxLayout>
#include <QMenu>
#include <QPushButton>
#include <QToolButton>
#include <QVBoxLayout>
#include <cmath>
#include <utility>

namespace vinegar::app {
namespace {
constexpr qint64 soonMs = 500; ///< longer work than this says that it is at work
constexpr int lookMs = 100;
constexpr int roomyPad = 9, tightPad = 2; ///< beside a view's name, px
QString padded(int pixels) { return QStringLiteral("padding-left: %1px; padding-right: %1px;").arg(pixels); }
} // namespace

PageFrame::PageFrame(const QString& title, const QString& question, QWidget* parent) : QWidget(parent) {
  auto* column = new QVBoxLayout(this);
  column_ = column;
  column->setContentsMargins(14, 8, 14, 6);
  column->setSpacing(4);
  auto* head = new QHBoxLayout;
  head->setSpacing(4);
  title_ = head;
  auto* name = new Label(title);
  name_ = name;
  name->setFont(textFont(14, QFont::DemiBold));
  head->addWidget(name);
  auto* words = new ElidedLabel(question);
  words->setProperty("quiet", true);
  head->addWidget(words, 1);
  progress_ = new Label;
  progress_->setObjectName(QStringLiteral("pageProgress"));
  progress_->setProperty("quiet", true);
  progress_->hide();
  head->addWidget(progress_);
  cancel_ = new QPushButton(tr("Cancel"));
  cancel_->setObjectName(QStringLiteral("pageCancel"));
  cancel_->hide();
  head->addWidget(cancel_);
  tools_ = new QWidget;
  both_ = new QBoxLayout(QBoxLayout::LeftToRight, tools_);
  both_->setContentsMargins(0, 0, 0, 0);
  both_->setSpacing(4);
  head_ = new QHBoxLayout;
  viewRow_ = new QHBoxLayout;
  both_->addLayout(head_);
  both_->addLayout(viewRow_);
  head->addWidget(tools_);
  views_ = new QButtonGroup(this);
  connect(views_, &QButtonGroup::idClicked, this, &PageFrame::viewChosen);
  viewList_ = new QComboBox;
  viewList_->setObjectName(QStringLiteral("viewList"));
  viewList_->setAccessibleName(tr("View"));
  viewList_->setSizeAdjustPolicy(QComboBox::AdjustToContents);
  viewList_->hide();
  viewRow_->addWidget(viewList_);
  connect(viewList_, &QComboBox::activated, this, &PageFrame::viewChosen);
  export_ = new QToolButton;
  export_->setObjectName(QStringLiteral("export"));
  export_->setText(tr("Export"));
  export_->setPopupMode(QToolButton::InstantPopup);
  export_->setFocusPolicy(Qt::StrongFocus);
  exportMenu_ = new QMenu(export_);
  export_->setMenu(exportMenu_);
  export_->hide();
  head->addWidget(export_);
  column->addLayout(head);
  auto* row = new QHBoxLayout;
  row_ = row;
  row->setSpacing(14);
  column->addLayout(row, 1);
  connect(cancel_, &QPushButton::clicked, this, [this] {
    for (auto* asking : watched_)
      asking->cancel();
  });
  look_.setInterval(lookMs);
  connect(&look_, &QTimer::timeout, this, &PageFrame::showProgress);
}

bool PageFrame::event(QEvent* event) {
  const bool handled = QWidget::event(event);
  if (event->type() == QEvent::Resize || event->type() == QEvent::LayoutRequest) placeTools();
  return handled;
}

void PageFrame::placeTools() {
  const auto margins = column_->contentsMargins();
  int beside =
      name_->sizeHint().width() + head_->sizeHint().width() + viewRow_->sizeHint().width() + 4 * title_->spacing();
  if (!export_->isHidden()) beside += export_->sizeHint().width() + title_->spacing();
  const int room = width() - margins.left() - margins.right();
  const bool ownRow = beside > room;
  // Nor do the views alone in a small window: their names then stand closer, or become a list.
  const int won = 2 * (roomyPad - tightPad) * static_cast<int>(viewIds_.size());
  int tabs = tight_ ? won : 0;
  for (auto* button : views_->buttons())
    tabs += button->sizeHint().width() + viewRow_->spacing();
  const bool tight = tabs > room, listed = tabs - won > room;
  if (std::exchange(tight_, tight) != tight)
    for (auto* button : views_->buttons())
      button->setStyleSheet(padded(tight ? tightPad : roomyPad));
  if (listed == viewList_->isHidden()) {
    for (auto* button : views_->buttons())
      button->setVisible(!listed);
    viewList_->setVisible(listed);
  }
  // In a narrow window they do not fit beside each other either.
  const bool under = head_->sizeHint().width() + both_->spacing() + viewRow_->sizeHint().width() > room;
  if (under != (both_->direction() == QBoxLayout::TopToBottom))
    both_->setDirection(under ? QBoxLayout::TopToBottom : QBoxLayout::LeftToRight);
  if (ownRow == ownRow_) return;
  ownRow_ = ownRow;
  if (ownRow) {
    title_->removeWidget(tools_);
    column_->insertWidget(1, tools_, 0, Qt::AlignLeft);
  } else {
    column_->removeWidget(tools_);
    title_->insertWidget(title_->indexOf(export_), tools_);
  }
}

void PageFrame::addView(const QString& id, const QString& title) {
  auto* button = new QPushButton(title);
  button->setCheckable(true);
  button->setObjectName(QStringLiteral("view ") + id);
  button->setStyleSheet(padded(tight_ ? tightPad : roomyPad));
  views_->addButton(button, static_cast<int>(viewIds_.size()));
  viewIds_ << id;
  viewRow_->addWidget(button);
  viewList_->addItem(title);
}

void PageFrame::setView(int view) {
  if (auto* button = views_->button(view)) button->setChecked(true);
  viewList_->setCurrentIndex(view);
}
QString PageFrame::viewId() const { return viewIds_.value(views_->checkedId()); }
int PageFrame::viewOf(const QString& id) const { return static_cast<int>(viewIds_.indexOf(id)); }
void PageFrame::setViewTitle(int view, const QString& title) {
  views_->button(view)->setText(title);
  viewList_->setItemText(view, title);
}

void PageFrame::addHeadTool(QWidget* tool) { head_->addWidget(tool); }
void PageFrame::addRow(QWidget* row) { column_->insertWidget(column_->count() - 1, row); }

void PageFrame::setSide(QWidget* side) {
  auto* left = new QVBoxLayout;
  left->addWidget(side);
  left->addStretch(1);
  row_->insertLayout(0, left);
}

void PageFrame::setContent(QWidget* content) {
  state_ = new StatePane(content);
  row_->addWidget(state_, 1);
}

void PageFrame::setExports(const Exports& exports) {
  exportMenu_->clear();
  for (const auto& [words, act] : exports)
    exportMenu_->addAction(words, this, act);
  export_->setVisible(!exports.empty());
}

void PageFrame::watch(AskingBase& asking) {
  watched_.push_back(&asking);
  asking.started = [this] {
    if (!look_.isActive()) look_.start();
  };
}

void PageFrame::showProgress() {
  const AskingBase* slowest = nullptr;
  bool busy = false;
  for (const auto* asking : watched_) {
    busy = busy || asking->busy();
    if (asking->busyFor() >= soonMs && (!slowest || asking->share() < slowest->share())) slowest = asking;
  }
  progress_->setVisible(slowest != nullptr);
  cancel_->setVisible(slowest != nullptr);
  if (slowest) progress_->setText(tr("working, %1 %").arg(std::lround(100 * std::clamp(slowest->share(), 0.0, 1.0))));
  if (!busy) look_.stop();
}

} // namespace vinegar::app

#include "moc_page_frame.cpp"
