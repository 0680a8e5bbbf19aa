#pragma once

#include <QStackedWidget>
#include <functional>

class QLabel;
class QPushButton;

namespace vinegar::app {

/// A pane's content, or in place of it what is to be said: that there is nothing yet and what to do about it, or what
/// is wrong, where, and how it is mended.
class StatePane : public QStackedWidget {
  Q_OBJECT
public:
  explicit StatePane(QWidget* content, QWidget* parent = nullptr);

  void showContent();
  /// `act`: written on a button under the words; it does `acted`. Empty: no button.
  void say(const QString& words, bool danger = false, const QString& act = {}, std::function<void()> acted = {});
  /// A warning over the content, which stays: what is shown is not what was asked for. Empty: none.
  void warnAbove(const QString& words, const QString& act = {}, std::function<void()> acted = {});
  /// What is said, in place of the content or above it; empty while the content stands alone.
  [[nodiscard]] QString said() const;

private:
  QLabel *words_, *above_;
  QPushButton *act_, *actAbove_;
  std::function<void()> acted_, actedAbove_;
};

} // namespace vinegar::app
