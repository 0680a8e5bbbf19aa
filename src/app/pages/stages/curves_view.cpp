#include "pages/stages/curves_view.h"

#include "pages/kit/input_box.h"
#include "pages/stages/stage_words.h"
#include "tell/proposals.h"
#include "theme/text.h"
#include "theme/theme.h"
#include "widgets/figure_sheet.h"
#include "widgets/paragraph.h"
#include "widgets/readings.h"
#include "widgets/told.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QLineEdit>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

namespace vinegar::app {
namespace {

using predict::StageCurves;
using predict::StageLine;
using units::Unit;
using Wanted = predict::ProposeQuestion::Wanted;
using LineLook = CurvePlot::Look;

constexpr int tableWidth = 286, setsHeight = 150;

std::vector<double> milli(const std::vector<double>& amps) {
  std::vector<double> result;
  result.reserve(amps.size());
  for (const double a : amps)
    result.push_back(1000 * a);
  return result;
}

} // namespace

CurvesView::CurvesView(Page& page, TubeChoice& choice) : StageView(page, choice) {
  auto* column = contentColumn(4);
  verdict_ = newAnswer("stageVerdict");
  column->addWidget(verdict_);
  auto* middle = new QHBoxLayout;
  middle->setSpacing(10);
  plot_ = newPlot(tr("plate curves"));
  plot_->addTool(new InputBox(page.context().selection, InputBox::Asks::levelAndTone));
  composite_ = new QPushButton(tr("Both together"));
  composite_->setCheckable(true);
  composite_->setObjectName(QStringLiteral("composite"));
  composite_->setToolTip(tr("The pair as the transformer sees it: the difference of both currents"));
  composite_->hide();
  plot_->addTool(composite_);
  plot_->addFit();
  middle->addWidget(plot_, 1);
  table_ = new FigureTable;
  table_->setObjectName(QStringLiteral("stageReadings"));
  table_->setAccessibleName(tr("Readings of the tube"));
  table_->setFixedWidth(tableWidth);
  auto* scroll = new QScrollArea;
  scroll->setWidget(table_);
  scroll->setWidgetResizable(false);
  scroll->setFrameShape(QFrame::NoFrame);
  scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  scroll->setFixedWidth(tableWidth + 14);
  middle->addWidget(scroll);
  column->addLayout(middle, 1);

  auto* row = new QHBoxLayout;
  auto* word = quietLabel(tr("What if its"));
  row->addWidget(word);
  wanted_ = new QComboBox;
  wanted_->setObjectName(QStringLiteral("wanted"));
  wanted_->setAccessibleName(tr("What is wanted of the tube"));
  wanted_->addItems({tr("plate stood at"), tr("current were"), tr("gain were")});
  row->addWidget(wanted_);
  value_ = new QLineEdit;
  value_->setObjectName(QStringLiteral("wantedValue"));
  value_->setAccessibleName(tr("Wanted value"));
  value_->setPlaceholderText(tr("170V"));
  value_->setToolTip(
      tr("Volts from plate to ground, current as 1.2mA, or gain in times. Dragging the point does the same."));
  value_->setFont(figureFont(9.5));
  value_->setFixedWidth(80);
  row->addWidget(value_);
  auto* find = new QPushButton(tr("Find values"));
  find->setObjectName(QStringLiteral("propose"));
  row->addWidget(find);
  found_ = new Label;
  found_->setObjectName(QStringLiteral("proposed"));
  row->addWidget(found_, 1);
  column->addLayout(row);
  sets_ = new FigureSheet;
  sets_->setObjectName(QStringLiteral("proposals"));
  sets_->setAccessibleName(tr("Stock values that reach it"));
  sets_->setFixedHeight(setsHeight);
  sets_->hide();
  column->addWidget(sets_);

  stages_.then = [this] {
    drawReadings();
    draw();
  };
  path_.then = [this] {
    pathShown_ = path_->now() && path_->now()->value ? *path_->now()->value : nullptr;
    draw();
  };
  proposals_.then = [this] { showProposals(); };
  connect(composite_, &QPushButton::toggled, this, &CurvesView::again);
  connect(&page.context().selection, &Selection::playedChanged, this, &CurvesView::again);
  connect(plot_, &CurvePlot::handleMoved, this,
          [this](int, double volts, double milliamps, bool done) { drag(volts, milliamps, done); });
  connect(find, &QPushButton::clicked, this, &CurvesView::typed);
  connect(value_, &QLineEdit::returnPressed, this, &CurvesView::typed);
  connect(wanted_, &QComboBox::currentIndexChanged, this, [this](int which) {
    value_->setPlaceholderText(which == 0 ? tr("170V") : which == 1 ? tr("1.2mA") : tr("40"));
  });
  connect(&choice, &TubeChoice::chosen, this, [this] {
    proposals_.rest();
    sets_->hide();
    found_->clear();
    pathShown_ = nullptr;
  });
}

void CurvesView::put(const predict::Idle&) {
  state().showContent();
  const auto played = page().context().selection.played();
  const double hertz = played.tone();
  // The axes stay where they are while a value is turned.
  const auto* shown = curves_->nowValue();
  const bool same = shown && drawnOf_ == std::pair(tube(), composite_->isChecked());
  curves_.ask({tube(), hertz, composite_->isChecked(), same ? shown->mostVolts : 0, same ? shown->mostAmps : 0});
  stages_.ask({hertz, tube()});
  path_.ask({tube(), hertz, played.inputPeak, composite_->isChecked()});
}

void CurvesView::clear() {
  pathShown_ = nullptr;
  dragged_.reset();
  table_->setRows({}, 99);
  sets_->hide();
  found_->clear();
  StageView::clear();
}

void CurvesView::addSide(CurvePlot::Picture& picture, const StageCurves& curves, bool pencil, bool alone) const {
  const auto path = [&](const QString& name, const StageLine& line, LineLook look, const QString& label, double at) {
    if (line.empty()) return;
    picture.paths.push_back({name, line.volts, milli(line.amps), look});
    picture.paths.back().label = label;
    picture.paths.back().labelAt = at;
  };
  const bool composite = composite_->isChecked() && !curves.partner.empty();
  // Of two tubes on top of each other the one is the other's load, and they meet at the midpoint.
  const auto* readings = stages_->nowValue() ? stages_->nowValue()->tube(tube()) : nullptr;
  const auto shares = QString::fromStdString(readings ? readings->shares : std::string());
  const QString label = shares.isEmpty() ? tr("DC load line") : tr("what %1 lets through").arg(shares);
  if (!composite)
    path(tr("DC load line"), curves.dcLine, pencil ? LineLook::pencilThin : LineLook::inkThin,
         pencil ? QString() : label, 0.75);
  path(tr("AC load line"), curves.acLine, pencil ? LineLook::pencil : LineLook::ink,
       pencil ? QString() : tr("AC load line"), 0);
  CurvePlot::Dot dot{
      curves.restVolts, composite ? 0 : 1000 * curves.restAmps, {}, pencil ? LineLook::pencil : LineLook::ink};
  dot.word = tr("%1, %2").arg(readingOf(curves.restVolts, Unit::volt), readingOf(curves.restAmps, Unit::ampere));
  dot.below = pencil; // beside the ink's, whose word stands above it
  dot.movable = (pencil || alone) && !composite;
  picture.dots.push_back(dot);
}

void CurvesView::draw() {
  const auto *ink = curves_->inkValue(), *pencil = curves_->pencilValue();
  const auto* now = standing(*curves_);
  if (!now) return;
  composite_->setVisible(!now->partner.empty());
  CurvePlot::Picture picture;
  picture.title = tr("Plate curves of %1").arg(QString::fromStdString(tube()));
  const bool composite = composite_->isChecked() && !now->partner.empty();
  if (composite) picture.title += tr(" with %1").arg(QString::fromStdString(now->partner));
  picture.xLabel = tr("V, plate to cathode");
  picture.xUnit = tr("V");
  picture.panes = {
      {composite ? tr("mA, the difference of both") : tr("mA, plate"), tr("mA"), CurvePlot::Pane::Scale::fromZero}};
  picture.silent = true;
  const double most = 1000 * now->mostAmps;
  picture.axes = composite ? QRectF(0, -most, now->mostVolts, 2 * most) : QRectF(0, 0, now->mostVolts, most);
  for (const auto& plate : now->plates) {
    CurvePlot::Curve curve{readingOf(plate.gridVolts, Unit::volt), plate.line.volts, milli(plate.line.amps),
                           LineLook::ground};
    // Its name stands where it leaves the picture, or at its end.
    std::size_t last = curve.x.size() - 1;
    while (last > 1 && (curve.y[last] > 0.86 * most || curve.x[last] > 0.985 * now->mostVolts))
      --last;
    if (curve.y[last] > 0.03 * most || composite) curve.label = curve.name;
    curve.labelAt = curve.x[last] / curve.x.back();
    picture.curves.push_back(std::move(curve));
  }
  if (!now->limit.empty())
    picture.paths.push_back({tr("plate rating"), now->limit.volts, milli(now->limit.amps), LineLook::ink, true});
  if (ink) addSide(picture, *ink, false, !pencil);
  if (pencil) addSide(picture, *pencil, true, false);
  if (pathShown_ && !pathShown_->empty())
    picture.paths.push_back(
        {tr("the signal's way"), pathShown_->volts, milli(pathShown_->amps), LineLook::ink, false, true});
  if (dragged_) {
    picture.dots.push_back({dragged_->x(), dragged_->y(), tr("wanted"), LineLook::pencil, false});
  }
  if (!composite)
    for (const auto* side : {&now->up, &now->down})
      if (*side && now->restVolts + (*side)->plateVolts > 0 && now->restVolts + (*side)->plateVolts < now->mostVolts)
        picture.marks.push_back(
            {now->restVolts + (*side)->plateVolts, toldWords(predict::words(**side)), true, false, 0});
  if (now->classAVolts && *now->classAVolts > 0 && composite)
    picture.marks.push_back({*now->classAVolts, tr("class A to here"), true, false, 0});
  plot_->show(std::move(picture));
  drawnOf_ = {tube(), composite_->isChecked()};
}

void CurvesView::drawReadings() {
  const auto of = [&](const predict::Stages* stages) { return stages ? stages->tube(tube()) : nullptr; };
  const auto *ink = of(stages_->inkValue()), *pencil = of(stages_->pencilValue());
  table_->setRows(readingsOf(ink, pencil), 1);
  table_->resize(tableWidth, table_->sizeHint().height());
  const auto* now = pencil ? pencil : ink;
  verdict_->setText(now ? verdictOn(*now) : QString());
}

void CurvesView::drag(double volts, double milliamps, bool done) {
  const auto* now = curves_->nowValue();
  if (!now) return;
  dragged_ = QPointF(std::max(0.0, volts), std::max(0.0, milliamps));
  // Along the line the two go together: what was moved further, on screen, is what is wanted.
  const double across = std::abs(volts - now->restVolts) / now->mostVolts;
  const double up = std::abs(milliamps / 1000 - now->restAmps) / now->mostAmps;
  const auto* reading = stages_->nowValue() ? stages_->nowValue()->tube(tube()) : nullptr;
  const double cathode = reading ? reading->tube.cathodeVoltsToGround : 0;
  const bool byVolts = across >= up;
  const double value = byVolts ? dragged_->x() + cathode : dragged_->y() / 1000;
  const QString text = readingOf(value, byVolts ? Unit::volt : Unit::ampere);
  found_->setText(byVolts ? tr("plate at %1?").arg(text) : tr("a current of %1?").arg(text));
  if (!done) return draw();
  dragged_.reset();
  wanted_->setCurrentIndex(byVolts ? 0 : 1);
  value_->setText(text);
  propose(byVolts ? Wanted::plateVolts : Wanted::plateAmps, value);
  draw();
}

void CurvesView::typed() {
  const auto wanted = static_cast<Wanted>(wanted_->currentIndex());
  const auto unit = wanted == Wanted::plateVolts ? Unit::volt : wanted == Wanted::plateAmps ? Unit::ampere : Unit::none;
  const auto value = units::parse(value_->text().toStdString(), unit);
  setLook(found_, "danger", !value);
  if (!value) return found_->setText(QString::fromStdString(value.error().message));
  if (!(*value > 0)) return found_->setText(tr("It must be above zero."));
  propose(wanted, *value);
}

void CurvesView::propose(Wanted wanted, double value) {
  setLook(found_, "danger", false);
  const auto played = page().context().selection.played();
  proposals_.ask({tube(), wanted, value, played.tone()});
}

void CurvesView::showProposals() {
  const auto* now = proposals_->nowValue();
  if (!now) {
    sets_->hide();
    if (const auto* problem = proposals_->problem(); problem && !problem->cancelled) {
      setLook(found_, "danger", true);
      found_->setText(QString::fromStdString(problem->line()));
    }
    return;
  }
  setLook(found_, "danger", false);
  if (now->sets.empty()) {
    sets_->hide();
    found_->setText(now->tried.empty()
                        ? tr("No resistor of its section moves it.")
                        : tr("No stock values of %1 reach it within a twentieth with everything in its rating.")
                              .arg(joined(now->tried)));
    return;
  }
  found_->setText(now->sets.size() == 1 ? tr("one way") : tr("%1 ways, the nearest first").arg(now->sets.size()));
  const auto wanted = static_cast<Wanted>(wanted_->currentIndex());
  const auto unit = wanted == Wanted::gain ? Unit::none : wanted == Wanted::plateVolts ? Unit::volt : Unit::ampere;
  Told<predict::Proposal> told{true};
  told.finish = [this](const predict::Proposal& set, FigureSheet::Row& row) {
    const auto title = row.cells.front().text;
    row.cells.front().strong = true;
    letPencil(row, page().session(), set.changes, title);
    if (set.knobs.empty()) return;
    // A control that is set is no mark.
    row.act = set.changes.empty() ? tr("Set") : row.act;
    row.acted = [this, changes = set.changes, knobs = set.knobs, title] {
      auto& session = page().session();
      session.edit(tr("set %1").arg(title), [&](amp::Document& document) {
        for (const auto& change : changes)
          amp::pencil(document, session.library(), change.part, change.field, change.to);
        for (const auto& [knob, stands] : knobs)
          document.ink.knobs[knob] = stands;
      });
    };
  };
  const auto* idle = page().context().asker.idle().nowValue();
  if (!idle) return sets_->hide();
  showTold(*sets_, tell::proposals(unit, *idle->circuit), now->sets, told);
  sets_->show();
}

} // namespace vinegar::app

#include "moc_curves_view.cpp"
