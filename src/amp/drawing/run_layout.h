#pragma once

#include "amp/drawing/drawing.h"

#include <algorithm>
#include <map>
#include <optional>
#include <set>
#include <unordered_map>
#include <unordered_set>

namespace vinegar::amp {

/// Works out where sections, wires, rails and flags of a run stand: behind drawRun and drawSection of drawing.h. Used
/// once each.
class RunLayout {
public:
  RunLayout(Design design, const Library& library, Form form = Form::screen);
  /// The whole run.
  Drawing run();
  /// One section by itself.
  Drawing alone(const SectionUse& use, const SectionTemplate& section);

private:
  struct Tap {
    double x, y;
  };

  /// An empty frame for a section that nobody has.
  [[nodiscard]] const SectionTemplate* sectionOf(const SectionUse& use) const;
  [[nodiscard]] int railIndex(const std::string& name) const;
  static std::string nodeKey(const SectionUse& use, const std::string& local);
  void addSection(const SectionUse& use, const SectionTemplate& section, Point origin);
  /// Whether a rail port gets a wire to the rail: only in supply order, so that the rail never has to double back.
  [[nodiscard]] int wiredRail(const SectionUse& use, const Port& port) const;
  void placeLine();
  /// Far enough to the right that no lane of the line reaches it.
  void leaveTheLine();
  /// Puts the strips of the nodes from openRail_ down to (not with) `rail` before `tapX`; returns the least x at which
  /// the tap may then stand.
  double placeStrips(int rail, double tapX);
  [[nodiscard]] double stripWidth(int index) const;
  void placeRemainingSupply();
  /// As low as the sections under the supply's parts allow, so that the run stays compact.
  void placeRail();
  /// What a supply node's parts need below the rail.
  [[nodiscard]] double depthOf(std::size_t index) const;
  void drawRails();
  void addLine(const std::string& node, std::vector<Point> points);
  void joinToPrevious(const SectionUse* before, const SectionUse& use);
  void addFlagsAndGrounds(const SectionUse& use, const SectionTemplate& section, Point origin);
  void addFlagOrGround(const SectionUse& use, const SectionTemplate& section, const Port& port, Point origin);
  /// A port of the supply that no rail line reaches, such as a bias: shown at both ends by its name.
  [[nodiscard]] bool isSupplyPort(const std::string& target) const;
  [[nodiscard]] bool wanted(const std::string& target) const { return wanted_.contains(target); }

  /// What both ends of a join that no wire shows are called: "bias", and where there are several, whose.
  [[nodiscard]] std::string joinName(const std::string& target) const;
  /// Both ends of a join that no wire shows, by one name.
  void flagJoin(const std::string& end, const std::string& target, const std::string& name);
  /// A port of a section that is drawn, shown joined by a name. Once.
  void flagEnd(const std::string& end, const std::string& name);
  /// Joins that no wire shows, as of a heaters' foot to a cathode.
  void flagOtherJoins();
  /// A rail's flag stands above, where its wire would go; any other points away from where the port's own wires come
  /// from.
  void addFlag(const std::string& name, const std::string& node, const Port& port, const SectionTemplate& section,
               Point at, bool above = false);
  /// Feedback runs nearest to the line, the other chains below it.
  void placeSides();
  /// From the right, where the signal is taken, back to the left.
  void placeFeedback(const Chain& chain, const SectionTemplate& section);
  /// A join of a chain's end: a wire where it can run through no symbol, else a name at both ends.
  void wireOrName(const SectionUse& use, const Port& port, const std::string& other, const std::string& name,
                  std::vector<Point> points);
  [[nodiscard]] bool runsFree(const std::vector<Point>& points) const;
  /// The least y at which something fits between two x, so far below all that stands there.
  [[nodiscard]] double clearOf(double left, double right, double below) const;
  /// Lowest edge of all that stands between two x, at least the line's own feet.
  [[nodiscard]] double bottomOf(double left, double right) const;
  /// Left to right, below where its signal is taken, its result brought up to where it is wanted.
  void placeChain(const Chain& chain);
  [[nodiscard]] const Port* entryOf(const SectionUse& use, const std::string& name, const std::string& other) const;
  /// The x nearest to the wanted one at which a wire from a port, at `row` aside to there and down to `bottom`, runs
  /// through no symbol and touches no corner and no pin on its way; nothing when there is none near.
  std::optional<double> freeColumn(Point port, double wanted, double row, double bottom);
  /// A port on its section's right edge is left in the gap, any other straight down.
  [[nodiscard]] double dropOf(Point port) const;
  /// Where a chain's end goes: the port that it joins, or that joins it.
  std::string returnOf(const Chain& chain);

  const Form form_;
  const double gap_; ///< between sections
  const Design design_;
  const Library& library_;
  std::unordered_map<std::string, SectionTemplate> empty_; ///< by name, of sections that the library does not have
  std::unordered_map<std::string, int> rails_;
  std::unordered_map<std::string, const SectionUse*> supplyById_;
  std::unordered_set<std::string> taken_, wanted_;          ///< the latter by sections, not by the ends of chains
  std::unordered_map<std::string, std::string> joinedFrom_; ///< "section.port" to the port that joins it
  std::set<std::string> drawnJoins_;                        ///< "section.port" of joins that are shown
  std::map<std::string, std::string> flagged_;              ///< the same of ends with a flag, and what is on it
  Drawing drawing_;
  std::map<std::string, Point> ports_;
  struct Row { ///< the room a lane takes, its wires included
    double left, right, bottom;
  };
  std::vector<Row> rows_;
  std::map<double, std::set<double>> columns_; ///< corners and pins by x, of the lines and parts counted below
  std::size_t columnLines_ = 0, columnParts_ = 0;
  std::vector<std::vector<Tap>> taps_;
  std::vector<double> stripX_;
  double railY_ = 0, lineEnd_ = 0, lineBottom_ = 0;
  double lastTap_ = 0, stripEnd_ = 0;
  int openRail_ = -1;
};

inline Point operator+(Point a, Point b) { return {a.x + b.x, a.y + b.y}; }

/// How far something reaches up and down.
struct Extent {
  double top = 0, bottom = 0;
  void take(Point p, double above = 0, double below = 0) {
    top = std::min(top, p.y - above);
    bottom = std::max(bottom, p.y + below);
  }
};
Extent extentOf(const SectionTemplate& section);

/// Down to the next half step: what meets must meet exactly.
double onGrid(double y);

} // namespace vinegar::amp
