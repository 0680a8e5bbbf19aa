#pragma once

#include "pages/kit/page.h"

namespace vinegar::app {

class FigureSheet;

/// What did I change and why? The revisions, and the response before and after the chosen one.
class LogPage : public Page {
  Q_OBJECT
public:
  LogPage(const PageContext& context, const PageFacts& facts);
  void restyle() override;
  [[nodiscard]] FigureSheet* table() { return table_; }
  [[nodiscard]] CurvePlot* plot() { return plot_; }

protected:
  void followDocument() override;
  void followIdle(const Answers<predict::Idle>& idle) override;
  void startAfresh() override;
  void draw() override;

private:
  void ask();

  Kept<predict::predictResponse> response_{*this, Weight::quick};
  FigureSheet* table_;
  QLabel* detail_;
  CurvePlot* plot_;
  std::vector<amp::Revision> shown_;
  std::map<std::string, double> knobs_; ///< at which the revision on screen was worked out
  int asked_ = 0;                       ///< revision
  QString to_;                          ///< the probe where its curve ends
  std::uint64_t editions_ = 0;
};

} // namespace vinegar::app
