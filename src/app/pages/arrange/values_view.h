#pragma once

#include "document/selection.h"
#include "document/session.h"

#include <QTableView>

class QStandardItemModel;

namespace vinegar::app {

/// Every part of the amplifier in a table, section by section, to type a whole schematic's values in from paper: a
/// value as a builder writes it, "-" for a place left empty; Enter and Tab go on to the next. What cannot be is told
/// beside the cell and changes nothing.
class ValuesView : public QTableView {
  Q_OBJECT
public:
  ValuesView(Session& session, Selection& selection, QWidget* parent = nullptr);
  void follow();
  /// The cell of a part's value is the current one.
  void edit(const std::string& part);
  using QTableView::edit;

protected:
  /// From value to value.
  QModelIndex moveCursor(CursorAction action, Qt::KeyboardModifiers modifiers) override;
  void currentChanged(const QModelIndex& current, const QModelIndex& previous) override;

private:
  void take(int row, const QString& text);

  enum Column { section, name, role, value, said };
  Session& session_;
  Selection& selection_;
  QStandardItemModel* model_;
  std::map<std::string, QString> mistakes_; ///< by part: what was typed and cannot be
  bool filling_ = false;
};

} // namespace vinegar::app
