#include "pages/arrange/values_view.h"

#include "drawer/value_box.h"
#include "theme/text.h"
#include "theme/theme.h"

#include <QHeaderView>
#include <QKeyEvent>
#include <QLineEdit>
#include <QStandardItemModel>
#include <QStyledItemDelegate>

namespace vinegar::app {
namespace {

/// Enter and Down go on to the next row, as Tab does.
class OnwardDelegate : public QStyledItemDelegate {
public:
  using QStyledItemDelegate::QStyledItemDelegate;
  bool eventFilter(QObject* editor, QEvent* event) override {
    if (event->type() == QEvent::KeyPress) {
      const auto key = static_cast<QKeyEvent*>(event)->key();
      if (key == Qt::Key_Return || key == Qt::Key_Enter || key == Qt::Key_Down || key == Qt::Key_Up) {
        auto* widget = qobject_cast<QWidget*>(editor);
        Q_EMIT commitData(widget);
        Q_EMIT closeEditor(widget, key == Qt::Key_Up ? EditPreviousItem : EditNextItem);
        return true;
      }
    }
    return QStyledItemDelegate::eventFilter(editor, event);
  }
};

std::optional<Problem> typed(Session& session, const amp::ResolvedPart& part, const QString& text) {
  const auto words = text.trimmed();
  if (words == QLatin1String("-") || words == QString(QChar(0x2014)))
    return pencilField(session, part.name, "fitted", false);
  const std::string field = amp::hasType(part.part->kind) ? "tube" : "value";
  const auto to = amp::typedSetting(part, field, words.toStdString(), session.library());
  if (!to) return to.error();
  if (auto problem = pencilField(session, part.name, field, *to)) return problem;
  return part.fitted() ? std::nullopt : pencilField(session, part.name, "fitted", true);
}

} // namespace

ValuesView::ValuesView(Session& session, Selection& selection, QWidget* parent)
    : QTableView(parent), session_(session), selection_(selection), model_(new QStandardItemModel(this)) {
  setObjectName(QStringLiteral("valuesTable"));
  setAccessibleName(tr("Values of all parts"));
  setModel(model_);
  setItemDelegate(new OnwardDelegate(this));
  setSelectionMode(QAbstractItemView::SingleSelection);
  setEditTriggers(QAbstractItemView::AllEditTriggers);
  verticalHeader()->hide();
  verticalHeader()->setDefaultSectionSize(24);
  horizontalHeader()->setDefaultAlignment(Qt::AlignLeft);
  connect(model_, &QStandardItemModel::itemChanged, this, [this](QStandardItem* item) {
    if (!filling_ && item->column() == value) take(item->row(), item->text());
  });
}

void ValuesView::follow() {
  filling_ = true;
  const auto& parts = session_.pencilledParts();
  model_->setColumnCount(5);
  model_->setHorizontalHeaderLabels({tr("Section"), tr("Part"), tr("What it is"), tr("Value"), {}});
  model_->setRowCount(static_cast<int>(parts.size()));
  const auto cell = [&](int row, int column, const QString& text, const QColor& colour, bool mayEdit = false) {
    auto* item = model_->item(row, column);
    if (!item) {
      item = new QStandardItem;
      model_->setItem(row, column, item);
    }
    if (item->text() != text) item->setText(text);
    if (item->foreground().color() != colour) item->setForeground(colour);
    item->setFlags(mayEdit ? Qt::ItemIsEnabled | Qt::ItemIsSelectable | Qt::ItemIsEditable : Qt::ItemIsEnabled);
  };
  std::map<std::string, std::string> inked;
  for (const auto& part : session_.inkParts())
    inked[part.name] = part.label();
  std::string before;
  for (int row = 0; row < static_cast<int>(parts.size()); ++row) {
    const auto& part = parts[static_cast<std::size_t>(row)];
    const auto* use = session_.pencilled().section(part.section);
    const bool first = part.section != before;
    before = part.section;
    const bool editable = amp::hasType(part.part->kind) || amp::hasValue(part.part->kind);
    const auto text = part.fitted() ? part.label() : std::string("-");
    const auto ink = inked.find(part.name);
    const bool pencil = ink == inked.end() || ink->second != part.label();
    cell(row, section,
         first && use ? sentence(QString::fromStdString(amp::describeSection(*use, session_.library()))) : QString(),
         theme().quiet);
    cell(row, name, QString::fromStdString(part.name), theme().ink);
    cell(row, role, QString::fromStdString(session_.library().role(part.part->role).title), theme().quiet);
    cell(row, value, QString::fromStdString(text), pencil ? theme().pencil : theme().ink, editable);
    const auto mistake = mistakes_.find(part.name);
    cell(row, said, mistake == mistakes_.end() ? QString() : mistake->second, theme().danger);
  }
  setColumnWidth(section, 190);
  setColumnWidth(name, 84);
  setColumnWidth(role, 190);
  setColumnWidth(value, 110);
  horizontalHeader()->setStretchLastSection(true);
  filling_ = false;
}

void ValuesView::take(int row, const QString& text) {
  const auto& parts = session_.pencilledParts();
  if (row < 0 || row >= static_cast<int>(parts.size())) return;
  const auto part = parts[static_cast<std::size_t>(row)];
  const auto shown = QString::fromStdString(part.fitted() ? part.label() : "-");
  mistakes_.erase(part.name);
  if (text.trimmed() != shown && !text.trimmed().isEmpty())
    if (const auto problem = typed(session_, part, text))
      mistakes_[part.name] = tr("%1: %2").arg(text.trimmed(), QString::fromStdString(problem->message));
  follow();
}

void ValuesView::edit(const std::string& part) {
  const auto& parts = session_.pencilledParts();
  for (std::size_t i = 0; i < parts.size(); ++i)
    if (parts[i].name == part) {
      const auto index = model_->index(static_cast<int>(i), value);
      setCurrentIndex(index);
      scrollTo(index, QAbstractItemView::PositionAtCenter);
      return;
    }
}

QModelIndex ValuesView::moveCursor(CursorAction action, Qt::KeyboardModifiers modifiers) {
  const int step = action == MoveNext || action == MoveDown || action == MoveRight    ? 1
                   : action == MovePrevious || action == MoveUp || action == MoveLeft ? -1
                                                                                      : 0;
  if (step == 0) return QTableView::moveCursor(action, modifiers);
  for (int row = currentIndex().row() + step; row >= 0 && row < model_->rowCount(); row += step)
    if (const auto index = model_->index(row, value); index.flags() & Qt::ItemIsEditable) return index;
  return currentIndex();
}

void ValuesView::currentChanged(const QModelIndex& current, const QModelIndex& previous) {
  QTableView::currentChanged(current, previous);
  const auto& parts = session_.pencilledParts();
  if (!filling_ && current.isValid() && current.row() < static_cast<int>(parts.size()))
    selection_.select(parts[static_cast<std::size_t>(current.row())].name);
}

} // namespace vinegar::app

#include "moc_values_view.cpp"
