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

protected:
  void put(const predict::Idle& now) override;
  void draw() override;
  void clear() override;

private:
  void askSpread();
  void drawCloud(const predict::StageSpread* ink, const predict::StageSpread* pencil);
  void putPair();
  void drawPair();

  Kept<predict::predictSpread> spread_{*this, Weight::heavy, Of::inkAndNow};
  Kept<predict::predictPair> pair_{*this, Weight::heavy, Of::now};
  ToleranceBox* tolerance_;
  QLabel* told_;
  CurvePlot* cloud_;
  FigureTable *bands_, *pairs_;
  QWidget* pairRow_;
  QLineEdit *first_, *second_;
  QLabel* pairSaid_;
};

} // namespace vinegar::app
