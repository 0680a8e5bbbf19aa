#pragma once

#include "run/run_files.h"

#include <QDialog>

class QCheckBox;
class QComboBox;
class QLabel;

namespace vinegar::app {

/// The run as it will be on paper: which paper, with volts or without, and where to.
class SheetDialog : public QDialog {
  Q_OBJECT
public:
  SheetDialog(PaperRun run, QWidget* parent);

Q_SIGNALS:
  /// What could not be done, and why.
  void failed(const QString& problem);

private:
  void fold();
  void save();
  void print();

  const PaperRun run_;
  std::unique_ptr<FoldedRun> folded_;
  QComboBox* paper_;
  QCheckBox* volts_;
  QLabel* told_;
  QLabel* preview_;
};

} // namespace vinegar::app
