#pragma once

#include "pages/kit/page_view.h"

namespace vinegar::app {

class TubeChoice;

/// Is every tube sitting right? One tube on its curves, all in a table, other types in its place, and its spread.
class StagesPage : public ViewsPage {
  Q_OBJECT
public:
  StagesPage(const PageContext& context, const PageFacts& facts);

private:
  TubeChoice* choice_;
};

} // namespace vinegar::app
