#include "drawer/figure_table.h"

#include "theme/theme.h"

#include <QPainter>
#include <algorithm>

namespace vinegar::app {
namespace {

QFont fontOf(FigureTable::Look look) {
  if (look == FigureTable::Look::quiet) return textFont(9);
  return figureFont(9.5, look == FigureTable::Look::pencil ? QFont::DemiBold : QFont::Normal);
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
  case FigureTable::Look::figure:
    break;
  }
  return t.ink;
}

int rowHeight() { return QFontMetrics(figureFont(9.5)).height() + 4; }

} // namespace

FigureTable::FigureTable(QWidget* parent) : QWidget(parent) {
  setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Fixed);
}

QSize FigureTable::sizeHint() const { return {240, rowHeight() * static_cast<int>(rows_.size())}; }

void FigureTable::setRows(Rows rows, int firstRight) {
  if (rows == rows_ && firstRight == firstRight_) return;
  const bool resized = rows.size() != rows_.size();
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
  if (resized) updateGeometry();
  update();
}

void FigureTable::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  std::vector<int> widths;
  for (const auto& row : rows_)
    for (std::size_t c = 0; c < row.size(); ++c) {
      if (widths.size() <= c) widths.push_back(0);
      widths[c] = std::max(widths[c], QFontMetrics(fontOf(row[c].look)).horizontalAdvance(row[c].text));
    }
  int total = 0;
  for (const int w : widths)
    total += w;
  const int gaps = std::max<int>(1, static_cast<int>(widths.size()) - 1);
  const bool flush = firstRight_ < static_cast<int>(widths.size());
  const int gap = std::clamp((width() - total) / gaps, 4, flush ? 40 : 14);
  const int height = rowHeight();
  for (std::size_t r = 0; r < rows_.size(); ++r) {
    int x = 0;
    for (std::size_t c = 0; c < rows_[r].size(); ++c) {
      const auto& cell = rows_[r][c];
      painter.setFont(fontOf(cell.look));
      painter.setPen(colourOf(cell.look));
      const bool right = static_cast<int>(c) >= firstRight_;
      // The last left-hand cell may run on to the edge.
      const int room = !right && c + 1 == rows_[r].size() ? width() - x : widths[c];
      painter.drawText(QRect(x, static_cast<int>(r) * height, room, height),
                       (right ? Qt::AlignRight : Qt::AlignLeft) | Qt::AlignVCenter, cell.text);
      x += widths[c] + gap;
    }
  }
}

} // namespace vinegar::app
