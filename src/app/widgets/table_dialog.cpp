#include "widgets/table_dialog.h"

#include "theme/text.h"
#include "theme/theme.h"
#include "widgets/paragraph.h"

#include <QApplication>
#include <QClipboard>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QKeyEvent>
#include <QPushButton>
#include <QRegularExpression>
#include <QSignalBlocker>
#include <QTableWidget>
#include <QVBoxLayout>

namespace vinegar::app {
namespace {
constexpr int spareRows = 3, mostRows = 200, wide = 460, high = 480;
}

TableDialog::TableDialog(const QString& title, const QString& about, const QStringList& heads, const Cells& cells,
                         std::function<QString(const Cells&)> complaint, QWidget* parent)
    : QDialog(parent), complaint_(std::move(complaint)) {
  setWindowTitle(title);
  resize(wide, high);
  auto* column = new QVBoxLayout(this);
  auto* words = quietLabel(about);
  words->setWordWrap(true);
  column->addWidget(words);
  table_ = new QTableWidget(0, static_cast<int>(heads.size()));
  table_->setObjectName(QStringLiteral("typedTable"));
  table_->setAccessibleName(title);
  table_->setHorizontalHeaderLabels(heads);
  table_->verticalHeader()->hide();
  table_->horizontalHeader()->setSectionResizeMode(QHeaderView::Stretch);
  column->addWidget(table_, 1);
  wrong_ = new Label;
  wrong_->setObjectName(QStringLiteral("tableWrong"));
  wrong_->setWordWrap(true);
  setLook(wrong_, "danger", true);
  column->addWidget(wrong_);
  row_ = new QHBoxLayout;
  row_->addStretch(1);
  auto* cancel = new QPushButton(tr("Cancel"));
  take_ = new QPushButton(tr("Take it"));
  take_->setObjectName(QStringLiteral("takeTable"));
  take_->setDefault(true);
  row_->addWidget(cancel);
  row_->addWidget(take_);
  column->addLayout(row_);
  connect(cancel, &QPushButton::clicked, this, &QDialog::reject);
  connect(take_, &QPushButton::clicked, this, &QDialog::accept);
  connect(table_, &QTableWidget::cellChanged, this, &TableDialog::look);
  setCells(cells);
  wrong_->clear(); // nobody has typed anything yet
  for (int r = table_->rowCount() - 1; r >= 0; --r)
    for (int c = table_->columnCount() - 1; c >= 0; --c)
      if (table_->item(r, c)->text().isEmpty()) table_->setCurrentCell(r, c);
}

void TableDialog::addFill(const QString& word, const Cells& cells) {
  auto* fill = new QPushButton(word);
  fill->setAutoDefault(false);
  row_->insertWidget(0, fill);
  connect(fill, &QPushButton::clicked, this, [this, cells] { setCells(cells); });
}

TableDialog::Cells TableDialog::cells() const {
  Cells rows;
  for (int r = 0; r < table_->rowCount(); ++r) {
    QStringList row;
    for (int c = 0; c < table_->columnCount(); ++c)
      row << (table_->item(r, c) ? table_->item(r, c)->text().trimmed() : QString());
    if (!row.join(QString()).isEmpty()) rows.push_back(row);
  }
  return rows;
}

void TableDialog::setCells(const Cells& cells) {
  {
    const QSignalBlocker quiet(table_);
    table_->setRowCount(std::min(static_cast<int>(cells.size()) + spareRows, mostRows));
    for (int r = 0; r < table_->rowCount(); ++r)
      for (int c = 0; c < table_->columnCount(); ++c) {
        auto* item = new QTableWidgetItem(
            r < static_cast<int>(cells.size()) ? cells[static_cast<std::size_t>(r)].value(c) : QString());
        item->setFont(figureFont(9.5));
        table_->setItem(r, c, item);
      }
  }
  look();
}

void TableDialog::look() {
  const auto wrong = complaint_(cells());
  wrong_->setText(wrong);
  take_->setEnabled(wrong.isEmpty());
  // Always a row to go on in.
  const int last = table_->rowCount() - 1;
  if (last < 0 || table_->rowCount() >= mostRows) return;
  for (int c = 0; c < table_->columnCount(); ++c)
    if (table_->item(last, c) && !table_->item(last, c)->text().isEmpty()) return table_->setRowCount(last + 2);
}

void TableDialog::keyPressEvent(QKeyEvent* event) {
  if (event->matches(QKeySequence::Paste)) return paste();
  QDialog::keyPressEvent(event);
}

/// Lines of columns, as a spreadsheet copies them: they replace what is there.
void TableDialog::paste() {
  Cells rows;
  static const QRegularExpression parted(QStringLiteral("[\\t;]"));
  for (const auto& line : QApplication::clipboard()->text().split(QLatin1Char('\n'), Qt::SkipEmptyParts))
    if (rows.size() < mostRows) rows.push_back(line.trimmed().split(parted));
  if (!rows.empty()) setCells(rows);
}

} // namespace vinegar::app

#include "moc_table_dialog.cpp"
