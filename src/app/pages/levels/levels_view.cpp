#include "pages/levels/levels_view.h"

#include "pages/input_box.h"
#include "pages/stages/stage_words.h"
#include "tell/clipping.h"
#include "tell/levels.h"
#include "theme/text.h"
#include "theme/theme.h"
#include "widgets/figure_sheet.h"
#include "widgets/readings.h"
#include "widgets/told.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QSignalBlocker>
#include <QVBoxLayout>
#include <cmath>
#include <numbers>
#include <set>

namespace vinegar::app {
namespace {

using predict::Levels;
using predict::SectionLevel;
using units::Unit;
using LineLook = CurvePlot::Look;

double voltsInDecibels(double volts) { return 20 * std::log10(std::max(volts, 1e-7)); }

/// A name that fits under a tick: the tube, or the first words of the section's title in lines of some ten letters.
QString shortName(const SectionLevel& level) {
  if (!level.tubes.empty()) {
    QStringList tubes;
    for (const auto& tube : level.tubes)
      tubes << QString::fromStdString(tube);
    return tubes.size() > 2 ? tubes.first() + QStringLiteral("\u2026") + tubes.last() : tubes.join(QLatin1Char('\n'));
  }
  QString line, all;
  for (const auto& word : QString::fromStdString(level.title).split(QLatin1Char(' '))) {
    if (all.count(QLatin1Char('\n')) > 0 && !line.isEmpty() && line.size() + word.size() > 9) break;
    if (!line.isEmpty() && line.size() + word.size() > 9) {
      all += line + QLatin1Char('\n');
      line.clear();
    }
    line += (line.isEmpty() ? QString() : QStringLiteral(" ")) + word;
  }
  return all + line;
}

/// dB of input to its nearest limit; negative past it, infinite where it has none.
double leftOf(const SectionLevel& level) {
  return std::min(level.upDecibels.value_or(INFINITY), level.downDecibels.value_or(INFINITY));
}

QString tubesOf(const predict::Limit& limit) {
  QStringList tubes;
  for (const auto& tube : limit.tubes)
    tubes << QString::fromStdString(tube);
  return tubes.join(QStringLiteral(", "));
}

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

QString LevelView::atWorst(double hertz) const {
  return played().hertz > 0 ? QString() : tr(" at %1").arg(readingOf(hertz, Unit::hertz));
}

LevelView::LevelView(Page& page) : PageView(page) {
  connect(&page.context().selection, &Selection::playedChanged, this, &LevelView::again);
}

void LevelView::again() {
  const auto& idle = page().context().asker.idle();
  if (isVisible() && !idle.empty()) follow(idle);
}

void fillControls(QComboBox& box, const amp::Circuit& circuit) {
  QStringList wanted, present;
  QString volume;
  for (const auto& part : circuit.parts) {
    const auto knob = QString::fromStdString(part.resolved.knob);
    if (part.resolved.part->kind != amp::PartKind::pot || part.devices.empty() || wanted.contains(knob)) continue;
    wanted << knob;
    if (volume.isEmpty() && part.resolved.part->role == "volume-control") volume = knob;
  }
  for (int i = 0; i < box.count(); ++i)
    present << box.itemText(i);
  if (wanted == present) return;
  const QString chosen = box.currentText();
  const QSignalBlocker block(&box);
  box.clear();
  box.addItems(wanted);
  box.setCurrentText(wanted.contains(chosen) ? chosen : volume.isEmpty() ? wanted.value(0) : volume);
}

ChainView::ChainView(Page& page)
    : LevelView(page), levels_(page.context().asker, predict::predictLevels, Weight::quick, Of::inkAndNow),
      waves_(page.context().asker, predict::predictLevels, Weight::heavy, Of::inkAndNow),
      first_(page.context().asker, predict::predictClipping, Weight::heavy, Of::inkAndNow),
      all_(page.context().asker, predict::predictClipping, Weight::heavy, Of::inkAndNow) {
  auto* column = contentColumn(2);
  answer_ = answerLabel("clipsFirst", 15);
  column->addWidget(answer_);
  more_ = quietLabel({}, "levelsMore");
  column->addWidget(more_);
  plot_ = new CurvePlot;
  column->addWidget(plot_, 1);
  own(levels_);
  own(waves_);
  own(first_);
  own(all_);
  levels_.answered = [this](const Answers<Levels>& answers) {
    shown_ = answers;
    draw();
    say();
  };
  waves_.answered = [this](const Answers<Levels>& answers) {
    played_ = answers;
    draw();
    say();
  };
  first_.answered = [this](const Answers<predict::Clipping>& answers) {
    clipping_ = answers;
    say();
  };
  all_.answered = [this](const Answers<predict::Clipping>& answers) {
    limits_ = answers;
    draw();
  };
}

void ChainView::ask(const Answers<predict::Idle>&) {
  // What was played before is not what is played now.
  const auto now = played();
  levels_.ask({now.hertz, now.inputPeak, false});
  waves_.ask({now.hertz, now.inputPeak, true});
  first_.ask({now.hertz, predict::ClippingQuestion::Which::first});
  all_.ask({now.hertz, predict::ClippingQuestion::Which::all});
}

void ChainView::clear() {
  shown_ = {};
  played_ = {};
  clipping_ = {};
  limits_ = {};
  answer_->clear();
  more_->clear();
  plot_->clear();
}

void ChainView::say() {
  const auto first = [](const predict::Clipping* clipping) { return clipping ? clipping->first() : nullptr; };
  const auto *ink = first(clipping_.inkValue()), *pencil = first(clipping_.pencilValue());
  // Where the pencilled amplifier has no answer the ink's would stand in its place unnoticed.
  const auto* now = clipping_.nowValue();
  if (const auto* limit = first(now)) {
    answer_->setText(tr("First to clip: %1, by %2, at %3 in")
                         .arg(tubesOf(*limit), wordsOf(limit->kind), InputBox::level(limit->inputPeak)) +
                     atWorst(now->hertz));
  } else if (now) {
    answer_->setText(tr("Nothing clips under %1 in").arg(InputBox::level(predict::mostInputPeak)));
  } else if (const auto* problem = clipping_.problem(); problem && !problem->cancelled) {
    answer_->setText(tr("No wave was found: %1").arg(QString::fromStdString(problem->line())));
  }
  QStringList more;
  if (pencil && ink) more << tr("ink: %1 at %2").arg(tubesOf(*ink), InputBox::level(ink->inputPeak));
  const auto* levels = played_.nowValue() ? played_.nowValue() : shown_.nowValue();
  if (levels) {
    if (levels->speakerWatts)
      more << tr("%1 at the speaker with %2 in")
                  .arg(readingOf(*levels->speakerWatts, Unit::watt), InputBox::level(levels->inputPeak));
    if (levels->feedbackDecibels && std::abs(*levels->feedbackDecibels) > 0.05)
      more << tr("feedback takes %1 dB").arg(*levels->feedbackDecibels, 0, 'f', 1);
  }
  more_->setText(more.join(QStringLiteral(" \u00b7 ")));
}

void ChainView::draw() {
  // What is left counts what clips before: told by waves where they are there.
  const auto counted = [](const Levels* levels, const predict::Clipping* clipping) {
    std::optional<Levels> copy;
    if (levels) copy = *levels;
    if (copy && clipping) predict::putWaves(*copy, *clipping);
    return copy;
  };
  const auto ink = counted(shown_.inkValue(), limits_.inkValue());
  const auto pencil = counted(shown_.pencilValue(), limits_.pencilValue());
  const auto* any = shown_.nowValue() ? (pencil ? &*pencil : &*ink) : nullptr;
  if (!any) {
    if (const auto* problem = shown_.problem()) sayProblem(*problem);
    return;
  }
  state().showContent();
  CurvePlot::Picture picture;
  picture.title = tr("Levels, %1 in").arg(InputBox::level(any->inputPeak));
  picture.xLabel = QString();
  picture.silent = true;
  auto sections = any->sections;
  // A single part between two places, as feedback is, has no picture of its own.
  std::set<std::string> shown{"line"};
  for (const auto& section : sections)
    if (!section.tubes.empty()) shown.insert(section.chain);
  std::erase_if(sections, [&](const SectionLevel& section) { return !shown.contains(section.chain); });
  const bool sides = std::any_of(sections.begin(), sections.end(), [](const auto& s) { return s.chain != "line"; });
  CurvePlot::Pane::Ticks volts;
  for (int decade = -6; decade <= 3; ++decade)
    volts.emplace_back(20.0 * decade, readingOf(std::pow(10, decade), Unit::volt, 1));
  for (const QString& label : {tr("V rms, main line"), tr("V rms, beside it")}) {
    CurvePlot::Pane pane{label, tr("V"), CurvePlot::Pane::Scale::tight};
    pane.yTicks = volts;
    if (sides) // less room
      std::erase_if(pane.yTicks, [](const auto& tick) { return std::lround(tick.first / 20) % 2 != 0; });
    if (picture.panes.empty() || sides) picture.panes.push_back(std::move(pane));
  }
  // Where each section stands: the main line in the first pane, the chains after each other in the second.
  std::vector<std::pair<int, double>> places;
  double x[2] = {0, 0};
  std::string chain;
  for (const auto& section : sections) {
    const int pane = section.chain == "line" ? 0 : 1;
    const bool isNew = section.chain != chain;
    if (pane == 1 && isNew && x[1] > 0) x[1] += 0.7;
    chain = section.chain;
    places.emplace_back(pane, x[pane]);
    auto name = shortName(section);
    if (pane == 1 && isNew) name.prepend(tr("%1:\n").arg(QString::fromStdString(section.chain)));
    if (const auto left = leftOf(section); std::isfinite(left))
      name += left < 0 ? tr("\npast %1 dB").arg(-left, 0, 'f', 0) : tr("\n%1 dB left").arg(left, 0, 'f', 0);
    picture.panes[static_cast<std::size_t>(pane)].xTicks.emplace_back(x[pane], name);
    x[pane] += 1;
  }
  const double right = std::max(x[0], x[1]) - 0.4;
  double low[2] = {1e9, 1e9}, high[2] = {-1e9, -1e9};
  const auto add = [&](const Levels& levels, const Levels* real, LineLook look, bool labelled) {
    CurvePlot::Curve curve;
    const auto flush = [&] {
      if (!curve.x.empty()) picture.curves.push_back(std::exchange(curve, {}));
    };
    std::string before;
    for (std::size_t i = 0; i < levels.sections.size(); ++i) {
      const auto& section = levels.sections[i];
      std::size_t at = i;
      if (at >= sections.size() || sections[at].section != section.section) {
        const auto found =
            std::find_if(sections.begin(), sections.end(), [&](const auto& s) { return s.section == section.section; });
        if (found == sections.end()) continue; // of the other side only
        at = static_cast<std::size_t>(found - sections.begin());
      }
      const auto [pane, place] = places[at];
      if (section.chain != before) flush();
      before = section.chain;
      const double rms = real && i < real->sections.size() ? real->sections[i].rms : section.rms;
      curve.look = look;
      curve.pane = pane;
      curve.x.push_back(place);
      curve.y.push_back(voltsInDecibels(rms));
      // The ceiling: where its output would stand when the stage clips.
      const double left = leftOf(section);
      if (std::isfinite(left)) {
        const double ceiling = voltsInDecibels(section.rms) + left;
        CurvePlot::Curve tick{{}, {place - 0.32, place + 0.32}, {ceiling, ceiling}, look, pane};
        picture.curves.push_back(std::move(tick));
        low[pane] = std::min(low[pane], ceiling);
        high[pane] = std::max(high[pane], ceiling);
      }
      low[pane] = std::min(low[pane], voltsInDecibels(rms));
      high[pane] = std::max(high[pane], voltsInDecibels(rms));
      if (labelled && pane == 0) {
        picture.dots.push_back({place, voltsInDecibels(rms), readingOf(rms, Unit::volt), look});
        // Where the line goes on downward its ground is above it.
        const bool last = i + 1 >= levels.sections.size() || levels.sections[i + 1].chain != section.chain;
        const auto& next = last ? section : levels.sections[i + 1];
        const double nextRms = real && !last ? real->sections[i + 1].rms : next.rms;
        picture.dots.back().below = !last && nextRms > rms;
      }
    }
    flush();
  };
  const auto real = [&](const std::optional<Levels>& levels, const Levels* waves) {
    return levels && waves && waves->inputPeak == levels->inputPeak && waves->hertz == levels->hertz &&
                   waves->sections.size() == levels->sections.size()
               ? waves
               : nullptr;
  };
  if (ink) add(*ink, real(ink, played_.inkValue()), LineLook::ink, !pencil);
  if (pencil) add(*pencil, real(pencil, played_.pencilValue()), LineLook::pencil, true);
  for (auto& curve : picture.curves)
    curve.name = tr("level");
  for (std::size_t pane = 0; pane < picture.panes.size(); ++pane)
    if (high[pane] >= low[pane]) {
      const double room = sides ? 20 : 12; // and whole fives, so that the picture stands still while a value is turned
      picture.panes[pane].range = {5 * std::floor((low[pane] - room) / 5), 5 * std::ceil((high[pane] + room) / 5)};
    }
  // Both panes share the width; a pair of points far below what is seen keeps it.
  picture.curves.push_back({{}, {-0.6, right + 0.4}, {-300, -300}, LineLook::inkThin, 0});
  plot_->show(std::move(picture));
}

OrderView::OrderView(Page& page)
    : LevelView(page), clipping_(page.context().asker, predict::predictClipping, Weight::heavy, Of::inkAndNow),
      map_(page.context().asker, predict::predictLevelMap, Weight::heavy, Of::now),
      power_(page.context().asker, predict::predictCleanPower, Weight::heavy, Of::now) {
  auto* column = contentColumn(4);
  answer_ = answerLabel("orderAnswer");
  column->addWidget(answer_);
  more_ = quietLabel({}, "orderMore");
  more_->setWordWrap(true);
  column->addWidget(more_);
  auto* row = new QHBoxLayout;
  auto* words = quietLabel(tr("With the input that is played, each is met when this control stands at"));
  row->addWidget(words);
  control_ = new QComboBox;
  control_->setObjectName(QStringLiteral("orderControl"));
  control_->setAccessibleName(tr("Control"));
  control_->setSizeAdjustPolicy(QComboBox::AdjustToContents);
  row->addWidget(control_);
  row->addStretch(1);
  column->addLayout(row);
  table_ = new FigureSheet;
  table_->setObjectName(QStringLiteral("order"));
  table_->setAccessibleName(tr("Order of clipping"));
  column->addWidget(table_, 1);
  own(clipping_);
  own(map_);
  own(power_);
  clipping_.answered = [this](const auto& answers) {
    shown_ = answers;
    draw();
  };
  map_.answered = [this](const auto& answers) {
    settings_ = answers;
    draw();
  };
  power_.answered = [this](const auto& answers) {
    clean_ = answers;
    draw();
  };
  connect(control_, &QComboBox::activated, this, &OrderView::again);
}

PageFrame::Exports OrderView::exports() { return page().exportsOf(*table_, tr("order of clipping")); }

void OrderView::ask(const Answers<predict::Idle>& idle) {
  fillControls(*control_, *(idle.nowValue() ? idle.nowValue() : idle.any())->circuit);
  clipping_.ask({played().hertz, predict::ClippingQuestion::Which::all});
  power_.ask({});
  if (control_->count() > 0)
    map_.ask({control_->currentText().toStdString(), played().hertz, 27, false});
  else
    map_.rest();
}

void OrderView::clear() {
  shown_ = {};
  settings_ = {};
  clean_ = {};
  answer_->clear();
  more_->clear();
  table_->clear();
}

void OrderView::draw() {
  const auto* now = shown_.nowValue();
  if (!now) {
    if (const auto* problem = shown_.problem()) sayProblem(*problem);
    return;
  }
  state().showContent();
  const auto* ink = shown_.pencil() ? shown_.inkValue() : nullptr;
  const auto* map = settings_.nowValue();
  QStringList told;
  if (const auto* first = now->first()) {
    const auto last =
        std::find_if(now->limits.rbegin(), now->limits.rend(), [](const auto& l) { return l.isClipping(); });
    answer_->setText(tr("First to clip%1: %2, at %3 in")
                         .arg(atWorst(now->hertz), tubesOf(*first), InputBox::level(first->inputPeak)));
    told << tr("From there to the last bend at %1 is %2 dB.")
                .arg(InputBox::level(last->inputPeak))
                .arg(20 * std::log10(last->inputPeak / first->inputPeak), 0, 'f', 0);
  } else {
    answer_->setText(tr("Nothing clips under %1").arg(InputBox::level(now->mostPeak)));
  }
  if (const auto* clean = clean_.nowValue(); clean && clean->power) told << cleanPowerWords(*clean->power);
  if (now->ofSupply)
    told << tr("Whether the supply gives way is not known: %1.").arg(QString::fromStdString(now->ofSupply->line()));
  more_->setText(told.join(QLatin1Char(' ')));
  const double input = played().inputPeak;
  Told<predict::Limit> order;
  order.withInk = ink != nullptr;
  order.ink = [ink](const predict::Limit& limit) -> const predict::Limit* {
    const auto same = std::find_if(ink->limits.begin(), ink->limits.end(), [&](const auto& other) {
      return other.kind == limit.kind && other.tubes == limit.tubes;
    });
    return same == ink->limits.end() ? nullptr : &*same;
  };
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

GainView::GainView(Page& page)
    : LevelView(page), levels_(page.context().asker, predict::predictLevels, Weight::quick, Of::inkAndNow),
      waves_(page.context().asker, predict::predictLevels, Weight::heavy, Of::inkAndNow),
      power_(page.context().asker, predict::predictCleanPower, Weight::heavy, Of::now) {
  auto* column = contentColumn(4);
  answer_ = answerLabel("gainAnswer");
  answer_->setWordWrap(true);
  column->addWidget(answer_);
  table_ = new FigureSheet;
  table_->setObjectName(QStringLiteral("gains"));
  table_->setAccessibleName(tr("Gain of every section"));
  column->addWidget(table_, 1);
  own(levels_);
  own(waves_);
  own(power_);
  levels_.answered = [this](const auto& answers) {
    shown_ = answers;
    draw();
  };
  waves_.answered = [this](const auto& answers) {
    played_ = answers;
    draw();
  };
  power_.answered = [this](const auto& answers) {
    clean_ = answers;
    draw();
  };
}

void GainView::draw() {
  // Until the waves are known, what the stages would do if nothing clipped.
  const auto *quick = shown_.nowValue(), *waves = played_.nowValue();
  const bool known = quick && waves && played_.edition == shown_.edition && waves->inputPeak == quick->inputPeak &&
                     waves->hertz == quick->hertz;
  const auto& levels = known ? played_ : shown_;
  const auto *ink = levels.inkValue(), *pencil = levels.pencilValue();
  const auto* now = pencil ? pencil : ink;
  if (!now) {
    if (const auto* problem = shown_.problem()) sayProblem(*problem);
    return;
  }
  state().showContent();
  double gained = 0, lost = 0;
  std::vector<predict::SectionLevel> sections;
  for (const auto& section : now->sections) {
    if (!section.gainDecibels) continue;
    if (section.chain == "line") (*section.gainDecibels > 0 ? gained : lost) += *section.gainDecibels;
    sections.push_back(section);
    sections.back().title = sentence(QString::fromStdString(section.title)).toStdString();
  }
  QString told = tr("The stages of the main line give %1 dB, what stands between them takes %2 dB")
                     .arg(gained, 0, 'f', 0)
                     .arg(-lost, 0, 'f', 0);
  if (now->feedbackDecibels && std::abs(*now->feedbackDecibels) > 0.05)
    told += tr("; feedback takes %1 dB").arg(*now->feedbackDecibels, 0, 'f', 1);
  told += QLatin1Char('.');
  if (const auto* clean = clean_.nowValue(); clean && clean->power) {
    const double spare = units::decibels(now->inputPeak / clean->power->atOnce.inputPeak);
    told += (spare > 0 ? tr(" As the knobs stand, %1 is %2 dB more than clean power takes: feedback could use as much.")
                       : tr(" As the knobs stand, %1 is %2 dB less than clean power takes."))
                .arg(InputBox::level(now->inputPeak))
                .arg(std::abs(spare), 0, 'f', 0);
  }
  answer_->setText(told);
  Told<predict::SectionLevel> gains;
  gains.withInk = pencil && ink;
  gains.ink = [ink](const predict::SectionLevel& section) -> const predict::SectionLevel* {
    const auto same = std::find_if(ink->sections.begin(), ink->sections.end(),
                                   [&](const auto& other) { return other.section == section.section; });
    return same == ink->sections.end() ? nullptr : &*same;
  };
  showTold(*table_, tell::sections(), sections, gains);
}

PageFrame::Exports GainView::exports() { return page().exportsOf(*table_, tr("gains")); }
void GainView::ask(const Answers<predict::Idle>&) {
  levels_.ask({played().hertz, played().inputPeak, false});
  waves_.ask({played().hertz, played().inputPeak, true});
  power_.ask({});
}

void GainView::clear() {
  shown_ = played_ = {};
  clean_ = {};
  answer_->clear();
  table_->clear();
}

} // namespace vinegar::app

#include "moc_levels_view.cpp"
