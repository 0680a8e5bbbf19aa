#pragma once

#include "pages/kit/page_view.h"

namespace vinegar::app {

/// What breaks up first, and when? The signal from the jack to the speaker with what is left to every limit, the order
/// of clipping, where the gain goes, the map of a control, and changes that move a limit.
class LevelsPage : public ViewsPage {
  Q_OBJECT
public:
  LevelsPage(const PageContext& context, const PageFacts& facts);
};

} // namespace vinegar::app
