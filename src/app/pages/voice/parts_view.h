#pragma once

#include "pages/voice/voice_view.h"
#include "predict/voice/rank.h"
#include "predict/voice/readouts.h"

#include <QComboBox>

namespace vinegar::app {

/// Which part does what in a stretch of the spectrum: every part's dial one step up and down, the strongest first.
class PartsView : public AnswerView {
  Q_OBJECT
public:
  PartsView(Page& page, SpanChoice& span);

protected:
  void put() override;
  void draw() override;
  void clear() override;

private:
  void fillBands();
  void editBands();
  [[nodiscard]] int asMarked() const { return band_->count() - 2; }
  void takeBand(double low, double high);
  void moveEdge(int dot, double hertz, bool done);
  void fillSheet();
  void trial(int row);

  Kept<predict::predictRanking> ranking_{*this, Weight::heavy, Of::now};
  double low_ = 300, high_ = 600;
  int trial_ = -1; ///< the row whose curve is shown
  QComboBox* band_;
  std::vector<amp::ToneBand> listed_;
};

} // namespace vinegar::app
