#include "plots/clear_ticks.h"

#include <QFontMetricsF>
#include <algorithm>
#include <cmath>
#include <limits>
#include <utility>

namespace vinegar::app {

void keepTicksClear(const QCPAxis& axis, const QVector<double>& ticks, QVector<QString>& labels) {
  constexpr double apart = 4;
  const auto* rect = axis.axisRect();
  const bool across = axis.orientation() == Qt::Horizontal;
  if (rect->width() < 20 || rect->height() < 20) return; // nothing is laid out yet
  const QFontMetricsF metrics(axis.tickLabelFont());
  const auto length = [&](const QString& label) {
    const auto lines = label.split(QLatin1Char('\n'));
    if (!across) return metrics.lineSpacing() * static_cast<double>(lines.size());
    double widest = 0;
    for (const auto& line : lines)
      widest = std::max(widest, metrics.horizontalAdvance(line));
    return widest + apart;
  };
  const auto lieOnEachOther = [&](qsizetype a, qsizetype b) {
    const double distance = std::abs(axis.coordToPixel(ticks[a]) - axis.coordToPixel(ticks[b]));
    return distance < (length(labels[a]) + length(labels[b])) / 2;
  };
  const auto count = std::min(ticks.size(), labels.size());
  const auto place = [&](qsizetype i) { return axis.coordToPixel(ticks[i]); };
  // A long word is cut; a number never is.
  const auto wrapped = [&](const QString& label, double room) {
    QStringList lines;
    for (const auto& line : label.split(QLatin1Char('\n'))) {
      QString row;
      for (const auto& word : line.split(QLatin1Char(' '))) {
        const auto longer = row.isEmpty() ? word : row + QLatin1Char(' ') + word;
        if (!row.isEmpty() && metrics.horizontalAdvance(longer) > room)
          lines << std::exchange(row, word);
        else
          row = longer;
      }
      lines << row;
    }
    for (auto& line : lines)
      if (line.size() > 6) line = metrics.elidedText(line, Qt::ElideRight, room);
    return lines.join(QLatin1Char('\n'));
  };
  if (across) {
    QVector<bool> tight(count);
    for (qsizetype i = 0; i + 1 < count; ++i)
      if (lieOnEachOther(i, i + 1)) tight[i] = tight[i + 1] = true;
    for (qsizetype i = 0; i < count; ++i) {
      if (!tight[i]) continue;
      double room = std::numeric_limits<double>::max();
      if (i > 0) room = std::min(room, std::abs(place(i) - place(i - 1)));
      if (i + 1 < count) room = std::min(room, std::abs(place(i + 1) - place(i)));
      labels[i] = wrapped(labels[i], room - apart);
    }
  }
  qsizetype before = -1;
  for (qsizetype i = 0; i < count; ++i) {
    if (labels[i].isEmpty()) continue;
    if (before >= 0 && lieOnEachOther(before, i))
      labels[i].clear();
    else
      before = i;
  }
}

} // namespace vinegar::app
