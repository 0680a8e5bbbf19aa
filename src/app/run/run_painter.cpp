#include "run/run_painter.h"

#include "theme/theme.h"

#include <QFontMetricsF>
#include <QImage>
#include <algorithm>

namespace vinegar::app {
namespace {

using amp::PartKind;

QFont pixelFont(QFont font, double pixels) {
  font.setPixelSize(std::max(6, static_cast<int>(std::lround(pixels))));
  return font;
}

/// A piece of a label with its own look.
struct Run {
  QString text;
  QColor colour;
  bool bold = false, struck = false;
};

double drawRuns(QPainter& painter, QPointF at, const std::vector<Run>& runs, double pixels, bool measureOnly = false) {
  double x = at.x();
  for (const auto& run : runs) {
    auto font = pixelFont(textFont(9, run.bold ? QFont::DemiBold : QFont::Normal), pixels);
    font.setStrikeOut(run.struck);
    if (!measureOnly) {
      painter.setFont(font);
      painter.setPen(run.colour);
      painter.drawText(QPointF(x, at.y()), run.text);
    }
    x += QFontMetricsF(font, painter.device()).horizontalAdvance(run.text);
  }
  return x - at.x();
}

/// How far, in grid steps, a volts tag can reach from its place.
QRectF tagReach(const amp::Point& at) { return {at.x - 18, at.y - 9, 36, 13}; }

/// `wanted`, or as far up from there as it takes; added to `taken`.
QRectF clearOf(std::vector<QRectF>& taken, QRectF wanted, double gap) {
  const auto touches = [&](const QRectF& other) { return other.adjusted(-gap, -gap, gap, gap).intersects(wanted); };
  while (std::any_of(taken.begin(), taken.end(), touches))
    wanted.translate(0, -wanted.height() - gap);
  taken.push_back(wanted);
  return wanted;
}

bool meets(const std::vector<QRectF>& visible, const QRectF& area) {
  return visible.empty() ||
         std::any_of(visible.begin(), visible.end(), [&](const QRectF& seen) { return seen.intersects(area); });
}

bool isVertical(const amp::Drawing::Part& part) {
  return part.place.direction == amp::Direction::down || part.place.direction == amp::Direction::up;
}

} // namespace

RunPainter::RunPainter(RunContent content, ResistorStyle style) : content_(std::move(content)) {
  for (const auto& part : content_.drawing.parts) {
    Drawn drawn{&part, glyphFor(part, style), {}, {}};
    drawn.area = drawn.glyph.body.adjusted(-0.6, -0.6, 0.6, 0.6);
    parts_.push_back(std::move(drawn));
  }
  const auto addBent = [this](const QPainterPath& path) {
    bent_.emplace_back(path.boundingRect().adjusted(-0.5, -0.5, 0.5, 0.5), path);
  };
  for (const auto& line : content_.drawing.lines) {
    QPolygonF points;
    for (const auto& point : line.points)
      points << QPointF(point.x, point.y);
    if (points.size() == 2) {
      wires_.emplace_back(points[0], points[1]);
      continue;
    }
    QPainterPath path;
    path.addPolygon(points);
    addBent(path);
  }
  for (const auto& ground : content_.drawing.grounds)
    addBent(groundGlyph(ground));
  for (auto& drawn : parts_)
    drawn.words = wordsOf(drawn);
  measureVolts();
  measure();
}

QRectF RunPainter::wordsOf(const Drawn& drawn) const {
  constexpr double unit = 12, margin = 0.8;
  static QImage paper(1, 1, QImage::Format_ARGB32);
  QPainter painter(&paper);
  std::vector<TextArea> areas;
  paintLabel(painter, unit, drawn, &areas);
  QRectF all;
  for (const auto& text : areas)
    all |= QRectF(text.area.topLeft() / unit, text.area.size() / unit);
  if (all.isEmpty()) return all;
  // Letters are whole pixels high, so that at another size they may be a little wider.
  const double wider = margin + 0.25 * all.width();
  return all.adjusted(-wider, -margin, wider, margin);
}

/// The drawing knows its symbols and wires; what is written beside them at its edges reaches further.
void RunPainter::measure() {
  const auto& d = content_.drawing;
  bounds_ = QRectF(d.left, d.top, d.right - d.left, d.bottom - d.top) | voltsBounds_;
  for (const auto& drawn : parts_)
    if (!drawn.words.isEmpty()) bounds_ |= drawn.words;
}

void RunPainter::measureVolts() {
  constexpr double unit = 12, margin = 0.8;
  static QImage paper(1, 1, QImage::Format_ARGB32);
  QPainter painter(&paper);
  std::vector<TextArea> areas;
  paintVolts(painter, unit, {}, &areas);
  voltsBounds_ = {};
  for (const auto& text : areas)
    voltsBounds_ |=
        QRectF(text.area.topLeft() / unit, text.area.size() / unit).adjusted(-margin, -margin, margin, margin);
}

std::vector<QRectF> RunPainter::setReadings(std::map<std::string, InkAndPencil> labels,
                                            std::map<std::string, InkAndPencil> volts, std::set<std::string> stressed) {
  std::vector<QRectF> changed;
  const auto differ = [](const auto& a, const auto& b, const std::string& key) {
    const auto x = a.find(key), y = b.find(key);
    return (x == a.end()) != (y == b.end()) || (x != a.end() && !(x->second == y->second));
  };
  std::vector<Drawn*> others;
  const auto pencilled = [](const auto& all, const std::string& key) {
    const auto found = all.find(key);
    return found != all.end() && found->second.differs();
  };
  for (auto& drawn : parts_)
    if (const bool other = stressed.contains(drawn.part->name) != content_.stressed.contains(drawn.part->name);
        other || differ(labels, content_.labels, drawn.part->name)) {
      if (other || !pencilled(labels, drawn.part->name) || !isPencilled(drawn)) ++stillState_;
      changed.push_back(drawn.area.adjusted(-1, -1, 1, 1));
      if (!drawn.words.isEmpty()) changed.push_back(drawn.words);
      others.push_back(&drawn);
    }
  const auto labelsChanged = changed.size();
  for (const auto& tag : content_.drawing.tags)
    if (differ(volts, content_.volts, tag.node)) changed.push_back(tagReach(tag.at));
  for (const auto& flag : content_.drawing.flags)
    if (differ(volts, content_.volts, flag.node)) changed.push_back(tagReach(flag.at));
  content_.labels = std::move(labels);
  content_.volts = std::move(volts);
  content_.stressed = std::move(stressed);
  if (changed.size() > labelsChanged) measureVolts();
  for (auto* drawn : others) {
    drawn->words = wordsOf(*drawn);
    if (!drawn->words.isEmpty()) changed.push_back(drawn->words);
  }
  if (!changed.empty()) measure();
  return changed;
}

std::string RunPainter::partAt(QPointF grid) const {
  for (const auto& drawn : parts_)
    if (drawn.area.contains(grid)) return drawn.part->name;
  return {};
}

QRectF RunPainter::partArea(const std::string& name) const {
  for (const auto& drawn : parts_)
    if (drawn.part->name == name) return drawn.area;
  return {};
}

bool RunPainter::isPencilled(const Drawn& drawn) const {
  const auto label = content_.labels.find(drawn.part->name);
  return label != content_.labels.end() && label->second.differs();
}

void RunPainter::paint(QPainter& painter, double unit, const std::vector<QRectF>& visible, const std::string& selected,
                       bool focused) const {
  paintStill(painter, unit, selected, focused, visible);
  paintLive(painter, unit, visible);
}

void RunPainter::paintLive(QPainter& painter, double unit, const std::vector<QRectF>& visible) const {
  painter.setRenderHint(QPainter::Antialiasing);
  for (const auto& drawn : parts_)
    if (isPencilled(drawn) && meets(visible, drawn.words)) paintLabel(painter, unit, drawn);
  paintVolts(painter, unit, visible);
}

void RunPainter::paintStill(QPainter& painter, double unit, const std::string& selected, bool focused,
                            const std::vector<QRectF>& visible) const {
  const Theme& t = theme();
  painter.setRenderHint(QPainter::Antialiasing);
  const double line = std::max(1.1, unit * 0.19) / unit;
  painter.save();
  painter.scale(unit, unit);
  painter.setPen(QPen(t.ink, line, Qt::SolidLine, Qt::FlatCap));
  painter.setBrush(Qt::NoBrush);
  QVector<QLineF> seen;
  for (const auto& wire : wires_)
    if (meets(visible, QRectF(wire.p1(), wire.p2()).normalized().adjusted(-0.5, -0.5, 0.5, 0.5))) seen << wire;
  painter.drawLines(seen);
  for (const auto& [area, path] : bent_)
    if (meets(visible, area)) painter.drawPath(path);
  painter.setPen(Qt::NoPen);
  painter.setBrush(t.ink);
  for (const auto& dot : content_.drawing.junctions)
    if (meets(visible, QRectF(dot.x - 0.5, dot.y - 0.5, 1, 1))) painter.drawEllipse(QPointF(dot.x, dot.y), 0.38, 0.38);
  for (const auto& drawn : parts_) {
    if (!meets(visible, drawn.area.adjusted(-1, -1, 1, 1))) continue;
    const bool pencilled = isPencilled(drawn);
    const bool stressed = content_.stressed.contains(drawn.part->name);
    if (drawn.part->name == selected) {
      QColor fill = t.signal;
      fill.setAlphaF(0.14F);
      painter.setBrush(fill);
      painter.setPen(QPen(t.signal, line * (focused ? 1.8 : 1)));
      painter.drawRoundedRect(drawn.area, 0.6, 0.6);
    }
    if (pencilled) {
      painter.setBrush(Qt::NoBrush);
      QPen dashed(t.pencilLine, line);
      dashed.setDashPattern({3, 2});
      painter.setPen(dashed);
      painter.drawRoundedRect(drawn.area.adjusted(-0.25, -0.25, 0.25, 0.25), 0.6, 0.6);
    }
    const bool absent = !drawn.part->fitted;
    QPen pen(pencilled                               ? t.pencilLine
             : stressed                              ? t.danger
             : absent && !drawn.part->linkWhenAbsent ? t.quiet
                                                     : t.ink,
             line * (pencilled ? 1.3 : 1), Qt::SolidLine, Qt::FlatCap);
    if (absent && !drawn.part->linkWhenAbsent) pen.setDashPattern({2, 2});
    painter.setPen(pen);
    painter.setBrush(Qt::NoBrush);
    painter.drawPath(drawn.glyph.outline);
    painter.setBrush(pen.color());
    painter.setPen(Qt::NoPen);
    painter.drawPath(drawn.glyph.filled);
  }
  painter.restore();
  for (const auto& drawn : parts_)
    if (!isPencilled(drawn) && meets(visible, drawn.words)) paintLabel(painter, unit, drawn);
  auto font = pixelFont(textFont(9), 1.5 * unit);
  font.setStrikeOut(true);
  for (const auto& gone : content_.gone) {
    painter.save();
    painter.translate(gone.at * unit);
    painter.rotate(-90);
    painter.setFont(font);
    painter.setPen(t.pencil);
    painter.drawText(QPointF(0, 0.5 * unit), gone.title);
    painter.restore();
  }
}

std::vector<RunPainter::TextArea> RunPainter::textAreas() const {
  constexpr double unit = 12;
  QImage paper(1, 1, QImage::Format_ARGB32);
  QPainter painter(&paper);
  std::vector<TextArea> areas;
  for (const auto& drawn : parts_)
    paintLabel(painter, unit, drawn, &areas);
  paintVolts(painter, unit, {}, &areas);
  for (auto& text : areas)
    text.area = {text.area.topLeft() / unit, text.area.size() / unit};
  return areas;
}

void RunPainter::paintLabel(QPainter& painter, double unit, const Drawn& drawn, std::vector<TextArea>* areas) const {
  const Theme& t = theme();
  const auto& part = *drawn.part;
  const auto found = content_.labels.find(part.name);
  InkAndPencil label = found == content_.labels.end() ? InkAndPencil{} : found->second;
  if (part.kind == PartKind::selector && part.fitted) label = {QString::fromStdString(part.positionTitle), {}};
  // A wire in place of a part needs no words.
  if (!part.fitted && part.linkWhenAbsent && !label.differs()) return;
  const double size = 1.62 * unit, leading = 1.85 * unit;
  const bool stressed = content_.stressed.contains(part.name);
  const QString name = (stressed ? QStringLiteral("! ") : QString()) + QString::fromStdString(part.name);
  const QColor nameColour = stressed ? t.danger : part.fitted ? t.ink : t.quiet;
  std::vector<std::vector<Run>> lines{{{name, nameColour, true}}};
  const bool tube = amp::hasType(part.kind) && part.kind != PartKind::diode;
  const QColor valueColour = part.fitted && !tube ? t.ink : t.quiet;
  if (label.differs()) {
    if (!label.ink.isEmpty()) lines.push_back({{label.ink, t.quiet, false, true}});
    lines.push_back({{label.pencil, t.pencil, true}});
  } else {
    lines.push_back({{part.fitted ? label.ink : QStringLiteral("\u2014"), valueColour}});
  }
  const auto put = [&](QPointF at, const std::vector<Run>& runs) {
    const double width = drawRuns(painter, at, runs, size, areas != nullptr);
    if (areas) areas->push_back({part.name, {at.x(), at.y() - 0.75 * size, width, 0.8 * size}});
  };
  const bool isTwoPin = part.pins.size() == 2;
  if (isTwoPin && !isVertical(part) && part.kind != PartKind::selector) {
    std::vector<Run> row;
    for (auto& runs : lines)
      for (auto& run : runs) {
        if (!row.empty()) run.text.prepend(QLatin1Char(' '));
        // Struck text must not strike the space before it.
        if (run.struck) {
          row.push_back({QStringLiteral(" "), run.colour});
          run.text.remove(0, 1);
        }
        row.push_back(run);
      }
    const double width = drawRuns(painter, {}, row, size, true);
    const double centre = drawn.glyph.body.center().x() * unit;
    const double y = part.place.labelLeft ? (drawn.glyph.body.bottom() + 0.5) * unit + size * 0.8
                                          : (drawn.glyph.body.top() - 0.55) * unit;
    put({centre - width / 2, y}, row);
    return;
  }
  QPointF start; // left end of the first baseline
  const double height = leading * static_cast<double>(lines.size());
  const auto body = drawn.glyph.body;
  if (part.kind == PartKind::pot)
    start = {(part.place.at.x + (part.place.mirrored ? 1.7 : 3.5)) * unit,
             (part.place.at.y + (part.place.mirrored ? -0.2 : 2.3)) * unit};
  else if (part.kind == PartKind::springTank || (part.kind == PartKind::selector && !isVertical(part)))
    start = {body.left() * unit,
             part.place.labelLeft ? (body.bottom() + 0.4) * unit + size : (body.top() - 0.5) * unit - height + leading};
  else if (part.kind == PartKind::pentode) // clear of the screen's lead at the right
    start = {(body.right() + 0.4) * unit,
             (body.center().y() + (part.place.direction == amp::Direction::up ? 1.65 : -2.35)) * unit};
  else if (part.kind == PartKind::powerTransformer) // below the primary
    start = {(part.pins[0].x + 1) * unit, (std::max(part.pins[0].y, part.pins[1].y) + 2.6) * unit};
  else if (part.kind == PartKind::rectifier)
    start = {body.left() * unit, (body.bottom() + 0.8) * unit + size};
  else if (tube)
    start = {(body.right() + 0.5) * unit, (body.top() + 0.5) * unit};
  else
    start = {(body.right() + 1.0) * unit, body.center().y() * unit - height / 2 + leading * 0.78};
  const bool left = isTwoPin && isVertical(part) && part.place.labelLeft;
  for (const auto& runs : lines) {
    const double width = left ? drawRuns(painter, {}, runs, size, true) : 0;
    put({left ? (body.left() - 0.9) * unit - width : start.x(), start.y()}, runs);
    start.ry() += leading;
  }
}

void RunPainter::paintVolts(QPainter& painter, double unit, const std::vector<QRectF>& visible,
                            std::vector<TextArea>* areas) const {
  const Theme& t = theme();
  const auto font = pixelFont(figureFont(9), 1.5 * unit);
  const QFontMetricsF metrics(font, painter.device());
  const double height = 2.1 * unit;
  const auto box = [&](QRectF rect, const QColor& edge) {
    painter.setPen(QPen(edge, 1));
    painter.setBrush(t.ground);
    painter.drawRoundedRect(rect, 3, 3);
  };
  const auto reading = [&](const std::string& node) {
    const auto found = content_.volts.find(node);
    return found == content_.volts.end() ? InkAndPencil{QStringLiteral("\u2014"), {}} : found->second;
  };
  painter.setFont(font);
  for (const auto& tag : content_.drawing.tags) {
    if (!meets(visible, tagReach(tag.at))) continue;
    const auto volts = reading(tag.node);
    const double inkWidth = metrics.horizontalAdvance(volts.ink);
    const double pencilWidth = volts.differs() ? metrics.horizontalAdvance(volts.pencil) + 0.7 * unit : 0;
    const double left = tag.at.x * unit - (tag.growsLeft ? pencilWidth : 0);
    const QRectF rect(left, tag.at.y * unit - height / 2, inkWidth + pencilWidth + 0.9 * unit, height);
    if (areas) {
      areas->push_back({tag.node, rect});
      continue;
    }
    box(rect, t.signal);
    const QRectF inner = rect.adjusted(0.45 * unit, 0, -0.45 * unit, 0);
    painter.setPen(t.signal);
    painter.drawText(inner, Qt::AlignVCenter | Qt::AlignLeft, volts.ink);
    if (volts.differs()) {
      painter.setPen(t.pencil);
      painter.drawText(inner, Qt::AlignVCenter | Qt::AlignRight, volts.pencil);
    }
  }
  std::vector<QRectF> above; // flags over the rails stand clear of each other
  for (const auto& flag : content_.drawing.flags) {
    const auto volts = reading(flag.node);
    const QString text = QString::fromStdString(flag.rail) + QStringLiteral("  ") + volts.ink;
    const double inkWidth = metrics.horizontalAdvance(text);
    const double pencilWidth = volts.differs() ? metrics.horizontalAdvance(QStringLiteral(" ") + volts.pencil) : 0;
    const double width = inkWidth + pencilWidth + unit;
    const QPointF at(flag.at.x * unit, flag.at.y * unit);
    QRectF rect;
    using Side = amp::Drawing::RailFlag::Side;
    if (flag.side == Side::above)
      rect = clearOf(above, {at.x() - width / 2, at.y() - 3.1 * unit, width, height}, 0.4 * unit);
    else if (flag.side == Side::right)
      rect = {at.x() + 0.8 * unit, at.y() - height / 2, width, height};
    else
      rect = {at.x() - 0.8 * unit - width, at.y() - height / 2, width, height};
    if (areas) {
      areas->push_back({flag.rail, rect});
      continue;
    }
    if (!meets(visible, tagReach(flag.at))) continue;
    painter.setPen(QPen(t.ink, 1));
    if (flag.side == Side::above && rect.bottom() < at.y() - 1.5 * unit) painter.drawLine(at, {at.x(), rect.bottom()});
    if (flag.side == Side::right) painter.drawLine(at, {rect.left(), at.y()});
    if (flag.side == Side::left) painter.drawLine(at, {rect.right(), at.y()});
    box(rect, t.ink);
    painter.setPen(t.ink);
    painter.drawText(QRectF(rect.left() + unit / 2, rect.top(), inkWidth, height), Qt::AlignVCenter | Qt::AlignLeft,
                     text);
    if (volts.differs()) {
      painter.setPen(t.pencil);
      painter.drawText(QRectF(rect.left(), rect.top(), width - unit / 2, height), Qt::AlignVCenter | Qt::AlignRight,
                       volts.pencil);
    }
  }
}

} // namespace vinegar::app
