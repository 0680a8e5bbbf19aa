#include "pages/supply/text_view.h"

#include "theme/text.h"

namespace vinegar::app {

TextView::TextView(Page& page, const QString& fileName, const char* name, const QString& accessible,
                   const QString& withoutMains)
    : SupplyView(page, withoutMains), text_(new PageBrowser), fileName_(fileName) {
  text_->setObjectName(QLatin1String(name));
  text_->setAccessibleName(accessible);
  setContent(text_);
}

PageFrame::Exports TextView::exports() { return page().exportsOf(*text_, fileName_); }
void TextView::clear() { text_->clear(); }

} // namespace vinegar::app

#include "moc_text_view.cpp"
