#pragma once

#include "pages/stages/stage_view.h"
#include "predict/stages/power_stage.h"
#include "predict/stages/splitter.h"

namespace vinegar::app {

class FigureTable;

/// The balance of the phase splitter, against frequency and against drive, with what would balance it.
class SplitterView : public StageView {
  Q_OBJECT
public:
  SplitterView(Page& page, TubeChoice& choice);
  void restyle() override { plot_->restyle(); }
  [[nodiscard]] PageFrame::Exports exports() override;
  [[nodiscard]] CurvePlot* plot() override { return plot_; }

protected:
  void ask(const Answers<predict::Idle>& idle) override;
  void clear() override;

private:
  void draw();

  Asking<predict::SplitterQuestion, predict::Splitters> balance_, driven_;
  Answers<predict::Splitters> shown_, drivenShown_;
  QLabel* answer_;
  QPushButton *cure_, *drive_;
  std::vector<amp::SetField> changes_;
  CurvePlot* plot_;
};

/// The bias of the output stage: how hot, by what, how far it can be set, and what a fault would do.
class PowerView : public StageView {
  Q_OBJECT
public:
  PowerView(Page& page, TubeChoice& choice);

protected:
  void ask(const Answers<predict::Idle>& idle) override;
  void clear() override;

private:
  void draw(const Answers<predict::PowerStages>& answers);

  Asking<predict::PowerStageQuestion, predict::PowerStages> stages_;
  QLabel *answer_, *caution_;
  FigureTable* table_;
};

} // namespace vinegar::app
