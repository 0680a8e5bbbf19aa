#include "window/session.h"

#include "units/json.h"

#include <QCoreApplication>
#include <QDateTime>
#include <QDir>
#include <QFileInfo>
#include <QLocale>
#include <csignal>

namespace vinegar::app {
namespace {

constexpr std::size_t longestHistory = 500;
constexpr int safetyDelayMs = 300;

/// Whether the program instance that wrote a safety copy is still running.
bool alive(qint64 pid) { return pid > 0 && ::kill(static_cast<pid_t>(pid), 0) == 0; }

} // namespace

Session::Session(const amp::Library& library, QString recoveryFolder, QObject* parent)
    : QObject(parent), library_(library), recoveryFolder_(std::move(recoveryFolder)) {
  history_.push_back({amp::Document{}, {}, {}});
  safetyTimer_.setSingleShot(true);
  safetyTimer_.setInterval(safetyDelayMs);
  connect(&safetyTimer_, &QTimer::timeout, this, &Session::keepSafetyCopy);
  if (!recoveryFolder_.isEmpty())
    safetyFile_ = recoveryFolder_ + QStringLiteral("/%1-%2.recovery")
                                        .arg(QCoreApplication::applicationPid())
                                        .arg(QDateTime::currentMSecsSinceEpoch());
}

Session::~Session() { removeSafetyCopy(); }

const Session::Derived& Session::now() const {
  if (!derived_) {
    derived_ = Derived{amp::pencilled(document(), library_), amp::resolveParts(document().ink, library_), {}};
    derived_->pencilledParts = amp::resolveParts(derived_->pencilled, library_);
  }
  return *derived_;
}

void Session::announce() {
  derived_.reset();
  Q_EMIT changed();
}

void Session::edit(const QString& name, const std::function<void(amp::Document&)>& change, const QString& merge) {
  amp::Document next = document();
  change(next);
  if (next == document()) return;
  const bool merges = !merge.isEmpty() && position_ > 0 && position_ + 1 == history_.size() &&
                      history_[position_].merge == merge && saved_ != static_cast<std::ptrdiff_t>(position_);
  history_.resize(position_ + 1);
  if (saved_ > static_cast<std::ptrdiff_t>(position_)) saved_ = -1;
  if (merges) {
    history_[position_].document = std::move(next);
  } else {
    history_.push_back({std::move(next), name, merge});
    if (history_.size() > longestHistory) {
      history_.erase(history_.begin());
      --saved_;
    }
    position_ = history_.size() - 1;
  }
  safetyTimer_.start();
  announce();
}

void Session::undo() {
  if (!canUndo()) return;
  --position_;
  safetyTimer_.start();
  announce();
}

void Session::redo() {
  if (!canRedo()) return;
  ++position_;
  safetyTimer_.start();
  announce();
}

void Session::replace(amp::Document document, const QString& path, bool readOnly, const QString& note) {
  removeSafetyCopy();
  history_.clear();
  history_.push_back({std::move(document), {}, {}});
  position_ = 0;
  saved_ = 0;
  path_ = path;
  readOnly_ = readOnly;
  note_ = note;
  announce();
}

std::optional<Problem> Session::open(const QString& path, bool asTemplate) {
  const auto absolute = QFileInfo(path).absoluteFilePath();
  auto loaded = files::readDesign(absolute.toStdString(), library_);
  if (!loaded) return loaded.error();
  replace(std::move(loaded->document), asTemplate ? QString() : absolute, loaded->readOnly,
          QString::fromStdString(loaded->note));
  return std::nullopt;
}

void Session::startEmpty() {
  amp::Document document;
  document.ink.name = tr("New amplifier").toStdString();
  replace(std::move(document), {}, false, {});
}

std::optional<Problem> Session::save(const QString& path) {
  const auto absolute = QFileInfo(path).absoluteFilePath();
  if (readOnly_ && absolute == path_)
    return Problem{path.toStdString(), "is from a newer version and was opened read-only; save under another name"};
  if (auto problem = files::saveDesign(absolute.toStdString(), document(), library_)) return problem;
  path_ = absolute;
  readOnly_ = false;
  note_.clear();
  saved_ = static_cast<std::ptrdiff_t>(position_);
  removeSafetyCopy();
  announce();
  return std::nullopt;
}

void Session::keepSafetyCopy() {
  if (safetyFile_.isEmpty()) return;
  if (!modified()) return removeSafetyCopy();
  QDir().mkpath(recoveryFolder_);
  const units::Json json{{"pid", QCoreApplication::applicationPid()},
                         {"path", path_.toStdString()},
                         {"name", document().ink.name},
                         {"when", QDateTime::currentDateTime().toString(Qt::ISODate).toStdString()},
                         {"document", files::writeDesignText(document(), library_)}};
  if (const auto problem = files::saveAtomically(safetyFile_.toStdString(), json.dump()))
    Q_EMIT safetyFailed(
        tr("No safety copy could be kept (%1). Save your work.").arg(QString::fromStdString(problem->line())));
}

void Session::removeSafetyCopy() {
  safetyTimer_.stop();
  if (!safetyFile_.isEmpty()) QFile::remove(safetyFile_);
}

std::vector<Session::Recoverable> Session::recoverable() const {
  std::vector<Recoverable> copies;
  if (recoveryFolder_.isEmpty()) return copies;
  const QDir folder(recoveryFolder_);
  for (const auto& entry : folder.entryInfoList({QStringLiteral("*.recovery")}, QDir::Files, QDir::Time)) {
    const auto text = units::readFile(entry.absoluteFilePath().toStdString());
    const auto json = text ? units::parseJson(*text, entry.fileName().toStdString()) : tl::unexpected(text.error());
    if (!json) continue;
    try {
      const units::JsonReader copy(*json, entry.fileName().toStdString());
      if (alive(static_cast<qint64>(copy.number("pid")))) continue;
      const auto when = QDateTime::fromString(QString::fromStdString(copy.text("when")), Qt::ISODate);
      copies.push_back({entry.absoluteFilePath(), QString::fromStdString(copy.text("name")),
                        QString::fromStdString(copy.text("path")), QLocale().toString(when, QLocale::ShortFormat)});
    } catch (const units::JsonMistake&) { // a copy that cannot be read is left where it is
    }
  }
  return copies;
}

std::optional<Problem> Session::recover(const Recoverable& copy) {
  const auto text = units::readFile(copy.file.toStdString());
  if (!text) return text.error();
  const auto json = units::parseJson(*text, copy.file.toStdString());
  if (!json) return json.error();
  auto loaded = files::readDesignText(units::JsonReader(*json, "").text("document"), copy.name.toStdString(), library_);
  if (!loaded) return loaded.error();
  replace(std::move(loaded->document), copy.originalPath, loaded->readOnly, {});
  saved_ = -1; // what was recovered is not in the file yet
  keepSafetyCopy();
  QFile::remove(copy.file);
  announce();
  return std::nullopt;
}

void Session::discard(const Recoverable& copy) { QFile::remove(copy.file); }

} // namespace vinegar::app
