#include "window/head_strip.h"

#include "document/session.h"
#include "document/sides.h"
#include "theme/text.h"
#include "theme/theme.h"
#include "window/page_stack.h"

#include <QCompleter>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QLineEdit>
#include <QMenu>
#include <QPushButton>
#include <QStringListModel>
#include <QStyle>
#include <QToolButton>
#include <algorithm>

namespace vinegar::app {

HeadStrip::HeadStrip(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
  setObjectName(QStringLiteral("head"));
  setAttribute(Qt::WA_StyledBackground);
  setFixedHeight(46);
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(10, 0, 14, 0);
  row->setSpacing(9);
  menuButton_ = new QToolButton;
  menuButton_->setText(tr("Menu"));
  menuButton_->setToolTip(tr("Files, editing and view (F10)"));
  menuButton_->setPopupMode(QToolButton::InstantPopup);
  menuButton_->setFocusPolicy(Qt::StrongFocus);
  row->addWidget(menuButton_);
  name_ = new Label;
  name_->setFont(textFont(13.5, QFont::DemiBold));
  name_->setObjectName(QStringLiteral("designName"));
  row->addWidget(name_);
  revision_ = new Label;
  revision_->setProperty("quiet", true);
  row->addWidget(revision_);
  row->addSpacing(10);
  sheet_ = new QToolButton;
  sheet_->setPopupMode(QToolButton::InstantPopup);
  sheet_->setFocusPolicy(Qt::StrongFocus);
  sheet_->setObjectName(QStringLiteral("sheet"));
  sheet_->setToolTip(tr("Pencil sheets: up to four are shown at once"));
  sheetMenu_ = new QMenu(sheet_);
  sheet_->setMenu(sheetMenu_);
  connect(sheetMenu_, &QMenu::aboutToShow, this, &HeadStrip::fillSheetMenu);
  row->addWidget(sheet_);
  marks_ = new QPushButton;
  marks_->setObjectName(QStringLiteral("marks"));
  marks_->setToolTip(tr("Selects the next pencilled part"));
  row->addWidget(marks_);
  rubOut_ = new QPushButton(tr("Rub out"));
  rubOut_->setObjectName(QStringLiteral("rubOut"));
  rubOut_->setToolTip(tr("Drop all pencil marks on this sheet (Ctrl+Backspace)"));
  row->addWidget(rubOut_);
  ink_ = new QPushButton(tr("Ink it\u2026"));
  ink_->setObjectName(QStringLiteral("inkIt"));
  ink_->setProperty("strong", true);
  ink_->setToolTip(tr("Make the pencil the new ink, with a reason for the log (Ctrl+I)"));
  row->addWidget(ink_);
  row->addStretch(0);
  find_ = new QLineEdit;
  find_->setObjectName(QStringLiteral("find"));
  find_->setPlaceholderText(tr("Find part or page   Ctrl+K"));
  find_->setAccessibleName(tr("Find a part or a page"));
  find_->setMinimumWidth(110);
  find_->setMaximumWidth(210);
  find_->setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
  findModel_ = new QStringListModel(this);
  auto* completer = new QCompleter(findModel_, this);
  completer->setCaseSensitivity(Qt::CaseInsensitive);
  completer->setFilterMode(Qt::MatchContains);
  find_->setCompleter(completer);
  row->addWidget(find_);
  themeButton_ = new QToolButton;
  themeButton_->setObjectName(QStringLiteral("theme"));
  themeButton_->setFocusPolicy(Qt::StrongFocus);
  row->addWidget(themeButton_);

  connect(rubOut_, &QPushButton::clicked, this,
          [this] { session_.edit(tr("rub out all"), [](amp::Document& d) { amp::rubOutAll(d); }); });
  connect(ink_, &QPushButton::clicked, this, &HeadStrip::inkWanted);
  connect(marks_, &QPushButton::clicked, this, &HeadStrip::nextMarkWanted);
  connect(find_, &QLineEdit::returnPressed, this, [this] { find(find_->text()); });
  connect(completer, qOverload<const QString&>(&QCompleter::activated), this, &HeadStrip::find);
  connect(themeButton_, &QToolButton::clicked, this, &HeadStrip::themeWanted);
  const std::vector<QWidget*> order{menuButton_, sheet_, marks_, rubOut_, ink_, find_, themeButton_};
  for (std::size_t i = 0; i + 1 < order.size(); ++i)
    setTabOrder(order[i], order[i + 1]);
}

void HeadStrip::setMenu(QMenu* menu) { menuButton_->setMenu(menu); }
void HeadStrip::showMenu() { menuButton_->showMenu(); }

void HeadStrip::restyle() {
  const bool dark = theme().name == lamp().name;
  themeButton_->setText(dark ? tr("Vellum") : tr("Lamp"));
  themeButton_->setToolTip(dark ? tr("Change to the light theme") : tr("Change to the dark theme"));
}

/// A page's title, or a part's name as far as it is one word of the list's.
void HeadStrip::find(const QString& text) {
  const QString wanted = text.section(QStringLiteral("  "), 0, 0).trimmed();
  if (wanted.isEmpty()) return;
  if (const auto page = PageStack::find(wanted); !page.isEmpty()) {
    Q_EMIT pageWanted(page);
    return clearFind();
  }
  for (const auto& part : session_.pencilledParts())
    if (QString::fromStdString(part.name).compare(wanted, Qt::CaseInsensitive) == 0) {
      Q_EMIT partWanted(QString::fromStdString(part.name));
      return clearFind();
    }
  Q_EMIT said(tr("There is no part or page \u201c%1\u201d.").arg(wanted));
}

void HeadStrip::startFind(const QString& typed) {
  find_->setFocus(Qt::ShortcutFocusReason);
  if (typed.isEmpty()) {
    find_->selectAll();
    return;
  }
  find_->setText(typed);
  find_->completer()->setCompletionPrefix(typed);
  find_->completer()->complete();
}

void HeadStrip::clearFind() {
  // The completer writes its choice into the box after it was chosen.
  QMetaObject::invokeMethod(find_, &QLineEdit::clear, Qt::QueuedConnection);
}

void HeadStrip::resizeEvent(QResizeEvent* event) {
  QWidget::resizeEvent(event);
  refresh();
}

void HeadStrip::refresh() {
  QStringList entries = PageStack::titles();
  for (const auto& part : session_.pencilledParts())
    entries << QStringLiteral("%1  %2").arg(QString::fromStdString(part.name),
                                            QString::fromStdString(session_.library().role(part.part->role).title));
  if (findModel_->stringList() != entries) findModel_->setStringList(entries);
  const auto& document = session_.document();
  const QString name = QString::fromStdString(document.ink.name);
  const int room = std::clamp(width() - 900, 120, 400);
  if (name != nameShown_ || room != nameRoom_) {
    nameRoom_ = room;
    nameShown_ = name;
    name_->setText(name_->fontMetrics().elidedText(name, Qt::ElideRight, room));
    name_->setToolTip(plainTip(name));
  }
  QString revision = document.log.empty() ? tr("first ink") : tr("ink revision %1").arg(document.revision());
  if (session_.readOnly())
    revision += QStringLiteral(" \u00b7 ") + tr("read-only");
  else if (session_.modified())
    revision += QStringLiteral(" \u00b7 ") + tr("not saved");
  revision_->setText(revision);
  const int marks = static_cast<int>(document.sheet().marks.size());
  marks_->setText(marks == 0   ? tr("no pencil marks")
                  : marks == 1 ? tr("1 pencil mark")
                               : tr("%1 pencil marks").arg(marks));
  if (marks_->property("none").toBool() != (marks == 0) || !marks_->property("none").isValid()) {
    marks_->setProperty("none", marks == 0);
    marks_->style()->unpolish(marks_);
    marks_->style()->polish(marks_);
  }
  rubOut_->setEnabled(marks > 0);
  ink_->setEnabled(marks > 0);
  if (const QString sheet = QString::fromStdString(document.sheet().name); sheet != sheetShown_) {
    sheet_->setText(menuText(sheet_->fontMetrics().elidedText(sheet, Qt::ElideRight, 110)) + QStringLiteral(" \u25be"));
    sheetShown_ = sheet;
  }
}

void HeadStrip::fillSheetMenu() {
  sheetMenu_->clear();
  const auto& document = session_.document();
  for (std::size_t i = 0; i < document.sheets.size(); ++i) {
    const auto& sheet = document.sheets[i];
    auto* action = sheetMenu_->addAction(
        menuText(tr("%1  (%2)").arg(QString::fromStdString(sheet.name), QString::number(sheet.marks.size()))));
    action->setCheckable(true);
    action->setChecked(i == document.activeSheet);
    connect(action, &QAction::triggered, this,
            [this, i] { session_.edit(tr("take another sheet"), [i](amp::Document& d) { d.activeSheet = i; }); });
  }
  sheetMenu_->addSeparator();
  auto* more = sheetMenu_->addAction(tr("New sheet"), this, [this] {
    session_.edit(tr("new sheet"), [](amp::Document& d) {
      d.sheets.push_back({"Sheet " + std::to_string(d.sheets.size() + 1), {}, {}});
      d.activeSheet = d.sheets.size() - 1;
    });
  });
  more->setEnabled(document.sheets.size() < mostSheets);
  sheetMenu_->addAction(tr("Rename this sheet\u2026"), this, [this] {
    bool accepted = false;
    const QString name = QInputDialog::getText(this, tr("Rename"), tr("Name of the sheet"), QLineEdit::Normal,
                                               QString::fromStdString(session_.document().sheet().name), &accepted);
    if (accepted && !name.trimmed().isEmpty())
      session_.edit(tr("rename sheet"),
                    [&](amp::Document& d) { d.sheets[d.activeSheet].name = name.trimmed().toStdString(); });
  });
  auto* remove = sheetMenu_->addAction(tr("Remove this sheet"), this, [this] {
    session_.edit(tr("remove sheet"), [](amp::Document& d) {
      d.sheets.erase(d.sheets.begin() + static_cast<std::ptrdiff_t>(d.activeSheet));
      d.activeSheet = 0;
    });
  });
  remove->setEnabled(document.sheets.size() > 1);
}

} // namespace vinegar::app

#include "moc_head_strip.cpp"
