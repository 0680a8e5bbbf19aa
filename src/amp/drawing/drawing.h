#pragma once

#include "amp/design/design.h"

#include <limits>

namespace vinegar::amp {

/// The run laid out: the whole amplifier on one grid, made from the sections' own drawings. Upper deck: the supply
/// rail, reservoir at the right. Lower deck: the signal chain, left to right. Side lanes below. No pixel, no colour:
/// whoever paints it decides those.
struct Drawing {
  struct Part {
    std::string name, section;
    PartKind kind = PartKind::resistor;
    Place place;
    std::vector<Point> pins;
    std::vector<std::string> nodes; ///< node key per pin
    bool fitted = true, linkWhenAbsent = false;
    int standsAt = 0;                     ///< switches: index of the node joined to the common; 0: none
    std::string positionTitle;            ///< switches
    std::vector<std::size_t> windingTaps; ///< power transformers, after the primary
    bool silicon = false;                 ///< rectifiers: two diodes instead of a bottle
  };
  struct Line {
    std::string node; ///< node key: "section/local", "ground", or "rail:NAME"
    std::vector<Point> points;
  };
  struct Tag { ///< where a node's DC volts are written; `at` is the middle of its left edge
    std::string node;
    Point at;
    bool growsLeft = false; ///< its node is at its right, so a longer text grows to the left
  };
  struct RailFlag { ///< a rail's name: above the rail line, or beside a port that is not wired to it
    std::string rail, node;
    Point at;
    enum class Side { above, left, right } side = Side::above;
  };
  struct Frame { ///< the room a section takes
    std::string id, title;
    Point origin; ///< of the section's own grid: its signal line, or for a supply node the rail
    double left = 0, top = 0, right = 0, bottom = 0;
    bool isEmpty = false; ///< of a section that the library does not have: `title` is the name it goes by
  };

  std::vector<Part> parts;
  std::vector<Line> lines;
  std::vector<Point> grounds, junctions;
  std::vector<Tag> tags;
  std::vector<RailFlag> flags;
  std::vector<Frame> frames;
  double left = 0, top = 0, right = 0, bottom = 0;
  double supplyFrom = std::numeric_limits<double>::infinity(); ///< right of it a supply that stands by itself

  [[nodiscard]] const Part* part(const std::string& name) const;
};

enum class Form {
  screen, ///< the supply above the line, wired to it
  spread, ///< the same with room between the sections, for what is put in there
  paper   ///< the supply by itself at the right of all else, rails by their names: it can be cut into rows
};

/// Never fails: what a broken design has is drawn, what it lacks is not.
/// Any thread; some milliseconds for an amplifier.
Drawing drawRun(const Design& design, const Library& library, Form form = Form::screen);

/// What of a design its drawing depends on: two designs of equal shape are drawn alike but for the values beside the
/// parts.
Design shapeOf(Design design, const Library& library);

/// One section by itself, its parts named as in an empty design and its rails as flags under their ports' names.
Drawing drawSection(const SectionTemplate& section, const Library& library);

/// The part a builder means by moving from `name`: the nearest in that direction. Empty `name`: the first part.
std::string neighbour(const Drawing& drawing, const std::string& name, Direction direction);

} // namespace vinegar::amp
