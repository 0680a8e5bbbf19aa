#include "pages/supply/events_view.h"

#include "widgets/readings.h"

#include <QComboBox>
#include <algorithm>

namespace vinegar::app {
namespace {

using units::Unit;

CurvePlot::Look lookOf(const Side& side, bool main) {
  using Look = CurvePlot::Look;
  return side.look == Side::Look::ink ? (main ? Look::ink : Look::inkThin) : (main ? Look::pencil : Look::pencilThin);
}

/// One side needs no word for which it is.
QString nameOn(const Side& side, std::size_t sides, const QString& name) {
  if (sides < 2) return name;
  return (side.look == Side::Look::ink ? QCoreApplication::translate("SupplyView", "ink")
                                       : QCoreApplication::translate("SupplyView", "pencil")) +
         QLatin1Char(' ') + name;
}

CurvePlot::Picture frame(const QString& title, const QString& x, const QString& xUnit, const QString& y) {
  CurvePlot::Picture picture;
  picture.title = title;
  picture.xLabel = x;
  picture.xUnit = xUnit;
  picture.panes = {{y, QStringLiteral("V"), CurvePlot::Pane::Scale::fromZero}};
  return picture;
}

} // namespace

SwitchOnView::SwitchOnView(Page& page)
    : PlotView(page, tr("switch-on"), tr("This design has no mains, so there is nothing to switch on.")),
      asking_(page.context().asker, predict::predictSwitchOn, Weight::heavy, Of::inkAndNow) {
  from_ = new QComboBox;
  from_->setObjectName(QStringLiteral("switchOnFrom"));
  from_->setAccessibleName(tr("Starting from"));
  from_->setMaximumWidth(180); // its list shows the long ones whole
  from_->addItems(
      {tr("from cold"), tr("from standby, tubes warm"), tr("off for a quarter of a second and on again, all hot")});
  plot()->addTool(from_);
  plot()->addFit();
  own(asking_);
  connect(from_, &QComboBox::activated, this, &SwitchOnView::put);
  asking_.answered = [this](const Answers<predict::SwitchOnAnswer>& answers) {
    auto picture = frame(tr("Switch-on %1").arg(from_->currentText()), tr("s after the switch closes"), tr("s"),
                         tr("V, mean over a cycle"));
    for (const auto& [side, value] : answers.sides) {
      if (!value) continue;
      const auto& answer = **value;
      for (std::size_t r = 0; r < answer.rails.size(); ++r) {
        if (!predict::isItself(answer.rails, r)) continue;
        const auto& trace = answer.rails[r];
        const bool main = trace.node == answer.fed;
        const auto name = QString::fromStdString(trace.name);
        CurvePlot::Curve curve{nameOn(side, answers.sides.size(), name),
                               {0},
                               {0},
                               lookOf(side, main),
                               0,
                               side.look == Side::Look::ink ? name : QString(),
                               1 - 0.06 * static_cast<double>(r)};
        curve.x.insert(curve.x.end(), answer.seconds.begin(), answer.seconds.end());
        curve.y.insert(curve.y.end(), trace.mean.begin(), trace.mean.end());
        picture.curves.push_back(std::move(curve));
        if (!main || &value != &answers.now()->value) continue;
        const double peak =
            answer.peakAmps.empty() ? 0 : *std::max_element(answer.peakAmps.begin(), answer.peakAmps.end());
        picture.marks.push_back({trace.highest,
                                 tr("highest %1 at %2 s; rectifier peak %3")
                                     .arg(readingOf(trace.highest, Unit::volt))
                                     .arg(trace.highestAt, 0, 'f', 1)
                                     .arg(readingOf(peak, Unit::ampere)),
                                 false, false, 0});
      }
    }
    draw(answers, std::move(picture));
  };
}

void SwitchOnView::put() {
  asking_.ask({static_cast<predict::SwitchOnQuestion::From>(std::max(from_->currentIndex(), 0)), 30});
}

void SwitchOnView::ask(const Answers<predict::Idle>&) { put(); }

DischargeView::DischargeView(Page& page)
    : PlotView(page, tr("discharge"),
               tr("This design has no mains: a bench supply sees to its own discharge. Measure before touching all the "
                  "same.")),
      asking_(page.context().asker, predict::predictDischarge, Weight::heavy, Of::inkAndNow) {
  tubes_ = new QComboBox;
  tubes_->setObjectName(QStringLiteral("dischargeWith"));
  tubes_->setAccessibleName(tr("Tubes"));
  tubes_->setSizeAdjustPolicy(QComboBox::AdjustToContents);
  tubes_->addItems({tr("tubes out"), tr("tubes in")}); // the slower, and so the safer, first
  plot()->addTool(tubes_);
  plot()->addFit();
  own(asking_);
  connect(tubes_, &QComboBox::activated, this, &DischargeView::put);
  asking_.answered = [this](const Answers<predict::DischargeAnswer>& answers) {
    auto picture =
        frame(tr("Discharge, %1").arg(tubes_->currentText()), tr("s after the plug is pulled"), tr("s"), tr("V"));
    for (const auto& [side, value] : answers.sides) {
      if (!value) continue;
      const auto& answer = **value;
      double until = 5;
      for (const auto& rail : answer.rails)
        until = std::max(until, rail.secondsTo50 ? 1.6 * *rail.secondsTo50 : answer.seconds.back());
      for (std::size_t r = 0; r < answer.rails.size(); ++r) {
        if (!predict::isItself(answer.rails, r)) continue;
        const auto& rail = answer.rails[r];
        const bool main = rail.node == answer.fed;
        CurvePlot::Curve curve{
            nameOn(side, answers.sides.size(), QString::fromStdString(rail.name)), {}, {}, lookOf(side, main), 0};
        for (std::size_t k = 0; k < answer.seconds.size() && answer.seconds[k] <= until; ++k) {
          curve.x.push_back(answer.seconds[k]);
          curve.y.push_back(rail.volts[k]);
        }
        picture.curves.push_back(std::move(curve));
      }
      const auto* last = answer.slowest();
      if (!last || &value != &answers.now()->value) continue;
      const auto word = last->secondsTo50 ? tr("50 V after %1 s (%2 last): measure before touching")
                                                .arg(*last->secondsTo50, 0, 'f', *last->secondsTo50 < 10 ? 1 : 0)
                                                .arg(QString::fromStdString(last->name))
                                          : tr("%2 over 50 V after %1 min: discharge by resistor")
                                                .arg(answer.seconds.back() / 60, 0, 'f', 0)
                                                .arg(QString::fromStdString(last->name));
      picture.marks.push_back({50, word, false, true, 0});
    }
    draw(answers, std::move(picture));
  };
}

void DischargeView::put() { asking_.ask({tubes_->currentIndex() == 1}); }

void DischargeView::ask(const Answers<predict::Idle>&) { put(); }

RegulationView::RegulationView(Page& page)
    : PlotView(page, tr("regulation"), tr("This design has no mains; a bench supply holds its volts.")),
      own_(page.context().asker, predict::predictRegulation, Weight::heavy, Of::inkAndNow),
      every_(page.context().asker, predict::predictRegulation, Weight::heavy, Of::now) {
  plot()->addFit();
  own(own_);
  own(every_);
  own_.answered = [this](const auto& answers) {
    ownAnswers_ = answers;
    redraw();
  };
  every_.answered = [this](const auto& answers) {
    everyAnswers_ = answers;
    redraw();
  };
}

void RegulationView::redraw() {
  auto picture = frame(tr("Regulation"), tr("mA drawn from the first rail"), tr("mA"), tr("V, first rail"));
  picture.panes.front().scale = CurvePlot::Pane::Scale::tight;
  std::size_t labels = 0;
  const auto add = [&](const predict::RegulationCurve& curve, const QString& name, CurvePlot::Look look,
                       bool labelled) {
    const auto type = QString::fromStdString(curve.type);
    CurvePlot::Curve drawn{
        name, {}, curve.volts, look, 0, labelled ? type : QString(), 1 - 0.085 * static_cast<double>(labels)};
    if (labelled) ++labels;
    for (const double amps : curve.amps)
      drawn.x.push_back(1000 * amps);
    picture.curves.push_back(std::move(drawn));
  };
  for (const auto& [side, value] : ownAnswers_.sides) {
    if (!value) continue;
    const auto& own = (*value)->curves.front();
    add(own, nameOn(side, ownAnswers_.sides.size(), QString::fromStdString(own.type)), lookOf(side, true),
        side.look == Side::Look::ink);
    if (&value == &ownAnswers_.now()->value)
      picture.marks.push_back({1000 * (*value)->idleAmps, tr("idle"), true, false, 0});
  }
  if (const auto* every = everyAnswers_.nowValue())
    for (std::size_t c = 1; c < every->curves.size(); ++c)
      add(every->curves[c], QString::fromStdString(every->curves[c].type), CurvePlot::Look::inkThin, true);
  draw(ownAnswers_, std::move(picture));
}

void RegulationView::ask(const Answers<predict::Idle>&) {
  own_.ask({false});
  every_.ask({true});
}

void RegulationView::clear() {
  PlotView::clear();
  ownAnswers_ = {};
  everyAnswers_ = {};
}

} // namespace vinegar::app

#include "moc_events_view.cpp"
