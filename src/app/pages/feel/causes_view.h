#pragma once

#include "pages/feel/rows_view.h"

namespace vinegar::app {

/// What the droop is made of: each part as if it were perfect; and over time what supply, bias and blocking take.
class CausesView : public RowsView {
  Q_OBJECT
public:
  CausesView(Page& page, PhraseBox& phrases);

protected:
  void put() override;
  void drawCurves() override;
  void fillSheet() override;
  [[nodiscard]] QString said() const override;

private:
  Kept<predict::predictBlame> blame_{*this, Weight::heavy, Of::now};
};

} // namespace vinegar::app
