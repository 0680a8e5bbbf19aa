#pragma once

#include "pages/stages/stage_view.h"
#include "predict/stages/propose.h"

class QLineEdit;

namespace vinegar::app {

class FigureSheet;
class FigureTable;
class Paragraph;

/// One tube on its plate curves: load lines, where it rests, how far it swings and which way the signal takes. The
/// point is dragged, or a wanted voltage, current or gain typed, and stock values that reach it are offered.
class CurvesView : public StageView {
  Q_OBJECT
public:
  CurvesView(Page& page, TubeChoice& choice);

protected:
  void put(const predict::Idle& now) override;
  void draw() override;
  void clear() override;

private:
  void drawReadings();
  void drag(double volts, double milliamps, bool done);
  void propose(predict::ProposeQuestion::Wanted wanted, double value);
  void typed();
  void showProposals();
  void addSide(CurvePlot::Picture& picture, const predict::StageCurves& curves, bool pencil, bool alone) const;
  [[nodiscard]] std::string tube() const { return choice().tube(); }

  Kept<predict::predictStageCurves> curves_{*this, Weight::quick, Of::inkAndNow};
  Kept<predict::predictStages> stages_{*this, Weight::quick, Of::inkAndNow};
  Kept<predict::predictStagePath> path_{*this, Weight::heavy, Of::now};
  Kept<predict::predictProposals> proposals_{*this, Weight::heavy, Of::now};
  std::shared_ptr<const predict::StageLine> pathShown_;
  std::optional<QPointF> dragged_;       ///< where the point is being taken
  std::pair<std::string, bool> drawnOf_; ///< the tube on the axes, and whether it is told with its partner
  QLabel* verdict_;
  CurvePlot* plot_;
  FigureTable* table_;
  QPushButton* composite_;
  QComboBox* wanted_;
  QLineEdit* value_;
  QLabel* found_;
  FigureSheet* sets_;
};

} // namespace vinegar::app
