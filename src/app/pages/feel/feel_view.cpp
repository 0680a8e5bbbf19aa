#include "pages/feel/feel_view.h"

#include "theme/text.h"
#include "widgets/readings.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QVBoxLayout>
#include <cmath>

namespace vinegar::app {

FeelView::FeelView(Page& page, PhraseBox& phrases, Names names)
    : PageView(page), phrases_(phrases), names_(std::move(names)), column_(contentColumn(4)), row_(new QHBoxLayout),
      answer_(answerLabel(names_.answer)), plot_(new CurvePlot), sheet_(new FigureSheet) {
  answer_->setWordWrap(true);
  column_->addWidget(answer_);
  sheet_->setObjectName(QLatin1String(names_.sheet));
  sheet_->setAccessibleName(names_.about);
  row_->setSpacing(10);
  row_->addWidget(plot_, 1);
  row_->addWidget(sheet_);
  column_->addLayout(row_, 1);
  const auto again = [this] {
    if (isVisible()) follow(this->page().context().asker.idle());
  };
  connect(&phrases, &PhraseBox::chosen, this, again);
  connect(&page.context().selection, &Selection::playedChanged, this, again);
}

void FeelView::ask(const Answers<predict::Idle>&) {
  if (phrases_.problem()) return sayProblem(*phrases_.problem());
  put();
}

void FeelView::clear() {
  answer_->clear();
  plot_->clear();
  sheet_->clear();
}

PageFrame::Exports FeelView::exports() {
  auto both = page().exportsOf(*plot_, names_.file);
  for (auto& one : page().exportsOf(*sheet_, names_.file + tr("-table")))
    both.push_back(std::move(one));
  return both;
}

void FeelView::setShares(int plot, int sheet) {
  row_->setStretch(0, plot);
  row_->setStretch(1, sheet);
}

void FeelView::addFields(QWidget* fields) { column_->insertWidget(1, fields); }

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
