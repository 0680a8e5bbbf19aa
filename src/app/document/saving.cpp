#include "document/saving.h"

#include "files/safe_file.h"

#include <QFileDialog>
#include <QFileInfo>

namespace vinegar::app {

QString saveBytes(const QString& path, const QByteArray& bytes) {
  const auto problem =
      files::saveAtomically(path.toStdString(), {bytes.constData(), static_cast<std::size_t>(bytes.size())});
  return problem ? QString::fromStdString(problem->line()) : QString();
}

QString fileNameOf(const QString& name) {
  auto file = name.toLower().remove(QLatin1Char(','));
  for (const char mark : {' ', '/', '\\', ':'})
    file.replace(QLatin1Char(mark), QLatin1Char('-'));
  return file.left(80);
}

QString askWhereToSave(QWidget* parent, const QString& title, const QString& proposed, const QStringList& kinds,
                       QString* kind) {
  QFileDialog dialog(parent, title, proposed);
  dialog.setObjectName(QStringLiteral("saveDialog"));
  dialog.setAcceptMode(QFileDialog::AcceptSave);
  dialog.setFileMode(QFileDialog::AnyFile);
  dialog.setNameFilters(kinds);
  dialog.selectFile(QFileInfo(proposed).fileName());
  // The dialog itself puts the ending on, so that it asks about the very file that will be written over.
  const auto endingOf = [](const QString& filter) {
    return filter.section(QStringLiteral("*."), -1).section(QLatin1Char(')'), 0, 0);
  };
  dialog.setDefaultSuffix(endingOf(kinds.front()));
  QObject::connect(&dialog, &QFileDialog::filterSelected, &dialog,
                   [&](const QString& filter) { dialog.setDefaultSuffix(endingOf(filter)); });
  if (dialog.exec() != QDialog::Accepted || dialog.selectedFiles().isEmpty()) return {};
  if (kind) *kind = dialog.selectedNameFilter();
  return dialog.selectedFiles().constFirst();
}

} // namespace vinegar::app
