#include "run/section_picture.h"

#include "run/section_sheet.h"

namespace vinegar::app {

SectionPicture::SectionPicture(QWidget* parent) : QWidget(parent) { setMinimumHeight(90); }

void SectionPicture::show(const amp::SectionTemplate* section, const amp::Library& library, ResistorStyle style) {
  painter_ = nullptr;
  if (section) {
    auto content = sectionContent(*section, library);
    content.drawing.tags.clear(); // by itself it has no volts
    painter_ = std::make_unique<RunPainter>(std::move(content), style);
  }
  update();
}

void SectionPicture::paintEvent(QPaintEvent*) {
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

#include "moc_section_picture.cpp"
