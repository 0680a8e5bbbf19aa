#include "widgets/told.h"

#include "widgets/readings.h"

#include <QCoreApplication>

namespace vinegar::app {

QString toldWords(const std::string& english) { return QCoreApplication::translate("tell", english.c_str()); }

QStringList toldTitles(const std::vector<tell::Head>& heads, bool withInk) {
  QStringList titles;
  for (const auto& head : heads) {
    if (!*head.title) continue;
    titles << toldWords(head.title);
    if (withInk && head.besideInk) titles << FigureSheet::tr("ink");
  }
  return titles;
}

FigureSheet::Cell toldCell(const tell::Head& head, const tell::Cell& cell) {
  FigureSheet::Cell shown;
  const auto words = tell::written(head, cell);
  shown.text = words.empty() ? noReading() : cell.figure ? QString::fromStdString(words) : toldWords(words);
  if (!cell.figure && cell.over) shown.text = warned(shown.text);
  shown.tip = cell.words.empty() ? toldWords(head.about) : shown.text; // of what is cut off all
  shown.danger = cell.over;
  shown.words = !cell.figure;
  shown.order = cell.figure;
  return shown;
}

} // namespace vinegar::app
