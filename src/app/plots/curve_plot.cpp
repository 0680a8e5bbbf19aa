#include "plots/curve_plot.h"

#include "drawer/figure_table.h"
#include "plots/plot_files.h"
#include "theme/theme.h"

#include <QVBoxLayout>
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace vinegar::app {
namespace {

double valueAt(const CurvePlot::Curve& curve, double x) {
  if (curve.x.empty() || x < curve.x.front() || x > curve.x.back()) return NAN;
  const auto above = std::lower_bound(curve.x.begin(), curve.x.end(), x);
  const auto i = static_cast<std::size_t>(above - curve.x.begin());
  if (i == 0) return curve.y.front();
  const double share = (x - curve.x[i - 1]) / (curve.x[i] - curve.x[i - 1]);
  return curve.y[i - 1] + share * (curve.y[i] - curve.y[i - 1]);
}

bool isPencil(CurvePlot::Look look) { return look == CurvePlot::Look::pencil || look == CurvePlot::Look::pencilThin; }

QPen penFor(CurvePlot::Look look) {
  switch (look) {
  case CurvePlot::Look::ink:
    return {theme().ink, 2};
  case CurvePlot::Look::inkThin:
    return {theme().ink, 1.1};
  case CurvePlot::Look::pencil:
    return {theme().pencilLine, 2.2, Qt::DashLine};
  case CurvePlot::Look::pencilThin:
    break;
  }
  return {theme().pencilLine, 1.3, Qt::DashLine};
}

} // namespace

CurvePlot::CurvePlot(QWidget* parent)
    : QWidget(parent), plot_(new QCustomPlot(this)), readout_(new FigureTable(this)), message_(new QLabel(this)) {
  auto* layout = new QVBoxLayout(this);
  layout->setContentsMargins(0, 0, 0, 0);
  layout->setSpacing(2);
  readout_->setObjectName(QStringLiteral("supplyReadout"));
  readout_->setAccessibleName(tr("At the cursor"));
  readout_->setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
  tools_ = new QHBoxLayout;
  tools_->addWidget(readout_, 1);
  layout->addLayout(tools_);
  message_->setObjectName(QStringLiteral("curveMessage"));
  message_->setWordWrap(true);
  message_->setAlignment(Qt::AlignCenter);
  message_->hide();
  layout->addWidget(message_);
  layout->addWidget(plot_, 1);
  plot_->setAutoAddPlottableToLegend(false);
  plot_->setFocusPolicy(Qt::StrongFocus);
  plot_->setMinimumHeight(120);
  plot_->setAccessibleName(tr("Plot: left and right arrow keys move the cursor"));
  plot_->setPlottingHint(QCP::phImmediateRefresh, false);
  plot_->setInteractions(QCP::iRangeDrag | QCP::iRangeZoom);
  plot_->plotLayout()->setRowSpacing(0);
  plot_->installEventFilter(this);
  const auto touched = [this] { moved_ = true; };
  connect(plot_, &QCustomPlot::mouseWheel, this, touched);
  connect(plot_, &QCustomPlot::mouseMove, this, [this](QMouseEvent* event) {
    if (event->buttons() == Qt::NoButton)
      setCursor(plot_->xAxis->pixelToCoord(event->pos().x()));
    else
      moved_ = true;
  });
  setPanes(1);
  restyle();
}

void CurvePlot::addTool(QWidget* tool) { tools_->insertWidget(tools_->count() - 1, tool); }

void CurvePlot::setPanes(int count) {
  if ((count > 1) == (second_ != nullptr) && !cursors_.empty()) return;
  for (auto* line : cursors_)
    plot_->removeItem(line);
  cursors_.clear();
  plot_->clearGraphs();
  if (count > 1 && !second_) {
    second_ = new QCPAxisRect(plot_);
    plot_->plotLayout()->addElement(1, 0, second_);
    auto* group = new QCPMarginGroup(plot_);
    for (auto* rect : {plot_->axisRect(0), second_})
      rect->setMarginGroup(QCP::msLeft | QCP::msRight, group);
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
    cursors_.push_back(line);
  }
  dressPlot(*plot_);
}

void CurvePlot::show(Picture picture) {
  const bool other = picture.title != picture_.title;
  picture_ = std::move(picture);
  if (other) {
    moved_ = false;
    cursorSet_ = false;
  }
  message_->hide();
  setPanes(static_cast<int>(picture_.paneLabels.size()));
  fill();
  if (!moved_) fit();
  if (!cursorSet_ && !picture_.curves.empty() && !picture_.curves.front().x.empty()) {
    const auto& x = picture_.curves.front().x;
    cursor_ = 0.5 * (x.front() + x.back());
  }
  setCursor(cursor_);
}

void CurvePlot::fill() {
  plot_->clearGraphs();
  for (auto* item : items_)
    plot_->removeItem(item);
  items_.clear();
  const auto rectOf = [&](int pane) { return pane > 0 && second_ ? second_ : plot_->axisRect(0); };
  for (int pane = 0; pane < picture_.paneLabels.size(); ++pane)
    rectOf(pane)->axis(QCPAxis::atLeft)->setLabel(picture_.paneLabels[pane]);
  plot_->axisRect(0)->axis(QCPAxis::atBottom)->setLabel(second_ ? QString() : picture_.xLabel);
  plot_->axisRect(0)->axis(QCPAxis::atBottom)->setTickLabels(!second_);
  if (second_) second_->axis(QCPAxis::atBottom)->setLabel(picture_.xLabel);
  const auto text = [&](QCPAxisRect* rect, const QString& word, const QColor& colour) {
    auto* label = new QCPItemText(plot_);
    label->position->setAxes(rect->axis(QCPAxis::atBottom), rect->axis(QCPAxis::atLeft));
    label->position->setAxisRect(rect);
    label->setClipAxisRect(rect);
    label->setText(word);
    label->setFont(textFont(8));
    label->setColor(colour);
    items_.push_back(label);
    return label;
  };
  for (const auto& curve : picture_.curves) {
    auto* rect = rectOf(curve.pane);
    auto* graph = plot_->addGraph(rect->axis(QCPAxis::atBottom), rect->axis(QCPAxis::atLeft));
    graph->setPen(penFor(curve.look));
    graph->setData(QVector<double>(curve.x.begin(), curve.x.end()), QVector<double>(curve.y.begin(), curve.y.end()),
                   true);
    if (curve.label.isEmpty() || curve.x.empty()) continue;
    auto* label = text(rect, curve.label, isPencil(curve.look) ? theme().pencil : theme().ink);
    const double at = curve.x.front() + curve.labelAt * (curve.x.back() - curve.x.front());
    label->position->setCoords(at, valueAt(curve, std::min(at, curve.x.back())));
    label->setPositionAlignment(Qt::AlignRight | Qt::AlignVCenter);
    label->setBrush(theme().ground); // the line passes behind its name
    label->setPadding(QMargins(3, 0, 3, 0));
  }
  for (const auto& mark : picture_.marks) {
    auto* rect = rectOf(mark.pane);
    auto* line = new QCPItemLine(plot_);
    for (auto* position : {line->start, line->end}) {
      position->setAxes(rect->axis(QCPAxis::atBottom), rect->axis(QCPAxis::atLeft));
      position->setAxisRect(rect);
      position->setTypeX(mark.upright ? QCPItemPosition::ptPlotCoords : QCPItemPosition::ptAxisRectRatio);
      position->setTypeY(mark.upright ? QCPItemPosition::ptAxisRectRatio : QCPItemPosition::ptPlotCoords);
    }
    line->start->setCoords(mark.upright ? mark.at : 0, mark.upright ? 0 : mark.at);
    line->end->setCoords(mark.upright ? mark.at : 1, mark.upright ? 1 : mark.at);
    line->setClipAxisRect(rect);
    const QColor colour = mark.danger ? theme().danger : theme().signal;
    line->setPen(QPen(colour, 1.2, mark.danger ? Qt::SolidLine : Qt::DotLine));
    items_.push_back(line);
    auto* label = text(rect, mark.word, colour);
    label->position->setTypeX(mark.upright ? QCPItemPosition::ptPlotCoords : QCPItemPosition::ptAxisRectRatio);
    label->position->setTypeY(mark.upright ? QCPItemPosition::ptAxisRectRatio : QCPItemPosition::ptPlotCoords);
    label->position->setCoords(mark.upright ? mark.at : 0.995, mark.upright ? 0.02 : mark.at);
    label->setPositionAlignment(mark.upright ? Qt::AlignLeft | Qt::AlignTop : Qt::AlignRight | Qt::AlignBottom);
    label->setPadding(QMargins(4, 0, 0, 1));
  }
}

void CurvePlot::say(const QString& message, bool danger) {
  picture_ = {};
  plot_->clearGraphs();
  for (auto* item : items_)
    plot_->removeItem(item);
  items_.clear();
  message_->setProperty("danger", danger);
  message_->setProperty("quiet", !danger);
  message_->setStyleSheet(QString()); // takes the property up
  message_->setText(danger ? QStringLiteral("\u26a0 ") + message : message);
  message_->show();
  readout_->setRows({}, 0);
  plot_->replot(QCustomPlot::rpQueuedReplot);
}

void CurvePlot::fit() {
  moved_ = false;
  for (int pane = 0; pane < picture_.paneLabels.size(); ++pane) {
    double low = INFINITY, high = -INFINITY, left = INFINITY, right = -INFINITY;
    for (const auto& curve : picture_.curves) {
      if (curve.x.empty()) continue;
      left = std::min(left, curve.x.front());
      right = std::max(right, curve.x.back());
      if (curve.pane != pane) continue;
      const auto [least, most] = std::minmax_element(curve.y.begin(), curve.y.end());
      low = std::min(low, *least);
      high = std::max(high, *most);
    }
    if (!(high >= low)) continue;
    if (picture_.fromZero || pane > 0) {
      low = std::min(low, 0.0);
      high = std::max(high, 0.0);
    }
    const double room = std::max(0.08 * (high - low), 1e-3 * std::max(std::abs(high), 1e-6));
    auto* rect = pane > 0 && second_ ? second_ : plot_->axisRect(0);
    rect->axis(QCPAxis::atLeft)->setRange(low == 0 ? 0 : low - room, high + 1.4 * room);
    plot_->xAxis->setRange(left, right);
  }
  plot_->replot(QCustomPlot::rpQueuedReplot);
}

void CurvePlot::restyle() {
  dressPlot(*plot_);
  for (auto* line : cursors_)
    line->setPen(QPen(theme().quiet, 1, Qt::DotLine));
  fill();
  plot_->replot(QCustomPlot::rpQueuedReplot);
}

void CurvePlot::setCursor(double x) {
  if (picture_.curves.empty() || picture_.curves.front().x.empty()) return;
  const auto& range = picture_.curves.front().x;
  cursor_ = std::clamp(x, range.front(), range.back());
  cursorSet_ = true;
  for (auto* line : cursors_) {
    line->start->setCoords(cursor_, 0);
    line->end->setCoords(cursor_, 1);
  }
  showReadout();
  plot_->replot(QCustomPlot::rpQueuedReplot);
}

QString CurvePlot::readout() const { return readout_->text(); }

void CurvePlot::showReadout() {
  using Cell = FigureTable::Look;
  std::vector<FigureTable::Cell> cells{
      {QString::number(cursor_, 'g', 4) + QLatin1Char(' ') + picture_.xUnit, Cell::quiet}};
  for (const auto& curve : picture_.curves) {
    const double value = valueAt(curve, cursor_);
    const bool thin = curve.look == Look::inkThin || curve.look == Look::pencilThin;
    if (!std::isfinite(value) || cells.size() > 4 || (thin && picture_.curves.size() > 4)) continue;
    const QString mark = isPencil(curve.look) ? QStringLiteral("- - ") : QStringLiteral("\u2014 ");
    const QString name = curve.name.isEmpty() ? mark : mark + curve.name + QLatin1Char(' ');
    cells.push_back({name + QString::number(value, 'g', 4) + QLatin1Char(' ') + picture_.yUnits.value(curve.pane),
                     isPencil(curve.look) ? Cell::pencil : Cell::figure});
  }
  readout_->setRows({std::move(cells)}, 0);
}

std::string CurvePlot::figures() const {
  std::string csv = "curve," + picture_.xLabel.toStdString() + ",value\n";
  for (const auto& curve : picture_.curves)
    for (std::size_t k = 0; k < curve.x.size(); ++k)
      csv += fmt::format("{},{:.9g},{:.9g}\n", curve.name.toStdString(), curve.x[k], curve.y[k]);
  return csv;
}

QString CurvePlot::exportTo(const QString& path) { return savePlot(*plot_, path, picture_.title, figures()); }
void CurvePlot::copyToClipboard() { copyPlot(*plot_, figures()); }

bool CurvePlot::eventFilter(QObject* watched, QEvent* event) {
  if (watched == plot_ && event->type() == QEvent::KeyPress) {
    auto* key = static_cast<QKeyEvent*>(event);
    const double span = plot_->xAxis->range().size() * (key->modifiers() & Qt::ShiftModifier ? 0.05 : 0.01);
    if (key->key() == Qt::Key_Right) return setCursor(cursor_ + span), true;
    if (key->key() == Qt::Key_Left) return setCursor(cursor_ - span), true;
    if (key->matches(QKeySequence::Copy)) return copyToClipboard(), true;
  }
  if (watched == plot_ && (event->type() == QEvent::FocusIn || event->type() == QEvent::FocusOut)) {
    for (auto* rect : plot_->axisRects())
      for (auto* axis : rect->axes())
        axis->setBasePen(event->type() == QEvent::FocusIn ? QPen(theme().signal, 2) : QPen(theme().hairline));
    plot_->replot(QCustomPlot::rpQueuedReplot);
  }
  return QWidget::eventFilter(watched, event);
}

} // namespace vinegar::app
