#include "run/run_pages.h"

#include "theme/theme.h"

#include <QCoreApplication>
#include <cmath>

namespace vinegar::app {
namespace {

constexpr double millimetresPerStep = 2.1; ///< letters 3.4 mm high
constexpr double headMillimetres = 9;

/// Cuts [from, to] into pieces of at most `length`, at the last of `cuts` that leaves a page at least 40 % full.
std::vector<std::pair<double, double>> pieces(double from, double to, double length, const std::vector<double>& cuts) {
  std::vector<std::pair<double, double>> result;
  while (to - from > length) {
    double cut = from + length;
    for (const double candidate : cuts)
      if (candidate <= from + length && candidate > from + 0.4 * length) cut = candidate;
    result.emplace_back(from, cut);
    from = cut;
  }
  result.emplace_back(from, to);
  return result;
}

} // namespace

std::vector<QRectF> pageAreas(const amp::Drawing& drawing, QSizeF page) {
  std::vector<double> across, down;
  for (const auto& candidate : drawing.frames) {
    const double x = candidate.left - 1.5, y = candidate.top - 1.5;
    const auto clear = [&](const auto& spans) {
      return std::none_of(drawing.frames.begin(), drawing.frames.end(), spans);
    };
    if (clear([&](const auto& f) { return f.left < x && x < f.right; })) across.push_back(x);
    if (clear([&](const auto& f) { return f.top < y && y < f.bottom; })) down.push_back(y);
  }
  std::sort(across.begin(), across.end());
  std::sort(down.begin(), down.end());
  std::vector<QRectF> areas;
  for (const auto& [top, bottom] : pieces(drawing.top, drawing.bottom, page.height(), down))
    for (const auto& [left, right] : pieces(drawing.left, drawing.right, page.width(), across)) {
      const QRectF area(left, top, right - left, bottom - top);
      const bool used = std::any_of(drawing.parts.begin(), drawing.parts.end(), [&](const auto& part) {
        return std::any_of(part.pins.begin(), part.pins.end(),
                           [&](const auto& pin) { return area.contains(pin.x, pin.y); });
      });
      if (used) areas.push_back(area);
    }
  return areas;
}

bool paintPages(QPagedPaintDevice& device, const RunPainter& run, const QString& title, Pages pages) {
  device.setPageOrientation(QPageLayout::Landscape);
  QPainter painter;
  if (!painter.begin(&device)) return false;
  const auto& drawing = run.content().drawing;
  const double dotsPerMillimetre = device.logicalDpiX() / 25.4;
  const double head = headMillimetres * dotsPerMillimetre;
  const QRectF sheet(0, 0, device.width(), device.height());
  const QRectF paper = sheet.adjusted(0, head, 0, 0);
  const QRectF whole(drawing.left, drawing.top, drawing.right - drawing.left, drawing.bottom - drawing.top);
  const double step = millimetresPerStep * dotsPerMillimetre;
  const auto areas = pages == Pages::one ? std::vector<QRectF>{whole} : pageAreas(drawing, paper.size() / step);
  for (std::size_t i = 0; i < areas.size(); ++i) {
    if (i > 0 && !device.newPage()) return false;
    const QRectF& area = areas[i];
    const double unit =
        pages == Pages::one ? std::min(paper.width() / area.width(), paper.height() / area.height()) : step;
    painter.setPen(theme().ink);
    auto font = textFont(9, QFont::DemiBold);
    font.setPixelSize(static_cast<int>(std::lround(4 * dotsPerMillimetre)));
    painter.setFont(font);
    QString text = title;
    if (areas.size() > 1)
      text = QCoreApplication::translate("Pages", "%1, page %2 of %3").arg(title).arg(i + 1).arg(areas.size());
    painter.drawText(QRectF(0, 0, sheet.width(), head), Qt::AlignLeft | Qt::AlignTop, text);
    painter.save();
    painter.setClipRect(QRectF(paper.topLeft(), area.size() * unit));
    painter.translate(paper.left() - area.left() * unit, paper.top() - area.top() * unit);
    run.paint(painter, unit, area.adjusted(-1, -1, 1, 1), {}, false);
    painter.restore();
  }
  return painter.end();
}

} // namespace vinegar::app
