#include "window/ink_dialog.h"

#include "theme/text.h"
#include "theme/theme.h"

#include <QHBoxLayout>
#include <QLineEdit>
#include <QPushButton>
#include <QVBoxLayout>

namespace vinegar::app {

InkDialog::InkDialog(const QStringList& changes, QWidget* parent) : QDialog(parent) {
  setWindowTitle(tr("Ink it"));
  setAttribute(Qt::WA_DeleteOnClose);
  setObjectName(QStringLiteral("inkDialog"));
  setMinimumWidth(420);
  auto* column = new QVBoxLayout(this);
  column->setSpacing(8);
  column->addWidget(new Label(changes.size() == 1 ? tr("This change becomes the new ink:")
                                                  : tr("These %1 changes become the new ink:").arg(changes.size())));
  auto* list = new Label(changes.mid(0, 12).join(QLatin1Char('\n')) +
                         (changes.size() > 12 ? tr("\n\u2026 and %1 more").arg(changes.size() - 12) : QString()));
  list->setFont(figureFont(10));
  column->addWidget(list);
  auto* ask = new Label(tr("&Why? One line for the log."));
  auto* reason = new QLineEdit;
  reason->setObjectName(QStringLiteral("reason"));
  reason->setMaxLength(500);
  ask->setBuddy(reason);
  column->addWidget(ask);
  column->addWidget(reason);
  auto* buttons = new QHBoxLayout;
  buttons->addStretch();
  auto* cancel = new QPushButton(tr("Cancel"));
  auto* ink = new QPushButton(tr("Ink it"));
  ink->setProperty("strong", true);
  ink->setDefault(true);
  ink->setEnabled(false);
  ink->setObjectName(QStringLiteral("inkNow"));
  buttons->addWidget(cancel);
  buttons->addWidget(ink);
  column->addLayout(buttons);
  connect(reason, &QLineEdit::textChanged, ink,
          [ink](const QString& text) { ink->setEnabled(!text.trimmed().isEmpty()); });
  connect(cancel, &QPushButton::clicked, this, &QDialog::reject);
  connect(ink, &QPushButton::clicked, this, [this, reason] {
    Q_EMIT reasonGiven(reason->text().trimmed());
    accept();
  });
}

} // namespace vinegar::app

#include "moc_ink_dialog.cpp"
