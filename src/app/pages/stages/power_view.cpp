#include "pages/stages/power_view.h"

#include "theme/text.h"
#include "widgets/figure_table.h"
#include "widgets/readings.h"

#include <QVBoxLayout>
#include <map>

namespace vinegar::app {

using predict::PowerIdle;
using predict::PowerStage;
using units::Unit;

PowerView::PowerView(Page& page, TubeChoice& choice) : StageView(page, choice) {
  auto* column = contentColumn(8);
  answer_ = newAnswer("powerAnswer");
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
}

void PowerView::put(const predict::Idle&) { stages_.ask({}); }

void PowerView::clear() {
  table_->setRows({}, 99);
  StageView::clear();
}

void PowerView::draw() {
  const auto *ink = stages_->inkValue(), *pencil = stages_->pencilValue();
  const auto* now = standing(*stages_);
  if (!now) return;
  if (now->all.empty()) return state().say(tr("No tube of this design drives an output transformer."));
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
    rows.push_back({{joined(stage.tubes), Look::quiet}, {QString()}});
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
