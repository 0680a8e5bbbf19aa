#pragma once

#include <QStringList>

class QComboBox;

namespace vinegar::app {

/// Fills a box whose lines change with the design; the choice stays where its line does, else falls to `otherwise`,
/// else to the first. Says nothing to who listens. False: the lines were these already.
bool refill(QComboBox& box, const QStringList& lines, const QString& otherwise = {});
/// The same of lines that each stand for something else, which the box holds as their data.
bool refill(QComboBox& box, const QStringList& lines, const QStringList& data, const QString& otherwise);

} // namespace vinegar::app
