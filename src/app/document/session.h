#pragma once

#include "amp/change/document.h"
#include "document/sides.h"
#include "files/design_file.h"

#include <QObject>
#include <QString>
#include <QThreadPool>
#include <QTimer>
#include <atomic>
#include <functional>
#include <memory>
#include <optional>
#include <vector>

namespace vinegar::app {

/// The open document with its history, its file and its safety copy. Widgets show it and ask it to change; every
/// change goes through `edit`, so everything can be undone. All of it is the window's thread's, but `read`.
class Session : public QObject {
  Q_OBJECT
public:
  /// `recoveryFolder` is where the safety copy is kept while there are unsaved changes; empty: none is kept.
  Session(const amp::Library& library, QString recoveryFolder, QObject* parent = nullptr);
  ~Session() override;

  [[nodiscard]] const amp::Library& library() const { return library_; }
  [[nodiscard]] const amp::Document& document() const { return history_[position_].document; }
  /// What is compared; see Sides. Valid until the next change.
  [[nodiscard]] const Sides& sides() const { return sides_; }
  /// Ink with the active sheet over it.
  [[nodiscard]] const amp::Design& pencilled() const;
  [[nodiscard]] const std::vector<amp::ResolvedPart>& inkParts() const { return now().inkParts; }
  [[nodiscard]] const std::vector<amp::ResolvedPart>& pencilledParts() const { return now().pencilledParts; }

  /// Changes the document as one named undo step. Steps of the same non-empty `merge` key that follow each other
  /// become one. A change that changes nothing leaves no step.
  void edit(const QString& name, const std::function<void(amp::Document&)>& change, const QString& merge = {});
  /// Pencils these fields as one step, called after what they make: "12AU7", "a colder bias".
  void pencil(const std::vector<amp::SetField>& changes, const QString& what);
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
  /// The two halves of `open`. Reading may take seconds and run on any thread.
  static tl::expected<files::LoadedDesign, Problem> read(const QString& path, const amp::Library& library);
  void take(files::LoadedDesign loaded, const QString& path, bool asTemplate);
  void startEmpty();
  /// The library has grown or changed: all that follows from the document is worked out anew.
  void reconsider();
  /// Called with the copies of sections, roles and tubes that a design brings and the library lacks, and where they
  /// come from; the design is then read again. Unset: it stays without them.
  std::function<void(const std::string& copies, const std::string& from)> takeCopies;
  /// Whoever else has changed the file is not asked about here: see `onDisk`.
  std::optional<Problem> save(const QString& path);
  /// What has become of the document's file since it was read or saved last. Reads the file.
  enum class OnDisk { asLeft, changed, gone };
  [[nodiscard]] OnDisk onDisk() const;

  /// A safety copy that a run of the program which ended without saving left behind.
  struct Recoverable {
    QString file, name, originalPath, when;
    bool readOnly = false;
    files::FileState state;   ///< of the original file when it was read or saved last
    qsizetype documentAt = 0; ///< where the document starts in the file
  };
  [[nodiscard]] std::vector<Recoverable> recoverable() const;
  /// The copy becomes this session's own; it is not lost before the document is saved.
  std::optional<Problem> recover(const Recoverable& copy);
  static void discard(const Recoverable& copy);
  /// Writes the safety copy, if there is something unsaved, and waits until it is written. It is written by itself
  /// shortly after the first change and again as long as changes go on, on a thread of its own.
  void keepSafetyCopy();
  /// Back when no safety copy is being written: the library may then be changed.
  void standStill() { writer_.waitForDone(); }

Q_SIGNALS:
  /// Another document stands here now, before `changed`: what was shown of the former one is void.
  void replaced();
  void changed();
  /// The safety copy could not be written; then, that it could again.
  void safetyFailed(const QString& message);
  void safetyKept();

private:
  struct Step {
    amp::Document document;
    QString name, merge;
  };
  /// What follows from the document, worked out once per change.
  struct Derived {
    std::vector<amp::ResolvedPart> inkParts, pencilledParts;
  };
  const Derived& now() const;
  void announce();
  void renewSides();
  void replace(amp::Document document, const QString& path, bool readOnly, const QString& note);
  void startSafetyCopy();
  void removeSafetyCopy();
  void signOfLife();
  void touched();

  const amp::Library& library_;
  QString recoveryFolder_, safetyFile_, path_, note_;
  bool readOnly_ = false;
  files::FileState state_; ///< of the file at path_, when read or saved last
  std::vector<Step> history_;
  std::size_t position_ = 0;
  Sides sides_;
  mutable std::optional<Derived> derived_;
  std::ptrdiff_t saved_ = 0;
  QTimer safetyTimer_;
  std::unique_ptr<files::LifeSign> life_;
  std::atomic<bool> writing_ = false, unsafe_ = false;
  QThreadPool writer_; ///< one thread, so that copies are written and removed in order
};

} // namespace vinegar::app
