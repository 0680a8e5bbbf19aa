#include "window/notices.h"

#include "document/documents.h"
#include "document/session.h"
#include "theme/text.h"

#include <QHBoxLayout>
#include <QPushButton>
#include <QVBoxLayout>

namespace vinegar::app {

Notices::Notices(QWidget* parent) : QWidget(parent) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(0);
}

void Notices::withdraw(const QString& subject) {
  for (auto* old : findChildren<QWidget*>(QString(), Qt::FindDirectChildrenOnly))
    if (old->property("subject").toString() == subject) delete old;
}

void Notices::add(const QString& message, bool danger, const std::vector<Choice>& choices, const QString& subject) {
  for (auto* old : findChildren<QWidget*>(QString(), Qt::FindDirectChildrenOnly))
    if (old->property("message").toString() == message) return;
  auto* notice = new QWidget;
  notice->setObjectName(danger ? QStringLiteral("noticeDanger") : QStringLiteral("notice"));
  notice->setAttribute(Qt::WA_StyledBackground);
  notice->setProperty("message", message);
  if (!subject.isEmpty()) notice->setProperty("subject", subject);
  auto* row = new QHBoxLayout(notice);
  row->setContentsMargins(14, 6, 14, 6);
  auto* text = new Label((danger ? QStringLiteral("\u26a0 ") : QString()) + message);
  text->setWordWrap(true);
  text->setTextInteractionFlags(Qt::TextSelectableByMouse);
  row->addWidget(text, 1);
  for (const auto& [label, act] : choices) {
    auto* button = new QPushButton(label);
    row->addWidget(button);
    connect(button, &QPushButton::clicked, notice, [notice, act = act] {
      notice->setProperty("message", QVariant()); // so that `act` may put the same notice up again
      notice->hide();
      notice->deleteLater();
      act();
    });
  }
  auto* close = new QPushButton(choices.empty() ? tr("Close") : tr("Later"));
  row->addWidget(close);
  connect(close, &QPushButton::clicked, notice, &QWidget::deleteLater);
  layout()->addWidget(notice);
}

void Notices::follow(const Session& session, const Documents& documents) {
  static const QString unsafe = QStringLiteral("safety copy"), unsaved = QStringLiteral("save");
  connect(&session, &Session::safetyFailed, this, [this](const QString& m) { add(m, true, {}, unsafe); });
  connect(&session, &Session::safetyKept, this, [this] { withdraw(unsafe); });
  connect(&documents, &Documents::said, this, [this](const QString& m, bool danger) { add(m, danger); });
  connect(&documents, &Documents::notSaved, this, [this](const QString& m) {
    withdraw(unsaved);
    add(m, true, {}, unsaved);
  });
  connect(&documents, &Documents::saved, this, [this] {
    withdraw(unsaved);
    withdraw(unsafe);
  });
  connect(&documents, &Documents::offered, this,
          [this](const QString& message, const auto& choices) { add(message, false, choices); });
}

} // namespace vinegar::app

#include "moc_notices.cpp"
