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

  [[nodiscard]] PageFrame::Exports exports() override { return page().exportsOf(sheet(), tr("parts")); }

protected:
  void put() override;
  void clear() override;

private:
  void fillBands();
  void editBands();
  [[nodiscard]] int asMarked() const { return band_->count() - 2; }
  void takeBand(double low, double high);
  void moveEdge(int dot, double hertz, bool done);
  void draw();
  void fillSheet();
  void trial(int row);

  Asking<predict::RankQuestion, predict::Ranking> ranking_;
  Answers<predict::Ranking> answers_;
  double low_ = 300, high_ = 600;
  int trial_ = -1; ///< the row whose curve is shown
  QComboBox* band_;
  std::vector<amp::ToneBand> listed_;
};

} // namespace vinegar::app
