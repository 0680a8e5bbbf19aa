#pragma once

#include "pages/stages/stage_view.h"
#include "predict/stages/splitter.h"

namespace vinegar::app {

/// The balance of the phase splitter, against frequency and against drive, with what would balance it.
class SplitterView : public StageView {
  Q_OBJECT
public:
  SplitterView(Page& page, TubeChoice& choice);

protected:
  void put(const predict::Idle& now) override;
  void draw() override;
  void clear() override;

private:
  Kept<predict::predictSplitters> balance_{*this, Weight::quick, Of::inkAndNow};
  Kept<predict::predictSplitters> driven_{*this, Weight::heavy, Of::inkAndNow};
  QLabel* answer_;
  QPushButton *cure_, *drive_;
  std::vector<amp::SetField> changes_;
  CurvePlot* plot_;
};

} // namespace vinegar::app
