#pragma once

#include <QWidget>
#include <vector>

namespace vinegar::app {

/// Rows of short texts that change at every step: painted, since labels made anew would take longer than the
/// prediction.
class FigureTable : public QWidget {
  Q_OBJECT
public:
  enum class Look { quiet, figure, pencil, danger, footer, footerPencil };
  struct Cell {
    QString text;
    Look look = Look::figure;
    double points = 0; ///< size of the letters; 0: the usual
    bool operator==(const Cell&) const = default;
  };
  using Rows = std::vector<std::vector<Cell>>;

  explicit FigureTable(QWidget* parent = nullptr);
  /// Columns from `firstRight` on are set flush right and share the room that is left.
  void setRows(Rows rows, int firstRight);
  [[nodiscard]] const Rows& rows() const { return rows_; }
  /// All texts, cells parted by a space and rows by "; ": what a screen reader is told.
  [[nodiscard]] QString text() const { return accessibleDescription(); }
  [[nodiscard]] QSize sizeHint() const override;
  [[nodiscard]] QSize minimumSizeHint() const override { return {100, sizeHint().height()}; }

  /// Pixels that its columns take; in fewer the last are cut.
  [[nodiscard]] int neededWidth() const;

protected:
  void paintEvent(QPaintEvent*) override;

private:
  [[nodiscard]] std::vector<int> columnWidths() const;

  Rows rows_;
  int firstRight_ = 99;
};

} // namespace vinegar::app
