#pragma once

#include "run/glyphs.h"

#include <QPainter>
#include <QString>
#include <map>
#include <optional>
#include <set>
#include <string>
#include <vector>

namespace vinegar::app {

/// An ink text and, where it differs, the pencilled one.
struct InkAndPencil {
  QString ink, pencil;
  bool operator==(const InkAndPencil&) const = default;
  [[nodiscard]] bool differs() const { return !pencil.isEmpty() && pencil != ink; }
};

/// What the run shows, apart from where.
struct RunContent {
  amp::Drawing drawing;
  std::map<std::string, InkAndPencil> labels; ///< by part name
  std::map<std::string, InkAndPencil> volts;  ///< by node key
  std::set<std::string> stressed;             ///< parts over a rating
};

/// Paints the run. Made once per drawing; painting then only follows values.
class RunPainter {
public:
  RunPainter(RunContent content, ResistorStyle style);
  RunPainter(const RunPainter&) = delete; ///< parts point into the content
  RunPainter& operator=(const RunPainter&) = delete;

  [[nodiscard]] const RunContent& content() const { return content_; }
  /// Returns the grid areas whose look changed.
  std::vector<QRectF> setReadings(std::map<std::string, InkAndPencil> labels, std::map<std::string, InkAndPencil> volts,
                                  std::set<std::string> stressed);

  /// `unit`: pixels to a grid step. The drawing's own origin is at the painter's origin.
  void paint(QPainter& painter, double unit, const QRectF& visible, const std::string& selected, bool focused) const;
  /// Name of the part under a grid point, or empty.
  [[nodiscard]] std::string partAt(QPointF grid) const;
  [[nodiscard]] QRectF partArea(const std::string& name) const;

  /// Where each text lies, in grid units; `owner` is its part, node or rail.
  struct TextArea {
    std::string owner;
    QRectF area;
  };
  [[nodiscard]] std::vector<TextArea> textAreas() const;

private:
  struct Drawn {
    const amp::Drawing::Part* part;
    Glyph glyph;
    QRectF area;
  };
  // With `areas`, texts are not painted but their places in pixels added to it.
  void paintLabel(QPainter& painter, double unit, const Drawn& drawn, std::vector<TextArea>* areas = nullptr) const;
  void paintVolts(QPainter& painter, double unit, const QRectF& visible, std::vector<TextArea>* areas = nullptr) const;

  RunContent content_;
  std::vector<Drawn> parts_;
  QPainterPath wires_;
};

} // namespace vinegar::app
