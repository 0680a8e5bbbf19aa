#pragma once

#include <QDialog>
#include <functional>
#include <vector>

class QHBoxLayout;
class QLabel;
class QPushButton;
class QTableWidget;

namespace vinegar::app {

/// A table that is typed or pasted into; what is wrong with it is said beneath, and it is taken when nothing is.
class TableDialog : public QDialog {
  Q_OBJECT
public:
  using Cells = std::vector<QStringList>; ///< rows with something in them
  /// `complaint`: what is wrong, or empty.
  TableDialog(const QString& title, const QString& about, const QStringList& heads, const Cells& cells,
              std::function<QString(const Cells&)> complaint, QWidget* parent);

  [[nodiscard]] Cells cells() const;
  void setCells(const Cells& cells);
  /// A button that fills the table, as with what is usual.
  void addFill(const QString& word, const Cells& cells);

protected:
  void keyPressEvent(QKeyEvent* event) override;

private:
  void look();
  void paste();

  QTableWidget* table_;
  QLabel* wrong_;
  QPushButton* take_;
  QHBoxLayout* row_;
  std::function<QString(const Cells&)> complaint_;
};

} // namespace vinegar::app
