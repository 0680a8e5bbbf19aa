#pragma once

#include "pages/stages/stage_view.h"
#include "predict/stages/stage_spread.h"

class QLineEdit;

namespace vinegar::app {

class FigureTable;
class ToleranceBox;

/// The tube in five hundred builds of ordinary parts, and what matched power tubes are worth.
class SpreadView : public StageView {
  Q_OBJECT
public:
  SpreadView(Page& page, TubeChoice& choice);
  void restyle() override { cloud_->restyle(); }
  [[nodiscard]] PageFrame::Exports exports() override;
  [[nodiscard]] CurvePlot* plot() override { return cloud_; }

protected:
  void ask(const Answers<predict::Idle>& idle) override;
  void clear() override;

private:
  void put();
  void drawCloud(const predict::StageSpread* ink, const predict::StageSpread* pencil);
  void putPair();
  void draw(const Answers<predict::StageSpread>& answers);
  void drawPair(const Answers<predict::PairAnswer>& answers);

  Asking<predict::SpreadQuestion, predict::StageSpread> spread_;
  Asking<predict::PairQuestion, predict::PairAnswer> pair_;
  ToleranceBox* tolerance_;
  QLabel* told_;
  CurvePlot* cloud_;
  FigureTable *bands_, *pairs_;
  QWidget* pairRow_;
  QLineEdit *first_, *second_;
  QLabel* pairSaid_;
};

} // namespace vinegar::app
