#include "widgets/figure_table.h"

#include "theme/theme.h"

#include <QPainter>
#include <algorithm>
#include <cmath>
#include <numeric>

namespace vinegar::app {
namespace {

constexpr int leastGap = 4; ///< between columns, pixels

int roomFor(const std::vector<int>& widths) {
  return std::accumulate(widths.begin(), widths.end(), leastGap * std::max(static_cast<int>(widths.size()) - 1, 0));
}

QFont fontOf(const FigureTable::Cell& cell) {
  const auto points = [&](double usual) { return cell.points > 0 ? cell.points : usual; };
  if (cell.look == FigureTable::Look::quiet) return textFont(points(9));
  return figureFont(points(9.5), cell.look == FigureTable::Look::pencil || cell.look == FigureTable::Look::footerPencil
                                     ? QFont::DemiBold
                                     : QFont::Normal);
}

QColor colourOf(FigureTable::Look look) {
  const Theme& t = theme();
  switch (look) {
  case FigureTable::Look::quiet:
    return t.quiet;
  case FigureTable::Look::pencil:
    return t.pencil;
  case FigureTable::Look::danger:
    return t.danger;
  case FigureTable::Look::footer:
    return t.footerText;
  case FigureTable::Look::footerPencil:
    return t.footerPencil;
  case FigureTable::Look::figure:
    break;
  }
  return t.ink;
}

int rowHeight(const std::vector<FigureTable::Cell>& row) {
  double points = 9.5;
  for (const auto& cell : row)
    points = std::max(points, cell.points);
  return QFontMetrics(figureFont(points)).height() + 4;
}

} // namespace

FigureTable::FigureTable(QWidget* parent) : QWidget(parent) {
  setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Fixed);
}

QSize FigureTable::sizeHint() const {
  int height = 0;
  for (const auto& row : rows_)
    height += rowHeight(row);
  return {240, height};
}

void FigureTable::setRows(Rows rows, int firstRight) {
  if (rows == rows_ && firstRight == firstRight_) return;
  const int before = sizeHint().height();
  rows_ = std::move(rows);
  firstRight_ = firstRight;
  QStringList lines;
  for (const auto& row : rows_) {
    QStringList cells;
    for (const auto& cell : row)
      cells << cell.text;
    lines << cells.join(QLatin1Char(' '));
  }
  setAccessibleDescription(lines.join(QStringLiteral("; ")));
  if (sizeHint().height() != before) updateGeometry();
  update();
}

std::vector<int> FigureTable::columnWidths() const {
  std::vector<int> widths;
  for (const auto& row : rows_)
    for (std::size_t c = 0; c < row.size(); ++c) {
      if (widths.size() <= c) widths.push_back(0);
      widths[c] = std::max(widths[c], QFontMetrics(fontOf(row[c])).horizontalAdvance(row[c].text));
    }
  return widths;
}

int FigureTable::neededWidth() const { return roomFor(columnWidths()); }

void FigureTable::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  auto widths = columnWidths();
  // One row all flush right: what has no room is left out from the end, for there the least is lost.
  const bool oneFlushRow = firstRight_ == 0 && rows_.size() == 1;
  while (oneFlushRow && widths.size() > 1 && roomFor(widths) > width())
    widths.pop_back();
  const int total = std::accumulate(widths.begin(), widths.end(), 0);
  const int gaps = std::max<int>(1, static_cast<int>(widths.size()) - 1);
  const bool flush = firstRight_ < static_cast<int>(widths.size());
  const int gap = std::clamp((width() - total) / gaps, leastGap, flush && firstRight_ > 0 ? 40 : 14);
  int y = 0;
  for (std::size_t r = 0; r < rows_.size(); ++r) {
    const int height = rowHeight(rows_[r]);
    // One row all flush right stays together at the right end.
    int x = oneFlushRow ? std::max(0, width() - total - gap * (static_cast<int>(widths.size()) - 1)) : 0;
    for (std::size_t c = 0; c < std::min(rows_[r].size(), widths.size()); ++c) {
      const auto& cell = rows_[r][c];
      painter.setFont(fontOf(cell));
      painter.setPen(colourOf(cell.look));
      const bool right = static_cast<int>(c) >= firstRight_;
      // The last left-hand cell may run on to the edge.
      const int room = !right && c + 1 == rows_[r].size() ? width() - x : widths[c];
      painter.drawText(QRect(x, y, room, height), (right ? Qt::AlignRight : Qt::AlignLeft) | Qt::AlignVCenter,
                       cell.text);
      x += widths[c] + gap;
    }
    y += height;
  }
}

} // namespace vinegar::app

#include "moc_figure_table.cpp"
