#pragma once

#include "ask/findings_desk.h"
#include "document/selection.h"
#include "predict/overview/steps.h"
#include "predict/supply/supply.h"
#include "widgets/figure_table.h"

#include <QScrollArea>

class QLabel;

namespace vinegar::app {

class ParameterForm;
class Paragraph;
class Session;
class ValueBox;

/// The selected part: its value on a dial, what it does here, what a step would do, and its DC readings. No part
/// selected: the section in hand with its parts, or the amplifier at a glance and what is pencilled on it.
class Drawer : public QScrollArea {
  Q_OBJECT
public:
  Drawer(Session& session, Asker& asker, Selection& selection, const FindingsDesk& findings, QWidget* parent = nullptr);

  /// Follows the document.
  void refresh();
  void startAfresh();
  /// The start of the selected part's value, typed elsewhere.
  void typeValue(const QString& begun);

Q_SIGNALS:
  /// What `typeValue` began is chosen or given up.
  void typingEnded();

private:
  void showPart(const amp::ResolvedPart* ink, const amp::ResolvedPart& now);
  void showWhole();
  void showSection(const amp::SectionUse& use);
  [[nodiscard]] FigureTable::Rows sectionRows(const std::string& id) const;
  void showFindings();
  /// What follows from the answers, and what is asked for the selected part.
  void followIdle();
  void ask();
  void showReadings();
  void showSteps(bool shown);
  void setTitle(const QString& text);

  Session& session_;
  Asker& asker_;
  Selection& selection_;
  const FindingsDesk& findings_;
  Asking<predict::StepsQuestion, predict::Steps> steps_;
  Asking<predict::SupplyReportQuestion, predict::SupplyReport> report_;
  Answers<predict::SupplyReport> reports_;
  std::string stepsOf_; ///< the part whose steps are on screen

  QWidget *part_, *whole_; ///< shown in turn
  QLabel* title_;
  Paragraph *role_, *finding_, *does_, *stepFoot_, *tubesFoot_, *marks_, *empty_;
  QLabel *readingTitle_, *stepTitle_;
  ValueBox* value_;
  FigureTable *stepTable_, *readings_, *tubes_;
  ParameterForm* parameters_;
};

} // namespace vinegar::app
