#include "pages/stages/stages_page.h"

#include "pages/stages/curves_view.h"
#include "pages/stages/power_view.h"
#include "pages/stages/splitter_view.h"
#include "pages/stages/spread_view.h"
#include "pages/stages/swap_view.h"
#include "pages/stages/tubes_view.h"

namespace vinegar::app {

extern const PageFacts stagesPage;
const PageFacts stagesPage{"Stages", QT_TRANSLATE_NOOP("Page", "Stages"),
                           QT_TRANSLATE_NOOP("Page", "is every tube sitting right?"), makePage<StagesPage>};

StagesPage::StagesPage(const PageContext& context, const PageFacts& facts)
    : ViewsPage(context, facts), choice_(new TubeChoice(context)) {
  frame().addHeadTool(choice_);
  addView("Curves", tr("Curves"), new CurvesView(*this, *choice_));
  addView("Tubes", tr("All tubes"), new TubesView(*this, *choice_));
  addView("Swap", tr("Swap"), new SwapView(*this, *choice_));
  addView("Splitter", tr("Splitter"), new SplitterView(*this, *choice_));
  addView("Power", tr("Power"), new PowerView(*this, *choice_));
  addView("Spread", tr("Spread"), new SpreadView(*this, *choice_));
  startViews();
}

} // namespace vinegar::app

#include "moc_stages_page.cpp"
