#include "pages/voice/parts_view.h"

#include "tell/ranking.h"
#include "theme/text.h"
#include "widgets/readings.h"
#include "widgets/table_dialog.h"
#include "widgets/told.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QSignalBlocker>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

namespace vinegar::app {

using units::Unit;

PartsView::PartsView(Page& page, SpanChoice& span)
    : AnswerView(page, span, {"partsAnswer", "ranking", tr("What one step of each part does"), {}, tr("parts")}) {
  curves().addTool(quietLabel(tr("band")));
  band_ = new QComboBox;
  band_->setObjectName(QStringLiteral("band"));
  band_->setAccessibleName(tr("Band"));
  fillBands();
  curves().addTool(band_);
  setShares(5, 7);
  ranking_.then = [this] {
    trial_ = -1;
    fillSheet();
    draw();
  };
  connect(band_, &QComboBox::activated, this, [this](int index) {
    const auto edges = band_->itemData(index).toPointF();
    if (!edges.isNull()) return takeBand(edges.x(), edges.y());
    if (index == band_->count() - 1) editBands();
  });
  connect(&curves(), &CurvePlot::handleMoved, this,
          [this](int dot, double x, double, bool done) { moveEdge(dot, x, done); });
  connect(&curves(), &CurvePlot::placeClicked, this, [this](double x, double) {
    const double octaves = std::sqrt(high_ / low_); // the band goes there as wide as it is
    takeBand(x / octaves, x * octaves);
    band_->setCurrentIndex(asMarked());
  });
  connect(&sheet(), &FigureSheet::rowChosen, this, &PartsView::trial);
  connect(&sheet(), &FigureSheet::rowHovered, this, [this](int hovered) {
    if (hovered >= 0) trial(hovered);
  });
  connect(&sheet(), &FigureSheet::cellTaken, this, [this](int taken, int) {
    const auto* ranking = ranking_->nowValue();
    if (ranking && static_cast<std::size_t>(taken) < ranking->steps.size())
      select(ranking->steps[static_cast<std::size_t>(taken)].part);
  });
}

/// The bands there are, then "as marked", which is chosen at first, and the way to others.
void PartsView::fillBands() {
  if (band_->count() > 0 && bands() == listed_) return;
  listed_ = bands();
  const auto before = band_->currentText();
  const QSignalBlocker quiet(band_);
  band_->clear();
  for (const auto& band : listed_)
    band_->addItem(bandWords(band), QPointF(band.low, band.high));
  band_->addItem(tr("as marked"));
  band_->addItem(tr("edit bands..."));
  const int at = band_->findText(before);
  band_->setCurrentIndex(at >= 0 ? at : asMarked());
}

void PartsView::editBands() {
  band_->setCurrentIndex(asMarked());
  const auto cellsOf = [](const std::vector<amp::ToneBand>& of) {
    TableDialog::Cells cells;
    for (const auto& band : of)
      cells.push_back({bandWords(band), readingOf(band.low, Unit::hertz), readingOf(band.high, Unit::hertz)});
    return cells;
  };
  const auto bandsOf = [](const TableDialog::Cells& cells, QString& wrong) {
    std::vector<amp::ToneBand> all;
    for (const auto& row : cells) {
      const auto low = units::parse(row.value(1).toStdString(), Unit::hertz);
      const auto high = units::parse(row.value(2).toStdString(), Unit::hertz);
      const auto name = row.value(0);
      const auto says = [&](const QString& words) { wrong = QStringLiteral("%1: %2").arg(name, words); };
      if (name.isEmpty()) wrong = tr("Each band has a name");
      if (!low || !high)
        says(QString::fromStdString((low ? high : low).error().message));
      else if (!(*low >= 1) || !(*high > *low) || !(*high <= 1e5))
        says(tr("goes from a lower to a higher frequency, between 1 Hz and 100 kHz"));
      if (!wrong.isEmpty()) return all;
      for (const auto& band : all)
        if (band.name == name.toStdString()) says(tr("is there twice"));
      all.push_back({name.toStdString(), *low, *high});
    }
    if (all.empty()) wrong = tr("There must be one band at least");
    return all;
  };
  TableDialog dialog(
      tr("Bands"),
      tr("Stretches of the spectrum by what you call them. Tilts are told against the one called voice, or "
         "the middle one. They are kept with the design."),
      {tr("name"), tr("from"), tr("to")}, cellsOf(bands()),
      [&](const TableDialog::Cells& cells) {
        QString wrong;
        bandsOf(cells, wrong);
        return wrong;
      },
      this);
  dialog.addFill(tr("The usual ones"), cellsOf(predict::usualBands()));
  if (dialog.exec() != QDialog::Accepted) return;
  QString wrong;
  auto chosen = bandsOf(dialog.cells(), wrong);
  if (chosen == predict::usualBands()) chosen.clear();
  page().session().edit(tr("bands"), [&](amp::Document& document) { document.bands = std::move(chosen); });
  fillBands();
}

void PartsView::put() {
  fillBands();
  ranking_.ask({from(), to(), low_, high_});
}

void PartsView::clear() { trial_ = -1; }

void PartsView::takeBand(double low, double high) {
  low_ = std::clamp(low, 10.0, 9e4);
  high_ = std::clamp(high, low_ * 1.02, 1e5);
  draw();
  put();
}

void PartsView::moveEdge(int dot, double hertz, bool done) {
  const double moved = std::clamp(hertz, 10.0, 1e5);
  (dot == 0 ? low_ : high_) = moved;
  // One edge does not pass the other.
  if (dot == 0) low_ = std::min(low_, high_ / 1.02);
  if (dot == 1) high_ = std::max(high_, low_ * 1.02);
  band_->setCurrentIndex(asMarked());
  draw();
  if (done) put();
}

void PartsView::trial(int row) {
  if (row == trial_) return;
  trial_ = row;
  draw();
}

void PartsView::draw() {
  const auto* ranking = standing(*ranking_);
  if (!ranking) return;
  const auto look = ranking_->pencil() ? CurvePlot::Look::pencil : CurvePlot::Look::ink;
  auto picture = voicePicture(tr("Parts, %1").arg(span().words()), tr("dB, %1").arg(span().words()));
  picture.againstInk = true;
  CurvePlot::Curve curve{ranking_->pencil() ? tr("pencil") : tr("ink"), ranking->hertz, ranking->decibels, look};
  picture.dots = {{low_, CurvePlot::valueAt(curve, low_, true), readingOf(low_, Unit::hertz), look, true, true},
                  {high_, CurvePlot::valueAt(curve, high_, true), readingOf(high_, Unit::hertz), look, true}};
  picture.curves.push_back(curve);
  if (trial_ >= 0 && static_cast<std::size_t>(trial_) < ranking->steps.size()) {
    const auto& step = ranking->steps[static_cast<std::size_t>(trial_)];
    CurvePlot::Curve tried{valueWords(step.part, step.to), ranking->hertz, ranking->decibels, CurvePlot::Look::other};
    for (std::size_t f = 0; f < tried.y.size(); ++f)
      tried.y[f] += step.change[f];
    picture.curves.push_back(std::move(tried));
  }
  curves().show(std::move(picture));
}

void PartsView::fillSheet() {
  const auto* ranking = ranking_->nowValue();
  if (!ranking) {
    sheet().clear();
    answer().clear();
    return;
  }
  Told<predict::RankedStep> told{true};
  told.finish = [this](const predict::RankedStep& step, FigureSheet::Row& row) {
    letPencil(row, page().session(), {{step.part, "value", step.from, step.to}}, row.cells.front().text);
    row.cells[2].strong = true;
    row.cells[2].order = std::abs(step.there);
    row.cells.back().order = std::abs(step.movedShare);
  };
  showTold(sheet(), tell::rankedSteps(*now()->circuit), ranking->steps, told);
  if (ranking->steps.empty()) return answer().setText(tr("No part's next value changes anything in this band"));
  const auto& first = ranking->steps.front();
  // The part that does most there for what it does elsewhere.
  const auto apt = std::max_element(ranking->steps.begin(), ranking->steps.end(), [](const auto& a, const auto& b) {
    const auto worth = [](const auto& s) {
      return std::abs(s.there) < 0.3 ? 0 : std::abs(s.there) / (0.2 + s.elsewhere);
    };
    return worth(a) < worth(b);
  });
  answer().setText(
      first.part == apt->part || std::abs(apt->there) < 0.3
          ? tr("%1 does most there: %2 dB").arg(valueWords(first.part, first.to), signedDecibels(first.there))
          : tr("%1 does most there: %2 dB; %3 does %4 dB and least elsewhere")
                .arg(valueWords(first.part, first.to), signedDecibels(first.there), valueWords(apt->part, apt->to),
                     signedDecibels(apt->there)));
}

} // namespace vinegar::app

#include "moc_parts_view.cpp"
