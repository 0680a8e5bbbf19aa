#pragma once

#include "pages/page_view.h"
#include "predict/levels/clip_order.h"
#include "predict/levels/levels.h"

class QComboBox;

namespace vinegar::app {

class FigureSheet;

/// A view of the Levels page: asked again when something else is played.
class LevelView : public PageView {
  Q_OBJECT
public:
  explicit LevelView(Page& page);

protected:
  [[nodiscard]] const Selection::Played& played() const { return page().context().selection.played(); }
  /// " at 82 Hz" where that was found as the worst of the range; nothing where it was asked.
  [[nodiscard]] QString atWorst(double hertz) const;
  void again();
};

/// The whole chain as one picture: the level at every section's end, and over it the ceiling of each stage.
class ChainView : public LevelView {
  Q_OBJECT
public:
  explicit ChainView(Page& page);
  void restyle() override { plot_->restyle(); }
  [[nodiscard]] PageFrame::Exports exports() override { return page().exportsOf(*plot_, tr("levels")); }
  [[nodiscard]] CurvePlot* plot() override { return plot_; }

protected:
  void ask(const Answers<predict::Idle>& idle) override;
  void clear() override;

private:
  void draw();
  void say();

  Asking<predict::LevelsQuestion, predict::Levels> levels_, waves_;
  Asking<predict::ClippingQuestion, predict::Clipping> first_, all_;
  Answers<predict::Levels> shown_, played_;
  Answers<predict::Clipping> clipping_, limits_;
  QLabel *answer_, *more_;
  CurvePlot* plot_;
};

/// The order in which things clip as the input rises, and at which setting of a control each is met.
class OrderView : public LevelView {
  Q_OBJECT
public:
  explicit OrderView(Page& page);
  [[nodiscard]] PageFrame::Exports exports() override;

protected:
  void ask(const Answers<predict::Idle>& idle) override;
  void clear() override;

private:
  void draw();

  Asking<predict::ClippingQuestion, predict::Clipping> clipping_;
  Asking<predict::LevelMapQuestion, predict::LevelMap> map_;
  Asking<predict::CleanPowerQuestion, predict::CleanPowerAnswer> power_;
  Answers<predict::Clipping> shown_;
  Answers<predict::LevelMap> settings_;
  QLabel *answer_, *more_;
  QComboBox* control_;
  FigureSheet* table_;
  Answers<predict::CleanPowerAnswer> clean_;
};

/// Where the gain goes: every section's own, and what is spare for feedback.
class GainView : public LevelView {
  Q_OBJECT
public:
  explicit GainView(Page& page);
  [[nodiscard]] PageFrame::Exports exports() override;

protected:
  void ask(const Answers<predict::Idle>& idle) override;
  void clear() override;

private:
  void draw();

  Asking<predict::LevelsQuestion, predict::Levels> levels_, waves_;
  Asking<predict::CleanPowerQuestion, predict::CleanPowerAnswer> power_;
  Answers<predict::Levels> shown_, played_;
  Answers<predict::CleanPowerAnswer> clean_;
  QLabel* answer_;
  FigureSheet* table_;
};

/// Fills a box with the design's pots; the choice stays where it can, else the first volume control.
void fillControls(QComboBox& box, const amp::Circuit& circuit);

} // namespace vinegar::app
