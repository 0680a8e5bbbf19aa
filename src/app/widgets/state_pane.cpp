#include "widgets/state_pane.h"

#include "theme/text.h"
#include "widgets/paragraph.h"
#include "widgets/readings.h"

#include <QPushButton>
#include <QVBoxLayout>

namespace vinegar::app {
StatePane::StatePane(QWidget* content, QWidget* parent)
    : QStackedWidget(parent), words_(new Label), above_(new Label), act_(new QPushButton), actAbove_(new QPushButton) {
  auto* whole = new QWidget;
  auto* rows = new QVBoxLayout(whole);
  rows->setContentsMargins(0, 0, 0, 0);
  rows->setSpacing(4);
  auto* warning = new QHBoxLayout;
  above_->setObjectName(QStringLiteral("saidAbove"));
  above_->setWordWrap(true);
  above_->setTextInteractionFlags(Qt::TextSelectableByMouse);
  setLook(above_, "danger", true);
  actAbove_->setObjectName(QStringLiteral("saidAboveAct"));
  warning->addWidget(above_, 1);
  warning->addWidget(actAbove_);
  rows->addLayout(warning);
  rows->addWidget(content, 1);
  warnAbove({});
  auto* message = new QWidget;
  auto* column = new QVBoxLayout(message);
  words_->setObjectName(QStringLiteral("said"));
  words_->setWordWrap(true);
  words_->setAlignment(Qt::AlignCenter);
  words_->setTextInteractionFlags(Qt::TextSelectableByMouse);
  act_->setObjectName(QStringLiteral("saidAct"));
  column->addStretch(2);
  column->addWidget(words_); // over the whole width: only so does the layout give it the height that it wraps to
  column->addSpacing(6);
  column->addWidget(act_, 0, Qt::AlignHCenter);
  column->addStretch(3);
  addWidget(whole);
  addWidget(message);
  connect(act_, &QPushButton::clicked, this, [this] {
    if (const auto act = acted_) act();
  });
  connect(actAbove_, &QPushButton::clicked, this, [this] {
    if (const auto act = actedAbove_) act();
  });
}

void StatePane::showContent() {
  if (currentIndex() != 0) setCurrentIndex(0);
}

void StatePane::say(const QString& words, bool danger, const QString& act, std::function<void()> acted) {
  setLook(words_, "danger", danger);
  setLook(words_, "quiet", !danger);
  words_->setText(danger ? warned(words) : words);
  act_->setText(act);
  act_->setVisible(!act.isEmpty());
  acted_ = std::move(acted);
  setCurrentIndex(1);
}

void StatePane::warnAbove(const QString& words, const QString& act, std::function<void()> acted) {
  above_->setText(words.isEmpty() ? words : warned(words));
  above_->setVisible(!words.isEmpty());
  actAbove_->setText(act);
  actAbove_->setVisible(!words.isEmpty() && !act.isEmpty());
  actedAbove_ = std::move(acted);
}

QString StatePane::said() const { return currentIndex() == 1 ? words_->text() : above_->text(); }

} // namespace vinegar::app

#include "moc_state_pane.cpp"
