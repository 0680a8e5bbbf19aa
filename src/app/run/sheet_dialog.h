#pragma once

#include "run/run_files.h"

#include <QDialog>

class QCheckBox;
class QComboBox;
class QLabel;
class QTimer;

namespace vinegar::app {

/// The run as it will be on paper: which paper, with volts or without, and where to.
class SheetDialog : public QDialog {
  Q_OBJECT
public:
  SheetDialog(PaperRun run, QWidget* parent);

protected:
  void resizeEvent(QResizeEvent* event) override;

private:
  void fold();
  void showSheets();
  /// What could not be done, and why: here, where it was asked for.
  void tell(const QString& problem);
  void save();
  void print();

  const PaperRun run_;
  std::unique_ptr<FoldedRun> folded_;
  QComboBox* paper_;
  QCheckBox* volts_;
  QLabel* told_;
  QLabel* preview_;
  QTimer* resized_;
};

} // namespace vinegar::app
