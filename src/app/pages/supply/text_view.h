#pragma once

#include "pages/supply/supply_view.h"

class QTextBrowser;

namespace vinegar::app {

/// A view that is one page of text.
class TextView : public SupplyView {
  Q_OBJECT
public:
  TextView(Page& page, const QString& fileName, const char* name, const QString& accessible,
           const QString& withoutMains);
  [[nodiscard]] PageFrame::Exports exports() override;

protected:
  void clear() override;
  [[nodiscard]] QTextBrowser& text() const { return *text_; }

private:
  QTextBrowser* text_;
  QString fileName_;
};

} // namespace vinegar::app
