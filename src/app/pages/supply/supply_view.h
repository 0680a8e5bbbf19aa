#pragma once

#include "pages/page_view.h"

namespace vinegar::app {

/// One of the views of the Supply page: of a design with mains.
class SupplyView : public PageView {
  Q_OBJECT
public:
  /// `withoutMains`: what it says of a design that has none.
  SupplyView(Page& page, const QString& withoutMains) : PageView(page), withoutMains_(withoutMains) {}

protected:
  [[nodiscard]] QString refusal(const predict::Idle& idle) const override {
    return idle.point.supply ? QString() : withoutMains_;
  }

private:
  QString withoutMains_;
};

/// A view that is one plot.
class PlotView : public SupplyView {
  Q_OBJECT
public:
  PlotView(Page& page, const QString& fileName, const QString& withoutMains);
  void restyle() override { plot_->restyle(); }
  [[nodiscard]] PageFrame::Exports exports() override;
  [[nodiscard]] CurvePlot* plot() override { return plot_; }

protected:
  void clear() override { plot_->clear(); }
  /// Draws what came, or says why nothing did.
  template <class T> void draw(const Answers<T>& answers, CurvePlot::Picture picture) {
    if (picture.curves.empty() && answers.problem()) return sayProblem(*answers.problem());
    state().showContent();
    plot_->show(std::move(picture));
  }

private:
  CurvePlot* plot_;
  QString fileName_;
};

} // namespace vinegar::app
