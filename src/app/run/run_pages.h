#pragma once

#include "run/run_painter.h"

#include <QPagedPaintDevice>

namespace vinegar::app {

enum class Pages { one, several };

/// The parts of the grid within `bounds` that several pages show, row by row: cut between sections where that is
/// possible, so that a page of `page` grid steps is never split through a part unless a section alone is larger than
/// it.
std::vector<QRectF> pageAreas(const amp::Drawing& drawing, const QRectF& bounds, QSizeF page);

/// Paints the whole run on one page, or at a size that reads at arm's length on as many as that takes; each says its
/// title and its place. False when the device cannot be painted on.
bool paintPages(QPagedPaintDevice& device, const RunPainter& run, const QString& title, Pages pages);

} // namespace vinegar::app
