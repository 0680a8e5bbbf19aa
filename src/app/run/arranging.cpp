#include "run/arranging.h"

#include "theme/theme.h"

#include <QFontMetricsF>
#include <algorithm>
#include <cmath>
#include <iterator>

namespace vinegar::app {
namespace {

constexpr double gap = 6;       ///< from the ends of a chain to the places there
constexpr double placeSize = 2; ///< a place's mark

QRectF placeAt(double x, double y) { return {x - placeSize / 2, y - placeSize / 2, placeSize, placeSize}; }

} // namespace

Arranging::Arranging(const amp::Drawing& drawing, const amp::Design& design) {
  std::size_t number = 0;
  const auto frameOf = [&](const std::string& id) -> const amp::Drawing::Frame* {
    for (const auto& frame : drawing.frames)
      if (frame.id == id) return &frame;
    return nullptr;
  };
  // The supply is drawn from right to left, and nothing is put in before its mains.
  const auto add = [&](const std::string& id, const std::vector<amp::SectionUse>& uses, const Placed& whereEmpty) {
    const bool leftward = id == "supply";
    std::vector<Placed> placed;
    const amp::Drawing::Frame* before = nullptr;
    std::string after;
    const auto addPlace = [&](double x, double y) {
      placed.push_back({{{}, amp::Spot{id, after}}, placeAt(x, y), {}, number});
    };
    for (const auto& use : uses) {
      const auto* frame = frameOf(use.id);
      if (!frame) continue;
      if (before)
        addPlace(leftward ? (frame->right + before->left) / 2 : (before->right + frame->left) / 2, frame->origin.y);
      else if (!leftward)
        addPlace(frame->left - gap / 2, frame->origin.y);
      const auto area = QRectF(frame->left, frame->top, frame->right - frame->left, frame->bottom - frame->top)
                            .adjusted(-0.4, -0.6, 0.4, 0.6);
      placed.push_back({{use.id, {}}, area, QString::fromStdString(frame->title), number, area});
      before = frame;
      after = use.id;
    }
    if (before)
      addPlace(leftward ? before->left - gap / 2 : before->right + gap / 2, before->origin.y);
    else
      placed.push_back({{{}, amp::Spot{id, {}}}, whereEmpty.area, whereEmpty.title, number});
    if (leftward) std::reverse(placed.begin(), placed.end());
    std::move(placed.begin(), placed.end(), std::back_inserter(all_));
    ++number;
  };
  add("supply", design.supply,
      {{}, placeAt(drawing.right, std::min(drawing.top, -6.0)), QObject::tr("the supply starts here"), 0});
  add("line", design.line, {{}, placeAt(0, 0), QObject::tr("the line starts here"), 0});
  for (const auto& side : design.sides)
    add(side.id, side.sections, {{}, placeAt(0, 0), {}, 0});
}

void Arranging::takeIn(const std::map<std::string, QRectF>& words) {
  constexpr double aside = 2.4, down = 6; // the places stand in the middle of the gap
  for (auto& placed : all_) {
    const auto found = words.find(placed.piece.section);
    if (placed.piece.place || found == words.end()) continue;
    const auto wanted = placed.frame | found->second.adjusted(-0.3, -0.3, 0.3, 1.2); // the title stands on the foot
    placed.area = wanted & placed.frame.adjusted(-aside, -down, aside, down);
  }
}

const Arranging::Placed* Arranging::find(const Piece& piece) const {
  for (const auto& placed : all_)
    if (placed.piece == piece) return &placed;
  return nullptr;
}

Piece Arranging::at(QPointF grid) const {
  for (const auto& placed : all_)
    if (placed.piece.place && placed.area.adjusted(-0.4, -0.4, 0.4, 0.4).contains(grid)) return placed.piece;
  // The smaller of those that lie over each other is the one meant.
  const Placed* best = nullptr;
  for (const auto& placed : all_)
    if (!placed.piece.place && placed.area.contains(grid) &&
        (!best || placed.area.width() * placed.area.height() < best->area.width() * best->area.height()))
      best = &placed;
  return best ? best->piece : Piece{};
}

QRectF Arranging::area(const Piece& piece) const {
  const auto* found = find(piece);
  return found ? found->area : QRectF();
}

Piece Arranging::neighbour(const Piece& piece, amp::Direction direction) const {
  if (all_.empty()) return {};
  const auto* now = find(piece);
  if (!now) {
    for (const auto& placed : all_)
      if (placed.piece.place && placed.piece.place->chain == "line") return placed.piece;
    return all_.front().piece;
  }
  using amp::Direction;
  if (direction == Direction::left || direction == Direction::right) {
    const auto step = direction == Direction::right ? 1 : -1;
    const auto next = (now - all_.data()) + step;
    if (next < 0 || next >= static_cast<std::ptrdiff_t>(all_.size())) return piece;
    const auto& other = all_[static_cast<std::size_t>(next)];
    return other.chain == now->chain ? other.piece : piece;
  }
  const double x = now->area.center().x(), y = now->area.center().y();
  const Placed* best = nullptr;
  double least = 0;
  for (const auto& placed : all_) {
    if (placed.chain == now->chain || placed.piece.place.has_value() != piece.place.has_value()) continue;
    const double down = placed.area.center().y() - y;
    if ((direction == Direction::down) != (down > 0)) continue;
    const double cost = std::abs(placed.area.center().x() - x) + 2 * std::abs(down);
    if (!best || cost < least) {
      best = &placed;
      least = cost;
    }
  }
  return best ? best->piece : piece;
}

void Arranging::paint(QPainter& painter, double unit, const Piece& inHand, bool focused) const {
  const Theme& t = theme();
  painter.save();
  painter.setRenderHint(QPainter::Antialiasing);
  auto font = textFont(9, QFont::DemiBold);
  font.setPixelSize(std::max(8, static_cast<int>(std::lround(1.5 * unit))));
  painter.setFont(font);
  const QFontMetricsF metrics(font, painter.device());
  for (const auto& placed : all_) {
    const bool mine = placed.piece == inHand;
    const QRectF area(placed.area.topLeft() * unit, placed.area.size() * unit);
    if (placed.piece.place) {
      painter.setPen(QPen(mine ? t.signal : t.quiet, mine && focused ? 2 : 1));
      painter.setBrush(mine ? t.signal : t.ground);
      painter.drawEllipse(area);
      painter.setPen(QPen(mine ? t.ground : t.quiet, 1.4));
      const auto c = area.center();
      const double arm = 0.5 * unit;
      painter.drawLine(QPointF(c.x() - arm, c.y()), QPointF(c.x() + arm, c.y()));
      painter.drawLine(QPointF(c.x(), c.y() - arm), QPointF(c.x(), c.y() + arm));
      if (!placed.title.isEmpty()) {
        painter.setPen(mine ? t.signal : t.quiet);
        painter.drawText(QPointF(area.right() + unit, c.y() + metrics.ascent() / 2.6), placed.title);
      }
      continue;
    }
    QColor fill = t.signal;
    fill.setAlphaF(mine ? 0.10F : 0.0F);
    painter.setBrush(fill);
    painter.setPen(QPen(mine ? t.signal : t.hairline, mine && focused ? 2 : 1));
    painter.drawRoundedRect(area, 4, 4);
    // The title stands on the bracket's foot, where no rail passes.
    const auto text = metrics.elidedText(placed.title, Qt::ElideRight, std::max(area.width() - 8, 4 * unit));
    const double width = metrics.horizontalAdvance(text) + 8;
    const QRectF label(area.left() + 3, area.bottom() - metrics.height() / 2, width, metrics.height());
    painter.setPen(Qt::NoPen);
    painter.setBrush(t.ground);
    painter.drawRect(label);
    painter.setPen(mine ? t.signal : t.quiet);
    painter.drawText(label, Qt::AlignCenter, text);
  }
  painter.restore();
}

} // namespace vinegar::app
