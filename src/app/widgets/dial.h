#pragma once

#include "units/value.h"

#include <QWidget>
#include <functional>
#include <optional>

namespace vinegar::app {

/// A strip of stock values with the present one in the middle. Wheel and arrows step, PgUp/PgDn move a decade, a click
/// on a neighbour takes it.
class Dial : public QWidget {
  Q_OBJECT
public:
  explicit Dial(QWidget* parent = nullptr);

  /// The next stock value from a value, or nothing at the end of the stock.
  using Stepper = std::function<std::optional<double>(double value, bool up)>;
  void setDial(double value, double inkValue, units::Unit unit, Stepper stepper);

  [[nodiscard]] QSize sizeHint() const override { return {240, 58}; }
  [[nodiscard]] QSize minimumSizeHint() const override { return {200, 58}; }

Q_SIGNALS:
  void valueChosen(double value);

protected:
  void paintEvent(QPaintEvent*) override;
  void wheelEvent(QWheelEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void focusInEvent(QFocusEvent*) override { update(); }
  void focusOutEvent(QFocusEvent*) override { update(); }

private:
  void step(int steps);
  void decade(bool up);
  [[nodiscard]] std::optional<double> stepped(int steps) const;

  double value_ = 0, ink_ = 0;
  units::Unit unit_ = units::Unit::none;
  Stepper stepper_;
  int wheelRest_ = 0;
};

} // namespace vinegar::app
