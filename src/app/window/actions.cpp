#include "window/actions.h"

#include "theme/text.h"
#include "theme/theme.h"

#include <QAction>
#include <QDialog>
#include <QDialogButtonBox>
#include <QGridLayout>
#include <QScrollArea>
#include <QVBoxLayout>
#include <algorithm>

namespace vinegar::app {

Actions::Actions(QWidget* window) : QObject(window), window_(window) {}

QAction* Actions::add(const char* id, const QString& group, const QString& text, const QList<QKeySequence>& keys,
                      std::function<void()> act) {
  auto* action = new QAction(text, this);
  action->setObjectName(QLatin1String(id));
  auto real = keys; // a desktop may have no key of its own for a usual act
  real.removeIf([](const QKeySequence& key) { return key.isEmpty(); });
  action->setShortcuts(real);
  window_->addAction(action);
  connect(action, &QAction::triggered, this, [act = std::move(act)] { act(); });
  entries_.push_back({group, {}, text, action});
  return action;
}

void Actions::note(const QString& group, const QString& keys, const QString& text) {
  entries_.push_back({group, keys, text});
}

QAction* Actions::action(const char* id) const {
  const auto found = std::find_if(entries_.begin(), entries_.end(), [&](const Entry& entry) {
    return entry.action && entry.action->objectName() == QLatin1String(id);
  });
  return found == entries_.end() ? nullptr : found->action;
}

void Actions::trigger(const char* id) const {
  if (auto* found = action(id)) found->trigger();
}

void Actions::showKeys() {
  auto* dialog = new QDialog(window_);
  dialog->setAttribute(Qt::WA_DeleteOnClose);
  dialog->setObjectName(QStringLiteral("keys"));
  dialog->setWindowTitle(tr("Keys"));
  auto* sheet = new QWidget;
  auto* grid = new QGridLayout(sheet);
  grid->setHorizontalSpacing(18);
  grid->setVerticalSpacing(3);
  QStringList groups;
  for (const auto& entry : entries_)
    if (!groups.contains(entry.group)) groups << entry.group;
  int row = 0;
  for (const auto& group : groups) {
    auto* title = new Label(group);
    title->setFont(textFont(10.5, QFont::DemiBold));
    title->setContentsMargins(0, row == 0 ? 0 : 10, 0, 2);
    grid->addWidget(title, row++, 0, 1, 2);
    for (const auto& entry : entries_) {
      const auto keys = entry.action ? QKeySequence::listToString(entry.action->shortcuts(), QKeySequence::NativeText)
                                           .replace(QStringLiteral("; "), QStringLiteral(", "))
                                     : entry.keys;
      if (entry.group != group || keys.isEmpty()) continue;
      auto* what = new Label(keys);
      what->setFont(figureFont(9.5));
      grid->addWidget(what, row, 0);
      grid->addWidget(new Label(QString(entry.text).remove(QChar(0x2026))), row++, 1);
    }
  }
  grid->setColumnStretch(1, 1);
  auto* scroll = new QScrollArea;
  scroll->setWidget(sheet);
  scroll->setWidgetResizable(true);
  scroll->setFrameShape(QFrame::NoFrame);
  auto* buttons = new QDialogButtonBox(QDialogButtonBox::Close);
  connect(buttons, &QDialogButtonBox::rejected, dialog, &QDialog::close);
  auto* column = new QVBoxLayout(dialog);
  column->addWidget(scroll);
  column->addWidget(buttons);
  dialog->resize(520, 620);
  dialog->open();
}

/// Keys that widgets know by themselves.
void Actions::noteKeys() {
  const auto inRun = tr("In the run"), onDial = tr("On a dial, in a plot");
  note(inRun, tr("arrow keys"), tr("The next part that way"));
  note(inRun, tr("Home, End"), tr("The first part, the last"));
  note(inRun, tr("letters"), tr("Start of a part's name"));
  note(inRun, tr("digits"), tr("Value of the selected part; Enter takes it, Esc leaves it"));
  note(inRun, tr("arranging: arrow keys"), tr("The next section or place"));
  note(inRun, tr("arranging: Enter, Del"), tr("Choose what stands here, take it out"));
  note(inRun, tr("arranging: Ins, Shift+Ins, Ctrl+Ins"), tr("Put something in after it, before it, beside the line"));
  note(inRun, tr("arranging: Ctrl+arrows, Ctrl+D"), tr("Move it, double it"));
  note(inRun, tr("+, \u2212, Ctrl+wheel"), tr("Larger, smaller"));
  note(onDial, tr("wheel, arrow keys"), tr("Next stock value; move the cursor"));
  note(onDial, tr("PgUp, PgDn"), tr("A decade"));
  note(onDial, tr("Shift+arrow keys"), tr("The cursor in longer steps"));
  note(onDial, tr("Ctrl+C"), tr("Copy a plot or a table with its figures"));
}

} // namespace vinegar::app

#include "moc_actions.cpp"
