#include "pages/levels/order_view.h"

#include "pages/kit/input_box.h"
#include "tell/clipping.h"
#include "theme/text.h"
#include "widgets/readings.h"
#include "widgets/told.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QVBoxLayout>
#include <cmath>

namespace vinegar::app {
namespace {

using units::Unit;

/// "Clean power (5 % distortion, 1 kHz): 9.1 W at once with 12 mV in, 6.2 W sustained; 10.4 W at 10 %; first bend
/// at 4.2 W (0.9 %)."
QString cleanPowerWords(const predict::CleanPower& power) {
  const auto watts = [](const predict::PowerAt& at) { return readingOf(at.watts, Unit::watt, 2); };
  auto text = LevelView::tr("Clean power (5 % distortion, 1 kHz): %1 at once with %2 in")
                  .arg(watts(power.atOnce), InputBox::level(power.atOnce.inputPeak));
  if (power.sustained) text += LevelView::tr(", %1 sustained").arg(watts(*power.sustained));
  if (power.rough) text += LevelView::tr("; %1 at 10 %").arg(watts(*power.rough));
  return text + LevelView::tr("; the output stage first bends at %1, %2 % distortion.")
                    .arg(watts(power.bend))
                    .arg(100 * power.bend.distortion, 0, 'g', 2);
}

} // namespace

OrderView::OrderView(Page& page) : LevelView(page) {
  auto* column = contentColumn(4);
  answer_ = newAnswer("orderAnswer");
  column->addWidget(answer_);
  more_ = quietLabel({}, "orderMore");
  more_->setWordWrap(true);
  column->addWidget(more_);
  auto* row = new QHBoxLayout;
  row->addWidget(quietLabel(tr("Control setting at which each limit is reached, with the input that is played:")));
  control_ = new QComboBox;
  control_->setObjectName(QStringLiteral("orderControl"));
  control_->setAccessibleName(tr("Control"));
  control_->setSizeAdjustPolicy(QComboBox::AdjustToContents);
  row->addWidget(control_);
  row->addStretch(1);
  column->addLayout(row);
  table_ = newSheet("order", tr("Order of clipping"), tr("order of clipping"));
  column->addWidget(table_, 1);
  connect(control_, &QComboBox::activated, this, &OrderView::again);
}

void OrderView::ask(const Answers<predict::Idle>& idle) {
  fillControls(*control_, *(idle.nowValue() ? idle.nowValue() : idle.any())->circuit);
  clipping_.ask({played().hertz, predict::ClippingQuestion::Which::all});
  power_.ask({});
  if (control_->count() > 0)
    map_.ask({control_->currentText().toStdString(), played().hertz, 27, false});
  else
    map_.rest();
}

void OrderView::clear() { more_->clear(); }

void OrderView::draw() {
  const auto* now = standing(*clipping_);
  if (!now) return;
  const auto* ink = clipping_->pencil() ? clipping_->inkValue() : nullptr;
  const auto* map = map_->nowValue();
  QStringList told;
  if (const auto* first = now->first()) {
    const auto last =
        std::find_if(now->limits.rbegin(), now->limits.rend(), [](const auto& l) { return l.isClipping(); });
    answer_->setText(tr("First to clip%1: %2, at %3 in")
                         .arg(atWorst(now->hertz), joined(first->tubes), InputBox::level(first->inputPeak)));
    told << tr("From there to the last bend at %1 is %2 dB.")
                .arg(InputBox::level(last->inputPeak))
                .arg(20 * std::log10(last->inputPeak / first->inputPeak), 0, 'f', 0);
  } else {
    answer_->setText(tr("Nothing clips under %1").arg(InputBox::level(now->mostPeak)));
  }
  if (const auto* clean = power_->nowValue(); clean && clean->power) told << cleanPowerWords(*clean->power);
  if (now->ofSupply)
    told << tr("Whether the supply sags is not known: %1.").arg(QString::fromStdString(now->ofSupply->line()));
  more_->setText(told.join(QLatin1Char(' ')));
  const double input = played().inputPeak;
  Told<predict::Limit> order;
  order.besides(ink ? &ink->limits : nullptr,
                [](const auto& a, const auto& b) { return a.kind == b.kind && a.tubes == b.tubes; });
  int number = 0;
  order.finish = [&](const predict::Limit& limit, FigureSheet::Row& row) {
    for (auto& cell : row.cells)
      cell.danger = cell.order && limit.isClipping() && limit.inputPeak < input;
    row.cells.insert(
        row.cells.begin(),
        {limit.isClipping() ? QString::number(++number) : QString(), {}, false, false, false, limit.inputPeak});
    row.cells[1].strong = true;
    QString setting = limit.isClipping() ? tr("not by this control") : QString();
    double place = 99;
    if (map && limit.isClipping()) {
      const auto& knobs = page().session().pencilled().knobs;
      const auto knob = knobs.find(map->control);
      if (const auto met = map->settingFor(limit, knob == knobs.end() ? 0.5 : knob->second, input)) {
        setting = *met <= 0 ? tr("at any") : QString::number(10 * *met, 'f', 1);
        place = *met;
      }
    }
    row.cells.push_back({setting, {}, false, false, false, place});
  };
  order.before = QStringList{tr("no.")};
  order.after = QStringList{tr("%1 of 10").arg(control_->currentText())};
  showTold(*table_, tell::limits(), now->limits, order);
}

} // namespace vinegar::app

#include "moc_order_view.cpp"
