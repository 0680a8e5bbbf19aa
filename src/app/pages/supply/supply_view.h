#pragma once

#include "pages/kit/page_view.h"

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

protected:
  /// Shows what came, or says why nothing did.
  template <class T> void show(const Answers<T>& answers, CurvePlot::Picture picture) {
    if (picture.curves.empty() && answers.problem()) return sayProblem(*answers.problem());
    state().showContent();
    plot()->show(std::move(picture));
  }
};

/// The look of a side's curves: of the rail that matters most, and of the others.
CurvePlot::Look lookOf(const Side& side, bool main);
/// A curve's name, with the side's where there are several.
QString nameOn(const Side& side, std::size_t sides, const QString& name);
/// A picture of volts over something.
CurvePlot::Picture supplyPicture(const QString& title, const QString& x, const QString& xUnit, const QString& y);

} // namespace vinegar::app
