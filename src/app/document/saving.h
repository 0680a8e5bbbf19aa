// Asking for a file and writing it: once for everything that the window writes.
#pragma once

#include <QByteArray>
#include <QStringList>

class QWidget;

namespace vinegar::app {

/// A name of a thing as that of its file, without an ending: "harbour-office".
QString fileNameOf(const QString& name);
/// Whole or not at all. Empty on success, else why not.
QString saveBytes(const QString& path, const QByteArray& bytes);
/// A file to write, with the ending of the kind chosen from `kinds` ("Picture (*.png)"); the builder was asked about a
/// file that is there already. Empty when the builder thought better of it.
QString askWhereToSave(QWidget* parent, const QString& title, const QString& proposed, const QStringList& kinds,
                       QString* kind = nullptr);
} // namespace vinegar::app
