#include "run/section_sheet.h"

#include "theme/theme.h"

#include <QImage>
#include <memory>

namespace vinegar::app {

RunContent sectionContent(const amp::SectionTemplate& section, const amp::Library& library) {
  RunContent content{amp::drawSection(section, library), {}, {}, {}};
  amp::Design design;
  design.line.push_back({section.id, section.id, {}, {}, {}, {}});
  amp::nameParts(design, library);
  for (const auto& part : section.parts) {
    const auto resolved = amp::resolvePart(design.line[0], part);
    content.labels[resolved.name].ink = QString::fromStdString(resolved.label());
  }
  // As wide as a reading gets.
  for (const auto& tag : content.drawing.tags)
    content.volts[tag.node].ink = QStringLiteral("88.8 V");
  return content;
}

RunContent designContent(const amp::Design& design, const amp::Library& library) {
  RunContent content{amp::drawRun(design, library), {}, {}, {}};
  for (const auto& part : amp::resolveParts(design, library))
    if (part.fitted()) content.labels[part.name].ink = QString::fromStdString(part.label());
  content.drawing.tags.clear();
  for (const auto& flag : content.drawing.flags)
    content.volts[flag.node].ink = QStringLiteral(" ");
  return content;
}

QImage sectionSheet(const std::vector<const amp::SectionTemplate*>& sections, const amp::Library& library,
                    ResistorStyle style, int width, double unit) {
  constexpr int margin = 24, caption = 34;
  struct Placed {
    const amp::SectionTemplate* section;
    std::unique_ptr<RunPainter> painter;
    QRect frame;
  };
  std::vector<Placed> placed;
  int x = margin, y = margin, row = 0;
  for (const auto* section : sections) {
    auto painter = std::make_unique<RunPainter>(sectionContent(*section, library), style);
    const auto& d = painter->content().drawing;
    // Labels may reach past the drawing itself.
    const QSize size(static_cast<int>((d.right - d.left + 8) * unit), static_cast<int>((d.bottom - d.top + 5) * unit));
    if (x > margin && x + size.width() > width - margin) {
      x = margin;
      y += row + margin;
      row = 0;
    }
    placed.push_back({section, std::move(painter), {x, y, size.width(), size.height() + caption}});
    x += size.width() + margin;
    row = std::max(row, size.height() + caption);
  }
  QImage sheet(width, y + row + margin, QImage::Format_RGB32);
  sheet.fill(theme().ground);
  QPainter painter(&sheet);
  painter.setRenderHint(QPainter::Antialiasing);
  for (const auto& item : placed) {
    painter.setPen(theme().ink);
    painter.setFont(textFont(10, QFont::DemiBold));
    painter.drawText(item.frame.topLeft() + QPoint(0, 16), QString::fromStdString(item.section->title));
    painter.setPen(theme().quiet);
    painter.setFont(textFont(8));
    painter.drawText(item.frame.topLeft() + QPoint(0, 30), QString::fromStdString(item.section->id));
    const auto& d = item.painter->content().drawing;
    painter.save();
    painter.translate(item.frame.left() + (4 - d.left) * unit, item.frame.top() + caption + (2.5 - d.top) * unit);
    item.painter->paint(painter, unit, {}, {}, false);
    painter.restore();
  }
  return sheet;
}

} // namespace vinegar::app
