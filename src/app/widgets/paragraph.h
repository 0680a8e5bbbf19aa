#pragma once

#include "theme/text.h"

namespace vinegar::app {

/// Wrapped text of a fixed width, for panes whose width never changes: its height is set with its words, so that the
/// layout around it need not measure every paragraph again whenever a reading changes, which takes longer than the
/// prediction.
class Paragraph : public Label {
public:
  Paragraph(int width, const QFont& font, const char* property = nullptr, const QString& text = {});
  void setText(const QString& text);

private:
  int width_;
};

/// Sets a property that the style sheet asks for, and lets the widget take it up.
void setLook(QWidget* widget, const char* property, bool on);

} // namespace vinegar::app
