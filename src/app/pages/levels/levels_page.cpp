#include "pages/levels/levels_page.h"

#include "pages/kit/input_box.h"
#include "pages/levels/chain_view.h"
#include "pages/levels/gain_view.h"
#include "pages/levels/headroom_view.h"
#include "pages/levels/map_view.h"
#include "pages/levels/order_view.h"

namespace vinegar::app {

extern const PageFacts levelsPage;
const PageFacts levelsPage{"Levels", QT_TRANSLATE_NOOP("Page", "Levels"),
                           QT_TRANSLATE_NOOP("Page", "what breaks up first, and when?"), makePage<LevelsPage>,
                           PageFacts::clipping};

LevelsPage::LevelsPage(const PageContext& context, const PageFacts& facts) : ViewsPage(context, facts) {
  frame().addHeadTool(new InputBox(context.selection, InputBox::Asks::levelAndRange));
  addView("Levels", tr("Levels"), new ChainView(*this));
  addView("Order", tr("Order"), new OrderView(*this));
  addView("Gain", tr("Gain"), new GainView(*this));
  addView("Map", tr("Map"), new MapView(*this));
  addView("Headroom", tr("Headroom"), new HeadroomView(*this));
  startViews();
}

} // namespace vinegar::app

#include "moc_levels_page.cpp"
