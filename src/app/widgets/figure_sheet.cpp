#include "widgets/figure_sheet.h"

#include "theme/text.h"
#include "theme/theme.h"
#include "units/csv.h"

#include <QApplication>
#include <QClipboard>
#include <QEvent>
#include <QHeaderView>
#include <QKeyEvent>
#include <QPushButton>
#include <QSortFilterProxyModel>
#include <QStandardItemModel>
#include <algorithm>

namespace vinegar::app {
namespace {

constexpr int orderRole = Qt::UserRole + 1, rowRole = Qt::UserRole + 2;
constexpr int leastRow = 26, mostRow = 44; ///< two lines; the tooltip has the rest
constexpr int buttonWidth = 80, leastStretched = 100, air = 12, headAir = 12;

} // namespace

FigureSheet::FigureSheet(QWidget* parent)
    : QTableView(parent), model_(new QStandardItemModel(this)), sorted_(new QSortFilterProxyModel(this)) {
  sorted_->setSourceModel(model_);
  sorted_->setSortRole(orderRole);
  setModel(sorted_);
  verticalHeader()->hide();
  verticalHeader()->setDefaultSectionSize(leastRow);
  horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
  horizontalHeader()->setSortIndicatorClearable(true);
  horizontalHeader()->setSortIndicator(-1, Qt::AscendingOrder); // as they come, until a head is clicked
  setSortingEnabled(true);
  setSelectionBehavior(QAbstractItemView::SelectRows);
  setSelectionMode(QAbstractItemView::SingleSelection);
  setEditTriggers(QAbstractItemView::NoEditTriggers);
  setShowGrid(false);
  setTabKeyNavigation(false);
  setWordWrap(true);
  connect(model_, &QStandardItemModel::itemChanged, this, &FigureSheet::takeTyped);
  connect(selectionModel(), &QItemSelectionModel::currentRowChanged, this, [this](const QModelIndex& now) {
    if (now.isValid()) Q_EMIT rowChosen(sourceRow(now.row()));
  });
  setMouseTracking(true);
  connect(this, &QTableView::entered, this, [this](const QModelIndex& at) { Q_EMIT rowHovered(sourceRow(at.row())); });
  const auto taken = [this](const QModelIndex& at) {
    if (const int column = at.column() - (acts_ ? 1 : 0); column >= 0) Q_EMIT cellTaken(sourceRow(at.row()), column);
  };
  connect(this, &QTableView::clicked, this, taken);
}

void FigureSheet::leaveEvent(QEvent* event) {
  QTableView::leaveEvent(event);
  Q_EMIT rowHovered(-1);
}

void FigureSheet::setSheet(const QStringList& titles, std::vector<Row> rows, bool acts) {
  export_.reset();
  const bool sameHead = titles == titles_ && acts == acts_ && model_->columnCount() > 0;
  titles_ = titles;
  rows_ = std::move(rows);
  acts_ = acts;
  const int before = chosen();
  const bool takesText = std::any_of(rows_.begin(), rows_.end(), [](const Row& row) {
    return std::any_of(row.cells.begin(), row.cells.end(), [](const Cell& cell) { return bool(cell.typed); });
  });
  setEditTriggers(takesText ? DoubleClicked | EditKeyPressed | AnyKeyPressed : NoEditTriggers);
  setSelectionBehavior(takesText ? SelectItems : SelectRows);
  filling_ = true;
  bool fits = false;
  if (sameHead && shaped()) {
    fits = overwrite();
  } else {
    const QSignalBlocker quiet(selectionModel());
    model_->removeRows(0, model_->rowCount());
    if (!sameHead) {
      model_->clear();
      model_->setHorizontalHeaderLabels((acts ? QStringList{QString()} : QStringList{}) + titles);
      horizontalHeader()->setSortIndicator(-1, Qt::AscendingOrder);
    }
    for (std::size_t r = 0; r < rows_.size(); ++r) {
      QList<QStandardItem*> items;
      if (acts) {
        items << new QStandardItem(rows_[r].stands);
        items.back()->setEditable(false);
      }
      for (const auto& cell : rows_[r].cells) {
        items << new QStandardItem;
        write(*items.back(), cell);
      }
      for (auto* item : items)
        item->setData(static_cast<int>(r), rowRole);
      model_->appendRow(items);
    }
    if (before >= 0 && before < model_->rowCount()) choose(before);
  }
  filling_ = false;
  if (fits) return;
  placeButtons();
  sizeColumns();
}

void FigureSheet::write(QStandardItem& item, const Cell& cell) {
  item.setText(cell.text);
  item.setFont(cell.words ? textFont(9) : figureFont(9, cell.strong ? QFont::DemiBold : QFont::Normal));
  item.setData(cell.danger ? QVariant(QBrush(theme().danger)) : QVariant(), Qt::ForegroundRole);
  item.setToolTip(cell.tip.isEmpty() ? QString() : plainTip(cell.tip));
  item.setTextAlignment(Qt::AlignLeft | Qt::AlignVCenter);
  item.setData(cell.order ? QVariant(*cell.order) : QVariant(cell.text), orderRole);
  item.setEditable(bool(cell.typed));
}

bool FigureSheet::isWhole() const {
  return std::all_of(rows_.begin(), rows_.end(),
                     [&](const Row& row) { return static_cast<qsizetype>(row.cells.size()) == titles_.size(); });
}

/// Whether the model has these rows' cells already, and no buttons that would do what they did before.
bool FigureSheet::shaped() const {
  if (acts_ || model_->rowCount() != static_cast<int>(rows_.size())) return false;
  for (std::size_t r = 0; r < rows_.size(); ++r)
    for (int c = 0; c < model_->columnCount(); ++c)
      if ((model_->item(static_cast<int>(r), c) != nullptr) != (static_cast<std::size_t>(c) < rows_[r].cells.size()))
        return false;
  return true;
}

/// A turned value changes a few figures, and a table laid out anew costs more than the answer did. Whether all of them
/// have room where they stand.
bool FigureSheet::overwrite() {
  bool fits = true;
  for (std::size_t r = 0; r < rows_.size(); ++r)
    for (std::size_t c = 0; c < rows_[r].cells.size(); ++c) {
      const auto& cell = rows_[r].cells[c];
      auto& item = *model_->item(static_cast<int>(r), static_cast<int>(c));
      const auto before = item.text();
      write(item, cell);
      if (cell.text == before || cell.text.size() <= before.size()) continue;
      const int room = columnWidth(static_cast<int>(c)) - air / 2;
      fits = fits && QFontMetrics(item.font()).horizontalAdvance(cell.text) <= room;
    }
  return fits;
}

/// By whoever types, not by who fills; taken when the editor is done with the cell, since it may fill the table anew.
void FigureSheet::takeTyped(const QStandardItem* item) {
  if (filling_) return;
  const auto row = static_cast<std::size_t>(item->data(rowRole).toInt());
  const auto column = static_cast<std::size_t>(item->column() - (acts_ ? 1 : 0));
  if (row >= rows_.size() || column >= rows_[row].cells.size() || !rows_[row].cells[column].typed) return;
  QMetaObject::invokeMethod(
      this, [typed = rows_[row].cells[column].typed, text = item->text()] { typed(text); }, Qt::QueuedConnection);
}

void FigureSheet::clear() {
  titles_.clear();
  rows_.clear();
  const QSignalBlocker quiet(selectionModel());
  model_->clear();
}

void FigureSheet::placeButtons() {
  if (!acts_) return;
  for (int shown = 0; shown < sorted_->rowCount(); ++shown) {
    const auto& row = rows_[static_cast<std::size_t>(sourceRow(shown))];
    if (row.act.isEmpty()) continue;
    auto* button = new QPushButton(row.act);
    button->setObjectName(row.actName);
    button->setAccessibleName(row.actTip);
    button->setStyleSheet(QStringLiteral("padding: 0px 7px; min-height: 14px; margin: 2px; border-radius: 8px;"));
    connect(button, &QPushButton::clicked, this, [acted = row.acted] {
      if (acted) acted();
    });
    button->setMaximumHeight(leastRow);
    setIndexWidget(sorted_->index(shown, 0), button);
  }
}

void FigureSheet::sizeColumns() {
  if (model_->columnCount() == 0) return;
  auto* head = horizontalHeader();
  const int last = model_->columnCount() - 1;
  head->setStretchLastSection(stretched_.contains(last));
  for (int c = 0; c <= last; ++c)
    head->setSectionResizeMode(c, c < last && stretched_.contains(c) ? QHeaderView::Stretch : QHeaderView::Interactive);
  resizeColumnsToContents();
  // Figures need less air than words, and a head no room for the sign of an order that it has not.
  for (int c = 0; c <= last; ++c)
    setColumnWidth(c, std::max(columnWidth(c) - air,
                               head->fontMetrics().horizontalAdvance(titles_.value(c - (acts_ ? 1 : 0))) + headAir));
  if (acts_) {
    int widest = buttonWidth;
    for (int r = 0; r < sorted_->rowCount(); ++r)
      if (const auto* button = indexWidget(sorted_->index(r, 0)))
        widest = std::max(widest, button->sizeHint().width() + 4);
    setColumnWidth(0, widest);
  }
  if (stretched_.contains(last)) setColumnWidth(last, leastStretched);
  resizeRowsToContents();
  for (int r = 0; r < sorted_->rowCount(); ++r)
    setRowHeight(r, std::clamp(rowHeight(r), leastRow, mostRow));
}

int FigureSheet::sourceRow(int shown) const { return sorted_->index(shown, 0).data(rowRole).toInt(); }
int FigureSheet::rowCount() const { return sorted_->rowCount(); }
int FigureSheet::columnCount() const { return sorted_->columnCount(); }
QString FigureSheet::text(int row, int column) const { return sorted_->index(row, column).data().toString(); }

int FigureSheet::chosen() const { return currentIndex().isValid() ? sourceRow(currentIndex().row()) : -1; }

void FigureSheet::choose(int row) {
  for (int shown = 0; shown < sorted_->rowCount(); ++shown)
    if (sourceRow(shown) == row) setCurrentIndex(sorted_->index(shown, acts_ ? 1 : 0));
}

void FigureSheet::setStretched(const QList<int>& columns) { stretched_ = columns; }

QString FigureSheet::copyText() const {
  const int first = acts_ ? 1 : 0;
  QStringList lines{titles_.join(QLatin1Char('\t'))};
  for (int r = 0; r < rowCount(); ++r) {
    QStringList cells;
    for (int c = first; c < columnCount(); ++c)
      cells << text(r, c).replace(QLatin1Char('\t'), QLatin1Char(' ')).replace(QLatin1Char('\n'), QLatin1Char(' '));
    lines << cells.join(QLatin1Char('\t'));
  }
  return lines.join(QLatin1Char('\n'));
}

void FigureSheet::setExport(tell::Sheet sheet) { export_ = std::move(sheet); }

std::string FigureSheet::csv() const {
  if (export_ && export_->rows.size() == static_cast<std::size_t>(rowCount())) {
    tell::Sheet sheet{export_->heads, {}}; // in the order that is shown
    for (int r = 0; r < rowCount(); ++r)
      sheet.rows.push_back(export_->rows[static_cast<std::size_t>(sourceRow(r))]);
    return tell::csvOf(sheet);
  }
  const int first = acts_ ? 1 : 0;
  std::string csv;
  const auto add = [&](const QString& cell, bool last) {
    csv += units::csvCell(cell.toStdString()) + (last ? "\n" : ",");
  };
  for (int c = 0; c < titles_.size(); ++c)
    add(titles_[c], c + 1 == titles_.size());
  for (int r = 0; r < rowCount(); ++r)
    for (int c = first; c < columnCount(); ++c)
      add(text(r, c), c + 1 == columnCount());
  return csv;
}

void FigureSheet::keyPressEvent(QKeyEvent* event) {
  if (event->matches(QKeySequence::Copy)) return QApplication::clipboard()->setText(copyText());
  QTableView::keyPressEvent(event);
  if ((event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter) && currentIndex().isValid() &&
      state() != EditingState)
    if (const int column = currentIndex().column() - (acts_ ? 1 : 0); column >= 0)
      Q_EMIT cellTaken(sourceRow(currentIndex().row()), column);
}

void FigureSheet::changeEvent(QEvent* event) {
  QTableView::changeEvent(event);
  // Colours and letters of the theme.
  if (event->type() == QEvent::StyleChange && model_ && !rows_.empty()) setSheet(titles_, rows_, acts_);
}

} // namespace vinegar::app

#include "moc_figure_sheet.cpp"
