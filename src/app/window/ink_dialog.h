#pragma once

#include <QDialog>

namespace vinegar::app {

/// Asks for the reason of a revision, showing what is about to be inked.
class InkDialog : public QDialog {
  Q_OBJECT
public:
  InkDialog(const QStringList& changes, QWidget* parent);

Q_SIGNALS:
  void reasonGiven(const QString& reason);
};

} // namespace vinegar::app
