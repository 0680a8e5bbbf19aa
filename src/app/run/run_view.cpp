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
  look_.reset();
  arranging_.reset();
  updateScrollBars();
  viewport()->update();
}

void RunView::setReadings(std::map<std::string, InkAndPencil> labels, std::map<std::string, InkAndPencil> volts,
                          std::set<std::string> stressed) {
  if (!painter_) return;
  const auto before = painter_->bounds();
  const auto changed = painter_->setReadings(std::move(labels), std::move(volts), std::move(stressed));
  if (arranging_ && !changed.empty()) {
    arranging_->takeIn(painter_->wordsBySection());
    viewport()->update();
  }
  if (painter_->bounds() != before) {
    updateScrollBars();
    viewport()->update();
  }
  // Few places are painted by themselves; of many the whole around them, since a clip of many pieces costs more.
  constexpr std::size_t few = 6;
  std::vector<QRect> seen;
  QRect around;
  for (const auto& area : changed) {
    const QRect place = QRectF(area.topLeft() * unit() + origin(), area.size() * unit()).toAlignedRect();
    if (!place.intersects(viewport()->rect())) continue;
    seen.push_back(place);
    around |= place;
  }
  if (seen.size() > few) seen = {around};
  for (const auto& place : seen)
    viewport()->update(place);
}

double RunView::unit() const {
  if (!whole_) return pixelsPerGrid * zoom_;
  return std::min(pixelsPerGrid, viewport()->width() / std::max(1.0, drawingSize().width()));
}

void RunView::showWhole(bool whole) {
  if (whole == isWhole()) return;
  const auto before = whole_;
  whole_.reset();
  if (whole) whole_ = Seen{zoom_, {horizontalScrollBar()->value(), verticalScrollBar()->value()}};
  updateScrollBars();
  if (before) {
    horizontalScrollBar()->setValue(before->scrolled.x());
    verticalScrollBar()->setValue(before->scrolled.y());
  }
  viewport()->update();
}

QPointF RunView::origin() const {
  if (!painter_) return {};
  const auto d = painter_->bounds();
  const double slackX = std::max(0.0, viewport()->width() - d.width() * unit()) / 2;
  const double slackY = std::max(0.0, viewport()->height() - d.height() * unit()) / 2;
  return {slackX - d.left() * unit() - horizontalScrollBar()->value(),
          slackY - d.top() * unit() - verticalScrollBar()->value()};
}

QPointF RunView::toGrid(QPointF p) const { return (p - origin()) / unit(); }

QSizeF RunView::drawingSize() const {
  if (!painter_) return {};
  return painter_->bounds().size();
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
  if (stayAtSupply_) horizontalScrollBar()->setValue(horizontalScrollBar()->maximum());
}

void RunView::paintEvent(QPaintEvent* event) {
  QPainter painter(viewport());
  painter.fillRect(event->rect(), theme().ground);
  if (!painter_) return;
  if (painter_->content().drawing.parts.empty() && !arranging_) {
    painter.setPen(theme().quiet);
    painter.setFont(textFont(11));
    painter.drawText(viewport()->rect(), Qt::AlignCenter,
                     tr("No sections yet. Open a design or a sample from the menu (F10)."));
    return;
  }
  const QPixmap& still = stillPicture();
  std::vector<QRectF> visible;
  for (const auto& rect : event->region()) {
    painter.drawPixmap(QPointF(rect.topLeft()), still,
                       QRectF(rect.topLeft() * still.devicePixelRatio(), rect.size() * still.devicePixelRatio()));
    visible.emplace_back(toGrid(rect.topLeft()), toGrid(rect.bottomRight() + QPoint(1, 1)));
  }
  painter.translate(origin());
  painter_->paintLive(painter, unit(), visible);
  if (arranging_) arranging_->paint(painter, unit(), piece_, hasFocus());
}

void RunView::arrange(std::optional<Arranging> arranging) {
  arranging_ = std::move(arranging);
  viewport()->update();
}

void RunView::take(const Piece& piece) {
  piece_ = piece;
  if (!arranging_) return;
  bring(arranging_->area(piece));
  viewport()->update();
}

QPoint RunView::piecePosition(const Piece& piece) const {
  return arranging_ ? (arranging_->area(piece).center() * unit() + origin()).toPoint() : QPoint();
}

void RunView::choosePiece(const Piece& piece) {
  if (piece.empty()) return;
  take(piece);
  Q_EMIT pieceTaken(piece);
}

const QPixmap& RunView::stillPicture() {
  Look look{origin(), viewport()->size(), unit(), viewport()->devicePixelRatioF(), selected_, hasFocus(), &theme()};
  const auto changed = painter_->takeStillChanged();
  const QRectF all(toGrid({0, 0}), toGrid(QPointF(look.size.width(), look.size.height())));
  std::vector<QRectF> seen;
  QRegion clip;
  if (look_ == look) {
    for (const auto& area : changed) {
      const QRect place = QRectF(area.topLeft() * look.unit + look.origin, area.size() * look.unit).toAlignedRect();
      if (place.intersects(QRect({}, look.size))) clip += place;
    }
    if (clip.isEmpty()) return still_;
    for (const auto& place : clip)
      seen.emplace_back(toGrid(place.topLeft()), toGrid(place.bottomRight() + QPoint(1, 1)));
  } else {
    still_ = QPixmap(look.size * look.ratio);
    still_.setDevicePixelRatio(look.ratio);
    seen = {all};
  }
  QPainter painter(&still_);
  if (!clip.isEmpty()) painter.setClipRegion(clip);
  painter.fillRect(QRect({}, look.size), theme().ground);
  painter.translate(look.origin);
  painter_->paintStill(painter, look.unit, look.selected, look.focused, seen);
  look_ = std::move(look);
  return still_;
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
  stayAtSupply_ = false;
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
  bring(painter_->partArea(selected_));
}

void RunView::bring(const QRectF& area) {
  if (area.isEmpty()) return;
  const QRectF onScreen(area.topLeft() * unit() + origin(), area.size() * unit());
  const double margin = 10 * unit();
  const auto move = [&](QScrollBar* bar, double low, double high, int page) {
    if (low < 0 || high > page)
      bar->setValue(bar->value() + static_cast<int>(low < 0 ? low - margin : high - page + margin));
  };
  move(horizontalScrollBar(), onScreen.left(), onScreen.right(), viewport()->width());
  move(verticalScrollBar(), onScreen.top(), onScreen.bottom(), viewport()->height());
}

void RunView::showEnd(bool supply) {
  stayAtSupply_ = supply;
  horizontalScrollBar()->setValue(supply ? horizontalScrollBar()->maximum() : 0);
}

QPoint RunView::partPosition(const std::string& part) const {
  if (!painter_) return {};
  return (painter_->partArea(part).center() * unit() + origin()).toPoint();
}

void RunView::zoomTo(double zoom) {
  whole_.reset();
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
  const auto at = toGrid(event->position());
  if (arranging_)
    if (const auto piece = arranging_->at(at); piece.place || painter_->partAt(at).empty()) return choosePiece(piece);
  choose(painter_->partAt(at));
}

void RunView::mouseMoveEvent(QMouseEvent* event) {
  if (event->buttons() & Qt::LeftButton) {
    const QPoint moved = event->pos() - dragFrom_;
    if (dragging_ || moved.manhattanLength() > 6) {
      dragging_ = true;
      stayAtSupply_ = false;
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
    zoomTo(unit() / pixelsPerGrid * std::pow(1.15, event->angleDelta().y() / 120.0));
    event->accept();
    return;
  }
  // The run is wide: a plain wheel moves along it unless there is height to move over.
  QScrollBar* bar = verticalScrollBar()->maximum() > 0 && !(event->modifiers() & Qt::ShiftModifier)
                        ? verticalScrollBar()
                        : horizontalScrollBar();
  stayAtSupply_ = false;
  bar->setValue(bar->value() - (event->angleDelta().y() + event->angleDelta().x()) / 2);
  event->accept();
}

bool RunView::arrangingKey(QKeyEvent* event) {
  const bool ctrl = event->modifiers() & Qt::ControlModifier;
  using amp::Direction;
  const auto go = [&](Direction direction) { choosePiece(arranging_->neighbour(piece_, direction)); };
  switch (event->key()) {
  case Qt::Key_Left:
    ctrl ? Q_EMIT actWanted(PieceAct::moveLeft) : go(Direction::left);
    return true;
  case Qt::Key_Right:
    ctrl ? Q_EMIT actWanted(PieceAct::moveRight) : go(Direction::right);
    return true;
  case Qt::Key_Up:
    go(Direction::up);
    return true;
  case Qt::Key_Down:
    go(Direction::down);
    return true;
  case Qt::Key_Return:
  case Qt::Key_Enter:
  case Qt::Key_Space:
    Q_EMIT actWanted(PieceAct::choose);
    return true;
  case Qt::Key_Insert:
    Q_EMIT actWanted(event->modifiers() & Qt::ShiftModifier ? PieceAct::insertBefore
                     : ctrl                                 ? PieceAct::putBeside
                                                            : PieceAct::insertAfter);
    return true;
  case Qt::Key_Delete:
  case Qt::Key_Backspace:
    if (ctrl) return false;
    Q_EMIT actWanted(PieceAct::remove);
    return true;
  case Qt::Key_D:
    if (!ctrl) return false;
    Q_EMIT actWanted(PieceAct::duplicate);
    return true;
  default:
    return false;
  }
}

void RunView::keyPressEvent(QKeyEvent* event) {
  if (!painter_) return;
  if (arranging_ && arrangingKey(event)) return;
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
    zoomTo(unit() / pixelsPerGrid * 1.15);
    return;
  case Qt::Key_Minus:
    zoomTo(unit() / pixelsPerGrid / 1.15);
    return;
  default:
    break;
  }
  const QString text = event->text();
  // A value begins with a digit or its point, a name with a letter.
  if (!text.isEmpty() && (text.at(0).isDigit() || text.at(0) == QLatin1Char('.') || text.at(0) == QLatin1Char(',')) &&
      !selected_.empty() && !(event->modifiers() & (Qt::ControlModifier | Qt::AltModifier))) {
    Q_EMIT valueTyped(text);
    return;
  }
  if (!text.isEmpty() && text.at(0).isLetter() && !(event->modifiers() & (Qt::ControlModifier | Qt::AltModifier))) {
    Q_EMIT nameTyped(text);
    return;
  }
  QAbstractScrollArea::keyPressEvent(event);
}

} // namespace vinegar::app

#include "moc_run_view.cpp"
