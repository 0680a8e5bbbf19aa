#include "pages/kit/page.h"

// One name per page, in the order of work; the page's own file defines it.
#define VINEGAR_PAGES(page)                                                                                            \
  page(arrangePage) page(supplyPage) page(stagesPage) page(levelsPage) page(voicePage) page(feelPage) page(logPage)

namespace vinegar::app {

#define VINEGAR_DECLARE(page) extern const PageFacts page;
#define VINEGAR_LIST(page) &page,
VINEGAR_PAGES(VINEGAR_DECLARE)

const std::vector<const PageFacts*>& pageList() {
  static const std::vector<const PageFacts*> pages{VINEGAR_PAGES(VINEGAR_LIST)};
  return pages;
}

} // namespace vinegar::app
