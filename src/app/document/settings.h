#pragma once

#include <QByteArray>
#include <QMap>
#include <QString>
#include <QStringList>

namespace vinegar::app {

enum class ResistorStyle { box, zigzag };

/// What the program remembers between starts, in the user's configuration folder.
struct Settings {
  QString theme; ///< "vellum", "lamp", or empty: as the desktop
  ResistorStyle resistors = ResistorStyle::box;
  double scale = 1; ///< takes effect at start
  double runZoom = 1;
  bool runShown = true;
  QString page; ///< id; empty at the first start
  QStringList recent;
  QByteArray geometry;
  QMap<QString, QByteArray> splitters; ///< by page: where the builder drew the line under the run
  QMap<QString, QByteArray> views;     ///< by page: what it was showing, in the page's own form

  static Settings load();
  void save() const;
  void addRecent(const QString& path);
};

} // namespace vinegar::app
