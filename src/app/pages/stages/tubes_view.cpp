#include "pages/stages/tubes_view.h"

#include "pages/kit/input_box.h"
#include "pages/stages/stage_words.h"
#include "tell/tubes.h"
#include "theme/text.h"
#include "theme/theme.h"
#include "widgets/figure_sheet.h"
#include "widgets/readings.h"
#include "widgets/told.h"

#include <QHBoxLayout>
#include <QLineEdit>
#include <QVBoxLayout>
#include <cmath>

namespace vinegar::app {
using units::Unit;

TubesView::TubesView(Page& page, TubeChoice& choice) : StageView(page, choice) {
  auto* column = contentColumn(4);
  table_ = newSheet("tubes", tr("All tubes"), tr("tubes"));
  column->addWidget(table_, 1);
  screenRow_ = new QWidget;
  auto* row = new QHBoxLayout(screenRow_);
  row->setContentsMargins(0, 0, 0, 0);
  screenSaid_ = quietLabel({});
  screenSaid_->setObjectName(QStringLiteral("screenSaid"));
  row->addWidget(screenSaid_);
  screenRead_ = new QLineEdit;
  screenRead_->setObjectName(QStringLiteral("screenRead"));
  screenRead_->setAccessibleName(tr("What a meter reads at the screen, to ground"));
  screenRead_->setFont(figureFont(9.5));
  screenRead_->setFixedWidth(80);
  row->addWidget(screenRead_);
  screenOff_ = new Label;
  screenOff_->setObjectName(QStringLiteral("screenOff"));
  row->addWidget(screenOff_);
  row->addStretch(1);
  column->addWidget(screenRow_);
  meaning_ = new Label;
  meaning_->setObjectName(QStringLiteral("meaning"));
  meaning_->setWordWrap(true);
  column->addWidget(meaning_);
  explanation_.then = [this] { tellMeaning(); };
  connect(table_, &FigureSheet::rowChosen, this, [this](int row) {
    const auto* now = stages_->nowValue();
    if (!now || row < 0 || static_cast<std::size_t>(row) >= now->tubes.size()) return;
    const auto name = now->tubes[static_cast<std::size_t>(row)].tube.name;
    if (name == this->choice().tube()) return;
    this->page().context().selection.select(name);
  });
  connect(&choice, &TubeChoice::chosen, this, [this] {
    markChosen();
    screenRead_->setModified(false);
    drawScreen();
    explain();
  });
  connect(screenRead_, &QLineEdit::returnPressed, this, [this] {
    screenRead_->setModified(false);
    measure(this->choice().tube(), "screen", screenRead_->text());
  });
  // What was typed and left without Enter is no reading.
  connect(screenRead_, &QLineEdit::editingFinished, this, [this] {
    if (screenRead_->hasFocus()) return;
    screenRead_->setModified(false);
    drawScreen();
  });
}

void TubesView::tellMeaning() {
  const auto* now = explanation_->nowValue();
  const auto name = QString::fromStdString(choice().tube());
  if (!now) {
    const auto* problem = explanation_->problem();
    return meaning_->setText(problem && !problem->cancelled ? QString::fromStdString(problem->line()) : QString());
  }
  if (now->agrees) return meaning_->setText(tr("%1 reads as predicted.").arg(name));
  if (now->suspects.empty())
    return meaning_->setText(tr("No single part, off its value, would explain what was read at %1.").arg(name));
  QStringList words;
  for (const auto& suspect : now->suspects) {
    const auto* part = page().context().asker.idle().nowValue();
    const auto* known = part ? part->circuit->part(suspect.part) : nullptr;
    const bool tube = known && amp::isTube(known->resolved.part->kind);
    const auto title = QString::fromStdString(suspect.part);
    words << (tube ? (suspect.off < 0 ? tr("%1 %2 % weak") : tr("%1 %2 % strong"))
                   : (suspect.off < 0 ? tr("%1 %2 % low") : tr("%1 %2 % high")))
                 .arg(title)
                 .arg(100 * std::abs(suspect.off), 0, 'f', 0);
  }
  meaning_->setText(tr("What was read at %1 would be explained best by %2.").arg(name, words.join(tr(", or "))));
}

void TubesView::put(const predict::Idle&) {
  state().showContent();
  stages_.ask({});
  explain();
}

void TubesView::clear() {
  screenRow_->hide();
  meaning_->clear();
  StageView::clear();
}

void TubesView::explain() {
  if (!isVisible()) return;
  const auto& measured = page().session().document().measured;
  const auto own = measured.find(choice().tube());
  if (own == measured.end() || own->second.empty()) {
    explanation_.rest();
    return meaning_->setText(tr("Type what a meter reads, plate and cathode to ground, into its cells: the difference "
                                "and what would explain it are told here."));
  }
  explanation_.ask({choice().tube(), own->second});
}

void TubesView::measure(const std::string& tube, const std::string& electrode, const QString& text) {
  const auto trimmed = text.trimmed();
  std::optional<double> volts;
  if (!trimmed.isEmpty()) {
    const auto read = units::parse(trimmed.toStdString(), Unit::volt);
    if (!read || !std::isfinite(*read) || std::abs(*read) > 1e4) {
      meaning_->setText(read ? tr("%1 is no voltage of an amplifier.").arg(trimmed)
                             : QString::fromStdString(read.error().message));
      return draw(); // as it was
    }
    volts = *read;
  }
  page().session().edit(tr("reading at %1").arg(QString::fromStdString(tube)), [&](amp::Document& document) {
    if (volts)
      document.measured[tube][electrode] = *volts;
    else if (const auto own = document.measured.find(tube); own != document.measured.end()) {
      own->second.erase(electrode);
      if (own->second.empty()) document.measured.erase(own);
    }
  });
  draw();
  explain();
}

/// Else the table, when it is gone into by keys, would choose its first.
void TubesView::markChosen() {
  const auto* now = stages_->nowValue();
  for (std::size_t i = 0; now && i < now->tubes.size(); ++i)
    if (now->tubes[i].tube.name == choice().tube() && table_->chosen() != static_cast<int>(i))
      table_->choose(static_cast<int>(i));
}

/// Half of the tubes have none, so it has no column.
void TubesView::drawScreen() {
  const auto* now = stages_->nowValue();
  const auto* stage = now ? now->tube(choice().tube()) : nullptr;
  screenRow_->setVisible(stage && stage->tube.screenVolts);
  if (!screenRow_->isVisibleTo(this)) return;
  const auto predicted = *tell::predictedAt(stage->tube, "screen");
  screenSaid_->setText(tr("Screen of %1 to ground: %2 predicted, read")
                           .arg(QString::fromStdString(stage->tube.name), readingOf(predicted, Unit::volt)));
  const auto* read = readAt(stage->tube.name, "screen");
  // Not while somebody types: answers come meanwhile.
  if (!screenRead_->isModified()) screenRead_->setText(read ? readingOf(*read, Unit::volt, 4) : QString());
  const auto off = read ? tell::offAt({*stage, {{"screen", *read}}}, "screen") : std::nullopt;
  screenOff_->setText(
      off ? QString::fromStdString(tell::written({"off", "", Unit::none, tell::Style::shareChange}, *off)) : QString());
}

const double* TubesView::readAt(const std::string& tube, const std::string& electrode) const {
  const auto& measured = page().session().document().measured;
  const auto own = measured.find(tube);
  if (own == measured.end()) return nullptr;
  const auto at = own->second.find(electrode);
  return at == own->second.end() ? nullptr : &at->second;
}

void TubesView::draw() {
  const auto *ink = stages_->inkValue(), *pencil = stages_->pencilValue();
  const auto* now = standing(*stages_);
  if (!now) return;
  drawScreen();
  const auto& measured = page().session().document().measured;
  const auto rows = tell::toldStages(*now, measured);
  const auto before = pencil && ink ? tell::toldStages(*ink, measured) : std::vector<tell::ToldStage>{};
  Told<tell::ToldStage> told;
  told.leaves = {"gm_siemens", "rp_ohms", "mu", "output_ohms", "miller_hertz", "grid_volts", "plate_watts"};
  told.besides(before.empty() ? nullptr : &before,
               [](const auto& a, const auto& b) { return a.stage.tube.name == b.stage.tube.name; });
  told.inkInTips = true;
  for (const std::string electrode : {"plate", "cathode"}) {
    told.cells[electrode + "_read_volts"] = [this, electrode](const tell::ToldStage& row, FigureSheet::Cell& cell) {
      if (!row.read.contains(electrode)) cell = {{}, cell.tip}; // to be typed into
      cell.typed = [this, name = row.stage.tube.name, electrode](const QString& text) {
        measure(name, electrode, text);
      };
    };
    told.cells[electrode + "_off"] = [electrode](const tell::ToldStage& row, FigureSheet::Cell& cell) {
      if (!row.read.contains(electrode)) cell = {{}, cell.tip};
    };
  }
  told.cells["tube"] = [](const tell::ToldStage&, FigureSheet::Cell& cell) { cell.strong = true; };
  told.cells["plate_rating_share"] = [](const tell::ToldStage& row, FigureSheet::Cell& cell) {
    const auto& tube = row.stage.tube;
    if (!tube.plateWattsLimit)
      cell.text = cell.tip = readingOf(tube.plateWatts, Unit::watt);
    else
      cell.tip +=
          QLatin1Char('\n') + tr("%1 of %2, %3")
                                  .arg(readingOf(tube.plateWatts, Unit::watt),
                                       readingOf(*tube.plateWattsLimit, Unit::watt), toldWords(row.stage.ratingSystem));
  };
  told.cells["gain"] = [](const tell::ToldStage& row, FigureSheet::Cell& cell) {
    if (row.stage.published && row.stage.published->mu)
      cell.tip +=
          QLatin1Char('\n') + tr("mu on the data sheet: %1").arg(QString::number(*row.stage.published->mu, 'g', 3));
  };
  told.cells["first_limit"] = [](const tell::ToldStage& row, FigureSheet::Cell& cell) {
    cell.tip = verdictOn(row.stage);
  };
  showTold(*table_, tell::stages(), rows, told);
  table_->setStretched({table_->columnCount() - 1});
  markChosen();
}

} // namespace vinegar::app

#include "moc_tubes_view.cpp"
