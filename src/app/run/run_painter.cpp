#include "run/run_painter.h"

#include "theme/theme.h"

#include <QFontMetricsF>
#include <QImage>
#include <QObject>
#include <algorithm>
#include <utility>

namespace vinegar::app {
namespace {

using FlagSide = amp::Drawing::RailFlag::Side;

bool meets(const std::vector<QRectF>& visible, const QRectF& area) {
  return visible.empty() ||
         std::any_of(visible.begin(), visible.end(), [&](const QRectF& seen) { return seen.intersects(area); });
}

constexpr double legible = 3.8; ///< pixels to a grid step; where there are fewer, words would only lie on each other
constexpr double volts = 1.5;   ///< height of the letters in a box, grid steps
constexpr double boxHeight = 2.1, boxEdge = 0.45, boxGap = 0.7;

/// Ways aside, the shortest first.
const std::vector<QPointF>& asides() {
  static const std::vector<QPointF> all = [] {
    std::vector<QPointF> ways;
    for (int x = -20; x <= 20; ++x)
      for (int y = -16; y <= 16; ++y)
        if (const bool near = std::abs(x) <= 6 && std::abs(y) <= 6; near || (x % 2 == 0 && y % 2 == 0))
          ways.emplace_back(x / 2.0, y / 2.0);
    std::stable_sort(ways.begin(), ways.end(),
                     [](QPointF a, QPointF b) { return QPointF::dotProduct(a, a) < QPointF::dotProduct(b, b); });
    return ways;
  }();
  return all;
}

/// The straight wire between two points, as an area.
QRectF wireArea(QPointF a, QPointF b) { return QRectF(a, b).normalized().adjusted(-0.1, -0.1, 0.1, 0.1); }

} // namespace

RunPainter::RunPainter(RunContent content, ResistorStyle style)
    : content_(std::move(content)),
      room_({content_.drawing.left, content_.drawing.top, content_.drawing.right - content_.drawing.left,
             content_.drawing.bottom - content_.drawing.top}) {
  for (const auto& part : content_.drawing.parts) {
    Drawn drawn{&part, glyphFor(part, style), {}};
    drawn.area = drawn.glyph.body.adjusted(-0.6, -0.6, 0.6, 0.6);
    parts_.push_back(std::move(drawn));
  }
  for (const auto& tag : content_.drawing.tags)
    boxes_.push_back({&tag});
  for (const auto& flag : content_.drawing.flags)
    boxes_.push_back({nullptr, &flag});
  const auto addBent = [](Wires& wires, const QPainterPath& path) {
    wires.bent.emplace_back(path.boundingRect().adjusted(-0.5, -0.5, 0.5, 0.5), path);
  };
  for (const auto& line : content_.drawing.lines) {
    QPolygonF points;
    for (const auto& point : line.points)
      points << at(point);
    auto& wires = content_.putIn.contains(line.node.substr(0, line.node.find('/'))) ? pencil_ : ink_;
    if (points.size() == 2) {
      wires.straight.emplace_back(points[0], points[1]);
      continue;
    }
    QPainterPath path;
    path.addPolygon(points);
    addBent(wires, path);
  }
  for (const auto& ground : content_.drawing.grounds)
    addBent(ink_, groundGlyph(ground));
  takeRoom();
  for (const auto& gone : content_.gone) {
    constexpr double unit = 12, letters = 1.5;
    QImage paper(1, 1, QImage::Format_ARGB32);
    const double length =
        1.05 * QFontMetricsF(pixelFont(textFont(9), letters * unit), &paper).horizontalAdvance(gone.title) / unit;
    gone_.push_back({gone.title, {}, 0});
    auto& places = gone_.back().places;
    // Upright in the gap where it stood, else level above or below that.
    for (const double up : {0.0, 2.0, 4.0, 7.0, 10.0})
      for (const double aside : {0.0, 0.8, -0.8, 1.6, -1.6, 2.4, -2.4, 3.5, -3.5})
        places.emplace_back(gone.at.x() - 0.8 + aside, gone.at.y() - length - up, 1.6, length);
    for (int away = 0; away < 40; ++away)
      for (const double y : {gone.at.y() - 4 - away, gone.at.y() + 10 + away})
        for (const double aside : {0.0, -4.0, 4.0, -8.0, 8.0, -12.0, 12.0})
          places.emplace_back(gone.at.x() - length / 2 + aside, y, length, 1.6);
  }
  for (auto& drawn : parts_)
    letter(drawn);
  for (auto& box : boxes_)
    measure(box);
  placeAll();
  measure();
}

void RunPainter::takeRoom() {
  for (const auto& drawn : parts_) {
    const auto& body = drawn.glyph.body;
    const bool wire = !drawn.part->fitted && drawn.part->linkWhenAbsent;
    if (!wire) room_.take(body);
    for (const auto& pin : drawn.part->pins) {
      const QPointF end(std::clamp(pin.x, body.left(), body.right()), std::clamp(pin.y, body.top(), body.bottom()));
      room_.take(wireArea(at(pin), wire ? body.center() : end));
    }
  }
  for (const auto& line : content_.drawing.lines)
    for (std::size_t i = 0; i + 1 < line.points.size(); ++i)
      room_.take(wireArea(at(line.points[i]), at(line.points[i + 1])));
  for (const auto& ground : content_.drawing.grounds)
    room_.take(groundGlyph(ground).boundingRect());
}

QRectF RunPainter::Drawn::symbol() const {
  return (area | glyph.outline.boundingRect() | glyph.filled.boundingRect()).adjusted(-1, -1, 1, 1);
}

QRectF RunPainter::Drawn::words() const {
  constexpr double margin = 0.8;
  const auto area = label.area();
  if (area.isEmpty()) return area;
  // Letters are whole pixels high, so that at another size they may be a little wider.
  const double wider = margin + 0.25 * area.width();
  return area.adjusted(-wider, -margin, wider, margin);
}

QRectF RunPainter::Box::reach() const {
  constexpr double margin = 1;
  const auto& area = places[place];
  const double wider = margin + 0.25 * area.width();
  const auto reach = area.adjusted(-wider, -margin, wider, margin);
  return flag ? reach | QRectF(flag->at.x - margin, flag->at.y - margin, 2 * margin, 2 * margin) : reach;
}

void RunPainter::letter(Drawn& drawn) {
  drawn.label =
      PartLabel(*drawn.part, drawn.glyph, labelOf(drawn.part->name), content_.stressed.contains(drawn.part->name));
}

void RunPainter::placeAll() {
  std::vector<QRectF> wanted;
  for (const auto& drawn : parts_)
    wanted.push_back(drawn.label.wanted());
  for (const auto& box : boxes_)
    wanted.push_back(box.places[0]);
  const auto boxesEnd = wanted.size();
  for (const auto& gone : gone_)
    wanted.push_back(gone.places[0]);
  const auto movable = wanted.size();
  for (const auto& drawn : parts_)
    if (isFramed(drawn)) wanted.push_back(frameOf(drawn));
  std::vector<QRectF> only(1);
  const auto places = [&](std::size_t i) -> const std::vector<QRectF>& {
    if (i < parts_.size()) return parts_[i].label.places();
    if (i < boxesEnd) return placesOf(boxes_[i - parts_.size()]);
    if (i < movable) return gone_[i - boxesEnd].places;
    only[0] = wanted[i]; // stands where it stands
    return only;
  };
  const auto chosen = placeWords(wanted, places, room_);
  std::size_t i = 0;
  for (auto& drawn : parts_)
    drawn.label.stand(chosen[i++]);
  for (auto& box : boxes_)
    box.place = chosen[i++];
  for (auto& gone : gone_)
    gone.place = chosen[i++];
}

/// The drawing knows its symbols and wires; what is written beside them at its edges reaches further.
void RunPainter::measure() {
  const auto& d = content_.drawing;
  bounds_ = QRectF(d.left, d.top, d.right - d.left, d.bottom - d.top);
  for (const auto& drawn : parts_)
    if (!drawn.label.area().isEmpty()) bounds_ |= drawn.words();
  for (const auto& box : boxes_)
    bounds_ |= box.reach();
  for (const auto& gone : gone_)
    bounds_ |= gone.places[gone.place].adjusted(-0.5, -1, 0.5, 0.5);
}

std::vector<QRectF> RunPainter::setReadings(std::map<std::string, InkAndPencil> labels,
                                            std::map<std::string, InkAndPencil> volts, std::set<std::string> stressed) {
  const auto differ = [](const auto& a, const auto& b, const std::string& key) {
    const auto x = a.find(key), y = b.find(key);
    return (x == a.end()) != (y == b.end()) || (x != a.end() && !(x->second == y->second));
  };
  const auto pencilled = [](const auto& all, const std::string& key) {
    const auto found = all.find(key);
    return found != all.end() && found->second.differs();
  };
  std::vector<bool> othersText(parts_.size()), otherVolts(boxes_.size());
  std::vector<QRectF> changed, wordsBefore, boxesBefore;
  for (std::size_t i = 0; i < parts_.size(); ++i) {
    const auto& drawn = parts_[i];
    wordsBefore.push_back(drawn.words());
    const bool other = stressed.contains(drawn.part->name) != content_.stressed.contains(drawn.part->name);
    othersText[i] = other || differ(labels, content_.labels, drawn.part->name);
    if (!othersText[i]) continue;
    changed.push_back(drawn.symbol());
    if (!other && pencilled(labels, drawn.part->name) && isPencilled(drawn)) continue;
    stillChanged_.push_back(changed.back());
    stillChanged_.push_back(wordsBefore.back());
  }
  for (std::size_t i = 0; i < boxes_.size(); ++i) {
    boxesBefore.push_back(boxes_[i].reach());
    otherVolts[i] = differ(volts, content_.volts, boxes_[i].node());
  }
  std::vector<QRectF> goneBefore;
  for (const auto& gone : gone_)
    goneBefore.push_back(gone.places[gone.place]);
  content_.labels = std::move(labels);
  content_.volts = std::move(volts);
  content_.stressed = std::move(stressed);
  for (std::size_t i = 0; i < parts_.size(); ++i)
    if (othersText[i]) letter(parts_[i]);
  for (std::size_t i = 0; i < boxes_.size(); ++i)
    if (otherVolts[i]) measure(boxes_[i]);
  placeAll();
  // Titles' letters stand out of their places a little.
  const auto reachOf = [](const QRectF& place) { return place.adjusted(-0.5, -1, 0.5, 0.5); };
  const auto take = [&](bool other, const QRectF& before, const QRectF& now) {
    if (!other && before == now) return false;
    for (const auto& area : {before, now})
      if (!area.isEmpty()) changed.push_back(area);
    return true;
  };
  const auto takeStill = [&](bool other, const QRectF& before, const QRectF& now) {
    if (take(other, before, now)) stillChanged_.insert(stillChanged_.end(), {before, now});
  };
  for (std::size_t i = 0; i < parts_.size(); ++i)
    // What makes way for a longer word is painted anew, too.
    if (isPencilled(parts_[i]))
      take(othersText[i], wordsBefore[i], parts_[i].words());
    else
      takeStill(othersText[i], wordsBefore[i], parts_[i].words());
  for (std::size_t i = 0; i < gone_.size(); ++i)
    takeStill(false, reachOf(goneBefore[i]), reachOf(gone_[i].places[gone_[i].place]));
  for (std::size_t i = 0; i < boxes_.size(); ++i)
    take(otherVolts[i], boxesBefore[i], boxes_[i].reach());
  if (!changed.empty()) measure();
  return changed;
}

std::vector<QRectF> RunPainter::takeStillChanged() { return std::exchange(stillChanged_, {}); }

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

/// What is put in stands in pencil as a whole; what is changed is framed.
bool RunPainter::isFramed(const Drawn& drawn) const {
  return isPencilled(drawn) && !labelOf(drawn.part->name).ink.isEmpty();
}

QRectF RunPainter::frameOf(const Drawn& drawn) { return drawn.area.adjusted(-0.25, -0.25, 0.25, 0.25); }

InkAndPencil RunPainter::labelOf(const std::string& part) const {
  const auto found = content_.labels.find(part);
  return found == content_.labels.end() ? InkAndPencil{} : found->second;
}

InkAndPencil RunPainter::voltsOf(const Box& box) const {
  const auto found = content_.volts.find(box.node());
  InkAndPencil volts = found == content_.volts.end() ? InkAndPencil{QStringLiteral("\u2014"), {}} : found->second;
  if (box.flag) volts.ink = (QString::fromStdString(box.flag->rail) + QStringLiteral("  ") + volts.ink).trimmed();
  return volts;
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
  if (unit < legible) return;
  painter.setRenderHint(QPainter::Antialiasing);
  for (const auto& drawn : parts_)
    if (isPencilled(drawn) && meets(visible, drawn.words())) drawn.label.paint(painter, unit);
  for (const auto& box : boxes_)
    if (meets(visible, box.reach())) paintBox(painter, unit, box);
}

void RunPainter::paintStill(QPainter& painter, double unit, const std::string& selected, bool focused,
                            const std::vector<QRectF>& visible) const {
  const Theme& t = theme();
  painter.setRenderHint(QPainter::Antialiasing);
  const double line = std::max(1.1, unit * 0.19) / unit;
  painter.save();
  painter.scale(unit, unit);
  painter.setBrush(Qt::NoBrush);
  for (const auto& [wires, colour] : {std::pair{&ink_, t.ink}, {&pencil_, t.pencilLine}}) {
    painter.setPen(QPen(colour, line, Qt::SolidLine, Qt::FlatCap));
    QVector<QLineF> seen;
    for (const auto& wire : wires->straight)
      if (meets(visible, QRectF(wire.p1(), wire.p2()).normalized().adjusted(-0.5, -0.5, 0.5, 0.5))) seen << wire;
    painter.drawLines(seen);
    for (const auto& [area, path] : wires->bent)
      if (meets(visible, area)) painter.drawPath(path);
  }
  painter.setPen(Qt::NoPen);
  painter.setBrush(t.ink);
  for (const auto& dot : content_.drawing.junctions)
    if (meets(visible, QRectF(dot.x - 0.5, dot.y - 0.5, 1, 1))) painter.drawEllipse(QPointF(dot.x, dot.y), 0.38, 0.38);
  for (const auto& drawn : parts_) {
    if (!meets(visible, drawn.symbol())) continue;
    const bool pencilled = isPencilled(drawn);
    const bool stressed = content_.stressed.contains(drawn.part->name);
    if (drawn.part->name == selected) {
      QColor fill = t.signal;
      fill.setAlphaF(0.14F);
      painter.setBrush(fill);
      painter.setPen(QPen(t.signal, line * (focused ? 1.8 : 1)));
      painter.drawRoundedRect(drawn.area, 0.6, 0.6);
    }
    if (isFramed(drawn)) {
      painter.setBrush(Qt::NoBrush);
      QPen dashed(t.pencilLine, line);
      dashed.setDashPattern({3, 2});
      painter.setPen(dashed);
      painter.drawRoundedRect(frameOf(drawn), 0.6, 0.6);
    }
    const bool absent = !drawn.part->fitted;
    const bool putIn = content_.putIn.contains(drawn.part->section);
    QPen pen(pencilled || (absent && drawn.part->linkWhenAbsent && putIn) ? t.pencilLine
             : stressed                                                   ? t.danger
             : absent && !drawn.part->linkWhenAbsent                      ? t.quiet
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
  QPen edge(t.danger, line);
  edge.setDashPattern({4, 3});
  painter.setPen(edge);
  painter.setBrush(Qt::NoBrush);
  const auto areaOf = [](const amp::Drawing::Frame& frame) {
    return QRectF(frame.left, frame.top, frame.right - frame.left, frame.bottom - frame.top);
  };
  for (const auto& frame : content_.drawing.frames)
    if (frame.isEmpty && meets(visible, areaOf(frame))) painter.drawRoundedRect(areaOf(frame), 0.6, 0.6);
  painter.restore();
  if (unit < legible) return;
  painter.setFont(pixelFont(textFont(9), 1.5 * unit));
  painter.setPen(t.danger);
  for (const auto& frame : content_.drawing.frames) {
    if (!frame.isEmpty || !meets(visible, areaOf(frame))) continue;
    const QRectF area = QRectF(areaOf(frame).topLeft() * unit, areaOf(frame).size() * unit);
    const QFontMetricsF metrics(painter.font(), painter.device());
    const auto name = metrics.elidedText(QString::fromStdString(frame.title), Qt::ElideMiddle, area.width() - unit);
    painter.drawText(area, Qt::AlignCenter, name + QLatin1Char('\n') + QObject::tr("not in the library"));
  }
  for (const auto& drawn : parts_)
    if (!isPencilled(drawn) && meets(visible, drawn.words())) drawn.label.paint(painter, unit);
  auto font = pixelFont(textFont(9), 1.5 * unit);
  font.setStrikeOut(true);
  for (const auto& gone : gone_) {
    const auto& area = gone.places[gone.place];
    if (!meets(visible, area.adjusted(-0.5, -1, 0.5, 0.5))) continue;
    const bool upright = area.height() > area.width();
    painter.save();
    painter.translate((upright ? QPointF(area.center().x(), area.bottom()) : QPointF(area.left(), area.center().y())) *
                      unit);
    if (upright) painter.rotate(-90);
    painter.setFont(font);
    painter.setPen(t.pencil);
    painter.drawText(QPointF(0, 0.5 * unit), gone.title);
    painter.restore();
  }
}

std::vector<RunPainter::TextArea> RunPainter::textAreas() const {
  constexpr double unit = 12;
  QImage paper(1, 1, QImage::Format_ARGB32);
  std::vector<TextArea> areas;
  for (const auto& drawn : parts_)
    for (const auto& line : drawn.label.lineAreas(&paper, unit))
      areas.push_back({drawn.part->name, {line.topLeft() / unit, line.size() / unit}});
  for (const auto& box : boxes_)
    areas.push_back({box.tag ? box.tag->node : box.flag->rail, box.places[box.place]});
  for (const auto& gone : gone_)
    areas.push_back({gone.title.toStdString(), gone.places[gone.place]});
  return areas;
}

std::vector<QRectF> RunPainter::itemAreas() const {
  std::vector<QRectF> areas;
  for (const auto& drawn : parts_) {
    QRectF symbol = drawn.glyph.body | drawn.glyph.outline.boundingRect();
    for (const auto& pin : drawn.part->pins)
      symbol |= QRectF(at(pin) - QPointF(0.05, 0.05), QSizeF(0.1, 0.1));
    areas.push_back(symbol);
    // Letters are whole pixels high, so that at another size they may be a little wider.
    if (const auto words = drawn.label.area(); !words.isEmpty())
      areas.push_back(words.adjusted(-0.3, 0, 0.3 + 0.08 * words.width(), 0));
  }
  for (const auto& box : boxes_) {
    areas.push_back(box.places[box.place].adjusted(-0.3, 0, 0.3, 0));
    if (box.flag) areas.back() |= QRectF(at(box.flag->at) - QPointF(0.05, 0.05), QSizeF(0.1, 0.1));
  }
  for (const auto& gone : gone_)
    areas.push_back(gone.places[gone.place]);
  for (const auto& ground : content_.drawing.grounds)
    areas.push_back(groundGlyph(ground).boundingRect());
  return areas;
}

std::map<std::string, QRectF> RunPainter::wordsBySection() const {
  std::map<std::string, QRectF> words;
  for (const auto& drawn : parts_)
    words[drawn.part->section] |= drawn.label.area();
  for (const auto& box : boxes_)
    if (const auto slash = box.node().find('/'); box.tag && slash != std::string::npos)
      words[box.node().substr(0, slash)] |= box.places[box.place];
  return words;
}

void RunPainter::measure(Box& box) const {
  static const double figure = [] {
    constexpr double unit = 12;
    QImage paper(1, 1, QImage::Format_ARGB32);
    return QFontMetricsF(pixelFont(figureFont(9), volts * unit), &paper).horizontalAdvance(QLatin1Char('8')) / unit;
  }();
  const auto words = voltsOf(box);
  const auto wide = [&](const QString& text) { return figure * static_cast<double>(text.size()); };
  const double pencil = words.differs() ? wide(words.pencil) + boxGap : 0;
  const QSizeF size(wide(words.ink) + pencil + 2 * boxEdge, boxHeight);
  if (!box.places.empty() && box.places[0].size() == size && box.pencil == pencil) return;
  box.pencil = pencil;
  box.places.clear();
  const auto add = [&](double x, double y) { box.places.emplace_back(QPointF(x, y), size); };
  if (box.tag) return add(box.tag->at.x - (box.tag->growsLeft ? pencil : 0), box.tag->at.y - boxHeight / 2);
  const auto at = box.flag->at;
  switch (box.flag->side) {
  case FlagSide::above:
    return add(at.x - size.width() / 2, at.y - 3.1);
  case FlagSide::right:
    return add(at.x + 0.8, at.y - boxHeight / 2);
  case FlagSide::left:
    return add(at.x - 0.8 - size.width(), at.y - boxHeight / 2);
  }
}

const std::vector<QRectF>& RunPainter::placesOf(Box& box) {
  if (box.places.size() > 1) return box.places;
  const auto own = box.places[0].topLeft();
  const auto size = box.places[0].size();
  const auto add = [&](double x, double y) { box.places.emplace_back(QPointF(x, y), size); };
  if (box.tag) {
    for (const auto& aside : asides())
      add(own.x() + aside.x(), own.y() + aside.y());
    return box.places;
  }
  const auto& flag = *box.flag;
  const auto over = [&](int up) {
    for (const double aside : {0.0, -1.0, 1.0, -2.0, 2.0, -3.0, 3.0, -4.0, 4.0, -6.0, 6.0, -8.0, 8.0, -10.0, 10.0})
      if (std::abs(aside) < size.width() / 2 - 0.5) // its line still reaches it
        add(flag.at.x - size.width() / 2 + aside,
            flag.at.y + (up < 0 ? 1.0 - up * (boxHeight + 0.4) - boxHeight - 0.4 : -3.1 - up * (boxHeight + 0.4)));
  };
  const auto beside = [&](bool right, int away) {
    for (const double aside : {0.0, -0.7, 0.7})
      add(right ? flag.at.x + 0.8 + away : flag.at.x - 0.8 - away - size.width(), flag.at.y - boxHeight / 2 + aside);
  };
  if (flag.side == FlagSide::above)
    for (int up = 0; up < 6; ++up)
      over(up);
  for (int away = 0; away < 16; ++away)
    for (const bool right : {flag.side != FlagSide::left, flag.side == FlagSide::left})
      beside(right, away);
  for (int up = 0; up < 12; ++up)
    for (const int way : {up, -1 - up})
      over(way);
  return box.places;
}

void RunPainter::paintBox(QPainter& painter, double unit, const Box& box) const {
  const Theme& t = theme();
  const auto font = pixelFont(figureFont(9), volts * unit);
  const QFontMetricsF metrics(font, painter.device());
  const auto words = voltsOf(box);
  const double inkWidth = metrics.horizontalAdvance(words.ink);
  const double pencilWidth = words.differs() ? metrics.horizontalAdvance(words.pencil) + boxGap * unit : 0;
  const QSizeF size(inkWidth + pencilWidth + 2 * boxEdge * unit, boxHeight * unit);
  const auto& place = box.places[box.place];
  QRectF rect(place.topLeft() * unit, size);
  const QColor edge = box.tag ? t.signal : t.ink;
  const double node = box.flag ? box.flag->at.x : 0;
  const bool left = box.flag ? place.right() < node : box.tag->growsLeft, right = box.flag && place.left() > node;
  if (box.flag && !left && !right) rect.moveCenter({place.center().x() * unit, rect.center().y()});
  if (left) rect.moveRight(place.right() * unit);
  painter.setPen(QPen(edge, 1));
  if (box.flag) {
    const QPointF end = at(box.flag->at) * unit;
    if (left || right)
      painter.drawLine(end, {left ? rect.right() : rect.left(), end.y()});
    else if (rect.top() > end.y())
      painter.drawLine(end, {end.x(), rect.top()});
    else if (rect.bottom() < end.y() - 1.5 * unit)
      painter.drawLine(end, {end.x(), rect.bottom()});
  }
  painter.setBrush(t.ground);
  painter.drawRoundedRect(rect, 3, 3);
  const QRectF inner = rect.adjusted(boxEdge * unit, 0, -boxEdge * unit, 0);
  painter.setFont(font);
  painter.setPen(edge);
  painter.drawText(inner, Qt::AlignVCenter | Qt::AlignLeft, words.ink);
  if (words.differs()) {
    painter.setPen(t.pencil);
    painter.drawText(inner, Qt::AlignVCenter | Qt::AlignRight, words.pencil);
  }
}

} // namespace vinegar::app
