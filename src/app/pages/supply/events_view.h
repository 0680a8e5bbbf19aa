#pragma once

#include "pages/supply/supply_view.h"
#include "predict/supply/regulation.h"
#include "predict/supply/supply_events.h"

class QComboBox;

namespace vinegar::app {

/// From the moment the switch closes: every rail over half a minute.
class SwitchOnView : public PlotView {
  Q_OBJECT
public:
  explicit SwitchOnView(Page& page);

protected:
  void ask(const Answers<predict::Idle>& idle) override;

private:
  void put();
  Asking<predict::SwitchOnQuestion, predict::SwitchOnAnswer> asking_;
  QComboBox* from_;
};

/// After the plug is pulled: how long the rails stay dangerous.
class DischargeView : public PlotView {
  Q_OBJECT
public:
  explicit DischargeView(Page& page);

protected:
  void ask(const Answers<predict::Idle>& idle) override;

private:
  void put();
  Asking<predict::DischargeQuestion, predict::DischargeAnswer> asking_;
  QComboBox* tubes_;
};

/// The first rail's volts against a steady current: the chosen rectifier, in ink and pencil, and every other that fits.
class RegulationView : public PlotView {
  Q_OBJECT
public:
  explicit RegulationView(Page& page);

protected:
  void ask(const Answers<predict::Idle>& idle) override;
  void clear() override;

private:
  void redraw();
  Asking<predict::RegulationQuestion, predict::RegulationAnswer> own_, every_;
  Answers<predict::RegulationAnswer> ownAnswers_, everyAnswers_;
};

} // namespace vinegar::app
