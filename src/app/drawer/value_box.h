#pragma once

#include "amp/design/design.h"

#include <QWidget>

class QCheckBox;
class QComboBox;
class QLabel;
class QLineEdit;
class QPushButton;

namespace vinegar::app {

class Dial;
class FigureTable;
class Knob;
class Paragraph;
class Session;

/// Pencils a field of a part in as one undo step; steps of one turn become one. Why not, where the value cannot be.
std::optional<Problem> pencilField(Session& session, const std::string& part, const std::string& field,
                                   const amp::Setting& setting);

/// A part's value in ink and pencil with what changes it: the dial, a typed value, the tube type, the taper, the knob,
/// fitted or not, rub out.
class ValueBox : public QWidget {
  Q_OBJECT
public:
  ValueBox(Session& session, int width, QWidget* parent = nullptr);

  /// `ink` may be null, of a part that only the pencil has.
  void show(const amp::ResolvedPart* ink, const amp::ResolvedPart& now);
  void sayError(const QString& words);
  void clearError();
  /// A value's first letters, typed elsewhere: the box for typing goes on from there. False where the part has none.
  bool startTyping(const QString& begun);

Q_SIGNALS:
  /// What `startTyping` began is chosen or given up.
  void typingEnded();

protected:
  bool eventFilter(QObject* watched, QEvent* event) override;

private:
  void choose(const std::string& field, const amp::Setting& setting);
  void chooseTyped();
  void measureTaper();
  void showTaper(const amp::ResolvedPart& now);
  void showValues(const amp::ResolvedPart* ink, const amp::ResolvedPart& now);
  void showKnob(const amp::ResolvedPart& control);

  Session& session_;
  std::string part_;
  FigureTable* values_;
  Dial* dial_;
  QLineEdit* typed_;
  QComboBox *tube_, *taper_;
  QCheckBox* fitted_;
  Paragraph* error_;
  QPushButton* rubOut_;
  QWidget* knobRow_;
  Knob* knob_ = nullptr;
  std::string knobFor_; ///< section and name
  bool begunElsewhere_ = false;
};

} // namespace vinegar::app
