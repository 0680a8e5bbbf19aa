#pragma once

#include "document/selection.h"
#include "document/session.h"

#include <QWidget>

class QGridLayout;
class QLabel;
class QPushButton;

namespace vinegar::app {

class Paragraph;

/// The section or place in hand: what it is for, where its ports go, and what can be done with it.
class InHand : public QWidget {
  Q_OBJECT
public:
  InHand(Session& session, Selection& selection, QWidget* parent = nullptr);
  void follow();

private:
  void followPlace();
  void followSection(const amp::SectionUse& use);
  void fill();
  void clearJoins();

  Session& session_;
  Selection& selection_;
  QLabel* title_;
  Paragraph* use_;
  QWidget* joins_;
  QGridLayout* grid_;
  QWidget* acts_;
  std::vector<QPushButton*> buttons_;
};

} // namespace vinegar::app
