#pragma once

#include "files/phrases.h"

#include <QWidget>

class QComboBox;

namespace vinegar::app {

/// What is played: a phrase on an instrument, or a recording of the builder's.
class PhraseBox : public QWidget {
  Q_OBJECT
public:
  explicit PhraseBox(const QString& dataFolder);

  /// Null where the shipped phrases cannot be read; then `problem` says why.
  [[nodiscard]] std::shared_ptr<const predict::Sound> sound() const { return sound_; }
  [[nodiscard]] const std::optional<Problem>& problem() const { return problem_; }
  /// A recording in a file, read on a thread of its own: `chosen` once it is there, or `refused`.
  void openRecording(const QString& path);
  /// "chord guitar": of what is chosen, for the settings.
  [[nodiscard]] QString choice() const;
  void choose(const QString& choice);
  /// What the phrase is for.
  [[nodiscard]] QString about() const;

Q_SIGNALS:
  void chosen();
  void recordingWanted();
  void refused(const QString& why);

private:
  void make();
  void take(std::shared_ptr<const predict::Sound> recording);

  files::Phrases phrases_;
  std::optional<Problem> problem_;
  QComboBox *phrase_, *instrument_;
  std::shared_ptr<const predict::Sound> sound_, recording_;
  int opened_ = 0; ///< recordings that were asked for so far
};

} // namespace vinegar::app
