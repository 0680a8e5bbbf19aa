#pragma once

#include "document/session.h"
#include "document/settings.h"

#include <functional>
#include <memory>
#include <mutex>

class QWidget;

namespace vinegar::app {

/// Opening, saving, recent files and recovery, with what has to be asked on the way. Nothing is lost unasked.
class Documents : public QObject {
  Q_OBJECT
public:
  using Choice = std::pair<QString, std::function<void()>>;

  Documents(Session& session, Settings& settings, QString dataFolder, QWidget* window);
  ~Documents() override;

  /// Opens a design and says so if it cannot be.
  bool open(const QString& path);
  bool openSample(const QString& id);
  void openAsked();
  /// False where the builder wants to keep what is open.
  bool startEmpty();
  /// What is pencilled becomes a skeleton of the builder's own, without its log.
  void keepAsSkeleton();
  /// Where those are.
  [[nodiscard]] static QString ownSkeletons();
  bool save();
  bool saveAs();
  void rename();
  /// Whether what is open may be given up: saved, discarded on purpose, or nothing to lose.
  bool mayDiscard();
  /// A strip for each safety copy found.
  void offerRecovery();
  /// Back when no thread whose file was given up reads the library any more: it may then be changed.
  void standStill() const;
  /// Sample ids, by the names of their files.
  [[nodiscard]] QStringList samples() const;
  static QString sampleTitle(const QString& id);

Q_SIGNALS:
  void said(const QString& message, bool danger);
  void notSaved(const QString& why);
  void saved();
  void offered(const QString& message, const std::vector<vinegar::app::Documents::Choice>& choices);

private:
  tl::expected<files::LoadedDesign, Problem> read(const QString& path);
  bool saveTo(const QString& path);
  /// Asks what is to become of a file that somebody else has changed or removed. Whether it was saved.
  bool settleWithOthers(Session::OnDisk onDisk);

  Session& session_;
  Settings& settings_;
  QString dataFolder_;
  QWidget* window_;
  bool opening_ = false;
  std::shared_ptr<std::mutex> readsLibrary_ = std::make_shared<std::mutex>(); ///< held by a thread that does
};

} // namespace vinegar::app
