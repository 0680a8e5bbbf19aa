#pragma once

#include "document/selection.h"

#include <QWidget>

class QComboBox;

namespace vinegar::app {

/// What is played: how loud and at which frequency. One state for all pages, kept by the Selection.
class InputBox : public QWidget {
  Q_OBJECT
public:
  enum class Asks {
    level,
    levelAndTone,
    levelAndRange, ///< the worst over the instrument's range may be chosen
  };
  InputBox(Selection& selection, Asks asks);

  /// "100 mV" rms, as it is told everywhere.
  static QString level(double peak);

private:
  void takeLevel();
  void takeHertz();
  void show();

  Selection& selection_;
  QComboBox *level_, *hertz_;
};

} // namespace vinegar::app
