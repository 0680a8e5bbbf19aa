#include "widgets/elided_label.h"

#include <QPainter>

namespace vinegar::app {

ElidedLabel::ElidedLabel(const QString& text, QWidget* parent) : Label(text, parent) {
  setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
  setToolTip(plainTip(text));
}

void ElidedLabel::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.setPen(palette().color(foregroundRole())); // as the style sheet has it
  painter.drawText(contentsRect(), alignment(),
                   fontMetrics().elidedText(text(), Qt::ElideRight, contentsRect().width()));
}

} // namespace vinegar::app
