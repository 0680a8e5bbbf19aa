#include "pages/levels/chain_view.h"

#include "pages/kit/input_box.h"
#include "pages/stages/stage_words.h"
#include "theme/text.h"
#include "widgets/readings.h"
#include "widgets/told.h"

#include <QLabel>
#include <QVBoxLayout>
#include <cmath>
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

/// One for the line, and one for what stands beside it.
std::vector<CurvePlot::Pane> panesFor(bool sides) {
  std::vector<CurvePlot::Pane> panes;
  CurvePlot::Pane::Ticks volts;
  for (int decade = -6; decade <= 3; ++decade)
    volts.emplace_back(20.0 * decade, readingOf(std::pow(10, decade), Unit::volt, 1));
  for (const QString& label : {tr("V rms, main line"), tr("V rms, beside it")}) {
    CurvePlot::Pane pane{label, tr("V"), CurvePlot::Pane::Scale::tight};
    pane.yTicks = volts;
    if (sides) // less room
      std::erase_if(pane.yTicks, [](const auto& tick) { return std::lround(tick.first / 20) % 2 != 0; });
    if (panes.empty() || sides) panes.push_back(std::move(pane));
  }
  return panes;
}

} // namespace

ChainView::ChainView(Page& page) : LevelView(page) {
  auto* column = contentColumn(2);
  answer_ = newAnswer("clipsFirst", 15);
  column->addWidget(answer_);
  more_ = quietLabel({}, "levelsMore");
  column->addWidget(more_);
  plot_ = newPlot(tr("levels"));
  column->addWidget(plot_, 1);
}

void ChainView::ask(const Answers<predict::Idle>&) {
  // What was played before is not what is played now.
  const auto now = played();
  levels_.ask({now.hertz, now.inputPeak, false});
  waves_.ask({now.hertz, now.inputPeak, true});
  first_.ask({now.hertz, predict::ClippingQuestion::Which::first});
  all_.ask({now.hertz, predict::ClippingQuestion::Which::all});
}

void ChainView::clear() { more_->clear(); }

void ChainView::say() {
  const auto first = [](const predict::Clipping* clipping) { return clipping ? clipping->first() : nullptr; };
  const auto *ink = first(first_->inkValue()), *pencil = first(first_->pencilValue());
  // Where the pencilled amplifier has no answer the ink's would stand in its place unnoticed.
  const auto* now = first_->nowValue();
  if (const auto* limit = first(now)) {
    answer_->setText(
        tr("First to clip: %1, by %2, at %3 in")
            .arg(joined(limit->tubes), toldWords(predict::words(limit->kind)), InputBox::level(limit->inputPeak)) +
        atWorst(now->hertz));
  } else if (now) {
    answer_->setText(tr("Nothing clips under %1 in").arg(InputBox::level(predict::mostInputPeak)));
  } else if (const auto* problem = first_->problem(); problem && !problem->cancelled) {
    answer_->setText(tr("No wave was found: %1").arg(QString::fromStdString(problem->line())));
  }
  QStringList more;
  if (pencil && ink) more << tr("ink: %1 at %2").arg(joined(ink->tubes), InputBox::level(ink->inputPeak));
  const auto* levels = waves_->nowValue() ? waves_->nowValue() : levels_->nowValue();
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
  say();
  // What is left counts what clips before: told by waves where they are there.
  const auto counted = [](const Levels* levels, const predict::Clipping* clipping) {
    std::optional<Levels> copy;
    if (levels) copy = *levels;
    if (copy && clipping) predict::putWaves(*copy, *clipping);
    return copy;
  };
  const auto ink = counted(levels_->inkValue(), all_->inkValue());
  const auto pencil = counted(levels_->pencilValue(), all_->pencilValue());
  const auto* any = levels_->nowValue() ? (pencil ? &*pencil : &*ink) : nullptr;
  if (!standing(*levels_)) return;
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
  picture.panes = panesFor(sides);
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
      name += (left < 0 ? tr("\n%1\u00a0dB past") : tr("\n%1\u00a0dB left"))
                  .arg(std::abs(left), 0, 'f', std::abs(left) < 0.95 ? 1 : 0);
    picture.panes[static_cast<std::size_t>(pane)].xTicks.emplace_back(x[pane], name);
    x[pane] += 1;
  }
  const double right = std::max(x[0], x[1]) - 0.4;
  struct { ///< the limit farthest above its level, where a word has room
    CurvePlot::Dot dot;
    double left = 0;
  } named;
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
        if (labelled && pane == 0 && (named.dot.word.isEmpty() || left > named.left))
          named = {{place, ceiling, tr("clips here"), look, false, false, true}, left};
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
  if (ink) add(*ink, real(ink, waves_->inkValue()), LineLook::ink, !pencil);
  if (pencil) add(*pencil, real(pencil, waves_->pencilValue()), LineLook::pencil, true);
  if (!named.dot.word.isEmpty()) picture.dots.push_back(std::move(named.dot));
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

} // namespace vinegar::app

#include "moc_chain_view.cpp"
