#pragma once

#include "tell/columns.h"

#include <QTableView>
#include <functional>
#include <optional>
#include <string>
#include <vector>

class QSortFilterProxyModel;
class QStandardItem;
class QStandardItemModel;

namespace vinegar::app {

/// Any table of figures: rows are chosen, columns sorted by a click on their head, everything copied or saved as text.
/// Cells are plain text; a number is sorted as one.
class FigureSheet : public QTableView {
  Q_OBJECT
public:
  struct Cell {
    QString text;
    QString tip = {};
    bool danger = false, strong = false, words = false; ///< words: in the letters of text, not of figures
    std::optional<double> order = {};                   ///< what it is sorted by, if not by its text
    std::function<void(const QString&)> typed = {};     ///< takes what is typed into it; unset: nothing can be
  };
  struct Row {
    std::vector<Cell> cells;
    QString act = {};     ///< written on a button before the row; empty: none
    QString stands = {};  ///< written there in place of one
    QString actName = {}; ///< the button's object name
    QString actTip = {};  ///< what it does, for screen readers
    std::function<void()> acted = {};
  };

  explicit FigureSheet(QWidget* parent = nullptr);

  /// `acts`: the first column is the rows' buttons.
  void setSheet(const QStringList& titles, std::vector<Row> rows, bool acts = false);
  /// What `csv` writes in place of what is shown: the rows of setSheet in full, with the keys of their columns.
  void setExport(tell::Sheet sheet);
  void clear();
  [[nodiscard]] int rowCount() const;
  [[nodiscard]] int columnCount() const;
  /// Whether every row has a cell for each head.
  [[nodiscard]] bool isWhole() const;
  [[nodiscard]] QString text(int row, int column) const;
  /// The row of setSheet's that is shown chosen, or -1; however it is sorted.
  [[nodiscard]] int chosen() const;
  void choose(int row);
  /// These share what room is left.
  void setStretched(const QList<int>& columns);
  /// As it is shown, with the heads, columns parted by tabs.
  [[nodiscard]] QString copyText() const;
  [[nodiscard]] std::string csv() const;

Q_SIGNALS:
  void rowChosen(int row);
  /// The pointer is on that row; -1: it has left the table.
  void rowHovered(int row);
  /// Clicked, or Enter pressed on it; the column is one of setSheet's titles.
  void cellTaken(int row, int column);

protected:
  void leaveEvent(QEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  void changeEvent(QEvent* event) override;

private:
  static void write(QStandardItem& item, const Cell& cell);
  [[nodiscard]] bool shaped() const;
  bool overwrite();
  void takeTyped(const QStandardItem* item);
  void placeButtons();
  void sizeColumns();
  [[nodiscard]] int sourceRow(int shown) const;

  QStandardItemModel* model_;
  QSortFilterProxyModel* sorted_;
  QStringList titles_;
  std::optional<tell::Sheet> export_;
  std::vector<Row> rows_;
  QList<int> stretched_;
  bool acts_ = false, filling_ = false;
};

} // namespace vinegar::app
