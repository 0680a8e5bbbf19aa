#pragma once

#include "amp/design/section.h"

#include <QObject>
#include <QStringList>
#include <filesystem>
#include <functional>

namespace vinegar::app {

/// A builder's own sections, roles and tubes: read again, imported, taken in from designs that bring them. The only one
/// that changes the library; whoever reads it must stand still meanwhile.
class OwnLibrary : public QObject {
  Q_OBJECT
public:
  /// `folder` need not be there. `standStill`: back when nobody reads the library; `changed`: all may read again.
  OwnLibrary(amp::Library& library, std::filesystem::path folder, std::function<void()> standStill,
             std::function<void()> changed, QWidget* window);

  /// Once more from the folder, after files there were changed, added or taken away.
  void readAgain();
  /// Asks for a file.
  void importAsked();
  /// Puts a copy of the file among his own, if it is a faultless section, tube or role file, and takes it in.
  void import(const QString& path);
  /// Takes in what a design brings; for this session only.
  void takeCopies(const std::string& copies, const std::string& from);

Q_SIGNALS:
  void said(const QString& message, bool danger);

private:
  /// Changes the library while nobody reads it and tells what could not be taken. Whether all could.
  bool change(const std::function<std::vector<Problem>()>& how);

  amp::Library& library_;
  std::filesystem::path folder_;
  std::function<void()> standStill_, changed_;
  QWidget* window_;
};

/// What is wrong with a builder's own files, in a few lines.
QStringList faultyLines(const std::vector<Problem>& faulty);

} // namespace vinegar::app
