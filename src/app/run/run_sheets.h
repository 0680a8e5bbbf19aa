#pragma once

#include "run/run_painter.h"

#include <QPageSize>
#include <QSizeF>

namespace vinegar::app {

/// What the corner of every sheet says.
struct SheetWords {
  QString name, revision, date, mains;
  QString volts = {}; ///< what the volts are that the sheet shows
};

/// The run of Form::paper folded into rows on sheets of landscape paper: the line and its lanes, then the supply in
/// rows of its own. As few sheets as type of two millimetres allows, and then as large as those hold. Wires
/// that go on in another row end in a letter that stands at both ends.
class RunSheets {
public:
  /// `paper`: what can be printed on, mm. `run` must outlive it.
  RunSheets(const RunPainter& run, QSizeF paper);

  struct Row {
    QRectF area; ///< of the drawing, grid steps
    QPointF at;  ///< its corner on the sheet, grid steps
  };
  struct Join { ///< where a wire is cut
    QPointF at; ///< on the drawing
    QString letter;
  };
  [[nodiscard]] const std::vector<std::vector<Row>>& sheets() const { return sheets_; }
  [[nodiscard]] const std::vector<Join>& joins() const { return joins_; }
  [[nodiscard]] int count() const { return static_cast<int>(sheets_.size()); }
  /// Size of the values' type, mm.
  [[nodiscard]] double letters() const;
  /// A grid step, mm.
  [[nodiscard]] double step() const { return step_; }
  /// Paints sheet `number`, from 0, with its corner at the painter's origin.
  void paint(QPainter& painter, int number, double dotsPerMillimetre, const SheetWords& words) const;

private:
  [[nodiscard]] std::vector<std::vector<Row>> folded(double step, bool even) const;
  /// The deck's part between two x, cut into rows no wider than a sheet. `even`: of like width.
  [[nodiscard]] std::vector<QRectF> rows(const QRectF& deck, QSizeF sheet, bool even) const;
  void findJoins();
  /// The part of `area` that holds what stands in it; empty: nothing does.
  [[nodiscard]] QRectF inkedWithin(const QRectF& area) const;
  void paintCorner(QPainter& painter, int number, double dotsPerMillimetre, const SheetWords& words) const;

  const RunPainter& run_;
  std::vector<QRectF> items_, sections_, wires_; ///< where each lies
  const QSizeF paper_;
  double step_ = 0; ///< mm
  std::vector<std::vector<Row>> sheets_;
  std::vector<Join> joins_;
};

} // namespace vinegar::app
