#pragma once

#include "document/session.h"
#include "widgets/figure_sheet.h"

namespace vinegar::app {

/// The active sheet's marks in words, each to be rubbed out by itself, with those that rest on it; and those that wait
/// since the ink has no place for them.
class MarksView : public FigureSheet {
  Q_OBJECT
public:
  explicit MarksView(Session& session, QWidget* parent = nullptr);
  void follow();

private:
  Session& session_;
};

} // namespace vinegar::app
