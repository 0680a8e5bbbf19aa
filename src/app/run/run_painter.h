#pragma once

#include "run/labels.h"
#include "run/words.h"

#include <map>
#include <optional>
#include <set>
#include <string>
#include <vector>

namespace vinegar::app {

/// What the run shows, apart from where.
struct RunContent {
  amp::Drawing drawing;
  std::map<std::string, InkAndPencil> labels; ///< by part name
  std::map<std::string, InkAndPencil> volts;  ///< by node key
  std::set<std::string> stressed;             ///< parts over a rating
  /// What was taken out and is not inked yet: its name stays, struck through, where it stood.
  struct Gone {
    QString title;
    QPointF at; ///< where the words begin, upwards, if nothing else lies there
    bool operator==(const Gone&) const = default;
  };
  std::vector<Gone> gone = {};
  std::set<std::string> putIn = {}; ///< ids of sections that are not inked yet: their wires are pencil, too
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

  /// `unit`: pixels to a grid step. The drawing's own origin is at the painter's origin. Only what meets one of
  /// `visible` is painted, in grid units; empty: all.
  void paint(QPainter& painter, double unit, const std::vector<QRectF>& visible, const std::string& selected,
             bool focused) const;
  /// The two layers of that. Still: wires, symbols and the words of what is not pencilled. Live: what follows a turned
  /// value, the pencilled words and the volts.
  void paintStill(QPainter& painter, double unit, const std::string& selected, bool focused,
                  const std::vector<QRectF>& visible = {}) const;
  void paintLive(QPainter& painter, double unit, const std::vector<QRectF>& visible) const;
  /// The grid areas of the still layer that look otherwise than when this was last asked.
  std::vector<QRectF> takeStillChanged();
  /// Name of the part under a grid point, or empty.
  [[nodiscard]] std::string partAt(QPointF grid) const;
  [[nodiscard]] QRectF partArea(const std::string& name) const;

  /// All that is painted, texts included, in grid units.
  [[nodiscard]] QRectF bounds() const { return bounds_; }

  /// Where each symbol, text and box lies, in grid units, for whoever cuts between them.
  [[nodiscard]] std::vector<QRectF> itemAreas() const;
  /// Where each text lies, in grid units; `owner` is its part, node or rail.
  struct TextArea {
    std::string owner;
    QRectF area;
  };
  [[nodiscard]] std::vector<TextArea> textAreas() const;
  /// The area of each section's labels and volts, by its id.
  [[nodiscard]] std::map<std::string, QRectF> wordsBySection() const;

private:
  struct Drawn {
    const amp::Drawing::Part* part;
    Glyph glyph;
    QRectF area;
    PartLabel label = {};
    /// Where its symbol is painted, leads and frame included.
    [[nodiscard]] QRectF symbol() const;
    /// Where its words may be painted, at any size.
    [[nodiscard]] QRectF words() const;
  };
  /// A box with a node's volts: a tag, or a rail's flag with its name.
  struct Box {
    const amp::Drawing::Tag* tag = nullptr;
    const amp::Drawing::RailFlag* flag = nullptr;
    std::vector<QRectF> places = {};
    std::size_t place = 0;
    double pencil = 0; ///< width of what is pencilled in it
    [[nodiscard]] const std::string& node() const { return tag ? tag->node : flag->node; }
    /// Where it may be painted, at any size, with the line to its node.
    [[nodiscard]] QRectF reach() const;
  };
  [[nodiscard]] bool isPencilled(const Drawn& drawn) const;
  [[nodiscard]] bool isFramed(const Drawn& drawn) const;
  [[nodiscard]] static QRectF frameOf(const Drawn& drawn);
  [[nodiscard]] InkAndPencil labelOf(const std::string& part) const;
  [[nodiscard]] InkAndPencil voltsOf(const Box& box) const;
  void letter(Drawn& drawn);
  void measure(Box& box) const;
  static const std::vector<QRectF>& placesOf(Box& box);
  void takeRoom();
  /// Gives every text its place.
  void placeAll();
  void measure();
  void paintBox(QPainter& painter, double unit, const Box& box) const;

  RunContent content_;
  QRectF bounds_;
  std::vector<Drawn> parts_;
  std::vector<Box> boxes_;
  Room room_; ///< what stands still
  std::vector<QRectF> stillChanged_;
  struct Wires {
    std::vector<QLineF> straight;                      ///< the painter is many times faster at lines than at paths
    std::vector<std::pair<QRectF, QPainterPath>> bent; ///< with corners, and ground symbols
  };
  Wires ink_, pencil_;
  struct Gone { ///< the title of what was taken out
    QString title;
    std::vector<QRectF> places;
    std::size_t place = 0;
  };
  std::vector<Gone> gone_;
};

} // namespace vinegar::app
