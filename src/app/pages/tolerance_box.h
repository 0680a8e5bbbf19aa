// What parts are bought at, wherever builds are tried.
#pragma once

#include "predict/stages/stage_spread.h"

#include <QComboBox>

namespace vinegar::app {

/// Usual tolerances to choose from, each told whole in its tip.
class ToleranceBox : public QComboBox {
  Q_OBJECT
public:
  explicit ToleranceBox(const QString& name, QWidget* parent = nullptr);
  [[nodiscard]] predict::Tolerances tolerances() const;
};

} // namespace vinegar::app
