#pragma once

#include "pages/levels/levels_view.h"
#include "predict/levels/headroom.h"

namespace vinegar::app {

/// Input against the setting of a control: what clips where. A click sets both, everywhere.
class MapView : public LevelView {
  Q_OBJECT
public:
  explicit MapView(Page& page);
  void restyle() override { plot_->restyle(); }
  [[nodiscard]] PageFrame::Exports exports() override { return page().exportsOf(*plot_, tr("level map")); }
  [[nodiscard]] CurvePlot* plot() override { return plot_; }

protected:
  void ask(const Answers<predict::Idle>& idle) override;
  void clear() override;

private:
  void draw();
  void setState(double setting, double level);
  [[nodiscard]] const predict::LevelMap* shown(bool pencil) const;

  Asking<predict::LevelMapQuestion, predict::LevelMap> coarse_, exact_;
  Answers<predict::LevelMap> coarseShown_, exactShown_;
  QLabel* answer_;
  QComboBox* control_;
  CurvePlot* plot_;
};

/// Changes that give a stage more headroom, or make it the first to break up.
class HeadroomView : public LevelView {
  Q_OBJECT
public:
  explicit HeadroomView(Page& page);
  [[nodiscard]] PageFrame::Exports exports() override;

protected:
  void ask(const Answers<predict::Idle>& idle) override;
  void clear() override;

private:
  void put();
  void draw(const Answers<predict::HeadroomChanges>& answers);

  Asking<predict::HeadroomQuestion, predict::HeadroomChanges> changes_;
  QComboBox *wish_, *tube_;
  QLabel* answer_;
  FigureSheet* table_;
};

} // namespace vinegar::app
