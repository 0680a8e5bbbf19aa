#include "run/run_pages.h"

#include "theme/theme.h"

#include <QCoreApplication>
#include <cmath>

namespace vinegar::app {
namespace {

constexpr double millimetresPerStep = 2.1; ///< letters 3.4 mm high
constexpr double headMillimetres = 9;

using Spans = std::vector<std::pair<double, double>>;

/// Beginnings of spans that no other span lies over, rising.
std::vector<double> clearOf(const Spans& spans) {
  std::vector<double> cuts;
  for (const auto& span : spans)
    if (std::none_of(spans.begin(), spans.end(),
                     [x = span.first](const auto& other) { return other.first < x && x < other.second; }))
      cuts.push_back(span.first);
  std::sort(cuts.begin(), cuts.end());
  return cuts;
}

/// Cuts [from, to] into pieces of at most `length`, each at the last place that leaves a page at least 40 % full and is
/// clear of sections, or, where there is none, of parts.
std::vector<std::pair<double, double>> pieces(double from, double to, double length, const Spans& sections,
                                              const Spans& parts) {
  std::vector<std::pair<double, double>> result;
  const auto betweenSections = clearOf(sections), betweenParts = clearOf(parts);
  while (to - from > length) {
    double cut = from + length;
    for (const auto* cuts : {&betweenParts, &betweenSections}) // the better ones last
      for (const double candidate : *cuts)
        if (candidate <= from + length && candidate > from + 0.4 * length) cut = candidate;
    result.emplace_back(from, cut);
    from = cut;
  }
  result.emplace_back(from, to);
  return result;
}

} // namespace

std::vector<QRectF> pageAreas(const amp::Drawing& drawing, const QRectF& bounds, QSizeF page) {
  constexpr double air = 1.5, label = 3; // around a section; beside a part for its words
  // Places that a cut through these rows, or columns, would go through.
  const auto spans = [&](bool across, double top, double bottom) {
    std::pair<Spans, Spans> both;
    for (const auto& frame : drawing.frames)
      if (frame.top < bottom && top < frame.bottom)
        both.first.emplace_back(across ? frame.left - air : frame.top - air, across ? frame.right : frame.bottom);
    for (const auto& part : drawing.parts) {
      QRectF body = glyphFor(part, ResistorStyle::box).body;
      body.adjust(-label, -label, label, label);
      if (body.top() < bottom && top < body.bottom())
        both.second.emplace_back(across ? body.left() : body.top(), across ? body.right() : body.bottom());
    }
    return both;
  };
  std::vector<QRectF> areas;
  const auto [sectionRows, partRows] = spans(false, bounds.top(), bounds.bottom());
  for (const auto& [top, bottom] : pieces(bounds.top(), bounds.bottom(), page.height(), sectionRows, partRows)) {
    // What stands in another row need not be whole here.
    const auto [sections, parts] = spans(true, top, bottom);
    for (const auto& [left, right] : pieces(bounds.left(), bounds.right(), page.width(), sections, parts)) {
      const QRectF area(left, top, right - left, bottom - top);
      const bool used = std::any_of(drawing.parts.begin(), drawing.parts.end(), [&](const auto& part) {
        return std::any_of(part.pins.begin(), part.pins.end(),
                           [&](const auto& pin) { return area.contains(pin.x, pin.y); });
      });
      if (used) areas.push_back(area);
    }
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
  const QRectF whole = run.bounds();
  const double step = millimetresPerStep * dotsPerMillimetre;
  const auto areas = pages == Pages::one ? std::vector<QRectF>{whole} : pageAreas(drawing, whole, paper.size() / step);
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
      text = QCoreApplication::translate("Pages", "%1, page %2 of %3")
                 .arg(title, QString::number(i + 1), QString::number(areas.size()));
    painter.drawText(QRectF(0, 0, sheet.width(), head), Qt::AlignLeft | Qt::AlignTop, text);
    painter.save();
    painter.setClipRect(QRectF(paper.topLeft(), area.size() * unit));
    painter.translate(paper.left() - area.left() * unit, paper.top() - area.top() * unit);
    run.paint(painter, unit, {area.adjusted(-1, -1, 1, 1)}, {}, false);
    painter.restore();
  }
  return painter.end();
}

} // namespace vinegar::app
