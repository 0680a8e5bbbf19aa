#pragma once

#include "window/shown.h"

#include <QWidget>

class QPushButton;

namespace vinegar::app {

class FigureTable;

/// The strip along the bottom: the amplifier's main numbers, ink and pencil side by side.
class Vitals : public QWidget {
  Q_OBJECT
public:
  explicit Vitals(QWidget* parent = nullptr);
  /// `also`: findings that other predictions than the overview made on what stands now.
  void display(const Shown& shown, const std::vector<Problem>& also = {});

Q_SIGNALS:
  void pageWanted(const QString& page);
  void partWanted(const QString& part);

private:
  struct Cell {
    QPushButton* button;
    FigureTable* values;
    QString name;
  };
  Cell& cell(int index) { return cells_[static_cast<std::size_t>(index)]; }
  void add(const QString& name, const QString& tip);
  void set(int index, const QString& ink, const QString& pencil);

  std::vector<Cell> cells_;
  QString hottest_, finding_;
};

} // namespace vinegar::app
