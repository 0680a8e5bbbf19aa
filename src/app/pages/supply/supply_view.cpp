#include "pages/supply/supply_view.h"

namespace vinegar::app {

PlotView::PlotView(Page& page, const QString& fileName, const QString& withoutMains) : SupplyView(page, withoutMains) {
  setContent(newPlot(fileName));
}

CurvePlot::Look lookOf(const Side& side, bool main) {
  using Look = CurvePlot::Look;
  return side.look == Side::Look::ink ? (main ? Look::ink : Look::inkThin) : (main ? Look::pencil : Look::pencilThin);
}

QString nameOn(const Side& side, std::size_t sides, const QString& name) {
  if (sides < 2) return name;
  return (side.look == Side::Look::ink ? SupplyView::tr("ink") : SupplyView::tr("pencil")) + QLatin1Char(' ') + name;
}

CurvePlot::Picture supplyPicture(const QString& title, const QString& x, const QString& xUnit, const QString& y) {
  CurvePlot::Picture picture;
  picture.title = title;
  picture.xLabel = x;
  picture.xUnit = xUnit;
  picture.panes = {{y, QStringLiteral("V"), CurvePlot::Pane::Scale::fromZero}};
  return picture;
}

} // namespace vinegar::app

#include "moc_supply_view.cpp"
