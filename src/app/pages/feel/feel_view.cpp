#include "pages/feel/feel_view.h"

#include "theme/text.h"
#include "widgets/readings.h"

#include <QLabel>
#include <cmath>

namespace vinegar::app {

FeelView::FeelView(Page& page, PhraseBox& phrases, const Names& names)
    : PageView(page), AnswerPane(*this, names), phrases_(phrases) {
  connect(&phrases, &PhraseBox::chosen, this, &FeelView::again);
  connect(&page.context().selection, &Selection::playedChanged, this, &FeelView::again);
}

void FeelView::ask(const Answers<predict::Idle>&) {
  if (phrases_.problem()) return sayProblem(*phrases_.problem());
  put();
}

void FeelView::say(const QString& text, bool isCoarse) {
  answer().setText(isCoarse ? tr("%1 (coarse, being refined)").arg(text) : text);
}

QString railWords(const std::string& rail) { return tr("B+ (%1)").arg(QString::fromStdString(rail)); }

QString droopWords(const predict::RailDip& dip) {
  return QStringLiteral("%1, %2 %").arg(readingOf(dip.droop(), units::Unit::volt)).arg(100 * dip.share(), 0, 'f', 1);
}

QString secondsWords(double seconds) {
  if (!std::isfinite(seconds)) return noReading();
  return seconds < 0.9995 ? tr("%1 ms").arg(1000 * seconds, 0, 'f', 0) : tr("%1 s").arg(seconds, 0, 'f', 2);
}

QString noteWords(double hertz) {
  static const char* const names[] = {"C", "C#", "D", "D#", "E", "F", "F#", "G", "G#", "A", "A#", "B"};
  constexpr double a4 = 440, audible = 20;
  if (hertz < audible) return tr("%1 Hz, a beat").arg(hertz, 0, 'f', 1);
  const double steps = 69 + 12 * std::log2(hertz / a4);
  const int note = static_cast<int>(std::lround(steps)), cents = static_cast<int>(std::lround(100 * (steps - note)));
  return tr("%1 Hz, %2%3 %4 ct")
      .arg(hertz, 0, 'f', 0)
      .arg(QLatin1String(names[note % 12]))
      .arg(note / 12 - 1)
      .arg(QStringLiteral("%1%2").arg(cents < 0 ? "" : "+").arg(cents));
}

} // namespace vinegar::app

#include "moc_feel_view.cpp"
