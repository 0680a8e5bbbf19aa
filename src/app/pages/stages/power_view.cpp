#include "pages/stages/power_view.h"

#include "pages/input_box.h"
#include "pages/stages/stage_words.h"
#include "theme/text.h"
#include "theme/theme.h"
#include "widgets/figure_table.h"
#include "widgets/readings.h"

#include <QHBoxLayout>
#include <QPushButton>
#include <QVBoxLayout>
#include <cmath>
#include <map>
#include <numbers>

namespace vinegar::app {

using predict::PowerIdle;
using predict::PowerStage;
using units::Unit;
using LineLook = CurvePlot::Look;

SplitterView::SplitterView(Page& page, TubeChoice& choice)
    : StageView(page, choice), balance_(page.context().asker, predict::predictSplitters, Weight::quick, Of::inkAndNow),
      driven_(page.context().asker, predict::predictSplitters, Weight::heavy, Of::inkAndNow) {
  auto* column = contentColumn(4);
  answer_ = answerLabel("balance");
  column->addWidget(answer_);
  plot_ = new CurvePlot;
  drive_ = new QPushButton(tr("Against drive"));
  drive_->setObjectName(QStringLiteral("againstDrive"));
  drive_->setCheckable(true);
  plot_->addTool(drive_);
  cure_ = new QPushButton;
  cure_->setObjectName(QStringLiteral("pencilBalance"));
  cure_->hide();
  plot_->addTool(cure_);
  plot_->addFit();
  column->addWidget(plot_, 1);
  own(balance_);
  own(driven_);
  balance_.answered = [this](const auto& answers) {
    shown_ = answers;
    draw();
  };
  driven_.answered = [this](const auto& answers) {
    drivenShown_ = answers;
    draw();
  };
  connect(cure_, &QPushButton::clicked, this, [this] { this->page().session().pencil(changes_, wordsOf(changes_)); });
  connect(drive_, &QPushButton::toggled, this, &SplitterView::again);
}

PageFrame::Exports SplitterView::exports() { return page().exportsOf(*plot_, tr("balance")); }

void SplitterView::ask(const Answers<predict::Idle>& idle) {
  choice().fill(*(idle.nowValue() ? idle.nowValue() : idle.any()));
  balance_.ask({false});
  if (drive_->isChecked())
    driven_.ask({true});
  else
    driven_.rest();
}

void SplitterView::clear() {
  shown_ = {};
  drivenShown_ = {};
  changes_.clear();
  answer_->clear();
  cure_->hide();
  plot_->clear();
  choice().clear();
}

void SplitterView::draw() {
  const auto* now = shown_.nowValue();
  if (!now) {
    if (shown_.problem()) sayProblem(*shown_.problem());
    return;
  }
  if (now->all.empty())
    return state().say(tr("There is no phase splitter with two outputs in this design, or no signal comes to one."));
  state().showContent();
  const auto& splitter = now->all.front();
  answer_->setText(std::abs(splitter.at1kHz) < 0.05
                       ? tr("%1: both outputs are alike").arg(sentence(QString::fromStdString(splitter.title)))
                       : tr("%1: the first output is %2 dB against the second")
                             .arg(sentence(QString::fromStdString(splitter.title)), signedDecibels(splitter.at1kHz)));
  changes_ = splitter.cure;
  cure_->setVisible(!changes_.empty());
  cure_->setText(tr("Pencil %1 for %2 dB").arg(wordsOf(changes_), signedDecibels(splitter.cured)));
  CurvePlot::Picture picture;
  const bool drive = drive_->isChecked();
  picture.title = drive ? tr("Balance against drive") : tr("Balance against frequency");
  picture.hertz = !drive;
  picture.xLabel = drive ? tr("mV rms in") : tr("Hz");
  picture.xUnit = drive ? tr("mV") : tr("Hz");
  picture.panes = {{tr("dB, first over second"), tr("dB"), CurvePlot::Pane::Scale::fromZero}};
  if (!drive) picture.panes.push_back({tr("degrees"), tr("\u00b0"), CurvePlot::Pane::Scale::tight});
  double most = 1, turned = 10; // at least so far either way: a tenth of a decibel is no finding
  const auto& answers = drive ? drivenShown_ : shown_;
  for (const auto& [splitters, look] :
       {std::pair{answers.inkValue(), LineLook::ink}, {answers.pencilValue(), LineLook::pencil}}) {
    if (!splitters || splitters->all.empty()) continue;
    const auto& one = splitters->all.front();
    for (const double db : drive ? one.driven : one.decibels)
      most = std::max(most, std::abs(db));
    for (const double degrees : one.degrees)
      turned = std::max(turned, std::abs(degrees - 180));
    if (drive) {
      CurvePlot::Curve curve{tr("balance"), {}, one.driven, look};
      for (const double peak : one.inputPeak)
        curve.x.push_back(1000 * peak / std::numbers::sqrt2);
      picture.curves.push_back(std::move(curve));
    } else {
      picture.curves.push_back({tr("balance"), one.hertz, one.decibels, look});
      picture.curves.push_back(
          {tr("phase"), one.hertz, one.degrees, look == LineLook::ink ? LineLook::inkThin : LineLook::pencilThin, 1});
    }
  }
  picture.panes[0].range = {-1.1 * most, 1.1 * most};
  if (!drive) picture.panes[1].range = {180 - 1.1 * turned, 180 + 1.1 * turned};
  plot_->show(std::move(picture));
}

PowerView::PowerView(Page& page, TubeChoice& choice)
    : StageView(page, choice),
      stages_(page.context().asker, predict::predictPowerStages, Weight::heavy, Of::inkAndNow) {
  auto* column = contentColumn(8);
  answer_ = answerLabel("powerAnswer");
  column->addWidget(answer_);
  table_ = new FigureTable;
  table_->setObjectName(QStringLiteral("powerBias"));
  table_->setAccessibleName(tr("Bias of the output stage"));
  table_->setMaximumWidth(720);
  column->addWidget(table_);
  caution_ = new Label(
      tr("Bias is set with the amplifier on and hundreds of volts inside it. Fit the meter's clips with the power off, "
         "keep one hand behind your back, and have somebody qualified show you the first time."));
  caution_->setWordWrap(true);
  caution_->setProperty("quiet", true);
  column->addWidget(caution_);
  column->addStretch(1);
  own(stages_);
  stages_.answered = [this](const auto& answers) { draw(answers); };
}

void PowerView::ask(const Answers<predict::Idle>& idle) {
  choice().fill(*(idle.nowValue() ? idle.nowValue() : idle.any()));
  stages_.ask({});
}

void PowerView::clear() {
  answer_->clear();
  table_->setRows({}, 99);
  choice().clear();
}

void PowerView::draw(const Answers<predict::PowerStages>& answers) {
  const auto *ink = answers.inkValue(), *pencil = answers.pencilValue();
  const auto* now = pencil ? pencil : ink;
  if (!now) {
    if (answers.problem()) sayProblem(*answers.problem());
    return;
  }
  if (now->all.empty()) return state().say(tr("No tube of this design drives an output transformer."));
  state().showContent();
  using Look = FigureTable::Look;
  FigureTable::Rows rows;
  const auto share = [](const PowerStage& stage, const PowerIdle& idle) {
    const auto watts =
        tr("%1, %2").arg(readingOf(idle.plateAmps, Unit::ampere), readingOf(idle.plateWatts, Unit::watt));
    return stage.wattsLimit ? tr("%1, %2 of the rating").arg(watts, percent(idle.plateWatts / *stage.wattsLimit))
                            : watts;
  };
  for (std::size_t s = 0; s < now->all.size(); ++s) {
    const auto& stage = now->all[s];
    const auto* before = pencil && ink && s < ink->all.size() ? &ink->all[s] : nullptr;
    const auto both = [&](const QString& title, auto pick, auto isDanger) {
      const QString is = pick(stage), was = before ? pick(*before) : is;
      if (is.isEmpty() && was.isEmpty()) return;
      const auto look = isDanger(stage) ? Look::danger : Look::figure;
      std::vector<FigureTable::Cell> row{{title, Look::quiet}, {was, was == is ? look : Look::figure}};
      if (was != is) row.push_back({is, isDanger(stage) ? Look::danger : Look::pencil});
      rows.push_back(std::move(row));
    };
    const auto over = [](const PowerStage& stage, const std::optional<PowerIdle>& idle) {
      return idle && stage.wattsLimit && idle->plateWatts > *stage.wattsLimit;
    };
    const auto safe = [](const PowerStage&) { return false; };
    QStringList tubes;
    for (const auto& tube : stage.tubes)
      tubes << QString::fromStdString(tube);
    rows.push_back({{tubes.join(QStringLiteral(", ")), Look::quiet}, {QString()}});
    both(
        tr("biased by"),
        [](const PowerStage& st) {
          const auto ohms = st.cathodeOhms ? schematicValue(*st.cathodeOhms, Unit::ohm) : QString();
          switch (st.bias) {
          case PowerStage::Bias::cathodeShared:
            return tr("a cathode resistor they share, %1").arg(ohms);
          case PowerStage::Bias::cathodeSeparate:
            return tr("a cathode resistor, %1").arg(ohms);
          case PowerStage::Bias::fixed:
            return tr("a negative supply");
          case PowerStage::Bias::mixed:
            break;
          }
          return tr("a negative supply and a cathode resistor, %1").arg(ohms);
        },
        safe);
    both(
        tr("idle, each tube"), [&](const PowerStage& st) { return share(st, st.idle); },
        [&](const PowerStage& st) { return over(st, st.idle); });
    both(
        tr("grid to cathode"), [](const PowerStage& st) { return readingOf(st.idle.gridVolts, Unit::volt); }, safe);
    both(
        tr("across the sense resistor"),
        [](const PowerStage& st) {
          return st.senseVolts ? tr("%1, plate and screen together").arg(readingOf(*st.senseVolts, Unit::volt))
                               : QString();
        },
        safe);
    both(
        tr("adjuster %1, cold end").arg(QString::fromStdString(stage.adjuster)),
        [&](const PowerStage& st) { return st.least ? share(st, *st.least) : QString(); },
        [&](const PowerStage& st) { return over(st, st.least); });
    both(
        tr("adjuster %1, hot end").arg(QString::fromStdString(stage.adjuster)),
        [&](const PowerStage& st) { return st.most ? share(st, *st.most) : QString(); },
        [&](const PowerStage& st) { return over(st, st.most); });
    both(
        stage.bias == PowerStage::Bias::fixed || stage.bias == PowerStage::Bias::mixed
            ? tr("if the bias is lost (%1 opens)").arg(QString::fromStdString(stage.failure))
            : tr("if its bypass goes short (%1 bridged)").arg(QString::fromStdString(stage.failure)),
        [&](const PowerStage& st) {
          return st.failed ? share(st, *st.failed) : st.failedProblem ? tr("no state was found") : QString();
        },
        [&](const PowerStage& st) { return over(st, st.failed); });
  }
  table_->setRows(std::move(rows), 1);
  const auto& stage = now->all.front();
  const auto name = QString::fromStdString(stage.tubes.front());
  if (stage.wattsLimit) {
    const double part = stage.idle.plateWatts / *stage.wattsLimit;
    using predict::IdleHeat;
    static const std::map<IdleHeat, const char*> words{
        {IdleHeat::cool, QT_TR_NOOP("cool")},
        {IdleHeat::classAb, QT_TR_NOOP("customary for class AB")},
        {IdleHeat::classA, QT_TR_NOOP("customary for class A, warm for class AB")},
        {IdleHeat::hot, QT_TR_NOOP("hot even for class A")},
        {IdleHeat::over, QT_TR_NOOP("too hot")}};
    answer_->setText(
        tr("%1 idles at %2 of its plate rating: %3").arg(name, percent(part), tr(words.at(predict::heatOf(part)))));
  } else {
    answer_->setText(tr("%1 idles at %2").arg(name, readingOf(stage.idle.plateWatts, Unit::watt)));
  }
}

} // namespace vinegar::app

#include "moc_power_view.cpp"
