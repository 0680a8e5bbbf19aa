#pragma once

#include "audit/supply_rules.h"
#include "window/shown.h"

#include <QScrollArea>
#include <map>

class QCheckBox;
class QComboBox;
class QFormLayout;
class QLabel;
class QLineEdit;
class QPushButton;

class QVBoxLayout;

namespace vinegar::app {

class Dial;
class FigureTable;
class Knob;
class Session;

/// The selected part: its value on a dial, what it does here, what a step would do, and its DC readings.
class Drawer : public QScrollArea {
  Q_OBJECT
public:
  explicit Drawer(Session& session, QWidget* parent = nullptr);

  void setPart(const std::string& name);
  /// Follows the document: values.
  void refresh();
  /// Follows the predictions: readings and step effects.
  void display(const Shown& shown);
  /// What is wrong where, told with the part it concerns.
  void setFindings(const std::vector<audit::Finding>& findings);

private:
  void buildParameters(const amp::ResolvedPart& part);
  void choose(const std::string& field, const amp::Setting& setting);
  void chooseTyped();
  void showKnob(const amp::ResolvedPart& control);
  void showValues(const amp::ResolvedPart& ink, const amp::ResolvedPart& now);
  void showReadings(const Shown& shown);
  /// Of a part of the supply, whose means say little. False for any other.
  bool showSupplyReadings(const predict::Overview* ink, const predict::Overview* pencil);
  void showSteps(const predict::Overview& now);

  Session& session_;
  void showFindings();

  std::string name_, builtFor_;
  std::vector<audit::Finding> findings_;
  QWidget* body_;
  QVBoxLayout* column_;
  QLabel *title_, *role_, *does_, *stepTitle_, *stepFoot_, *readingTitle_, *error_, *empty_, *finding_;
  Dial* dial_;
  QLineEdit* typed_;
  QComboBox *tube_, *taper_;
  QCheckBox* fitted_;
  QPushButton* rubOut_;
  QWidget* knobRow_;
  Knob* knob_ = nullptr;
  std::string knobFor_; ///< section and name
  FigureTable *values_, *steps_, *readings_;
  QWidget* parametersBox_;
  QFormLayout* parameters_;
  std::map<std::string, QLineEdit*> parameterEdits_;
  std::map<std::string, QCheckBox*> parameterChecks_;
  std::map<std::string, QComboBox*> parameterChoices_;
};

} // namespace vinegar::app
