#pragma once

#include "amp/design.h"
#include "files/design_file.h"

#include <QObject>
#include <QString>
#include <QTimer>
#include <functional>
#include <optional>
#include <vector>

namespace vinegar::app {

/// The open document with its history, its file and its safety copy. Widgets show it and ask it to change; every
/// change goes through `edit`, so everything can be undone.
class Session : public QObject {
  Q_OBJECT
public:
  /// `recoveryFolder` is where the safety copy is kept while there are unsaved changes; empty: none is kept.
  Session(const amp::Library& library, QString recoveryFolder, QObject* parent = nullptr);
  ~Session() override;

  [[nodiscard]] const amp::Library& library() const { return library_; }
  [[nodiscard]] const amp::Document& document() const { return history_[position_].document; }
  /// Ink with the active sheet over it.
  [[nodiscard]] const amp::Design& pencilled() const { return now().pencilled; }
  [[nodiscard]] const std::vector<amp::ResolvedPart>& inkParts() const { return now().inkParts; }
  [[nodiscard]] const std::vector<amp::ResolvedPart>& pencilledParts() const { return now().pencilledParts; }

  /// Changes the document as one named undo step. Steps of the same non-empty `merge` key that follow each other
  /// become one. A change that changes nothing leaves no step.
  void edit(const QString& name, const std::function<void(amp::Document&)>& change, const QString& merge = {});
  void undo();
  void redo();
  [[nodiscard]] bool canUndo() const { return position_ > 0; }
  [[nodiscard]] bool canRedo() const { return position_ + 1 < history_.size(); }
  [[nodiscard]] QString undoName() const { return canUndo() ? history_[position_].name : QString(); }
  [[nodiscard]] QString redoName() const { return canRedo() ? history_[position_ + 1].name : QString(); }

  [[nodiscard]] bool modified() const { return saved_ != static_cast<std::ptrdiff_t>(position_); }
  [[nodiscard]] bool readOnly() const { return readOnly_; }
  /// Empty until saved or opened from a file of the builder's own.
  [[nodiscard]] QString path() const { return path_; }
  [[nodiscard]] QString note() const { return note_; }

  /// Replaces the document. `asTemplate`: keep no path, so that saving asks for one (shipped samples).
  std::optional<Problem> open(const QString& path, bool asTemplate = false);
  void startEmpty();
  std::optional<Problem> save(const QString& path);

  /// A safety copy that a run of the program which ended without saving left behind.
  struct Recoverable {
    QString file, name, originalPath, when;
  };
  [[nodiscard]] std::vector<Recoverable> recoverable() const;
  std::optional<Problem> recover(const Recoverable& copy);
  static void discard(const Recoverable& copy);
  /// Writes the safety copy now, if there is something unsaved.
  void keepSafetyCopy();

Q_SIGNALS:
  void changed();
  /// The safety copy could not be written.
  void safetyFailed(const QString& message);

private:
  struct Step {
    amp::Document document;
    QString name, merge;
  };
  /// What follows from the document, worked out once per change.
  struct Derived {
    amp::Design pencilled;
    std::vector<amp::ResolvedPart> inkParts, pencilledParts;
  };
  const Derived& now() const;
  void announce();
  void replace(amp::Document document, const QString& path, bool readOnly, const QString& note);
  void removeSafetyCopy();

  const amp::Library& library_;
  QString recoveryFolder_, safetyFile_, path_, note_;
  bool readOnly_ = false;
  std::vector<Step> history_;
  std::size_t position_ = 0;
  mutable std::optional<Derived> derived_;
  std::ptrdiff_t saved_ = 0;
  QTimer safetyTimer_;
};

} // namespace vinegar::app
