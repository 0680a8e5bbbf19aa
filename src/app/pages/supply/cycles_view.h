#pragma once

#include "pages/supply/supply_view.h"

class QComboBox;

namespace vinegar::app {

/// Two cycles of a rail's volts and of the current of one plate.
class CyclesView : public PlotView {
  Q_OBJECT
public:
  explicit CyclesView(Page& page);

protected:
  void ask(const Answers<predict::Idle>& idle) override;
  void draw() override;

private:
  void fillRails(const amp::Circuit& circuit);

  QComboBox* rail_;
};

} // namespace vinegar::app
