#include "run/run_picture.h"

#include <QPainter>

namespace vinegar::app {

RunPicture::RunPicture(QWidget* parent) : QWidget(parent) { setMinimumHeight(90); }

void RunPicture::show(std::optional<RunContent> content, ResistorStyle style) {
  painter_ = content ? std::make_unique<RunPainter>(std::move(*content), style) : nullptr;
  update();
}

void RunPicture::paintEvent(QPaintEvent*) {
  if (!painter_) return;
  constexpr double largest = 6.6; // as in the run
  const auto bounds = painter_->bounds();
  const double unit = std::min({largest, width() / bounds.width(), height() / bounds.height()});
  QPainter painter(this);
  painter.translate((width() - bounds.width() * unit) / 2 - bounds.left() * unit,
                    (height() - bounds.height() * unit) / 2 - bounds.top() * unit);
  painter_->paint(painter, unit, {}, {}, false);
}

} // namespace vinegar::app

#include "moc_run_picture.cpp"
