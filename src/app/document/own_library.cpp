#include "document/own_library.h"

#include "files/safe_file.h"
#include "theme/text.h"
#include "units/json.h"

#include <QDir>
#include <QFileDialog>
#include <QFileInfo>
#include <QMessageBox>

namespace vinegar::app {

OwnLibrary::OwnLibrary(amp::Library& library, std::filesystem::path folder, std::function<void()> standStill,
                       std::function<void()> changed, QWidget* window)
    : QObject(window), library_(library), folder_(std::move(folder)), standStill_(std::move(standStill)),
      changed_(std::move(changed)), window_(window) {}

bool OwnLibrary::change(const std::function<std::vector<Problem>()>& how) {
  standStill_();
  const auto faulty = how();
  changed_();
  for (const auto& line : faultyLines(faulty))
    Q_EMIT said(line, true);
  return faulty.empty();
}

void OwnLibrary::readAgain() {
  if (change([this] { return library_.addOwn(folder_); }))
    Q_EMIT said(tr("Your own sections, tubes and roles are read again from %1.").arg(QString::fromStdString(folder_)),
                false);
}

void OwnLibrary::importAsked() {
  const auto path = QFileDialog::getOpenFileName(window_, tr("Import a section or tube"), {},
                                                 tr("Section, tube and role files (*.json);;All files (*)"));
  if (!path.isEmpty()) import(path);
}

void OwnLibrary::import(const QString& path) {
  const auto text = units::readFile(path.toStdString());
  if (!text) return Q_EMIT said(QString::fromStdString(text.error().line()), true);
  const auto place = library_.placeForOwn(*text, path.toStdString());
  if (!place) return Q_EMIT said(QString::fromStdString(place.error().line()), true);
  const auto target = folder_ / *place;
  const auto name = QString::fromStdString(place->stem().string());
  if (const auto folder = QString::fromStdString(target.parent_path().string()); !QDir().mkpath(folder))
    return Q_EMIT said(tr("The folder %1 cannot be made.").arg(folder), true);
  const auto there = units::readFile(target.string());
  if (there && *there != *text &&
      QMessageBox::question(window_, tr("Import"), tr("Replace your own \u201c%1\u201d?").arg(name)) !=
          QMessageBox::Yes)
    return;
  if (const auto problem = files::saveAtomically(target, *text))
    return Q_EMIT said(QString::fromStdString(problem->line()), true);
  change([this] { return library_.addOwn(folder_); });
  Q_EMIT said(tr("\u201c%1\u201d is among your own now.").arg(name), false);
}

void OwnLibrary::takeCopies(const std::string& copies, const std::string& from) {
  change([&] { return library_.addCopies(copies, from); });
}

QStringList faultyLines(const std::vector<Problem>& faulty) {
  constexpr std::size_t mostTold = 3;
  QStringList lines;
  for (std::size_t i = 0; i < std::min(faulty.size(), mostTold); ++i)
    lines << QObject::tr("%1. It is left out.").arg(QString::fromStdString(faulty[i].line()));
  if (faulty.size() > mostTold)
    lines << QObject::tr("%1 more of your own files are faulty; the command line tells all.")
                 .arg(faulty.size() - mostTold);
  return lines;
}

} // namespace vinegar::app

#include "moc_own_library.cpp"
