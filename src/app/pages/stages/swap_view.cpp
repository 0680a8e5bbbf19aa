#include "pages/stages/swap_view.h"

#include "pages/input_box.h"
#include "pages/stages/stage_words.h"
#include "predict/rest/ratings.h"
#include "theme/text.h"
#include "theme/theme.h"
#include "widgets/figure_sheet.h"
#include "widgets/readings.h"

#include <QHBoxLayout>
#include <QPushButton>
#include <QVBoxLayout>

namespace vinegar::app {

using units::Unit;

SwapView::SwapView(Page& page, TubeChoice& choice)
    : StageView(page, choice), swaps_(page.context().asker, predict::predictSwaps, Weight::heavy, Of::now) {
  auto* column = contentColumn(4);
  auto* row = new QHBoxLayout;
  auto* words = quietLabel(tr("Another type in its place, in the whole output stage"));
  row->addWidget(words, 1);
  rebias_ = new QPushButton(tr("With its new bias"));
  rebias_->setCheckable(true);
  rebias_->setChecked(true);
  rebias_->setObjectName(QStringLiteral("withRebias"));
  rebias_->setToolTip(tr("Pencil brings the stock value in that the type's bias asks for"));
  row->addWidget(rebias_);
  others_ = new QPushButton(tr("Other sockets too"));
  others_->setCheckable(true);
  others_->setObjectName(QStringLiteral("otherSockets"));
  row->addWidget(others_);
  column->addLayout(row);
  table_ = new FigureSheet;
  table_->setObjectName(QStringLiteral("swaps"));
  table_->setAccessibleName(tr("Tube types and what comes of them"));
  column->addWidget(table_, 1);
  own(swaps_);
  swaps_.answered = [this](const Answers<predict::Swaps>& answers) {
    if (answers.problem()) return sayProblem(*answers.problem());
    state().showContent();
    shown_ = *answers.now()->value;
    draw(*shown_);
  };
  for (auto* button : {others_, rebias_})
    connect(button, &QPushButton::toggled, this, [this] {
      if (shown_) draw(*shown_);
    });
}

PageFrame::Exports SwapView::exports() { return page().exportsOf(*table_, tr("tube swaps")); }

void SwapView::ask(const Answers<predict::Idle>& idle) {
  choice().fill(*(idle.nowValue() ? idle.nowValue() : idle.any()));
  swaps_.ask({choice().tube()});
}

void SwapView::clear() {
  shown_ = nullptr;
  table_->clear();
  choice().clear();
}

void SwapView::draw(const predict::Swaps& swaps) {
  std::vector<FigureSheet::Row> rows;
  for (const auto& swap : swaps.rows) {
    const bool current = swap.changes.empty();
    if (!others_->isChecked() && !swap.rewiring.empty()) continue;
    const auto title = QString::fromStdString(swap.type);
    auto changes = swap.changes;
    if (rebias_->isChecked()) changes.insert(changes.end(), swap.rebias.begin(), swap.rebias.end());
    auto row = current ? FigureSheet::Row{} : pencilRow(page().session(), changes, title);
    if (current) row.stands = QStringLiteral("  ") + tr("now");
    QString tip = QString::fromStdString(swap.rewiring);
    const auto put = [&](const QString& text, double order = 0, bool danger = false, bool words = false) {
      row.cells.push_back({text, tip, danger, current, words, order});
    };
    row.cells.push_back({title, tip, false, current});
    if (swap.problem) {
      for (int i = 0; i < 6; ++i)
        put(noReading());
      put(warned(QString::fromStdString(swap.problem->line())), 0, true, true);
      for (int i = 0; i < 3; ++i)
        put(noReading());
      rows.push_back(std::move(row));
      continue;
    }
    // As it is offered: with its new bias where that is chosen.
    const auto& state = rebias_->isChecked() ? swap.offered() : swap.plugged;
    const auto& stage = state.stage;
    const auto& tube = stage.tube;
    put(readingOf(tube.plateAmps, Unit::ampere), tube.plateAmps);
    const bool over = tube.plateWattsLimit && tube.plateWatts > *tube.plateWattsLimit;
    put(tube.plateWattsLimit ? percent(tube.plateWatts / *tube.plateWattsLimit)
                             : readingOf(tube.plateWatts, Unit::watt),
        tube.plateWatts, over);
    put(stage.gain ? QString::number(*stage.gain, 'g', 3) : noReading(), stage.gain.value_or(0));
    put(stage.published && stage.published->mu ? QString::number(*stage.published->mu, 'g', 3) : noReading(),
        stage.published ? stage.published->mu.value_or(0) : 0);
    const auto& first = predict::firstLimit(stage);
    put(first ? limitOf(*first) : noReading(), first ? std::abs(first->gridVolts) : 1e9);
    put(!swap.rebiased ? (current ? QString() : tr("as it is")) : wordsOf(swap.rebias), 0, false, true);
    QStringList against;
    if (!swap.rewiring.empty()) against << QString::fromStdString(swap.rewiring);
    for (const auto& word : state.against)
      against << QString::fromStdString(word);
    tip = against.join(QLatin1Char('\n'));
    put(against.isEmpty() ? tr("nothing") : warned(against.join(QStringLiteral("; "))),
        static_cast<double>(against.size()), !state.against.empty(), true);
    const auto hertz = [&](const std::optional<double>& value) {
      put(value ? readingOf(*value, Unit::hertz) : noReading(), value.value_or(0));
    };
    hertz(state.couplingHertz);
    hertz(stage.millerHertz);
    put(!swap.heaterAmps ? noReading()
        : swap.heaterLeftAmps
            ? tr("%1 of %2")
                  .arg(readingOf(*swap.heaterAmps, Unit::ampere), readingOf(*swap.heaterLeftAmps, Unit::ampere))
            : readingOf(*swap.heaterAmps, Unit::ampere),
        swap.heaterAmps.value_or(0),
        swap.heaterAmps && swap.heaterLeftAmps && *swap.heaterAmps > predict::ratingSlack * *swap.heaterLeftAmps);
    rows.push_back(std::move(row));
  }
  table_->setSheet({tr("type"), tr("current"), tr("watts"), tr("gain"), tr("sheet mu"), tr("first limit"),
                    tr("new bias"), tr("against it"), tr("coupling"), tr("Miller"), tr("heater")},
                   std::move(rows), true);
}

} // namespace vinegar::app

#include "moc_swap_view.cpp"
