#include "run/run_view.h"

#include "theme/theme.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QScrollBar>
#include <QWheelEvent>

namespace vinegar::app {
namespace {
constexpr double pixelsPerGrid = 6.6;
} // namespace

RunView::RunView(QWidget* parent) : QAbstractScrollArea(parent) {
  setFocusPolicy(Qt::StrongFocus);
  setFrameShape(QFrame::NoFrame);
  viewport()->setAutoFillBackground(false);
  viewport()->setMouseTracking(true);
  setObjectName(QStringLiteral("run"));
  setAccessibleName(tr("The run: the amplifier's schematic"));
  setVerticalScrollBarPolicy(Qt::ScrollBarAsNeeded);
  horizontalScrollBar()->setFocusPolicy(Qt::NoFocus);
  verticalScrollBar()->setFocusPolicy(Qt::NoFocus);
}

void RunView::setRun(RunContent content, ResistorStyle style) {
  painter_ = std::make_unique<RunPainter>(std::move(content), style);
  updateScrollBars();
  viewport()->update();
}

void RunView::setReadings(std::map<std::string, InkAndPencil> labels, std::map<std::string, InkAndPencil> volts,
                          std::set<std::string> stressed) {
  if (!painter_) return;
  for (const auto& area : painter_->setReadings(std::move(labels), std::move(volts), std::move(stressed)))
    viewport()->update(QRectF(area.topLeft() * unit() + origin(), area.size() * unit()).toAlignedRect());
}

double RunView::unit() const { return pixelsPerGrid * zoom_; }

QPointF RunView::origin() const {
  if (!painter_) return {};
  const auto& d = painter_->content().drawing;
  const double slackX = std::max(0.0, viewport()->width() - (d.right - d.left) * unit()) / 2;
  const double slackY = std::max(0.0, viewport()->height() - (d.bottom - d.top) * unit()) / 2;
  return {slackX - d.left * unit() - horizontalScrollBar()->value(),
          slackY - d.top * unit() - verticalScrollBar()->value()};
}

QPointF RunView::toGrid(QPointF p) const { return (p - origin()) / unit(); }

QSizeF RunView::drawingSize() const {
  if (!painter_) return {};
  const auto& d = painter_->content().drawing;
  return {d.right - d.left, d.bottom - d.top};
}

int RunView::fullHeight() const {
  return static_cast<int>(drawingSize().height() * pixelsPerGrid) + horizontalScrollBar()->sizeHint().height() + 2;
}

void RunView::updateScrollBars() {
  const QSizeF size = drawingSize() * unit();
  const auto set = [](QScrollBar* bar, double content, int page) {
    bar->setPageStep(page);
    bar->setSingleStep(24);
    bar->setRange(0, std::max(0, static_cast<int>(std::ceil(content)) - page));
  };
  set(horizontalScrollBar(), size.width(), viewport()->width());
  set(verticalScrollBar(), size.height(), viewport()->height());
}

void RunView::paintOnto(QPainter& painter, const QRectF& target) const {
  if (!painter_) return;
  const auto& d = painter_->content().drawing;
  const double u = std::min(target.width() / drawingSize().width(), target.height() / drawingSize().height());
  painter.save();
  painter.translate(target.left() - d.left * u, target.top() - d.top * u);
  painter_->paint(painter, u, {}, {}, false);
  painter.restore();
}

bool RunView::paintPages(QPagedPaintDevice& device, const QString& title, Pages pages) const {
  const OnPaper colours;
  return painter_ && app::paintPages(device, *painter_, title, pages);
}

void RunView::paintEvent(QPaintEvent* event) {
  QPainter painter(viewport());
  painter.fillRect(event->rect(), theme().ground);
  if (!painter_) return;
  if (painter_->content().drawing.parts.empty()) {
    painter.setPen(theme().quiet);
    painter.setFont(textFont(11));
    painter.drawText(viewport()->rect(), Qt::AlignCenter,
                     tr("No sections yet. Open a design or a sample from the menu (F10)."));
    return;
  }
  painter.translate(origin());
  const QRectF visible(toGrid(event->rect().topLeft()), toGrid(event->rect().bottomRight()));
  painter_->paint(painter, unit(), visible, selected_, hasFocus());
}

void RunView::resizeEvent(QResizeEvent*) {
  updateScrollBars();
  showSelected();
}
void RunView::scrollContentsBy(int, int) { viewport()->update(); }

void RunView::focusInEvent(QFocusEvent* event) {
  QAbstractScrollArea::focusInEvent(event);
  viewport()->update();
}
void RunView::focusOutEvent(QFocusEvent* event) {
  QAbstractScrollArea::focusOutEvent(event);
  viewport()->update();
}

void RunView::select(const std::string& part) {
  if (part == selected_) return;
  selected_ = part;
  setAccessibleDescription(QString::fromStdString(part));
  showSelected();
  viewport()->update();
}

void RunView::choose(const std::string& part) {
  if (part.empty()) return;
  select(part);
  Q_EMIT partSelected(QString::fromStdString(part));
}

void RunView::showSelected() {
  if (!painter_) return;
  const QRectF area = painter_->partArea(selected_);
  if (area.isEmpty()) return;
  const QRectF onScreen(area.topLeft() * unit() + origin(), area.size() * unit());
  const double margin = 10 * unit();
  const auto bring = [&](QScrollBar* bar, double low, double high, int page) {
    if (low < 0 || high > page)
      bar->setValue(bar->value() + static_cast<int>(low < 0 ? low - margin : high - page + margin));
  };
  bring(horizontalScrollBar(), onScreen.left(), onScreen.right(), viewport()->width());
  bring(verticalScrollBar(), onScreen.top(), onScreen.bottom(), viewport()->height());
}

QPoint RunView::partPosition(const std::string& part) const {
  if (!painter_) return {};
  return (painter_->partArea(part).center() * unit() + origin()).toPoint();
}

void RunView::zoomTo(double zoom) {
  const QPointF middle = toGrid(viewport()->rect().center());
  zoom_ = std::clamp(zoom, 0.4, 4.0);
  updateScrollBars();
  const QPointF moved = middle * unit() + origin() - QPointF(viewport()->rect().center());
  horizontalScrollBar()->setValue(horizontalScrollBar()->value() + static_cast<int>(moved.x()));
  verticalScrollBar()->setValue(verticalScrollBar()->value() + static_cast<int>(moved.y()));
  viewport()->update();
}

void RunView::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton || !painter_) return;
  dragFrom_ = event->pos();
  dragging_ = false;
  choose(painter_->partAt(toGrid(event->position())));
}

void RunView::mouseMoveEvent(QMouseEvent* event) {
  if (event->buttons() & Qt::LeftButton) {
    const QPoint moved = event->pos() - dragFrom_;
    if (dragging_ || moved.manhattanLength() > 6) {
      dragging_ = true;
      viewport()->setCursor(Qt::ClosedHandCursor);
      horizontalScrollBar()->setValue(horizontalScrollBar()->value() - moved.x());
      verticalScrollBar()->setValue(verticalScrollBar()->value() - moved.y());
      dragFrom_ = event->pos();
    }
  } else if (painter_) {
    viewport()->setCursor(painter_->partAt(toGrid(event->position())).empty() ? Qt::ArrowCursor
                                                                              : Qt::PointingHandCursor);
  }
}

void RunView::mouseReleaseEvent(QMouseEvent*) {
  dragging_ = false;
  viewport()->setCursor(Qt::ArrowCursor);
}

void RunView::wheelEvent(QWheelEvent* event) {
  if (event->modifiers() & Qt::ControlModifier) {
    zoomTo(zoom_ * std::pow(1.15, event->angleDelta().y() / 120.0));
    event->accept();
    return;
  }
  // The run is wide: a plain wheel moves along it unless there is height to move over.
  QScrollBar* bar = verticalScrollBar()->maximum() > 0 && !(event->modifiers() & Qt::ShiftModifier)
                        ? verticalScrollBar()
                        : horizontalScrollBar();
  bar->setValue(bar->value() - (event->angleDelta().y() + event->angleDelta().x()) / 2);
  event->accept();
}

void RunView::keyPressEvent(QKeyEvent* event) {
  if (!painter_) return;
  const auto& drawing = painter_->content().drawing;
  using amp::Direction;
  switch (event->key()) {
  case Qt::Key_Right:
    choose(amp::neighbour(drawing, selected_, Direction::right));
    return;
  case Qt::Key_Left:
    choose(amp::neighbour(drawing, selected_, Direction::left));
    return;
  case Qt::Key_Up:
    choose(amp::neighbour(drawing, selected_, Direction::up));
    return;
  case Qt::Key_Down:
    choose(amp::neighbour(drawing, selected_, Direction::down));
    return;
  case Qt::Key_Home:
    if (!drawing.parts.empty()) choose(drawing.parts.front().name);
    return;
  case Qt::Key_End:
    if (!drawing.parts.empty()) choose(drawing.parts.back().name);
    return;
  case Qt::Key_Plus:
  case Qt::Key_Equal:
    zoomTo(zoom_ * 1.15);
    return;
  case Qt::Key_Minus:
    zoomTo(zoom_ / 1.15);
    return;
  default:
    break;
  }
  const QString text = event->text();
  if (!text.isEmpty() && text.at(0).isLetter() && !(event->modifiers() & (Qt::ControlModifier | Qt::AltModifier))) {
    Q_EMIT nameTyped(text);
    return;
  }
  QAbstractScrollArea::keyPressEvent(event);
}

} // namespace vinegar::app
