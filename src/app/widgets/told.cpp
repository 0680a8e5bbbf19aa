#include "widgets/told.h"

#include "widgets/readings.h"

#include <QCoreApplication>

namespace vinegar::app {

QString toldWords(std::string_view english) {
  return QCoreApplication::translate("tell", std::string(english).c_str());
}

QString saidWords(const tell::Said& said) {
  return QString::fromStdString(said.filled(toldWords(said.words).toStdString()));
}
QStringList toldTitles(const std::vector<tell::Head>& heads, bool withInk) {
  QStringList titles;
  for (const auto& head : heads) {
    if (head.title.empty()) continue;
    titles << toldWords(head.title);
    if (withInk && head.besideInk) titles << FigureSheet::tr("ink");
  }
  return titles;
}

QString inkTip(const QString& ink, const QString& tip) {
  return FigureSheet::tr("ink: %1").arg(ink) + (tip.isEmpty() ? QString() : QLatin1Char('\n') + tip);
}

FigureSheet::Cell toldCell(const tell::Head& head, const tell::Cell& cell) {
  FigureSheet::Cell shown;
  if (cell.figure)
    shown.text = QString::fromStdString(tell::written(head, cell));
  else if (const auto words = cell.words.empty() ? toldWords(head.none) : saidWords(cell.words); !words.isEmpty())
    shown.text = words;
  else
    shown.text = noReading();
  if (!cell.figure && cell.over) shown.text = warned(shown.text);
  shown.tip = cell.words.empty() ? toldWords(head.about) : shown.text; // of what is cut off all
  shown.danger = cell.over;
  shown.words = !cell.figure;
  shown.order = cell.figure ? cell.figure : cell.order;
  return shown;
}

} // namespace vinegar::app
