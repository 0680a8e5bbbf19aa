#include "plots/response_plot.h"

#include "drawer/figure_table.h"
#include "files/results_json.h"
#include "plots/plot_files.h"
#include "theme/theme.h"

#include <QVBoxLayout>
#include <cmath>

namespace vinegar::app {
namespace {

struct Note {
  const char* name;
  double hertz;
};
constexpr Note noteMarks[] = {{"E1", 41.2},  {"E2", 82.41}, {"A2", 110},   {"G3", 196},
                              {"E4", 329.6}, {"A4", 440},   {"E6", 1318.5}};

QString hertzText(double hertz) { return QString::fromStdString(units::reading(hertz, units::Unit::hertz)); }

QSharedPointer<QCPAxisTicker> frequencyTicks() {
  auto ticker = QSharedPointer<QCPAxisTickerText>::create();
  for (const double decade : {10.0, 100.0, 1000.0, 10000.0})
    for (const double factor : {1.0, 2.0, 5.0}) {
      const double hertz = decade * factor;
      ticker->addTick(hertz, hertz >= 1000 ? QStringLiteral("%1k").arg(hertz / 1000) : QString::number(hertz));
    }
  ticker->addTick(100000, QStringLiteral("100k"));
  return ticker;
}

/// The points without which a curve would be drawn elsewhere: between two that are kept, the straight line passes
/// within a tenth of a pixel of every one left out. Stroking a smooth curve costs by its corners.
std::vector<std::size_t> neededPoints(const std::vector<QPointF>& points) {
  constexpr double tolerance = 0.1;
  std::vector<std::size_t> kept;
  std::size_t from = 0;
  while (from < points.size()) {
    kept.push_back(from);
    // The cone of slopes that pass all points seen so far.
    double low = -INFINITY, high = INFINITY;
    std::size_t to = from + 1;
    for (; to < points.size(); ++to) {
      const QPointF d = points[to] - points[from];
      if (!(d.x() > 0)) break;
      const double slope = d.y() / d.x();
      if (slope < low || slope > high) break;
      // Across the line, not down it: a steep line stays as close.
      const double room = tolerance * std::hypot(1, slope) / d.x();
      low = std::max(low, slope - room);
      high = std::min(high, slope + room);
    }
    from = std::max(from + 1, to - 1);
  }
  return kept;
}

} // namespace

ResponsePlot::ResponsePlot(QWidget* parent)
    : QWidget(parent), plot_(new QCustomPlot(this)), readout_(new FigureTable(this)), problem_(new QLabel(this)) {
  auto* layout = new QVBoxLayout(this);
  layout->setContentsMargins(0, 0, 0, 0);
  layout->setSpacing(2);
  readout_->setObjectName(QStringLiteral("readout"));
  readout_->setAccessibleName(tr("At the cursor"));
  readout_->setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
  problem_->setObjectName(QStringLiteral("plotProblem"));
  problem_->setProperty("danger", true);
  problem_->setWordWrap(true);
  problem_->setAlignment(Qt::AlignCenter);
  problem_->hide();
  tools_ = new QHBoxLayout;
  tools_->addWidget(readout_, 1);
  layout->addLayout(tools_);
  layout->addWidget(problem_);
  layout->addWidget(plot_, 1);

  plot_->setAutoAddPlottableToLegend(false);
  plot_->setFocusPolicy(Qt::StrongFocus);
  plot_->setMinimumHeight(140);
  plot_->setAccessibleName(tr("Response plot: left and right arrow keys move the cursor"));
  plot_->setNoAntialiasingOnDrag(true);
  // Painted with the rest of the window, not on its own before it.
  plot_->setPlottingHint(QCP::phImmediateRefresh, false);
  plot_->setInteractions(QCP::iRangeDrag | QCP::iRangeZoom);
  plot_->installEventFilter(this);
  plot_->xAxis->setScaleType(QCPAxis::stLogarithmic);
  plot_->xAxis->setTicker(frequencyTicks());
  plot_->xAxis->setRange(20, 20000);
  plot_->yAxis->setRange(-40, 40);
  plot_->yAxis->ticker()->setTickCount(6);
  plot_->plotLayout()->setRowSpacing(0);
  cursorLine_ = new QCPItemLine(plot_);
  cursorLine_->setClipToAxisRect(true);
  connect(plot_, &QCustomPlot::afterLayout, this, &ResponsePlot::fillGraphs);
  connect(plot_, &QCustomPlot::mouseMove, this, [this](QMouseEvent* event) {
    if (event->buttons() == Qt::NoButton) setCursor(plot_->xAxis->pixelToCoord(event->pos().x()));
  });
  connect(plot_->xAxis, qOverload<const QCPRange&>(&QCPAxis::rangeChanged), this, [this](const QCPRange& range) {
    if (phaseRect_) phaseRect_->axis(QCPAxis::atBottom)->setRange(range);
    placeNotes();
  });
  restyle();
}

void ResponsePlot::addTool(QWidget* tool) { tools_->insertWidget(tools_->count() - 1, tool); }

QPen ResponsePlot::penFor(std::size_t index) const {
  const Curve& curve = curves_[index];
  if (curve.ink) return {theme().ink, 2};
  if (curve.active) return {theme().pencilLine, 2.2, Qt::DashLine};
  QPen pen(theme().pencilLine, 1.6);
  if (index % 2 == 0)
    pen.setStyle(Qt::DotLine);
  else
    pen.setStyle(Qt::DashDotLine);
  return pen;
}

void ResponsePlot::restyle() {
  dressPlot(*plot_);
  for (auto* line : {cursorLine_, phaseCursorLine_})
    if (line) line->setPen(QPen(theme().quiet, 1, Qt::DotLine));
  placeNotes();
  setCurves(curves_);
}

void ResponsePlot::setPhaseShown(bool shown) {
  if (shown == (phaseRect_ != nullptr)) return;
  if (shown) {
    phaseRect_ = new QCPAxisRect(plot_);
    plot_->plotLayout()->addElement(1, 0, phaseRect_);
    plot_->plotLayout()->setRowStretchFactor(0, 2);
    auto* group = new QCPMarginGroup(plot_);
    for (auto* rect : {plot_->axisRect(0), phaseRect_})
      rect->setMarginGroup(QCP::msLeft | QCP::msRight, group);
    auto* x = phaseRect_->axis(QCPAxis::atBottom);
    x->setScaleType(QCPAxis::stLogarithmic);
    x->setTicker(frequencyTicks());
    x->setRange(plot_->xAxis->range());
    auto* y = phaseRect_->axis(QCPAxis::atLeft);
    y->setLabel(tr("degrees"));
    auto degrees = QSharedPointer<QCPAxisTickerFixed>::create();
    degrees->setTickStep(90);
    degrees->setScaleStrategy(QCPAxisTickerFixed::ssMultiples);
    y->setTicker(degrees);
    for (auto* axis : phaseRect_->axes())
      axis->setLayer(QStringLiteral("axes"));
    for (auto* axis : phaseRect_->axes())
      axis->grid()->setLayer(QStringLiteral("grid"));
    phaseCursorLine_ = new QCPItemLine(plot_);
    for (auto* position : {phaseCursorLine_->start, phaseCursorLine_->end}) {
      position->setAxes(x, y);
      position->setAxisRect(phaseRect_);
    }
    phaseCursorLine_->setClipAxisRect(phaseRect_);
  } else {
    plot_->removeItem(phaseCursorLine_);
    phaseCursorLine_ = nullptr;
    plot_->clearPlottables();
    plot_->plotLayout()->remove(phaseRect_);
    plot_->plotLayout()->simplify();
    phaseRect_ = nullptr;
  }
  plot_->clearPlottables();
  restyle();
  if (shown) fit();
}

void ResponsePlot::setNotesShown(bool shown) {
  notesShown_ = shown;
  placeNotes();
  plot_->replot(QCustomPlot::rpQueuedReplot);
}

void ResponsePlot::setLevelLabel(const QString& label) { plot_->yAxis->setLabel(label); }

void ResponsePlot::placeNotes() {
  for (auto* item : notes_)
    plot_->removeItem(item);
  notes_.clear();
  if (!notesShown_) return;
  for (const auto& [name, hertz] : noteMarks) {
    if (!plot_->xAxis->range().contains(hertz)) continue;
    auto* tick = new QCPItemLine(plot_);
    for (auto* position : {tick->start, tick->end}) {
      position->setTypeX(QCPItemPosition::ptPlotCoords);
      position->setTypeY(QCPItemPosition::ptAxisRectRatio);
      position->setAxisRect(plot_->axisRect());
    }
    tick->start->setCoords(hertz, 1);
    tick->end->setCoords(hertz, 0.955);
    tick->setPen(QPen(theme().signal, 1.5));
    auto* label = new QCPItemText(plot_);
    label->position->setTypeX(QCPItemPosition::ptPlotCoords);
    label->position->setTypeY(QCPItemPosition::ptAxisRectRatio);
    label->position->setAxisRect(plot_->axisRect());
    label->position->setCoords(hertz, 0.95);
    label->setPositionAlignment(Qt::AlignHCenter | Qt::AlignBottom);
    label->setText(QString::fromLatin1(name));
    label->setFont(textFont(8));
    label->setColor(theme().signal);
    notes_.push_back(tick);
    notes_.push_back(label);
  }
}

void ResponsePlot::setCurves(std::vector<Curve> curves) {
  curves_ = std::move(curves);
  problem_->hide();
  const int rects = phaseRect_ ? 2 : 1;
  const int wanted = static_cast<int>(curves_.size()) * rects;
  while (plot_->graphCount() > wanted)
    plot_->removeGraph(plot_->graphCount() - 1);
  while (plot_->graphCount() < wanted) {
    const bool phase = phaseRect_ && plot_->graphCount() % 2 == 1;
    auto* graph = phase ? plot_->addGraph(phaseRect_->axis(QCPAxis::atBottom), phaseRect_->axis(QCPAxis::atLeft))
                        : plot_->addGraph(plot_->xAxis, plot_->yAxis);
    graph->setAdaptiveSampling(false);
  }
  for (std::size_t i = 0; i < curves_.size(); ++i)
    for (int r = 0; r < rects; ++r)
      plot_->graph(static_cast<int>(i) * rects + r)->setPen(penFor(i));
  if (!fitted_ && !curves_.empty()) fit();
  setCursor(cursorHertz_);
}

void ResponsePlot::fillGraphs() {
  const int rects = phaseRect_ ? 2 : 1;
  if (plot_->graphCount() != static_cast<int>(curves_.size()) * rects) return;
  for (int g = 0; g < plot_->graphCount(); ++g) {
    const auto& response = curves_[static_cast<std::size_t>(g / rects)].response;
    const auto& values = g % rects == 0 ? response.decibels : response.degrees;
    const auto* x = plot_->graph(g)->keyAxis();
    const auto* y = plot_->graph(g)->valueAxis();
    std::vector<QPointF> points;
    points.reserve(values.size());
    for (std::size_t k = 0; k < values.size(); ++k)
      points.emplace_back(x->coordToPixel(response.hertz[k]), y->coordToPixel(values[k]));
    QVector<double> hertz, kept;
    for (const std::size_t k : neededPoints(points)) {
      hertz.push_back(response.hertz[k]);
      kept.push_back(values[k]);
    }
    plot_->graph(g)->setData(hertz, kept, true);
  }
}

void ResponsePlot::setProblem(const QString& message) {
  curves_.clear();
  plot_->clearGraphs();
  problem_->setText(QStringLiteral("\u26a0 ") + message);
  problem_->show();
  readout_->setRows({}, 0);
  plot_->replot(QCustomPlot::rpQueuedReplot);
}

void ResponsePlot::fit() {
  double low = 1e9, high = -1e9, lowDegrees = 1e9, highDegrees = -1e9;
  for (const auto& curve : curves_)
    for (std::size_t k = 0; k < curve.response.hertz.size(); ++k) {
      if (curve.response.hertz[k] < 20 || curve.response.hertz[k] > 20000) continue;
      low = std::min(low, curve.response.decibels[k]);
      high = std::max(high, curve.response.decibels[k]);
      lowDegrees = std::min(lowDegrees, curve.response.degrees[k]);
      highDegrees = std::max(highDegrees, curve.response.degrees[k]);
    }
  if (high < low) return;
  fitted_ = true;
  const double top = std::ceil((high + 2) / 5) * 5;
  plot_->yAxis->setRange(std::max(std::min(std::floor((low - 3) / 5) * 5, top - 20), top - 80), top);
  plot_->xAxis->setRange(20, 20000);
  if (phaseRect_)
    phaseRect_->axis(QCPAxis::atLeft)
        ->setRange(std::floor((lowDegrees - 10) / 90) * 90, std::ceil((highDegrees + 10) / 90) * 90);
  plot_->replot(QCustomPlot::rpQueuedReplot);
}

void ResponsePlot::setCursor(double hertz) {
  if (curves_.empty() || curves_.front().response.hertz.empty()) return;
  const auto& range = curves_.front().response.hertz;
  cursorHertz_ = std::clamp(hertz, range.front(), range.back());
  cursorLine_->start->setCoords(cursorHertz_, -1000);
  cursorLine_->end->setCoords(cursorHertz_, 1000);
  if (phaseCursorLine_) {
    phaseCursorLine_->start->setCoords(cursorHertz_, -1e5);
    phaseCursorLine_->end->setCoords(cursorHertz_, 1e5);
  }
  showReadout();
  plot_->replot(QCustomPlot::rpQueuedReplot);
}

QString ResponsePlot::readout() const { return readout_->text(); }

void ResponsePlot::showReadout() {
  using Look = FigureTable::Look;
  std::vector<FigureTable::Cell> cells{{hertzText(cursorHertz_), Look::quiet}};
  double inkLevel = 0;
  for (std::size_t i = 0; i < curves_.size(); ++i) {
    const auto& curve = curves_[i];
    const double level = predict::decibelsAt(curve.response, cursorHertz_);
    const QString mark = curve.ink      ? QStringLiteral("\u2014")
                         : curve.active ? QStringLiteral("- -")
                         : i % 2 == 0   ? QStringLiteral("\u00b7\u00b7\u00b7")
                                        : QStringLiteral("-\u00b7-");
    QString text = mark + QLatin1Char(' ') + curve.name + QStringLiteral(" %1").arg(level, 0, 'f', 1);
    if (curve.ink)
      inkLevel = level;
    else
      text += QStringLiteral(" (%1)").arg(signedDecibels(level - inkLevel));
    cells.push_back({text, curve.ink ? Look::figure : Look::pencil});
  }
  if (!curves_.empty()) cells.push_back({tr("dB"), Look::quiet});
  readout_->setRows({std::move(cells)}, 0);
}

bool ResponsePlot::eventFilter(QObject* watched, QEvent* event) {
  if (watched == plot_ && event->type() == QEvent::KeyPress) {
    auto* key = static_cast<QKeyEvent*>(event);
    const double ratio = key->modifiers() & Qt::ShiftModifier ? 1.26 : 1.02;
    if (key->key() == Qt::Key_Right) return setCursor(cursorHertz_ * ratio), true;
    if (key->key() == Qt::Key_Left) return setCursor(cursorHertz_ / ratio), true;
    if (key->matches(QKeySequence::Copy)) return copyToClipboard(), true;
  }
  if (watched == plot_ && (event->type() == QEvent::FocusIn || event->type() == QEvent::FocusOut)) {
    plot_->axisRect()->setBackground(theme().ground);
    for (auto* axis : plot_->axisRect()->axes())
      axis->setBasePen(event->type() == QEvent::FocusIn ? QPen(theme().signal, 2) : QPen(theme().hairline));
    plot_->replot(QCustomPlot::rpQueuedReplot);
  }
  return QWidget::eventFilter(watched, event);
}

std::string ResponsePlot::figures() const {
  std::vector<std::pair<std::string, predict::Response>> curves;
  for (const auto& curve : curves_)
    curves.emplace_back(curve.name.toStdString(), curve.response);
  return files::responsesCsv(curves);
}

QString ResponsePlot::exportTo(const QString& path) { return savePlot(*plot_, path, tr("Response"), figures()); }

void ResponsePlot::copyToClipboard() { copyPlot(*plot_, figures()); }

} // namespace vinegar::app
