#include "widgets/paragraph.h"

#include <QStyle>
#include <algorithm>

namespace vinegar::app {

Paragraph::Paragraph(int width, const QFont& font, const char* property, const QString& text) : width_(width) {
  setFont(font);
  setWordWrap(true);
  setAlignment(Qt::AlignTop | Qt::AlignLeft);
  if (property) setProperty(property, true);
  auto policy = sizePolicy();
  policy.setHeightForWidth(false);
  setSizePolicy(policy);
  setText(text);
}

void Paragraph::setText(const QString& text) {
  if (text == this->text() && minimumHeight() == maximumHeight()) return;
  setMinimumHeight(0);
  setMaximumHeight(QWIDGETSIZE_MAX);
  QLabel::setText(text);
  setFixedHeight(std::max(heightForWidth(width_), 0));
}

void setLook(QWidget* widget, const char* property, bool on) {
  if (widget->property(property).isValid() && widget->property(property).toBool() == on) return;
  widget->setProperty(property, on);
  widget->style()->unpolish(widget);
  widget->style()->polish(widget);
}

} // namespace vinegar::app
