#pragma once

#include "run/glyphs.h"

#include <QByteArray>
#include <QString>
#include <QStringList>

namespace vinegar::app {

/// What the program remembers between starts, in the user's configuration folder.
struct Settings {
  QString theme = QStringLiteral("vellum");
  ResistorStyle resistors = ResistorStyle::box;
  double scale = 1; ///< takes effect at start
  double runZoom = 1;
  bool runShown = true;
  QString page = QStringLiteral("Voice");
  QStringList recent;
  QByteArray geometry;
  QByteArray splitter;

  static Settings load();
  void save() const;
  void addRecent(const QString& path);
};

} // namespace vinegar::app
