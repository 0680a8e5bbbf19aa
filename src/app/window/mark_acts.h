#pragma once

#include "document/selection.h"

#include <functional>

class QWidget;

namespace vinegar::app {

/// What is done with all pencil marks, and with the ink's names.
class MarkActs {
public:
  using Say = std::function<void(const QString& message)>;
  MarkActs(Session& session, Selection& selection, Say say)
      : session_(session), selection_(selection), say_(std::move(say)) {}

  /// Asks why, then makes the pencil the new ink.
  void inkAsked(QWidget* window);
  void rubOutAll();
  /// Selects the first part of the mark after that of the selected part.
  void selectNext();
  /// Straight into ink: names alone are no change of the amplifier, so there is nothing to hear or weigh first.
  void renumber();

private:
  Session& session_;
  Selection& selection_;
  Say say_;
};

} // namespace vinegar::app
