#pragma once

#include "theme/text.h"

namespace vinegar::app {

/// A label that gives way: where there is too little room it ends in an ellipsis, and its tooltip has the whole.
class ElidedLabel : public Label {
public:
  explicit ElidedLabel(const QString& text = {}, QWidget* parent = nullptr);

protected:
  void paintEvent(QPaintEvent*) override;
};

} // namespace vinegar::app
