#include "run/run_sheets.h"

#include "theme/text.h"
#include "theme/theme.h"

#include <QCoreApplication>
#include <QFontMetricsF>
#include <algorithm>
#include <cmath>
#include <limits>

namespace vinegar::app {
namespace {

constexpr double lettersSteps = 1.5;            ///< size of the values' letters, from line to line
constexpr double least = 2, most = 4.2;         ///< that size, mm
constexpr double between = 3, beside = 4.5;     ///< grid steps between rows; at a row's ends, for its letters
constexpr QSizeF corner(132, 24);               ///< mm
constexpr double cornerLetters = 2.4, name = 4; ///< mm

using Spans = std::vector<std::pair<double, double>>;

constexpr double finest = 0.5; ///< grid steps between places that are tried for a cut

/// How many spans a cut would go through, at every place that is tried.
class Crossings {
public:
  Crossings(double from, double to, const Spans& spans)
      : from_(from), counts_(static_cast<std::size_t>((to - from) / finest) + 2) {
    std::vector<int> changes(counts_.size() + 1);
    const auto place = [&](double x) {
      return static_cast<std::size_t>(std::clamp(x, 0.0, static_cast<double>(counts_.size())));
    };
    for (const auto& [start, end] : spans) {
      const auto first = place(std::floor((start - from) / finest) + 1), last = place(std::ceil((end - from) / finest));
      if (first >= last) continue;
      ++changes[first];
      --changes[last];
    }
    for (std::size_t i = 0, count = 0; i < counts_.size(); ++i)
      counts_[i] = static_cast<int>(count += static_cast<std::size_t>(changes[i]));
  }
  [[nodiscard]] double at(std::size_t place) const { return counts_[std::min(place, counts_.size() - 1)]; }
  [[nodiscard]] std::size_t placeOf(double x) const { return static_cast<std::size_t>((x - from_) / finest); }
  [[nodiscard]] double x(std::size_t place) const { return from_ + finest * static_cast<double>(place); }

private:
  double from_;
  std::vector<int> counts_;
};

/// Cuts [from, to] into pieces of at most `length`: through no symbol and no word where that can be, then through as
/// few sections and wires as leave the rows full.
Spans pieces(double from, double to, double length, const Spans& items, const Spans& sections, const Spans& wires) {
  constexpr double emptiest = 0.3;
  constexpr double anItem = 1000, aSection = 12, aWire = 1, emptiness = 40;
  Spans result;
  if (to - from <= length) return {{from, to}};
  const Crossings item(from, to, items), section(from, to, sections), wire(from, to, wires);
  while (to - from > length) {
    double cut = from + length, least = std::numeric_limits<double>::max();
    for (auto place = item.placeOf(from + length); item.x(place) > from + emptiest * length; --place) {
      const double cost = anItem * item.at(place) + aSection * section.at(place) + aWire * wire.at(place) +
                          emptiness * (1 - (item.x(place) - from) / length);
      if (cost < least) {
        least = cost;
        cut = item.x(place);
      }
    }
    result.emplace_back(from, cut);
    from = cut;
  }
  result.emplace_back(from, to);
  return result;
}

/// As many pieces, so that the last is no remainder of a part or two.
Spans evenly(double from, double to, double length, const Spans& items, const Spans& sections, const Spans& wires) {
  constexpr double enough = 0.5, finer = 0.96;
  auto best = pieces(from, to, length, items, sections, wires);
  const auto size = [](const auto& piece) { return piece.second - piece.first; };
  while (best.size() > 1 && size(best.back()) < enough * size(best.front())) {
    length *= finer;
    auto next = pieces(from, to, length, items, sections, wires);
    if (next.size() > best.size()) break;
    best = std::move(next);
  }
  return best;
}

QString letterOf(std::size_t number) {
  QString letter(QChar(static_cast<char16_t>('a' + number % 26)));
  return number < 26 ? letter : letterOf(number / 26 - 1) + letter;
}

} // namespace

RunSheets::RunSheets(const RunPainter& run, QSizeF paper) : run_(run), items_(run.itemAreas()), paper_(paper) {
  for (const auto& frame : run_.content().drawing.frames) {
    sections_.emplace_back(frame.left, frame.top, frame.right - frame.left, frame.bottom - frame.top);
    if (frame.isEmpty) items_.push_back(sections_.back());
  }
  for (const auto& line : run_.content().drawing.lines)
    for (std::size_t i = 0; i + 1 < line.points.size(); ++i)
      wires_.push_back(
          QRectF(at(line.points[i]), at(line.points[i + 1])).normalized().adjusted(-0.05, -0.05, 0.05, 0.05));
  std::size_t fewest = 0;
  for (double letters = least; letters < most + 0.01; letters += 0.1) {
    const double step = letters / lettersSteps;
    // Rows of like width where they take no more paper than full ones.
    auto sheets = folded(step, false);
    if (step_ != 0 && sheets.size() > fewest) continue;
    if (auto even = folded(step, true); even.size() == sheets.size()) sheets = std::move(even);
    fewest = sheets.size();
    step_ = step;
    sheets_ = std::move(sheets);
  }
  findJoins();
}

QRectF RunSheets::inkedWithin(const QRectF& area) const {
  QRectF inked;
  for (const auto* all : {&items_, &wires_})
    for (const auto& one : *all)
      if (area.intersects(one)) inked |= one & area;
  return inked;
}

double RunSheets::letters() const { return step_ * lettersSteps; }

std::vector<QRectF> RunSheets::rows(const QRectF& deck, QSizeF sheet, bool even) const {
  // Of what lies within, from left to right or from top to bottom.
  const auto spans = [](const std::vector<QRectF>& areas, bool across, const QRectF& within) {
    Spans all;
    for (const auto& area : areas)
      if (area.intersects(within))
        all.emplace_back(across ? area.left() : area.top(), across ? area.right() : area.bottom());
    return all;
  };
  // A wire along the cut would stand at the edge of both rows.
  const auto uncut = [&](bool across, const QRectF& within) {
    constexpr double clear = 0.6;
    auto all = spans(items_, across, within);
    for (const auto& wire : wires_)
      if (wire.intersects(within) && (across ? wire.width() : wire.height()) < 0.2) {
        const auto at = across ? wire.center().x() : wire.center().y();
        all.emplace_back(at - clear, at + clear);
      }
    return all;
  };
  std::vector<QRectF> found;
  for (const auto& [top, bottom] : pieces(deck.top(), deck.bottom(), sheet.height(), uncut(false, deck),
                                          spans(sections_, false, deck), spans(wires_, false, deck))) {
    const QRectF band(deck.left(), top, deck.width(), bottom - top);
    for (const auto& [left, right] :
         (even ? evenly : pieces)(deck.left(), deck.right(), sheet.width() - 2 * beside, uncut(true, band),
                                  spans(sections_, true, band), spans(wires_, true, band))) {
      const auto inked = inkedWithin({left, top, right - left, bottom - top});
      if (!inked.isEmpty()) found.push_back(inked);
    }
  }
  return found;
}

std::vector<std::vector<RunSheets::Row>> RunSheets::folded(double step, bool even) const {
  const QSizeF sheet = paper_ / step, block = corner / step;
  const auto whole = run_.bounds();
  const double supply = run_.content().drawing.supplyFrom;
  std::vector<QRectF> all;
  for (const auto& [from, to] : {std::pair{whole.left(), supply}, {supply, whole.right()}}) {
    const auto deck = inkedWithin(QRectF(QPointF(std::max(from, whole.left()), whole.top()),
                                         QPointF(std::min(to, whole.right()), whole.bottom())));
    if (deck.isEmpty()) continue;
    const auto more = rows(deck, {sheet.width(), sheet.height() - block.height() - between}, even);
    all.insert(all.end(), more.begin(), more.end());
  }
  std::vector<std::vector<Row>> sheets(1);
  double y = 0;
  for (const auto& area : all) {
    // Beside the corner's block there is room for what is short.
    const bool isShort = area.width() + 2 * beside < sheet.width() - block.width();
    const double room = sheet.height() - (isShort ? 0 : block.height() + between);
    if (!sheets.back().empty() && y + area.height() > room) {
      sheets.emplace_back();
      y = 0;
    }
    sheets.back().push_back({area, {beside, y}});
    y += area.height() + between;
  }
  return sheets;
}

void RunSheets::findJoins() {
  std::vector<QRectF> areas;
  for (const auto& sheet : sheets_)
    for (const auto& row : sheet)
      areas.push_back(row.area);
  const auto add = [&](QPointF at) {
    for (const auto& join : joins_)
      if (QLineF(join.at, at).length() < 0.01) return;
    joins_.push_back({at, letterOf(joins_.size())});
  };
  for (const auto& area : areas)
    for (const auto& line : run_.content().drawing.lines)
      for (std::size_t i = 0; i + 1 < line.points.size(); ++i) {
        const auto [a, b] = std::pair{line.points[i], line.points[i + 1]};
        const auto crosses = [](double from, double to, double at) {
          return std::min(from, to) < at && at < std::max(from, to);
        };
        for (const double x : {area.left(), area.right()})
          if (a.y == b.y && crosses(a.x, b.x, x) && area.top() <= a.y && a.y <= area.bottom()) add({x, a.y});
        for (const double y : {area.top(), area.bottom()})
          if (a.x == b.x && crosses(a.y, b.y, y) && area.left() <= a.x && a.x <= area.right()) add({a.x, y});
      }
}

void RunSheets::paint(QPainter& painter, int number, double dotsPerMillimetre, const SheetWords& words) const {
  constexpr double radius = 1.1;
  const double unit = step_ * dotsPerMillimetre;
  for (const auto& row : sheets_[static_cast<std::size_t>(number)]) {
    painter.save();
    painter.translate((row.at - row.area.topLeft()) * unit);
    painter.save();
    painter.setClipRect(
        QRectF(row.area.topLeft() * unit, row.area.size() * unit).adjusted(0, -0.4 * unit, 0, 0.4 * unit));
    run_.paint(painter, unit, {row.area}, {}, false);
    painter.restore();
    const auto& t = theme();
    painter.setFont(pixelFont(textFont(9, QFont::DemiBold), lettersSteps * unit));
    for (const auto& join : joins_) {
      const auto& area = row.area;
      const bool within = area.adjusted(-0.01, -0.01, 0.01, 0.01).contains(join.at);
      const double right = join.at.x() - area.right(), left = area.left() - join.at.x();
      const double down = join.at.y() - area.bottom(), up = area.top() - join.at.y();
      const double most = std::max({right, left, down, up});
      if (!within || most < -0.01) continue;
      const QPointF out(most == right ? 1 : most == left ? -1 : 0, most == down ? 1 : most == up ? -1 : 0);
      const QPointF way = most == right || most == left ? QPointF(out.x(), 0) : out;
      const QPointF end = join.at + 0.8 * way, middle = end + radius * way;
      painter.setPen(QPen(t.ink, std::max(1.1, 0.19 * unit)));
      painter.drawLine(join.at * unit, end * unit);
      painter.setBrush(Qt::NoBrush);
      painter.drawEllipse(middle * unit, radius * unit, radius * unit);
      painter.drawText(QRectF((middle - QPointF(radius, radius)) * unit, QSizeF(2 * radius, 2 * radius) * unit),
                       Qt::AlignCenter, join.letter);
    }
    painter.restore();
  }
  paintCorner(painter, number, dotsPerMillimetre, words);
}

void RunSheets::paintCorner(QPainter& painter, int number, double dots, const SheetWords& words) const {
  const auto say = [](const char* text) { return QCoreApplication::translate("RunSheets", text); };
  const auto& t = theme();
  const QRectF box(QPointF(paper_.width() - corner.width(), paper_.height() - corner.height()) * dots, corner * dots);
  painter.setPen(QPen(t.ink, std::max(1.0, 0.25 * dots)));
  painter.setBrush(t.ground);
  painter.drawRect(box);
  const auto letter = [&](double millimetres, QFont::Weight weight) {
    painter.setFont(pixelFont(textFont(9, weight), millimetres * dots));
  };
  const auto line = [&](double top, double height) {
    return QRectF(box.left() + 2 * dots, box.top() + top * dots, box.width() - 4 * dots, height * dots);
  };
  const auto put = [&](const QRectF& place, int how, const QString& text) {
    const QFontMetricsF metrics(painter.font(), painter.device());
    painter.drawText(place, how | Qt::AlignVCenter, metrics.elidedText(text, Qt::ElideMiddle, place.width()));
  };
  letter(name, QFont::DemiBold);
  put(line(1, 7).adjusted(0, 0, -48 * dots, 0), Qt::AlignLeft, words.name);
  letter(cornerLetters, QFont::Normal);
  QStringList facts;
  for (const auto& fact : {words.revision, words.date, words.mains})
    if (!fact.isEmpty()) facts << fact;
  facts << say("Sheet %1 of %2").arg(QString::number(number + 1), QString::number(count()));
  put(line(8.5, 5), Qt::AlignLeft, facts.join(QStringLiteral("  \u00b7  ")));
  put(line(1, 7), Qt::AlignRight, words.volts);
  painter.setPen(t.danger);
  painter.drawText(line(14, 9), Qt::AlignLeft | Qt::AlignVCenter | Qt::TextWordWrap,
                   say("These voltages can kill, also after switch-off: unplug, discharge, measure, then touch. Local "
                       "electrical codes apply; ask a qualified technician where you are not sure."));
}

} // namespace vinegar::app
