#pragma once

#include "amp/design/design.h"

#include <QComboBox>
#include <QLabel>
#include <QSlider>

namespace vinegar::app {

class Session;

/// Turns one control of the design: a slider from 0 to 10 for a pot, a list of positions for a switch.
class Knob : public QWidget {
  Q_OBJECT
public:
  Knob(Session& session, const amp::ResolvedPart& control, QWidget* parent = nullptr);
  /// Follows the document.
  void refresh();

private:
  void turn(double to);

  Session& session_;
  amp::ResolvedPart control_;
  QSlider* slider_ = nullptr;
  QLabel* value_ = nullptr;
  QComboBox* positions_ = nullptr;
};

} // namespace vinegar::app
