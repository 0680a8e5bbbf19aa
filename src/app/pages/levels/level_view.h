#pragma once

#include "pages/kit/page_view.h"

class QComboBox;

namespace vinegar::app {

/// A view of the Levels page: asked again when something else is played.
class LevelView : public PageView {
  Q_OBJECT
public:
  explicit LevelView(Page& page);

protected:
  [[nodiscard]] const Selection::Played& played() const { return page().context().selection.played(); }
  /// " at 82 Hz" where that was found as the worst of the range; nothing where it was asked.
  [[nodiscard]] QString atWorst(double hertz) const;
};

/// Fills a box with the design's pots; the choice stays where it can, else the first volume control.
void fillControls(QComboBox& box, const amp::Circuit& circuit);

} // namespace vinegar::app
