#include "pages/levels/map_view.h"

#include "pages/kit/input_box.h"
#include "pages/stages/stage_words.h"
#include "theme/text.h"
#include "widgets/readings.h"
#include "widgets/told.h"

#include <QComboBox>
#include <QVBoxLayout>
#include <cmath>
#include <map>
#include <numbers>

namespace vinegar::app {
namespace {

using predict::LevelMap;
using predict::Limit;
using units::Unit;
using LineLook = CurvePlot::Look;

constexpr double mostRms = 5; ///< of the map's inputs, volts
constexpr std::size_t mostLines = 6;

double rmsDecibels(double peak) { return 20 * std::log10(peak / std::numbers::sqrt2); }

using Key = std::pair<std::vector<std::string>, Limit::Kind>;

/// The limits of a map as lines over the setting, the one met with the least input first.
std::vector<std::pair<Key, CurvePlot::Curve>> linesOf(const LevelMap& map) {
  std::map<Key, CurvePlot::Curve> lines;
  std::map<Key, double> least;
  for (const auto& column : map.columns)
    for (const auto& limit : column.limits) {
      const Key key{limit.tubes, limit.kind};
      auto& line = lines[key];
      line.x.push_back(10 * column.setting);
      line.y.push_back(rmsDecibels(limit.inputPeak));
      const auto found = least.try_emplace(key, limit.inputPeak).first;
      found->second = std::min(found->second, limit.inputPeak);
    }
  std::vector<std::pair<Key, CurvePlot::Curve>> sorted(lines.begin(), lines.end());
  std::sort(sorted.begin(), sorted.end(),
            [&](const auto& a, const auto& b) { return least[a.first] < least[b.first]; });
  return sorted;
}

/// Where the map begins, volts: a decade under all that clips, and no instrument gives less than a millivolt.
double leastRms(const LevelMap& map) {
  double least = 1e-3;
  for (const auto& column : map.columns)
    for (const auto& limit : column.limits)
      while (limit.inputPeak / std::numbers::sqrt2 < 2 * least && least > 1e-6)
        least /= 10;
  return least;
}

CurvePlot::Curve cleanEdge(const LevelMap& map) {
  CurvePlot::Curve edge;
  for (const auto& column : map.columns) {
    edge.x.push_back(10 * column.setting);
    edge.y.push_back(rmsDecibels(column.limits.empty() ? predict::mostInputPeak : column.limits.front().inputPeak));
  }
  return edge;
}

} // namespace

MapView::MapView(Page& page) : LevelView(page) {
  auto* column = contentColumn(4);
  answer_ = newAnswer("mapAnswer");
  column->addWidget(answer_);
  plot_ = newPlot(tr("level map"));
  auto* word = quietLabel(tr("control"));
  plot_->addTool(word);
  control_ = new QComboBox;
  control_->setObjectName(QStringLiteral("mapControl"));
  control_->setAccessibleName(tr("Control"));
  control_->setSizeAdjustPolicy(QComboBox::AdjustToContents);
  plot_->addTool(control_);
  plot_->addFit();
  column->addWidget(plot_, 1);
  connect(control_, &QComboBox::activated, this, &MapView::again);
  connect(plot_, &CurvePlot::placeClicked, this, &MapView::setState);
}

void MapView::ask(const Answers<predict::Idle>& idle) {
  fillControls(*control_, *(idle.nowValue() ? idle.nowValue() : idle.any())->circuit);
  if (control_->count() == 0) {
    map_.rest();
    return state().say(tr("This design has no control to be turned. Put in a volume control on the Arrange page."));
  }
  const auto control = control_->currentText().toStdString();
  map_.ask({control, played().hertz, 40, false}, {control, played().hertz, 40, true});
  draw(); // the marks of what is played
}

void MapView::clear() { control_->clear(); }

void MapView::draw() {
  const auto *ink = map_->inkValue(), *pencil = map_->pencilValue();
  const auto* now = standing(*map_);
  if (!now) return;
  CurvePlot::Picture picture;
  picture.title = tr("What clips where, over %1").arg(control_->currentText());
  picture.xLabel = tr("%1, of 10").arg(control_->currentText());
  picture.silent = true;
  CurvePlot::Pane::Ticks ticks;
  double least = leastRms(*now);
  if (pencil && ink) least = std::min(least, leastRms(*ink));
  const std::vector<double> steps = least < 1e-3 ? std::vector{1.0, 3.0} : std::vector{1.0, 2.0, 5.0};
  for (double decade = least; decade < 2; decade *= 10)
    for (const double step : steps)
      ticks.emplace_back(20 * std::log10(step * decade), readingOf(step * decade, Unit::volt, 1));
  picture.panes = {{tr("input, V rms"), tr("V"), CurvePlot::Pane::Scale::tight}};
  picture.panes.front().yTicks = ticks;
  picture.axes = QRectF(0, 20 * std::log10(least), 10, 20 * std::log10(mostRms / least));
  auto edge = cleanEdge(*now);
  edge.look = pencil ? LineLook::pencil : LineLook::ink;
  CurvePlot::Path clean{tr("clean"), edge.x, edge.y, LineLook::ink};
  for (const double end : {10.0, 0.0}) {
    clean.x.push_back(end);
    clean.y.push_back(20 * std::log10(least));
  }
  clean.hatched = true;
  picture.paths.push_back(std::move(clean));
  edge.name = tr("clean below");
  picture.curves.push_back(edge);
  if (pencil && ink) {
    auto before = cleanEdge(*ink);
    before.look = LineLook::ink;
    picture.curves.push_back(std::move(before));
  }
  const auto lines = linesOf(*now);
  // A line that runs with one before it says nothing more.
  std::vector<const CurvePlot::Curve*> shownLines;
  const auto runsWith = [](const CurvePlot::Curve& a, const CurvePlot::Curve& b) {
    double apart = 0;
    for (std::size_t k = 0; k < a.x.size(); ++k) {
      const double other = CurvePlot::valueAt(b, a.x[k], false);
      apart = std::max(apart, std::isfinite(other) ? std::abs(a.y[k] - other) : 0.0);
    }
    return apart < 1;
  };
  for (const auto& entry : lines) {
    const auto& key = entry.first;
    const auto& curve = entry.second;
    if (shownLines.size() == mostLines) break;
    if (curve.x.size() < 2 ||
        std::any_of(shownLines.begin(), shownLines.end(), [&](const auto* other) { return runsWith(curve, *other); }))
      continue;
    auto line = curve;
    line.name = line.label =
        tr("%1 %2").arg(joined(key.first, QStringLiteral(" ")), toldWords(predict::words(key.second)));
    line.look = LineLook::inkThin;
    line.labelAt = 0.2 + 0.15 * static_cast<double>(shownLines.size());
    shownLines.push_back(&curve);
    picture.curves.push_back(std::move(line));
  }
  const auto& design = page().session().pencilled();
  const auto knob = design.knobs.find(now->control);
  const double setting = knob == design.knobs.end() ? 0.5 : knob->second;
  picture.dots.push_back({10 * setting, rmsDecibels(played().inputPeak),
                          tr("%1 in, at %2").arg(InputBox::level(played().inputPeak)).arg(10 * setting, 0, 'f', 1),
                          pencil ? LineLook::pencil : LineLook::ink});
  plot_->show(std::move(picture));
  const auto travel = now->cleanTravel(played().inputPeak);
  const auto control = control_->currentText();
  const auto level = tr("%1 in").arg(InputBox::level(played().inputPeak)) + atWorst(now->hertz);
  QString told = !travel ? tr("With %1 it clips at any setting of %2").arg(level, control)
                 : *travel < 1
                     ? tr("With %1, %2 is clean up to %3 of 10").arg(level, control).arg(10 * *travel, 0, 'f', 1)
                     : tr("With %1 it stays clean over all of %2").arg(level, control);
  // Whether what is played can be turned down instead.
  if (const auto clean = now->cleanUpTo(setting); clean && *clean < played().inputPeak)
    told += tr("; where it stands, %1 dB less input is clean")
                .arg(rmsDecibels(played().inputPeak) - rmsDecibels(*clean), 0, 'f', 0);
  answer_->setText(told);
}

void MapView::setState(double setting, double level) {
  const auto control = control_->currentText();
  const double rms = std::pow(10.0, level / 20);
  auto played = page().context().selection.played();
  played.inputPeak = rms * std::numbers::sqrt2;
  const double share = std::clamp(setting / 10, 0.0, 1.0);
  page().session().edit(tr("turn %1").arg(control),
                        [&](amp::Document& document) { document.ink.knobs[control.toStdString()] = share; });
  page().context().selection.play(played);
}

} // namespace vinegar::app

#include "moc_map_view.cpp"
