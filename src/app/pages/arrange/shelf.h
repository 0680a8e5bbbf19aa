#pragma once

#include "amp/acts/acts.h"

#include <QWidget>

class QLineEdit;
class QListWidget;

namespace vinegar::app {

/// The section library as a list, grouped by what a builder wants of it: what fits first, the others with the reason
/// why not. Filtered by typing; arrow keys look at one after the other, Enter takes it.
class Shelf : public QWidget {
  Q_OBJECT
public:
  explicit Shelf(QWidget* parent = nullptr);

  /// `group`: the one that comes first, where the others are only remotely meant.
  void setCandidates(std::vector<amp::Candidate> candidates, const std::string& group = {});
  /// The one looked at; null where there is none.
  [[nodiscard]] const amp::Candidate* looked() const;
  void startTyping();
  /// Nothing is looked for any more.
  void showAll();

Q_SIGNALS:
  void lookedAt();
  void taken();

protected:
  bool eventFilter(QObject* watched, QEvent* event) override;

private:
  void fill();

  QLineEdit* filter_;
  QListWidget* list_;
  std::vector<amp::Candidate> candidates_;
  std::string group_;
};

} // namespace vinegar::app
