#include "widgets/dial.h"

#include "theme/theme.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QWheelEvent>
#include <cmath>

namespace vinegar::app {

Dial::Dial(QWidget* parent) : QWidget(parent) {
  setFocusPolicy(Qt::StrongFocus);
  setObjectName(QStringLiteral("dial"));
  setAccessibleName(tr("Value dial"));
  setToolTip(tr("Wheel or arrow keys: next stock value. Page up and down: a decade."));
}

void Dial::setDial(double value, double inkValue, units::Unit unit, Stepper stepper) {
  value_ = value;
  ink_ = inkValue;
  unit_ = unit;
  stepper_ = std::move(stepper);
  setAccessibleDescription(QString::fromStdString(units::reading(value, unit)));
  update();
}

std::optional<double> Dial::stepped(int steps) const {
  std::optional<double> value = value_;
  for (int i = 0; value && i < std::abs(steps); ++i)
    value = stepper_ ? stepper_(*value, steps > 0) : std::nullopt;
  return value;
}

void Dial::step(int steps) {
  if (const auto value = stepped(steps); value && *value != value_) Q_EMIT valueChosen(*value);
}

void Dial::decade(bool up) {
  // A decade in whole steps, so that it lands on a stock value; at the end of the stock it stops there.
  const double target = value_ * (up ? 10 : 0.1);
  std::optional<double> value = value_;
  double last = value_;
  for (int i = 0; i < 200 && (value = stepper_ ? stepper_(last, up) : std::nullopt); ++i) {
    if (up ? *value > target * 1.0001 : *value < target / 1.0001) break;
    last = *value;
  }
  if (last != value_) Q_EMIT valueChosen(last);
}

void Dial::paintEvent(QPaintEvent*) {
  const Theme& t = theme();
  QPainter painter(this);
  painter.setRenderHint(QPainter::Antialiasing);
  const double axis = height() - 18;
  painter.setPen(QPen(t.hairline, 2));
  painter.drawLine(QPointF(0, axis), QPointF(width(), axis));
  const bool pencilled = value_ != ink_;
  const double pitch = width() / 5.0;
  for (int i = -2; i <= 2; ++i) {
    const auto value = stepped(i);
    if (!value) continue;
    const double x = width() / 2.0 + i * pitch;
    const bool isInk = *value == ink_;
    const QColor colour = i == 0 ? (pencilled ? t.pencil : t.ink) : isInk ? t.ink : t.quiet;
    painter.setPen(QPen(colour, i == 0 ? 3 : 1.5));
    painter.drawLine(QPointF(x, axis - (i == 0 ? 8 : 5)), QPointF(x, axis + (i == 0 ? 10 : 5)));
    painter.setPen(colour);
    painter.setFont(figureFont(i == 0 ? 11.5 : 9, i == 0 ? QFont::DemiBold : QFont::Normal));
    painter.drawText(QRectF(x - pitch / 2, 4, pitch, 22), Qt::AlignCenter,
                     QString::fromStdString(units::schematic(*value, unit_)));
    if (isInk && i != 0) {
      painter.setFont(textFont(7.5));
      painter.drawText(QRectF(x - pitch / 2, axis + 4, pitch, 14), Qt::AlignCenter, tr("ink"));
    }
  }
  if (hasFocus()) {
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(t.signal, 2));
    painter.drawRoundedRect(QRectF(rect()).adjusted(1, 1, -1, -1), 5, 5);
  }
}

void Dial::wheelEvent(QWheelEvent* event) {
  wheelRest_ += event->angleDelta().y();
  const int steps = wheelRest_ / 120;
  wheelRest_ -= steps * 120;
  if (steps != 0) step(steps);
  event->accept();
}

void Dial::keyPressEvent(QKeyEvent* event) {
  switch (event->key()) {
  case Qt::Key_Up:
  case Qt::Key_Right:
    step(1);
    return;
  case Qt::Key_Down:
  case Qt::Key_Left:
    step(-1);
    return;
  case Qt::Key_PageUp:
    decade(true);
    return;
  case Qt::Key_PageDown:
    decade(false);
    return;
  default:
    QWidget::keyPressEvent(event);
  }
}

void Dial::mousePressEvent(QMouseEvent* event) {
  const double offset = (event->position().x() - width() / 2.0) / (width() / 5.0);
  step(static_cast<int>(std::lround(offset)));
}

} // namespace vinegar::app

#include "moc_dial.cpp"
