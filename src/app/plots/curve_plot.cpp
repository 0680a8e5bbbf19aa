#include "plots/curve_plot.h"

#include "plots/clear_ticks.h"
#include "plots/curve_graph.h"
#include "plots/curve_looks.h"
#include "plots/plot_files.h"
#include "theme/theme.h"
#include "units/csv.h"
#include "widgets/figure_table.h"
#include "widgets/readings.h"

#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <tuple>

namespace vinegar::app {
namespace {

QSharedPointer<QCPAxisTicker> named(const CurvePlot::Pane::Ticks& ticks, const QCPAxis* axis) {
  auto ticker = QSharedPointer<ClearTicks<QCPAxisTickerText>>::create(axis);
  for (const auto& [at, name] : ticks)
    ticker->addTick(at, name);
  return ticker;
}

QSharedPointer<QCPAxisTicker> numbered(const QCPAxis* axis) {
  return QSharedPointer<ClearTicks<QCPAxisTicker>>::create(axis);
}

QSharedPointer<QCPAxisTicker> frequencyTicks(const QCPAxis* axis) {
  auto ticker = QSharedPointer<ClearTicks<QCPAxisTickerText>>::create(axis);
  for (const double decade : {10.0, 100.0, 1000.0, 10000.0})
    for (const double factor : {1.0, 2.0, 5.0}) {
      const double hertz = decade * factor;
      ticker->addTick(hertz, hertz >= 1000 ? QStringLiteral("%1k").arg(hertz / 1000) : QString::number(hertz));
    }
  ticker->addTick(100000, QStringLiteral("100k"));
  return ticker;
}

template <class Piece> bool sameButForLive(const std::vector<Piece>& a, const std::vector<Piece>& b) {
  const auto next = [](auto& from, const auto& end) {
    from = std::find_if(from, end, [](const Piece& piece) { return !isLive(piece); });
    return from != end;
  };
  auto x = a.begin(), y = b.begin();
  while (true) {
    const bool more = next(x, a.end());
    if (more != next(y, b.end())) return false;
    if (!more) return true;
    if (*x++ != *y++) return false;
  }
}

/// The same but for what is live: then that alone is drawn anew.
bool sameGround(const CurvePlot::Picture& a, const CurvePlot::Picture& b) {
  if (a.title != b.title || a.xLabel != b.xLabel || a.panes != b.panes || a.hertz != b.hertz ||
      a.curves.size() != b.curves.size())
    return false;
  for (std::size_t i = 0; i < a.curves.size(); ++i) // graphs go by number
    if (a.curves[i].look != b.curves[i].look || a.curves[i].pane != b.curves[i].pane) return false;
  return sameButForLive(a.curves, b.curves) && sameButForLive(a.paths, b.paths) && sameButForLive(a.dots, b.dots);
}

} // namespace

CurvePlot::CurvePlot(QWidget* parent) : QWidget(parent), plot_(new QCustomPlot(this)), readout_(new FigureTable(this)) {
  auto* layout = new QVBoxLayout(this);
  layout->setContentsMargins(0, 0, 0, 0);
  layout->setSpacing(2);
  readout_->setObjectName(QStringLiteral("readout"));
  readout_->setAccessibleName(tr("At the cursor"));
  readout_->setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
  tools_ = new QHBoxLayout;
  tools_->addWidget(readout_, 1);
  layout->addLayout(tools_);
  layout->addWidget(plot_, 1);
  plot_->setAutoAddPlottableToLegend(false);
  plot_->setFocusPolicy(Qt::StrongFocus);
  plot_->setMinimumHeight(120);
  plot_->setAccessibleName(tr("Plot: left and right arrow keys move the cursor"));
  plot_->setNoAntialiasingOnDrag(true);
  // Painted with the rest of the window, not on its own before it.
  plot_->setPlottingHint(QCP::phImmediateRefresh, false);
  plot_->setInteractions(QCP::iRangeDrag | QCP::iRangeZoom);
  plot_->plotLayout()->setRowSpacing(0);
  plot_->addLayer(QStringLiteral("live"), plot_->layer(QStringLiteral("axes")), QCustomPlot::limAbove);
  live_ = plot_->layer(QStringLiteral("live"));
  live_->setMode(QCPLayer::lmBuffered);
  plot_->installEventFilter(this);
  const auto touched = [this] {
    moved_ = true;
    drawn_.reset();
  };
  connect(plot_, &QCustomPlot::afterLayout, this, [this] {
    fillGraphs();
    // Ticks were put where there was room in the layout before.
    if (plot_->viewport() == ticked_) return;
    ticked_ = plot_->viewport();
    plot_->replot(QCustomPlot::rpQueuedReplot);
  });
  connect(plot_, &QCustomPlot::mouseWheel, this, touched);
  connect(plot_, &QCustomPlot::mouseMove, this, [this, touched](QMouseEvent* event) {
    if (event->buttons() == Qt::NoButton)
      setCursor(plot_->xAxis->pixelToCoord(event->pos().x()));
    else
      touched();
  });
  setPanes(1);
  restyle();
}

void CurvePlot::addTool(QWidget* tool) { tools_->insertWidget(tools_->count() - 1, tool); }

void CurvePlot::addFit() {
  auto* fit = new QPushButton(tr("Fit"));
  fit->setObjectName(QStringLiteral("fit"));
  fit->setToolTip(tr("Set the axes to the curves; drag or use the wheel to move them."));
  connect(fit, &QPushButton::clicked, this, &CurvePlot::fit);
  addTool(fit);
}

QCPAxisRect* CurvePlot::rectOf(int pane) const { return pane > 0 && second_ ? second_ : plot_->axisRect(0); }

void CurvePlot::setPanes(std::size_t count) {
  if ((count > 1) == (second_ != nullptr) && !cursors_.empty()) return;
  cursors_.clear();
  plot_->clearPlottables();
  plot_->clearItems();
  under_ = above_ = {};
  if (count > 1 && !second_) {
    second_ = new QCPAxisRect(plot_);
    plot_->plotLayout()->addElement(1, 0, second_);
    auto* group = new QCPMarginGroup(plot_);
    for (auto* rect : {plot_->axisRect(0), second_})
      rect->setMarginGroup(QCP::msLeft | QCP::msRight, group);
    for (auto* axis : second_->axes()) {
      axis->setLayer(QStringLiteral("axes"));
      axis->grid()->setLayer(QStringLiteral("grid"));
    }
    connect(plot_->xAxis, qOverload<const QCPRange&>(&QCPAxis::rangeChanged), second_->axis(QCPAxis::atBottom),
            qOverload<const QCPRange&>(&QCPAxis::setRange));
  } else if (count == 1 && second_) {
    plot_->plotLayout()->remove(second_);
    plot_->plotLayout()->simplify();
    second_ = nullptr;
  }
  for (auto* rect : plot_->axisRects()) {
    auto* line = new QCPItemLine(plot_);
    for (auto* position : {line->start, line->end}) {
      position->setTypeX(QCPItemPosition::ptPlotCoords);
      position->setTypeY(QCPItemPosition::ptAxisRectRatio);
      position->setAxes(rect->axis(QCPAxis::atBottom), rect->axis(QCPAxis::atLeft));
      position->setAxisRect(rect);
    }
    line->setClipAxisRect(rect);
    line->setPen(QPen(theme().quiet, 1, Qt::DotLine));
    line->setLayer(live_);
    cursors_.push_back(line);
  }
  dressPlot(*plot_);
}

void CurvePlot::show(Picture picture) {
  const bool other = picture.title != picture_.title;
  const bool onSameGround = drawn_ && sameGround(picture, picture_);
  const auto panesBefore = picture_.panes.size();
  picture_ = std::move(picture);
  if (other) moved_ = fitted_ = false;
  if (other && !picture_.stay) cursorSet_ = false;
  if (picture_.panes.size() != panesBefore) fitted_ = false;
  if (!onSameGround) build();
  if (!(picture_.stay ? fitted_ : moved_)) fit();
  if (!cursorSet_ && !picture_.curves.empty() && !picture_.curves.front().x.empty()) {
    const auto& x = picture_.curves.front().x;
    cursor_ = picture_.cursorAt.value_or(0.5 * (x.front() + x.back()));
    cursorSet_ = true;
  }
  if (onSameGround) {
    addPieces(true);
    for (std::size_t i = 0; i < picture_.curves.size(); ++i)
      if (isLive(picture_.curves[i])) fillGraph(i);
  }
  placeCursor();
  replot();
}

void CurvePlot::clear() {
  picture_ = {};
  held_ = -1;
  moved_ = fitted_ = cursorSet_ = false;
  plot_->clearGraphs();
  for (const bool live : {false, true})
    addPieces(live);
  readout_->setRows({}, 0);
  drawn_.reset();
  replot();
}

/// Graphs, labels and axes of a picture; the points follow when the layout is known.
void CurvePlot::build() {
  drawn_.reset();
  setPanes(picture_.panes.size());
  setAxes();
  plot_->clearGraphs();
  for (const auto& curve : picture_.curves) {
    auto* rect = rectOf(curve.pane);
    auto* graph = new CurveGraph(rect->axis(QCPAxis::atBottom), rect->axis(QCPAxis::atLeft));
    graph->setAdaptiveSampling(false);
    graph->setPen(penFor(curve.look));
    if (isLive(curve)) graph->setLayer(live_);
  }
  for (const bool live : {false, true})
    addPieces(live);
  // Words that were there before the graphs would be struck through by them.
  for (const auto* pieces : {&under_, &above_})
    for (auto* word : pieces->texts.all)
      word->setLayer(word->layer());
}

void CurvePlot::setAxes() {
  ticked_ = {};
  for (std::size_t pane = 0; pane < picture_.panes.size(); ++pane) {
    auto* axis = rectOf(static_cast<int>(pane))->axis(QCPAxis::atLeft);
    axis->setLabel(picture_.panes[pane].label);
    if (!picture_.panes[pane].yTicks.empty()) {
      axis->setTicker(named(picture_.panes[pane].yTicks, axis));
    } else if (picture_.panes[pane].scale == Pane::Scale::degrees) {
      auto degrees = QSharedPointer<ClearTicks<QCPAxisTickerFixed>>::create(axis);
      degrees->setTickStep(90);
      degrees->setScaleStrategy(QCPAxisTickerFixed::ssMultiples);
      axis->setTicker(degrees);
    } else {
      axis->setTicker(numbered(axis));
      axis->ticker()->setTickCount(6);
    }
  }
  for (auto* rect : plot_->axisRects()) {
    auto* axis = rect->axis(QCPAxis::atBottom);
    axis->setScaleType(picture_.hertz ? QCPAxis::stLogarithmic : QCPAxis::stLinear);
    axis->setTicker(picture_.hertz ? frequencyTicks(axis) : numbered(axis));
    const auto pane = static_cast<std::size_t>(rect == second_ ? 1 : 0);
    const bool isNamed = pane < picture_.panes.size() && !picture_.panes[pane].xTicks.empty();
    if (isNamed) axis->setTicker(named(picture_.panes[pane].xTicks, axis));
    axis->setRange(plot_->xAxis->range());
    // The last pane carries the axis for both.
    const bool last = rect == plot_->axisRects().last();
    axis->setLabel(last ? picture_.xLabel : QString());
    axis->setTickLabels(last || picture_.hertz || isNamed);
  }
  if (second_)
    plot_->plotLayout()->setRowStretchFactor(0, picture_.hertz ? 2 : picture_.panes.front().xTicks.empty() ? 1 : 1.6);
}

int CurvePlot::handleAt(const QPointF& place) const {
  constexpr double reach = 12;
  for (std::size_t d = 0; d < picture_.dots.size(); ++d) {
    const auto& dot = picture_.dots[d];
    const QPointF at(plot_->xAxis->coordToPixel(dot.x), plot_->yAxis->coordToPixel(dot.y));
    if (dot.movable && QLineF(at, place).length() <= reach) return static_cast<int>(d);
  }
  return -1;
}

bool CurvePlot::dragHandle(QMouseEvent* event) {
  const auto at = [&] {
    return QPointF(plot_->xAxis->pixelToCoord(event->position().x()),
                   plot_->yAxis->pixelToCoord(event->position().y()));
  };
  switch (event->type()) {
  case QEvent::MouseButtonPress:
    held_ = event->button() == Qt::LeftButton ? handleAt(event->position()) : -1;
    pressed_ = event->position();
    return held_ >= 0;
  case QEvent::MouseMove:
    if (held_ < 0) {
      plot_->setCursor(handleAt(event->position()) >= 0 ? Qt::SizeAllCursor : Qt::ArrowCursor);
      return false;
    }
    Q_EMIT handleMoved(held_, at().x(), at().y(), false);
    return true;
  case QEvent::MouseButtonRelease:
    if (held_ < 0) {
      const bool inside = plot_->axisRect(0)->rect().contains(event->position().toPoint());
      if (event->button() == Qt::LeftButton && inside && QLineF(pressed_, event->position()).length() < 4)
        Q_EMIT placeClicked(at().x(), at().y());
      return false;
    }
    Q_EMIT handleMoved(std::exchange(held_, -1), at().x(), at().y(), true);
    return true;
  default:
    return false;
  }
}

void CurvePlot::fillGraph(std::size_t index) {
  const auto& curve = picture_.curves[index];
  static_cast<CurveGraph*>(plot_->graph(static_cast<int>(index)))->setCurve(curve.x, curve.y);
}

void CurvePlot::fillGraphs() {
  if (plot_->graphCount() != static_cast<int>(picture_.curves.size())) return;
  for (std::size_t i = 0; i < picture_.curves.size(); ++i)
    fillGraph(i);
  placeNames();
}

CurvePlot::Ground CurvePlot::ground() const {
  Ground now{{}, plot_->size()};
  for (auto* rect : plot_->axisRects())
    now.ranges << rect->axis(QCPAxis::atBottom)->range() << rect->axis(QCPAxis::atLeft)->range();
  return now;
}

/// The pencil alone where what lies under it stands as it was drawn.
void CurvePlot::replot() {
  const auto now = ground();
  if (drawn_ && *drawn_ == now) return live_->replot();
  drawn_ = now;
  plot_->replot(QCustomPlot::rpQueuedReplot);
}

void CurvePlot::fit() {
  moved_ = false;
  if (picture_.axes) {
    fitted_ = true;
    plot_->xAxis->setRange(picture_.axes->left(), picture_.axes->right());
    plot_->yAxis->setRange(picture_.axes->top(), picture_.axes->bottom());
    return replot();
  }
  for (std::size_t p = 0; p < picture_.panes.size(); ++p) {
    const int pane = static_cast<int>(p);
    const double least = picture_.hertz ? 20 : -INFINITY, most = picture_.hertz ? 20000 : INFINITY;
    double low = INFINITY, high = -INFINITY, left = INFINITY, right = -INFINITY;
    for (const auto& curve : picture_.curves) {
      if (curve.x.empty()) continue;
      left = std::min(left, std::max(curve.x.front(), least));
      right = std::max(right, std::min(curve.x.back(), most));
      if (curve.pane != pane) continue;
      for (std::size_t k = 0; k < curve.x.size(); ++k) {
        if (curve.x[k] < least || curve.x[k] > most || !std::isfinite(curve.y[k])) continue;
        low = std::min(low, curve.y[k]);
        high = std::max(high, curve.y[k]);
      }
    }
    if (const auto& range = picture_.panes[p].range) std::tie(low, high) = *range;
    if (!(high >= low)) continue;
    fitted_ = true;
    auto* axis = rectOf(pane)->axis(QCPAxis::atLeft);
    const auto scale = picture_.panes[p].scale;
    if (picture_.panes[p].range) {
      axis->setRange(low, high);
    } else if (scale == Pane::Scale::decibels) {
      const double top = std::ceil((high + 2) / 5) * 5;
      axis->setRange(std::max(std::min(std::floor((low - 3) / 5) * 5, top - 20), top - 80), top);
    } else if (scale == Pane::Scale::degrees) {
      axis->setRange(std::floor((low - 10) / 90) * 90, std::ceil((high + 10) / 90) * 90);
    } else {
      if (scale == Pane::Scale::fromZero) {
        low = std::min(low, 0.0);
        high = std::max(high, 0.0);
      }
      const double room = std::max(0.08 * (high - low), 1e-3 * std::max(std::abs(high), 1e-6));
      axis->setRange(low == 0 ? 0 : low - room, high + 1.4 * room);
    }
    plot_->xAxis->setRange(left, right);
  }
  replot();
}

void CurvePlot::restyle() {
  dressPlot(*plot_);
  for (auto* line : cursors_)
    line->setPen(QPen(theme().quiet, 1, Qt::DotLine));
  if (!picture_.panes.empty()) build();
  drawn_.reset();
  replot();
}

void CurvePlot::setCursor(double x) {
  if (picture_.curves.empty() || picture_.curves.front().x.empty()) return;
  cursor_ = x;
  cursorSet_ = true;
  placeCursor();
  replot();
}

void CurvePlot::placeCursor() {
  for (auto* line : cursors_)
    line->setVisible(!picture_.silent);
  if (picture_.silent || picture_.curves.empty() || picture_.curves.front().x.empty()) {
    readout_->setRows({}, 0);
    return;
  }
  const auto& range = picture_.curves.front().x;
  cursor_ = std::clamp(cursor_, range.front(), range.back());
  for (auto* line : cursors_) {
    line->start->setCoords(cursor_, 0);
    line->end->setCoords(cursor_, 1);
  }
  showReadout();
}

QString CurvePlot::readout() const { return readout_->text(); }

void CurvePlot::showReadout() {
  using Cell = FigureTable::Look;
  constexpr std::size_t mostCells = 5;
  const QString at = picture_.hertz ? readingOf(cursor_, units::Unit::hertz)
                                    : QString::number(cursor_, 'g', 4) + QLatin1Char(' ') + picture_.xUnit;
  std::vector<FigureTable::Cell> cells{{at, Cell::quiet}};
  std::optional<double> ink; // without an ink there is nothing to compare with
  for (const auto& curve : picture_.curves) {
    const double value = valueAt(curve, cursor_, picture_.hertz);
    const bool thin = curve.look == Look::inkThin || curve.look == Look::pencilThin;
    if (!std::isfinite(value) || (picture_.againstInk && curve.pane > 0)) continue;
    if (!picture_.againstInk && (cells.size() >= mostCells || (thin && picture_.curves.size() > 4))) continue;
    QString text = markFor(curve.look) + QLatin1Char(' ');
    if (!curve.name.isEmpty()) text += curve.name + QLatin1Char(' ');
    if (picture_.againstInk) {
      text += QString::number(value, 'f', 1);
      if (curve.look == Look::ink)
        ink = value;
      else if (ink)
        text += QStringLiteral(" (%1)").arg(signedDecibels(value - *ink));
    } else {
      text +=
          QString::number(value, 'g', 4) + QLatin1Char(' ') + picture_.panes[static_cast<std::size_t>(curve.pane)].unit;
    }
    cells.push_back({text, isPencil(curve.look) ? Cell::pencil : Cell::figure});
  }
  if (picture_.againstInk) cells.push_back({picture_.panes.front().unit, Cell::quiet});
  readout_->setRows({std::move(cells)}, 0);
}

double CurvePlot::valueAt(const Curve& curve, double x, bool logarithmic) {
  const auto& xs = curve.x;
  const double slack = 1e-9 * std::abs(x);
  if (xs.empty() || x < xs.front() - slack || x > xs.back() + slack) return NAN;
  const auto above = std::lower_bound(xs.begin(), xs.end(), x);
  if (above == xs.begin()) return curve.y.front();
  if (above == xs.end()) return curve.y.back();
  const auto i = static_cast<std::size_t>(above - xs.begin());
  const double share =
      logarithmic ? std::log(x / xs[i - 1]) / std::log(xs[i] / xs[i - 1]) : (x - xs[i - 1]) / (xs[i] - xs[i - 1]);
  return curve.y[i - 1] + share * (curve.y[i] - curve.y[i - 1]);
}

std::string CurvePlot::figures() const {
  if (picture_.figures) return picture_.figures();
  std::string csv = "curve," + units::csvCell(picture_.xLabel.toStdString()) + ",value\n";
  const auto add = [&csv](const auto& line) {
    for (std::size_t k = 0; k < line.x.size(); ++k)
      csv += fmt::format("{},{:.9g},{:.9g}\n", units::csvCell(line.name.toStdString()), line.x[k], line.y[k]);
  };
  std::for_each(picture_.curves.begin(), picture_.curves.end(), add);
  std::for_each(picture_.paths.begin(), picture_.paths.end(), add);
  return csv;
}

QString CurvePlot::exportTo(const QString& path) { return savePlot(*plot_, path, picture_.title, figures()); }
void CurvePlot::copyToClipboard() { copyPlot(*plot_, figures()); }

bool CurvePlot::eventFilter(QObject* watched, QEvent* event) {
  if (watched == plot_ && (event->type() == QEvent::MouseButtonPress || event->type() == QEvent::MouseMove ||
                           event->type() == QEvent::MouseButtonRelease))
    if (dragHandle(static_cast<QMouseEvent*>(event))) return true;
  if (watched == plot_ && event->type() == QEvent::KeyPress) {
    auto* key = static_cast<QKeyEvent*>(event);
    const bool far = key->modifiers() & Qt::ShiftModifier;
    const auto handle =
        std::find_if(picture_.dots.begin(), picture_.dots.end(), [](const Dot& d) { return d.movable; });
    if (handle != picture_.dots.end()) {
      const double step = far ? 0.05 : 0.01;
      const double across = key->key() == Qt::Key_Right ? step : key->key() == Qt::Key_Left ? -step : 0;
      const double up = key->key() == Qt::Key_Up ? step : key->key() == Qt::Key_Down ? -step : 0;
      if (across != 0 || up != 0) {
        // One key after another goes further, although the dot itself stays until something is pencilled.
        const QPointF stands(handle->x, handle->y);
        if (std::exchange(keyedFrom_, stands) != stands) keyed_ = stands;
        keyed_ += QPointF(across * plot_->xAxis->range().size(), up * plot_->yAxis->range().size());
        Q_EMIT handleMoved(static_cast<int>(handle - picture_.dots.begin()), keyed_.x(), keyed_.y(), true);
        return true;
      }
    }
    const auto moved = [&](int direction) {
      if (picture_.hertz) return cursor_ * std::pow(far ? 1.26 : 1.02, direction);
      return cursor_ + direction * plot_->xAxis->range().size() * (far ? 0.05 : 0.01);
    };
    if (key->key() == Qt::Key_Right) return setCursor(moved(1)), true;
    if (key->key() == Qt::Key_Left) return setCursor(moved(-1)), true;
    if (key->matches(QKeySequence::Copy)) return copyToClipboard(), true;
  }
  if (watched == plot_ && (event->type() == QEvent::FocusIn || event->type() == QEvent::FocusOut)) {
    for (auto* rect : plot_->axisRects())
      for (auto* axis : rect->axes())
        axis->setBasePen(event->type() == QEvent::FocusIn ? QPen(theme().signal, 2) : QPen(theme().hairline));
    drawn_.reset();
    replot();
  }
  return QWidget::eventFilter(watched, event);
}

} // namespace vinegar::app

#include "moc_curve_plot.cpp"
