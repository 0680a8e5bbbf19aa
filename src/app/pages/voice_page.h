#pragma once

#include "window/shown.h"

#include <QWidget>

class QCheckBox;
class QComboBox;
class QHBoxLayout;
class QLabel;
class QPushButton;

namespace vinegar::app {

class Knob;
class ResponsePlot;
class Session;

/// What will it sound like? Response of the whole amplifier or of any span of it, with the knobs it is played at.
class VoicePage : public QWidget {
  Q_OBJECT
public:
  explicit VoicePage(Session& session, QWidget* parent = nullptr);

  void display(const Shown& shown);
  /// Follows the document: knobs.
  void refresh();
  void restyle();
  /// Forgets the axis limits, for a new document.
  void startAfresh();
  [[nodiscard]] std::string from() const;
  [[nodiscard]] std::string to() const;
  [[nodiscard]] ResponsePlot* plot() { return plot_; }

Q_SIGNALS:
  void spanChanged();
  void failed(const QString& message);

private:
  void buildKnobs(const std::vector<amp::ResolvedPart>& controls);
  void fillProbes(const amp::Circuit& circuit);
  void exportPlot();
  void setSpan(const QString& from, const QString& to);

  Session& session_;
  QComboBox *from_, *to_;
  QPushButton* whole_;
  QCheckBox *phase_, *notes_;
  ResponsePlot* plot_;
  QWidget* knobRow_;
  QHBoxLayout* knobLayout_;
  std::vector<Knob*> knobs_;
  std::vector<std::string> knobNames_;
  bool fitNext_ = true;
};

} // namespace vinegar::app
