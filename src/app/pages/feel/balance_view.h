#pragma once

#include "pages/feel/rows_view.h"

namespace vinegar::app {

/// Ripple against droop over the reservoir's values, for the design's rectifier and two others.
class BalanceView : public RowsView {
  Q_OBJECT
public:
  BalanceView(Page& page, PhraseBox& phrases);

protected:
  void drawCurves() override;
  [[nodiscard]] QString said() const override;
};

} // namespace vinegar::app
