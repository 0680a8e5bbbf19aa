#pragma once

#include <QWidget>

class QLabel;
class QLineEdit;
class QMenu;
class QPushButton;
class QStringListModel;
class QToolButton;

namespace vinegar::app {

class Session;

/// The strip along the top: menu, the amplifier's name and revision, the pencil and what to do with it, find, theme.
class HeadStrip : public QWidget {
  Q_OBJECT
public:
  explicit HeadStrip(Session& session, QWidget* parent = nullptr);

  void setMenu(QMenu* menu);
  void showMenu();
  void refresh();
  /// The theme button offers the other theme.
  void restyle();
  /// Puts the cursor into the find box; `typed` starts a name.
  void startFind(const QString& typed = {});
  void clearFind();

Q_SIGNALS:
  void inkWanted();
  void nextMarkWanted();
  void themeWanted();
  void pageWanted(const QString& id);
  void partWanted(const QString& name);
  void said(const QString& message);

protected:
  void resizeEvent(QResizeEvent* event) override;

private:
  void fillSheetMenu();

  Session& session_;
  QLabel *name_, *revision_;
  QPushButton *marks_, *rubOut_, *ink_;
  QToolButton *menuButton_, *sheet_, *themeButton_;
  QMenu* sheetMenu_;
  void find(const QString& text);

  QLineEdit* find_;
  QStringListModel* findModel_;
  QString nameShown_, sheetShown_;
  int nameRoom_ = -1;
};

} // namespace vinegar::app
