#include "document/session.h"

#include "units/json.h"

#include <QCoreApplication>
#include <QDateTime>
#include <QDir>
#include <QFileInfo>
#include <QLocale>
#include <algorithm>
#include <csignal>

namespace vinegar::app {
namespace {

constexpr std::size_t longestHistory = 500;
constexpr int safetyDelayMs = 300;

QString lifeSignOf(const QString& safetyFile) { return safetyFile + QStringLiteral(".alive"); }

void removeCopy(const QString& file) {
  QFile::remove(file);
  QFile::remove(lifeSignOf(file));
}

/// Of copies that earlier versions wrote, which have the process number and no sign of life.
bool runs(qint64 pid) { return pid > 0 && ::kill(static_cast<pid_t>(pid), 0) == 0; }

} // namespace

Session::Session(const amp::Library& library, QString recoveryFolder, QObject* parent)
    : QObject(parent), library_(library), recoveryFolder_(std::move(recoveryFolder)) {
  history_.push_back({amp::Document{}, {}, {}});
  renewSides();
  safetyTimer_.setSingleShot(true);
  safetyTimer_.setInterval(safetyDelayMs);
  writer_.setMaxThreadCount(1);
  connect(&safetyTimer_, &QTimer::timeout, this, &Session::startSafetyCopy);
  if (recoveryFolder_.isEmpty()) return;
  static std::atomic<int> sessions = 0;
  safetyFile_ = recoveryFolder_ + QStringLiteral("/%1-%2-%3.recovery")
                                      .arg(QCoreApplication::applicationPid())
                                      .arg(QDateTime::currentMSecsSinceEpoch())
                                      .arg(++sessions);
  signOfLife();
}

Session::~Session() {
  removeSafetyCopy();
  writer_.waitForDone();
}

/// Tells other runs of the program that this one's copy is in use.
void Session::signOfLife() {
  QDir().mkpath(recoveryFolder_);
  life_ = std::make_unique<files::LifeSign>(lifeSignOf(safetyFile_).toStdString());
}

/// Not restarted while it runs: a builder who never rests has a copy all the same.
void Session::touched() {
  if (!safetyTimer_.isActive()) safetyTimer_.start();
}

const Session::Derived& Session::now() const {
  if (!derived_) {
    derived_ = Derived{amp::resolveParts(document().ink, library_), {}};
    derived_->pencilledParts =
        &pencilled() == sides_.all.front().design.get() ? derived_->inkParts : amp::resolveParts(pencilled(), library_);
  }
  return *derived_;
}

const amp::Design& Session::pencilled() const {
  const auto& all = sides_.all;
  return all.size() > 1 && all[1].look == Side::Look::active ? *all[1].design : *all[0].design;
}

void Session::renewSides() {
  const auto& document = this->document();
  Sides next{sides_.edition + 1, {}};
  const auto add = [&](const std::string& name, Side::Look look, std::size_t place, amp::Design design) {
    const auto before =
        std::find_if(sides_.all.begin(), sides_.all.end(), [&](const Side& side) { return *side.design == design; });
    next.all.push_back(
        {QString::fromStdString(name), look, static_cast<int>(place),
         before != sides_.all.end() ? before->design : std::make_shared<const amp::Design>(std::move(design))});
  };
  const auto addSheet = [&](std::size_t i) {
    const auto& sheet = document.sheets[i];
    if (!sheet.marks.empty() && next.all.size() <= mostSheets)
      add(sheet.name, i == document.activeSheet ? Side::Look::active : Side::Look::other, 1 + i,
          amp::settle(document.ink, library_, sheet.marks).design);
  };
  add({}, Side::Look::ink, 0, document.ink);
  addSheet(document.activeSheet);
  for (std::size_t i = 0; i < document.sheets.size(); ++i)
    if (i != document.activeSheet) addSheet(i);
  sides_ = std::move(next);
}

void Session::announce() {
  derived_.reset();
  renewSides();
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
  touched();
  announce();
}

void Session::pencil(const std::vector<amp::SetField>& changes, const QString& what) {
  edit(tr("pencil %1").arg(what), [&](amp::Document& document) {
    for (const auto& change : changes)
      amp::pencil(document, library_, change.part, change.field, change.to);
  });
}

void Session::undo() {
  if (!canUndo()) return;
  --position_;
  touched();
  announce();
}

void Session::redo() {
  if (!canRedo()) return;
  ++position_;
  touched();
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
  derived_.reset();
  renewSides();
  Q_EMIT replaced();
  announce();
}

void Session::reconsider() {
  derived_.reset();
  sides_.all.clear(); // what was known of these designs is void
  renewSides();
  Q_EMIT replaced();
  announce();
}

tl::expected<files::LoadedDesign, Problem> Session::read(const QString& path, const amp::Library& library) {
  return files::readDesign(QFileInfo(path).absoluteFilePath().toStdString(), library);
}

void Session::take(files::LoadedDesign loaded, const QString& path, bool asTemplate) {
  state_ = loaded.state;
  replace(std::move(loaded.document), asTemplate ? QString() : QFileInfo(path).absoluteFilePath(), loaded.readOnly,
          QString::fromStdString(loaded.note));
}

std::optional<Problem> Session::open(const QString& path, bool asTemplate) {
  auto loaded = read(path, library_);
  if (!loaded) return loaded.error();
  take(std::move(*loaded), path, asTemplate);
  return std::nullopt;
}

void Session::startEmpty() {
  amp::Document document;
  document.ink.name = tr("New amplifier").toStdString();
  state_ = {};
  replace(std::move(document), {}, false, {});
}

std::optional<Problem> Session::save(const QString& path) {
  const QFileInfo file(path);
  const auto absolute = file.absoluteFilePath();
  const auto canonical = file.canonicalFilePath(); // the same file by another way
  if (readOnly_ && (absolute == path_ || (!canonical.isEmpty() && canonical == QFileInfo(path_).canonicalFilePath())))
    return Problem{path.toStdString(), "is from a newer version and was opened read-only; save under another name"};
  files::FileState state;
  if (auto problem = files::saveDesign(absolute.toStdString(), document(), library_, &state)) return problem;
  state_ = state;
  path_ = absolute;
  readOnly_ = false;
  note_.clear();
  saved_ = static_cast<std::ptrdiff_t>(position_);
  removeSafetyCopy();
  announce();
  return std::nullopt;
}

Session::OnDisk Session::onDisk() const {
  if (path_.isEmpty() || !state_.exists) return OnDisk::asLeft;
  const auto now = files::FileState::at(path_.toStdString());
  return now == state_ ? OnDisk::asLeft : now.exists ? OnDisk::changed : OnDisk::gone;
}

/// A line of JSON that says whose copy it is, then the document as it would be saved.
void Session::startSafetyCopy() {
  if (safetyFile_.isEmpty()) return;
  if (!modified()) return removeSafetyCopy();
  if (writing_.exchange(true)) return touched(); // a slow disk; again in a while
  const units::Json head{{"recovery", 2},
                         {"path", path_.toStdString()},
                         {"name", document().ink.name},
                         {"when", QDateTime::currentDateTime().toString(Qt::ISODate).toStdString()},
                         {"readOnly", readOnly_},
                         {"exists", state_.exists},
                         {"size", state_.size},
                         {"hash", state_.hash}};
  writer_.start([this, head = head.dump(), document = document(), file = safetyFile_, folder = recoveryFolder_] {
    QDir().mkpath(folder);
    const auto problem =
        files::saveAtomically(file.toStdString(), head + "\n" + files::writeDesignText(document, library_));
    writing_ = false;
    if (!problem) {
      if (unsafe_.exchange(false)) QMetaObject::invokeMethod(this, &Session::safetyKept, Qt::QueuedConnection);
      return;
    }
    unsafe_ = true;
    QMetaObject::invokeMethod(
        this,
        [this, line = QString::fromStdString(problem->line())] {
          Q_EMIT safetyFailed(tr("No safety copy could be kept (%1). Save your work.").arg(line));
        },
        Qt::QueuedConnection);
  });
}

void Session::keepSafetyCopy() {
  writer_.waitForDone();
  startSafetyCopy();
  writer_.waitForDone();
  QCoreApplication::sendPostedEvents(this, QEvent::MetaCall); // whether it failed
}

void Session::removeSafetyCopy() {
  safetyTimer_.stop();
  if (!safetyFile_.isEmpty()) writer_.start([file = safetyFile_] { QFile::remove(file); });
}

namespace {

/// Nothing where the file is no safety copy, or its owner is at work.
std::optional<Session::Recoverable> readCopy(const QString& path) {
  const auto text = units::readFile(path.toStdString());
  if (!text || files::LifeSign::alive(lifeSignOf(path).toStdString())) return std::nullopt;
  const auto lineEnd = text->find('\n');
  const auto json = units::parseJson(text->substr(0, lineEnd), path.toStdString());
  if (!json) return std::nullopt;
  try {
    const units::JsonReader head(*json, path.toStdString());
    if (head.has("pid") && runs(static_cast<qint64>(head.number("pid")))) return std::nullopt;
    const auto when = QDateTime::fromString(QString::fromStdString(head.text("when")), Qt::ISODate);
    Session::Recoverable copy{path,
                              QString::fromStdString(head.text("name")),
                              QString::fromStdString(head.text("path")),
                              QLocale().toString(when, QLocale::ShortFormat),
                              head.flag("readOnly", false),
                              {},
                              head.has("recovery") ? static_cast<qsizetype>(lineEnd + 1) : 0};
    if (head.flag("exists", false))
      copy.state = {true, json->at("size").get<std::uint64_t>(), json->at("hash").get<std::uint64_t>()};
    return copy;
  } catch (const units::JsonMistake&) {
  } catch (const units::Json::exception&) {
  }
  return std::nullopt; // it is left where it is
}

} // namespace

std::vector<Session::Recoverable> Session::recoverable() const {
  std::vector<Recoverable> copies;
  if (recoveryFolder_.isEmpty()) return copies;
  const QDir folder(recoveryFolder_);
  files::removeLeftovers(recoveryFolder_.toStdString());
  for (const auto& entry : folder.entryInfoList({QStringLiteral("*.recovery")}, QDir::Files, QDir::Time))
    if (const auto copy = readCopy(entry.absoluteFilePath())) copies.push_back(*copy);
  for (const auto& entry : folder.entryInfoList({QStringLiteral("*.alive")}, QDir::Files)) {
    const auto sign = entry.absoluteFilePath();
    if (!QFile::exists(sign.chopped(6)) && !files::LifeSign::alive(sign.toStdString())) QFile::remove(sign);
  }
  return copies;
}

std::optional<Problem> Session::recover(const Recoverable& copy) {
  const auto text = units::readFile(copy.file.toStdString());
  if (!text) return text.error();
  std::string document;
  if (copy.documentAt > 0) {
    document = text->substr(static_cast<std::size_t>(copy.documentAt));
  } else { // as earlier versions wrote it
    const auto json = units::parseJson(*text, copy.file.toStdString());
    if (!json) return json.error();
    try {
      document = units::JsonReader(*json, copy.file.toStdString()).text("document");
    } catch (const units::JsonMistake& mistake) {
      return mistake.problem;
    }
  }
  auto loaded = files::readDesignText(document, copy.name.toStdString(), library_);
  if (loaded && !loaded->copies.empty() && takeCopies) {
    takeCopies(loaded->copies, copy.name.toStdString());
    loaded = files::readDesignText(document, copy.name.toStdString(), library_);
  }
  if (!loaded) return loaded.error();
  state_ = copy.state;
  replace(std::move(loaded->document), copy.originalPath, copy.readOnly || loaded->readOnly, {});
  saved_ = -1; // what was recovered is not in the file yet
  // The copy is taken over by its name, which needs no room on the disk; where that fails it stays where it is.
  writer_.waitForDone();
  if (QFile::rename(copy.file, safetyFile_)) QFile::remove(lifeSignOf(copy.file));
  touched();
  announce();
  return std::nullopt;
}

void Session::discard(const Recoverable& copy) { removeCopy(copy.file); }

} // namespace vinegar::app

#include "moc_session.cpp"
