#pragma once

#include <QWidget>
#include <functional>
#include <utility>
#include <vector>

namespace vinegar::app {

class Documents;
class Session;

/// Strips under the head that say what happened and wait until they are closed. Nothing is interrupted.
class Notices : public QWidget {
  Q_OBJECT
public:
  using Choice = std::pair<QString, std::function<void()>>;

  explicit Notices(QWidget* parent = nullptr);
  /// The same message is shown once. `danger` marks it with a sign and the danger colour.
  /// `subject`: of a notice that `withdraw` takes away once what it says no longer holds.
  void add(const QString& message, bool danger = false, const std::vector<Choice>& choices = {},
           const QString& subject = {});
  void withdraw(const QString& subject);
  /// What those say of saving and of the safety copy.
  void follow(const Session& session, const Documents& documents);
};

} // namespace vinegar::app
