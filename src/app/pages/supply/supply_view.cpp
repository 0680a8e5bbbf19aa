#include "pages/supply/supply_view.h"

namespace vinegar::app {

PlotView::PlotView(Page& page, const QString& fileName, const QString& withoutMains)
    : SupplyView(page, withoutMains), plot_(new CurvePlot), fileName_(fileName) {
  setContent(plot_);
}

PageFrame::Exports PlotView::exports() { return page().exportsOf(*plot_, fileName_); }

} // namespace vinegar::app

#include "moc_supply_view.cpp"
