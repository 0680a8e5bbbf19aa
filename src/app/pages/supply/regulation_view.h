#pragma once

#include "pages/supply/supply_view.h"
#include "predict/supply/regulation.h"

namespace vinegar::app {

/// The first rail's volts against a steady current: the chosen rectifier, in ink and pencil, and every other that fits.
class RegulationView : public PlotView {
  Q_OBJECT
public:
  explicit RegulationView(Page& page);

protected:
  void ask(const Answers<predict::Idle>& idle) override;
  void draw() override;

private:
  Kept<predict::predictRegulation> own_{*this, Weight::heavy, Of::inkAndNow}, every_{*this, Weight::heavy, Of::now};
};

} // namespace vinegar::app
