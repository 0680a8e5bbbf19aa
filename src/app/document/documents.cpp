#include "document/documents.h"

#include "document/saving.h"
#include "files/data_folder.h"
#include "theme/text.h"

#include <QDir>
#include <QEventLoop>
#include <QFileDialog>
#include <QFileInfo>
#include <QInputDialog>
#include <QLineEdit>
#include <QMessageBox>
#include <QProgressDialog>
#include <QPushButton>
#include <QThread>
#include <atomic>

namespace vinegar::app {
namespace {
constexpr int soonMs = 500; ///< longer work than this says that it is at work
} // namespace

Documents::Documents(Session& session, Settings& settings, QString dataFolder, QWidget* window)
    : session_(session), settings_(settings), dataFolder_(std::move(dataFolder)), window_(window) {}

Documents::~Documents() { standStill(); }

bool Documents::open(const QString& path) {
  const bool shipped = QFileInfo(path).absoluteFilePath().startsWith(
      QDir(dataFolder_ + QStringLiteral("/samples")).absolutePath() + QLatin1Char('/'));
  if (opening_) return false;
  opening_ = true;
  auto loaded = read(path);
  if (loaded && !loaded->copies.empty() && session_.takeCopies) {
    session_.takeCopies(loaded->copies, path.toStdString());
    loaded = read(path);
  }
  opening_ = false;
  if (!loaded) {
    if (!loaded.error().message.empty()) Q_EMIT said(QString::fromStdString(loaded.error().line()), true);
    return false;
  }
  session_.take(std::move(*loaded), path, shipped);
  if (!session_.note().isEmpty()) Q_EMIT said(session_.note(), false);
  if (const auto odd = amp::remarks(session_.document(), session_.library()); !odd.empty())
    Q_EMIT said(odd.size() == 1 ? QString::fromStdString(odd.front().line())
                                : tr("%1 (and %2 more like it; `vinegar-cli check` lists them)")
                                      .arg(QString::fromStdString(odd.front().line()), QString::number(odd.size() - 1)),
                false);
  if (!shipped) {
    settings_.addRecent(session_.path());
    settings_.save();
  }
  return true;
}

/// On a thread of its own: a file may be large or its disk slow. After half a second it says so and can be given up,
/// which is a Problem without words.
tl::expected<files::LoadedDesign, Problem> Documents::read(const QString& path) {
  struct Reading {
    std::atomic<bool> done = false, givenUp = false;
    tl::expected<files::LoadedDesign, Problem> loaded = tl::unexpected(Problem{});
  };
  const auto reading = std::make_shared<Reading>();
  const auto absolute = QFileInfo(path).absoluteFilePath().toStdString();
  QEventLoop loop;
  auto* worker = QThread::create([path = absolute, reading, library = &session_.library(), held = readsLibrary_] {
    reading->loaded = files::readDesign(path, *library, [&] {
      std::unique_lock lock(*held);
      if (reading->givenUp) lock.unlock();
      return lock;
    });
    reading->done = true;
  });
  connect(worker, &QThread::finished, &loop, &QEventLoop::quit);
  connect(worker, &QThread::finished, worker, &QObject::deleteLater);
  worker->start();
  QTimer::singleShot(soonMs, &loop, &QEventLoop::quit);
  loop.exec(QEventLoop::ExcludeUserInputEvents);
  if (reading->done) return std::move(reading->loaded);
  QProgressDialog progress(tr("Opening %1").arg(QFileInfo(path).fileName()), tr("Cancel"), 0, 0, window_);
  progress.setObjectName(QStringLiteral("opening"));
  progress.setWindowModality(Qt::WindowModal);
  progress.setLabel(new Label(progress.labelText()));
  connect(&progress, &QProgressDialog::canceled, &loop, &QEventLoop::quit);
  progress.show();
  if (!reading->done) loop.exec();
  if (reading->done) return std::move(reading->loaded);
  reading->givenUp = true;
  return tl::unexpected(Problem{});
}

void Documents::standStill() const { const std::lock_guard wait(*readsLibrary_); }

bool Documents::openSample(const QString& id) {
  return open(dataFolder_ + QStringLiteral("/samples/") + id + QStringLiteral(".vinegar"));
}

QStringList Documents::samples() const {
  QStringList ids;
  for (const auto& file : QDir(dataFolder_ + QStringLiteral("/samples"))
                              .entryInfoList({QStringLiteral("*.vinegar")}, QDir::Files, QDir::Name))
    ids << file.completeBaseName();
  return ids;
}

QString Documents::sampleTitle(const QString& id) {
  QString title = id;
  title.replace(QLatin1Char('-'), QLatin1Char(' '));
  for (int i = 0; i < title.size(); ++i)
    if (i == 0 || title[i - 1] == QLatin1Char(' ')) title[i] = title[i].toUpper();
  return title;
}

void Documents::openAsked() {
  const QString path = QFileDialog::getOpenFileName(window_, tr("Open a design"), QFileInfo(session_.path()).path(),
                                                    tr("Vinegar designs (*.vinegar);;All files (*)"));
  if (!path.isEmpty() && mayDiscard()) open(path);
}

bool Documents::startEmpty() {
  if (!mayDiscard()) return false;
  session_.startEmpty();
  return true;
}

QString Documents::ownSkeletons() { return QString::fromStdString((files::ownDataFolder() / "skeletons").string()); }

void Documents::keepAsSkeleton() {
  amp::Document skeleton;
  skeleton.ink = session_.pencilled();
  if (skeleton.ink.sections().empty()) return Q_EMIT said(tr("There is nothing to keep yet."), false);
  const auto folder = ownSkeletons();
  QString file = QString::fromStdString(skeleton.ink.name).trimmed();
  file.replace(QLatin1Char('/'), QLatin1Char('-'));
  if (file.isEmpty() || file.startsWith(QLatin1Char('.'))) file.prepend(QStringLiteral("amplifier"));
  const QString path = QStringLiteral("%1/%2.vinegar").arg(folder, file.left(100));
  if (!QDir().mkpath(folder)) return Q_EMIT said(tr("The folder %1 cannot be made.").arg(folder), true);
  if (QFileInfo::exists(path) &&
      QMessageBox::question(window_, tr("Keep as a skeleton"), tr("Replace your skeleton \u201c%1\u201d?").arg(file)) !=
          QMessageBox::Yes)
    return;
  bool accepted = false;
  skeleton.about =
      QInputDialog::getText(window_, tr("Keep as a skeleton"), tr("What is it for? One line."), QLineEdit::Normal,
                            QString::fromStdString(session_.document().about), &accepted)
          .trimmed()
          .toStdString();
  if (!accepted) return;
  if (const auto problem = files::saveDesign(path.toStdString(), skeleton, session_.library()))
    return Q_EMIT said(QString::fromStdString(problem->line()), true);
  Q_EMIT said(tr("Kept among your skeletons: New amplifier offers it."), false);
}

void Documents::rename() {
  bool accepted = false;
  const QString name = QInputDialog::getText(window_, tr("Rename"), tr("Name of the amplifier"), QLineEdit::Normal,
                                             QString::fromStdString(session_.document().ink.name), &accepted);
  if (accepted && !name.trimmed().isEmpty())
    session_.edit(tr("rename"), [&](amp::Document& d) { d.ink.name = name.trimmed().toStdString(); });
}

bool Documents::save() {
  if (session_.path().isEmpty() || session_.readOnly()) return saveAs();
  if (const auto onDisk = session_.onDisk(); onDisk != Session::OnDisk::asLeft) return settleWithOthers(onDisk);
  return saveTo(session_.path());
}

bool Documents::saveTo(const QString& path) {
  if (const auto problem = session_.save(path)) {
    Q_EMIT notSaved(QString::fromStdString(problem->line()));
    return false;
  }
  Q_EMIT saved();
  settings_.addRecent(session_.path());
  return true;
}

bool Documents::settleWithOthers(Session::OnDisk onDisk) {
  const auto name = QFileInfo(session_.path()).fileName();
  const bool gone = onDisk == Session::OnDisk::gone;
  QMessageBox box(QMessageBox::Warning, tr("Changed elsewhere"),
                  gone ? tr("%1 is no longer where it was: it was removed or renamed since you opened it.").arg(name)
                       : tr("%1 was changed by another program or window since you opened it.").arg(name),
                  QMessageBox::Cancel, window_);
  box.setObjectName(QStringLiteral("changedElsewhere"));
  box.setTextFormat(Qt::PlainText);
  box.setInformativeText(gone ? tr("Nothing is lost: your work is open here.")
                              : tr("Save over it and their changes are gone; take theirs and yours are."));
  auto* mine = box.addButton(gone ? tr("Save it there again") : tr("Keep mine"), QMessageBox::DestructiveRole);
  auto* theirs = gone ? nullptr : box.addButton(tr("Take theirs"), QMessageBox::DestructiveRole);
  auto* beside = box.addButton(tr("Save beside it\u2026"), QMessageBox::AcceptRole);
  box.setDefaultButton(beside);
  box.exec();
  if (box.clickedButton() == mine) return saveTo(session_.path());
  if (box.clickedButton() == beside) return saveAs();
  if (theirs && box.clickedButton() == theirs) open(session_.path());
  return false;
}

bool Documents::saveAs() {
  QString proposed = session_.path();
  if (proposed.isEmpty()) {
    proposed = fileNameOf(QString::fromStdString(session_.document().ink.name)) + QStringLiteral(".vinegar");
  } else if (session_.readOnly() || session_.onDisk() == Session::OnDisk::changed) {
    const QFileInfo file(proposed);
    proposed = file.path() + QLatin1Char('/') + file.completeBaseName() + tr("-mine") + QStringLiteral(".vinegar");
  }
  const QString path = askWhereToSave(window_, tr("Save the design"), proposed, {tr("Vinegar designs (*.vinegar)")});
  return !path.isEmpty() && saveTo(path);
}

bool Documents::mayDiscard() {
  if (!session_.modified()) return true;
  QMessageBox box(QMessageBox::Question, tr("Not saved"),
                  tr("%1 has changes that are not saved.").arg(QString::fromStdString(session_.document().ink.name)),
                  QMessageBox::Save | QMessageBox::Discard | QMessageBox::Cancel, window_);
  box.setTextFormat(Qt::PlainText);
  box.setDefaultButton(QMessageBox::Save);
  const auto answer = box.exec();
  if (answer == QMessageBox::Save) return save();
  return answer == QMessageBox::Discard;
}

void Documents::offerRecovery() {
  for (const auto& copy : session_.recoverable())
    Q_EMIT offered(tr("Unsaved work on \u201c%1\u201d from %2 was found; the program did not end properly.")
                       .arg(copy.name, copy.when),
                   {{tr("Recover"),
                     [this, copy] {
                       if (!mayDiscard()) return offerRecovery();
                       if (const auto problem = session_.recover(copy)) {
                         Q_EMIT said(QString::fromStdString(problem->line()), true);
                         offerRecovery();
                       }
                     }},
                    {tr("Discard"), [copy] { Session::discard(copy); }}});
}

} // namespace vinegar::app

#include "moc_documents.cpp"
