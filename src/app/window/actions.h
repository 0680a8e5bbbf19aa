#pragma once

#include <QKeySequence>
#include <QObject>
#include <functional>
#include <vector>

class QAction;
class QWidget;

namespace vinegar::app {

/// Everything that can be done by a name: menus, keys, the sheet of keys and the tests come from this one list.
class Actions : public QObject {
  Q_OBJECT
public:
  explicit Actions(QWidget* window);

  /// `id` is English and for the program; `text` may hold an ellipsis where something is asked. The first of `keys` is
  /// the one that is told.
  QAction* add(const char* id, const QString& group, const QString& text, const QList<QKeySequence>& keys,
               std::function<void()> act);
  /// Keys that a widget knows by itself while it has the focus.
  void note(const QString& group, const QString& keys, const QString& text);
  /// All of those.
  void noteKeys();
  [[nodiscard]] QAction* action(const char* id) const;
  void trigger(const char* id) const;
  /// The sheet of all keys.
  void showKeys();

private:
  struct Entry {
    QString group, keys, text;
    QAction* action = nullptr; ///< null: a note
  };
  QWidget* window_;
  std::vector<Entry> entries_;
};

} // namespace vinegar::app
