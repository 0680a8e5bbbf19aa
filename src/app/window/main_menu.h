#pragma once

#include "document/documents.h"
#include "document/settings.h"

#include <QMenu>

class QActionGroup;

namespace vinegar::app {

class Actions;

/// The menu behind the head's button: the actions in their order, samples, recent files, looks and sizes.
class MainMenu : public QMenu {
  Q_OBJECT
public:
  MainMenu(Actions& actions, Documents& documents, Settings& settings, QWidget* parent);
  /// The look that is chosen; empty: as the desktop.
  void showTheme(const QString& name);

Q_SIGNALS:
  void themeWanted(const QString& name);
  void said(const QString& message);

private:
  void addThemes(QMenu* menu);
  void addScales(QMenu* menu);
  void fillRecent(QMenu* menu);

  Documents& documents_;
  Settings& settings_;
  QActionGroup* themes_;
};

/// Who made what, and that it can kill.
void showAbout(QWidget* window);

} // namespace vinegar::app
