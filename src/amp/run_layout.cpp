// Where sections, wires and rails of a run stand: drawSection and drawRun of drawing.h.
#include "amp/drawing_finish.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <optional>
#include <set>
#include <unordered_map>
#include <unordered_set>
#include <utility>

namespace vinegar::amp {
namespace {

constexpr double stripDepth = 9;                      ///< a supply node's parts hang this far below the rail
constexpr double deepest = 18;                        ///< what hangs lower stands beside the line instead of above it
constexpr double tapLength = 3;                       ///< least length of a rail tap
constexpr double longest = 90;                        ///< of a wire back to the line; further away both ends get a name
constexpr double wordsAbove = 2.6, wordsBeside = 2.5; ///< room for what is written at a part
constexpr double railMargin = 2;                      ///< between a rail tap and the next supply node's parts

Point operator+(Point a, Point b) { return {a.x + b.x, a.y + b.y}; }

/// Down to the next half step: what meets must meet exactly.
double onGrid(double y) { return std::ceil(2 * y) / 2; }

bool isVertical(Direction direction) { return direction == Direction::down || direction == Direction::up; }

struct Extent {
  double top = 0, bottom = 0;
  void take(Point p, double above = 0, double below = 0) {
    top = std::min(top, p.y - above);
    bottom = std::max(bottom, p.y + below);
  }
};

Extent extentOf(const SectionTemplate& section) {
  Extent extent;
  for (const auto& part : section.parts)
    for (const auto& pin : pinPlaces(part.kind, part.place, part.nodes.size()))
      extent.take(pin, 0, part.kind == PartKind::signalSource ? 8 : 0);
  for (const auto& wire : section.wires)
    for (const auto& point : wire.points)
      extent.take(point);
  for (const auto& ground : section.grounds)
    extent.take(ground, 0, 1.6);
  for (const auto& [node, at] : section.voltTags)
    extent.take(at, 0.8, 0.8);
  return extent;
}

class RunLayout {
public:
  RunLayout(Design design, const Library& library, bool spread = false)
      : gap_(spread ? 8 : 3), design_(std::move(design)), library_(library), taken_(takenPorts(design_)) {
    for (std::size_t i = 0; i < design_.supply.size(); ++i)
      rails_.try_emplace(design_.supply[i].node, static_cast<int>(i));
    for (const auto& use : design_.supply)
      supplyById_.try_emplace(use.id, &use);
    for (const auto& use : design_.line)
      for (const auto& [port, target] : use.joins)
        takenByLine_.insert(target);
    for (const auto* use : std::as_const(design_).sections())
      for (const auto& [port, to] : use->joins)
        joinedFrom_[to] = use->id + "." + port;
  }

  Drawing run() {
    placeLine();
    placeRemainingSupply();
    placeRail();
    drawRails();
    placeSides();
    flagOtherJoins();
    finish(drawing_);
    return std::move(drawing_);
  }

  Drawing alone(const SectionUse& use, const SectionTemplate& section) {
    addSection(use, section, {0, 0});
    addFlagsAndGrounds(use, section, {0, 0});
    for (const auto& name : section.railPorts) {
      const auto& port = *section.port(name);
      addFlag(name, nodeKey(use, port.node), port, section, port.at, !port.flag);
    }
    finish(drawing_);
    return std::move(drawing_);
  }

private:
  struct Tap {
    double x, y;
  };

  const SectionTemplate* sectionOf(const SectionUse& use) const {
    const auto found = library_.sections.find(use.section);
    return found == library_.sections.end() ? nullptr : &found->second;
  }

  int railIndex(const std::string& name) const {
    const auto found = rails_.find(name);
    return found == rails_.end() ? -1 : found->second;
  }

  static std::string nodeKey(const SectionUse& use, const std::string& local) {
    return local == "ground" ? local : use.id + "/" + local;
  }

  void addSection(const SectionUse& use, const SectionTemplate& section, Point origin) {
    for (const auto& part : section.parts) {
      const auto resolved = resolvePart(use, part);
      Place place = part.place;
      place.at = origin + place.at;
      Drawing::Part drawn{resolved.name,
                          use.id,
                          part.kind,
                          place,
                          pinPlaces(part.kind, place, part.nodes.size()),
                          {},
                          resolved.fitted(),
                          part.linkWhenAbsent,
                          0,
                          {},
                          {},
                          false};
      for (const auto& winding : part.windings)
        drawn.windingTaps.push_back(winding.taps.size());
      for (const auto& node : part.nodes)
        drawn.nodes.push_back(nodeKey(use, node));
      if (part.kind == PartKind::rectifier) {
        const auto* type = library_.tubes.find(resolved.text("tube"));
        drawn.silicon = type && type->isSilicon();
      }
      if (part.kind == PartKind::selector) {
        const auto& position = part.positions[static_cast<std::size_t>(knobOf(design_, resolved)) - 1];
        drawn.standsAt = position.to;
        drawn.positionTitle = position.title;
      }
      drawing_.parts.push_back(std::move(drawn));
    }
    for (const auto& wire : section.wires) {
      Drawing::Line line{nodeKey(use, wire.node), {}};
      for (const auto& point : wire.points)
        line.points.push_back(origin + point);
      drawing_.lines.push_back(std::move(line));
    }
    for (const auto& ground : section.grounds)
      drawing_.grounds.push_back(origin + ground);
    for (const auto& [node, at] : section.voltTags)
      drawing_.tags.push_back({nodeKey(use, node), origin + at, false});
    for (const auto& port : section.ports) {
      ports_[use.id + "." + port.name] = origin + port.at;
      if (port.stub.empty() || !(use.joins.contains(port.name) || taken_.contains(use.id + "." + port.name))) continue;
      Drawing::Line line{nodeKey(use, port.node), {}};
      for (const auto& point : port.stub)
        line.points.push_back(origin + point);
      drawing_.lines.push_back(std::move(line));
    }
    const auto extent = extentOf(section);
    drawing_.frames.push_back({use.id, section.title, origin, origin.x, origin.y + extent.top, origin.x + section.width,
                               origin.y + extent.bottom});
    lineBottom_ = std::max(lineBottom_, origin.y + extent.bottom);
  }

  /// Whether a rail port gets a wire to the rail: only in supply order, so that the rail never has to double back.
  int wiredRail(const SectionUse& use, const Port& port) const {
    if (port.flag) return -1;
    const auto join = use.joins.find(port.name);
    if (join == use.joins.end()) return -1;
    const int index = railIndex(join->second);
    return index >= 0 && index <= openRail_ ? index : -1;
  }

  void placeLine() {
    openRail_ = static_cast<int>(design_.supply.size()) - 1;
    taps_.resize(design_.supply.size());
    stripX_.assign(design_.supply.size(), std::numeric_limits<double>::quiet_NaN());
    double x = 0;
    const SectionUse* before = nullptr;
    for (const auto& use : design_.line) {
      const auto* section = sectionOf(use);
      if (!section) continue;
      // Supply nodes between the last tapped one and this section's stand in the gap before this section's tap.
      for (const auto& port : section->ports)
        if (const int rail = wiredRail(use, port); rail >= 0) {
          const double needed = placeStrips(rail, x + port.at.x);
          x = std::max(x, needed - port.at.x);
          taps_[static_cast<std::size_t>(rail)].push_back({x + port.at.x, port.at.y});
          openRail_ = rail;
          lastTap_ = x + port.at.x;
        }
      addSection(use, *section, {x, 0});
      joinToPrevious(before, use);
      addFlagsAndGrounds(use, *section, {x, 0});
      x += section->width + gap_;
      before = &use;
    }
    lineEnd_ = x;
  }

  /// Puts the strips of the nodes from openRail_ down to (not with) `rail` before `tapX`; returns the least x at which
  /// the tap may then stand.
  double placeStrips(int rail, double tapX) {
    if (rail >= openRail_) return tapX;
    double total = 0;
    for (int i = openRail_; i > rail; --i)
      total += stripWidth(i);
    const double from = std::max(lastTap_ + railMargin, stripEnd_);
    const double start = std::max(from, from + (tapX - railMargin - total - from) / 2);
    double x = start;
    for (int i = openRail_; i > rail; --i) {
      stripX_[static_cast<std::size_t>(i)] = x;
      x += stripWidth(i);
    }
    stripEnd_ = x;
    return std::max(tapX, x + railMargin);
  }

  double stripWidth(int index) const {
    const auto* section = sectionOf(design_.supply[static_cast<std::size_t>(index)]);
    return section ? section->width + gap_ - 2 : 0;
  }

  void placeRemainingSupply() {
    if (design_.supply.empty()) return;
    placeStrips(0, std::max(lineEnd_ - stripWidth(0), lastTap_ + railMargin));
    // What hangs deeper than a strip, as a transformer does, stands beside the line instead of above it.
    const auto* first = sectionOf(design_.supply[0]);
    const bool deep = first && extentOf(*first).bottom > deepest;
    stripX_[0] = std::max({stripEnd_, lastTap_ + railMargin, deep ? lineEnd_ + gap_ : lineEnd_ - stripWidth(0) - gap_});
  }

  /// As low as the sections under the supply's parts allow, so that the run stays compact.
  void placeRail() {
    const auto& frames = drawing_.frames; // the line's, from left to right
    for (const auto& frame : frames)
      railY_ = std::min(railY_, frame.top - tapLength);
    for (std::size_t i = 0; i < stripX_.size(); ++i) {
      const double left = stripX_[i], right = left + stripWidth(static_cast<int>(i)), depth = depthOf(i);
      for (auto frame =
               std::partition_point(frames.begin(), frames.end(), [&](const auto& f) { return f.right <= left; });
           frame != frames.end() && frame->left < right; ++frame)
        railY_ = std::min(railY_, frame->top - depth);
    }
    railY_ = -onGrid(-railY_);
    for (std::size_t i = design_.supply.size(); i-- > 0;)
      if (const auto* section = sectionOf(design_.supply[i]); section && !std::isnan(stripX_[i])) {
        addSection(design_.supply[i], *section, {stripX_[i], railY_});
        for (const auto& port : section->ports)
          if (port.name != "node" && (port.name != "from" || design_.supply[i].joins.contains("from")))
            addFlagOrGround(design_.supply[i], *section, port, {stripX_[i], railY_});
      }
  }

  /// What a supply node's parts need below the rail.
  double depthOf(std::size_t index) const {
    const auto* section = sectionOf(design_.supply[index]);
    return section ? std::max(stripDepth, extentOf(*section).bottom + 1.5) : stripDepth;
  }

  void drawRails() {
    for (std::size_t i = 0; i < design_.supply.size(); ++i) {
      if (std::isnan(stripX_[i])) continue;
      const std::string key = "rail:" + design_.supply[i].node;
      double low = stripX_[i], high = stripX_[i];
      for (const auto& tap : taps_[i]) {
        low = std::min(low, tap.x);
        high = std::max(high, tap.x);
        addLine(key, {{tap.x, railY_}, {tap.x, tap.y}});
      }
      const bool goesOn = i + 1 < stripX_.size() && !design_.supply[i + 1].joins.contains("from");
      if (goesOn && !std::isnan(stripX_[i + 1]))
        if (const auto from = ports_.find(design_.supply[i + 1].id + ".from"); from != ports_.end()) {
          low = std::min(low, from->second.x);
          high = std::max(high, from->second.x);
        }
      addLine(key, {{low, railY_}, {high, railY_}});
      const auto* section = sectionOf(design_.supply[i]);
      const double beside = section && extentOf(*section).bottom > deepest ? 0 : 3; // clear of a rectifier
      drawing_.flags.push_back(
          {design_.supply[i].node, key, {stripX_[i] + beside, railY_}, Drawing::RailFlag::Side::above});
    }
  }

  void addLine(const std::string& node, std::vector<Point> points) {
    if (points.front() == points.back() && points.size() == 2) return;
    drawing_.lines.push_back({node, std::move(points)});
  }

  void joinToPrevious(const SectionUse* before, const SectionUse& use) {
    if (!before) return;
    for (const auto& [out, in] : {std::pair{".out", ".in"}, {".outB", ".inB"}}) {
      const auto from = ports_.find(before->id + out), to = ports_.find(use.id + in);
      if (from == ports_.end() || to == ports_.end() || use.joins.contains(in + 1)) continue;
      const Point a = from->second, b = to->second;
      const double turn = a.x + gap_ / 2;
      std::vector<Point> points{a};
      if (a.y != b.y) points.insert(points.end(), {{turn, a.y}, {turn, b.y}});
      points.push_back(b);
      const auto* section = sectionOf(*before);
      addLine(nodeKey(*before, section->port(out + 1)->node), std::move(points));
    }
  }

  void addFlagsAndGrounds(const SectionUse& use, const SectionTemplate& section, Point origin) {
    for (const auto& port : section.ports)
      addFlagOrGround(use, section, port, origin);
  }

  void addFlagOrGround(const SectionUse& use, const SectionTemplate& section, const Port& port, Point origin) {
    const auto join = use.joins.find(port.name);
    const std::string target = join != use.joins.end() ? join->second : port.join;
    const Point at = origin + port.at;
    if (target == "ground") {
      if (!taken_.contains(use.id + "." + port.name)) drawing_.grounds.push_back(at);
    } else if (railIndex(target) >= 0) {
      const auto& taps = taps_[static_cast<std::size_t>(railIndex(target))];
      const bool wired =
          std::any_of(taps.begin(), taps.end(), [&](const Tap& t) { return t.x == at.x && t.y == at.y; });
      if (!wired) addFlag(target, nodeKey(use, port.node), port, section, at, !port.flag);
    } else if (isSupplyPort(target)) {
      addFlag(joinName(target), nodeKey(use, port.node), port, section, at);
    } else if (const auto own = use.id + "." + port.name; isSupplyPort(own) && takenByLine(own)) {
      addFlag(joinName(own), nodeKey(use, port.node), port, section, at);
    }
  }

  /// A port of the supply that no rail line reaches, such as a bias: shown at both ends by its name.
  bool isSupplyPort(const std::string& target) const {
    const auto dot = target.find('.');
    const auto use = dot == std::string::npos ? supplyById_.end() : supplyById_.find(target.substr(0, dot));
    const auto* section = use == supplyById_.end() ? nullptr : sectionOf(*use->second);
    return section && section->port(target.substr(dot + 1));
  }

  bool takenByLine(const std::string& target) const { return takenByLine_.contains(target); }

  /// What both ends of a join that no wire shows are called: "bias", and where there are several, whose.
  std::string joinName(const std::string& target) const {
    const auto dot = target.find('.');
    const auto words = portWords(target.substr(dot + 1));
    const auto alike = std::count_if(taken_.begin(), taken_.end(), [&](const std::string& other) {
      return other.ends_with(target.substr(dot)) && isSupplyPort(other);
    });
    const auto* use = design_.section(target.substr(0, dot));
    if (!use || (isSupplyPort(target) && alike == 1)) return words;
    if (!use->node.empty()) return words + " " + use->node;
    const auto* section = sectionOf(*use);
    for (const auto& part : section ? section->parts : std::vector<PartTemplate>{})
      if (const auto own = use->parts.find(part.ref); hasType(part.kind) && own != use->parts.end())
        return words + " " + own->second.name;
    return words + " " + use->id;
  }

  /// A port of a section that is drawn, shown joined by a name. Once.
  void flagEnd(const std::string& end, const std::string& name) {
    const auto dot = end.find('.');
    const auto* use = design_.section(end.substr(0, dot));
    const auto* section = use ? sectionOf(*use) : nullptr;
    const auto* port = section ? section->port(end.substr(dot + 1)) : nullptr;
    const auto at = ports_.find(end);
    if (port && at != ports_.end() && flagged_.insert(end).second)
      addFlag(name, nodeKey(*use, port->node), *port, *section, at->second);
  }

  /// Joins that no wire shows, as of a heaters' foot to a cathode.
  void flagOtherJoins() {
    for (const auto* use : design_.sections())
      for (const auto& [port, target] : use->joins) {
        const auto end = use->id + "." + port;
        if (target.find('.') == std::string::npos || isSupplyPort(target) || drawnJoins_.contains(end)) continue;
        flagEnd(end, joinName(target));
        flagEnd(target, joinName(target));
      }
  }

  /// A rail's flag stands above, where its wire would go; any other points away from where the port's own wires come
  /// from.
  void addFlag(const std::string& name, const std::string& node, const Port& port, const SectionTemplate& section,
               Point at, bool above = false) {
    using Side = Drawing::RailFlag::Side;
    if (above) return drawing_.flags.push_back({name, node, at, Side::above});
    bool fromRight = false;
    for (const auto& wire : section.wires)
      for (std::size_t i = 0; i < wire.points.size(); ++i)
        if (wire.points[i] == port.at)
          for (const auto next : {i - 1, i + 1}) // wraps at the start: no point
            if (next < wire.points.size() && wire.points[next].x > port.at.x) fromRight = true;
    drawing_.flags.push_back({name, node, at, fromRight ? Side::left : Side::right});
  }

  /// Feedback runs nearest to the line, the other chains below it.
  void placeSides() {
    std::vector<const Chain*> loops, others;
    for (const auto& side : design_.sides) {
      if (side.sections.empty()) continue;
      const auto* section = sectionOf(side.sections.front());
      const bool loop = section && section->port("from") && section->port("to") && side.sections.size() == 1;
      (loop && !isSupplyPort(side.from) && !isSupplyPort(side.to) ? loops : others).push_back(&side);
    }
    // The shortest loop innermost, so that none crosses another.
    const auto footX = [&](const Chain* loop) {
      const auto foot = ports_.find(loop->to);
      return foot == ports_.end() ? 0.0 : foot->second.x;
    };
    std::stable_sort(loops.begin(), loops.end(), [&](const auto* a, const auto* b) { return footX(a) > footX(b); });
    for (const auto* loop : loops)
      placeFeedback(*loop, *sectionOf(loop->sections.front()));
    for (const auto* chain : others)
      placeChain(*chain);
  }

  /// From the right, where the signal is taken, back to the left.
  void placeFeedback(const Chain& chain, const SectionTemplate& section) {
    const auto& lane = chain.sections.front();
    const auto* to = section.port("to");
    const auto target = ports_.find(chain.to);
    const Point foot = target != ports_.end() ? target->second : Point{0, lineBottom_};
    const auto source = ports_.find(chain.from);
    const auto* from = section.port("from");
    const double drop = source != ports_.end() ? source->second.x + gap_ / 4 : foot.x + section.width;
    // Round a single section the lane is the longer: it then stands further left.
    const double aside = std::max(0.0, foot.x - to->at.x + from->at.x - drop);
    const double x = foot.x - to->at.x - aside;
    const double left = x - gap_, end = std::max(drop + gap_, x + section.width);
    // The way across to the foot runs over the lane and what is written there.
    const double over = aside > 0 ? wordsAbove + 1 : 0;
    double y = std::max(foot.y + 1 + over - to->at.y, clearOf(x + section.width, drop, 1) - from->at.y);
    if (over > 0) y = std::max(y, clearOf(x, foot.x - 0.1, 1) + over - to->at.y);
    for (const auto& part : section.parts) {
      Extent own{std::numeric_limits<double>::max(), 0};
      double first = part.place.at.x, last = first;
      for (const auto& pin : pinPlaces(part.kind, part.place, part.nodes.size())) {
        own.take(pin, isVertical(part.place.direction) ? 0 : wordsAbove);
        first = std::min(first, pin.x);
        last = std::max(last, pin.x);
      }
      y = std::max(y, clearOf(x + first - wordsBeside, x + last + wordsBeside, 1) - own.top);
    }
    y = onGrid(y);
    const Point origin{x, y}, head = origin + to->at;
    addSection(lane, section, origin);
    addFlagsAndGrounds(lane, section, origin);
    if (target != ports_.end()) {
      if (aside > 0)
        addLine(nodeKey(lane, to->node), {foot, {foot.x, head.y - over}, {head.x, head.y - over}, head});
      else
        addLine(nodeKey(lane, to->node), {foot, head});
    }
    if (source != ports_.end())
      addLine(nodeKey(lane, from->node),
              {origin + from->at, {drop, origin.y + from->at.y}, {drop, source->second.y}, source->second});
    rows_.push_back({left, end, y + extentOf(section).bottom});
  }

  /// The least y at which something fits between two x, so far below all that stands there.
  double clearOf(double left, double right, double below) const {
    double lowest = 0;
    const auto take = [&](double from, double to, double bottom) {
      if (from < right && left < to) lowest = std::max(lowest, bottom);
    };
    for (const auto& part : drawing_.parts)
      for (const auto& pin : part.pins)
        take(pin.x - 1, pin.x + 1, pin.y);
    for (const auto& line : drawing_.lines)
      for (std::size_t i = 0; i + 1 < line.points.size(); ++i) {
        const auto [a, b] = std::pair{line.points[i], line.points[i + 1]};
        take(std::min(a.x, b.x), std::max(a.x, b.x) + 0.01, std::max(a.y, b.y));
      }
    for (const auto& ground : drawing_.grounds)
      take(ground.x - 1.3, ground.x + 1.3, ground.y + 1.6);
    return lowest + below;
  }

  /// Lowest edge of all that stands between two x, at least the line's own feet.
  double bottomOf(double left, double right) const {
    double bottom = 0;
    for (const auto& frame : drawing_.frames)
      if (frame.left < right && left < frame.right) bottom = std::max(bottom, frame.bottom);
    for (const auto& row : rows_)
      if (row.left < right && left < row.right) bottom = std::max(bottom, row.bottom);
    return bottom;
  }

  /// Left to right, below where its signal is taken, its result brought up to where it is wanted.
  void placeChain(const Chain& chain) {
    const auto& uses = chain.sections;
    Extent extent;
    double width = 0;
    for (const auto& use : uses)
      if (const auto* section = sectionOf(use)) {
        const auto own = extentOf(*section);
        extent.take({0, own.top});
        extent.take({0, own.bottom});
        width += section->width + gap_;
      }
    const auto send = ports_.find(chain.from);
    const auto returnPort = returnOf(chain);
    const auto back = ports_.find(returnPort);
    const auto isDrawn = [&](auto port) { return port != ports_.end(); };
    const double lowest = bottomOf(-1e9, 1e9) + 5;
    std::optional<double> sendX;
    if (isDrawn(send) && !isSupplyPort(chain.from)) sendX = freeColumn(dropOf(send->second), send->second.y, lowest);
    double x = sendX           ? *sendX
               : isDrawn(send) ? std::max(0.0, send->second.x)
               : isDrawn(back) ? std::max(0.0, back->second.x - width)
                               : 0;
    const double backX = isDrawn(back) ? back->second.x : x;
    const double left = std::min(x, backX) - gap_, right = std::max(x + width, backX + gap_);
    const double above = bottomOf(left, right);
    const double y = onGrid(above + 5.5 - extent.top); // room for rail flags and for a return that runs back
    const double returnY = onGrid(y + extent.top - 4.5);
    const SectionUse* before = nullptr;
    for (const auto& use : uses) {
      const auto* section = sectionOf(use);
      if (!section) continue;
      addSection(use, *section, {x, y});
      addFlagsAndGrounds(use, *section, {x, y});
      joinToPrevious(before, use);
      x += section->width + gap_;
      before = &use;
    }
    if (!before) return;
    if (const auto* in = entryOf(uses.front(), "in", "from"); in && isDrawn(send)) {
      const auto end = uses.front().id + "." + in->name;
      const Point at = ports_.at(end);
      if (sendX) {
        addLine(nodeKey(uses.front(), in->node), {at, {*sendX, at.y}, {*sendX, send->second.y}, send->second});
      } else {
        flagEnd(end, chain.id + " send");
        flagEnd(chain.from, chain.id + " send");
      }
    }
    if (const auto* out = entryOf(*before, "out", "to"); out && isDrawn(back)) {
      const auto end = before->id + "." + out->name;
      const Point at = ports_.at(end), to = back->second;
      std::optional<double> rise;
      if (!isSupplyPort(returnPort) && std::abs(to.x - at.x) < longest)
        rise = freeColumn(to.x, to.y + 1, std::max(at.y, returnY));
      if (rise) {
        std::vector<Point> points{at};
        if (at.x <= *rise)
          points.push_back({*rise, at.y});
        else
          points.insert(points.end(), {{at.x + gap_ / 4, at.y}, {at.x + gap_ / 4, returnY}, {*rise, returnY}});
        if (*rise != to.x) points.insert(points.end(), {{*rise, to.y + 1}, {to.x, to.y + 1}});
        points.push_back(to);
        addLine(nodeKey(*before, out->node), std::move(points));
      } else {
        flagEnd(end, chain.id + " return");
        flagEnd(returnPort, chain.id + " return");
      }
    }
    rows_.push_back({left, right, y + extent.bottom});
  }

  const Port* entryOf(const SectionUse& use, const std::string& name, const std::string& other) const {
    const auto* section = sectionOf(use);
    const auto* port = section ? section->port(name) : nullptr;
    return port || !section ? port : section->port(other);
  }

  /// The x nearest to the wanted one at which a wire from below `top` to `bottom` touches no corner, pin or symbol on
  /// its way; nothing when there is none near.
  std::optional<double> freeColumn(double wanted, double top, double bottom) {
    for (; columnLines_ < drawing_.lines.size(); ++columnLines_)
      for (const auto& p : drawing_.lines[columnLines_].points)
        columns_[p.x].insert(p.y);
    for (; columnParts_ < drawing_.parts.size(); ++columnParts_)
      for (const auto& p : drawing_.parts[columnParts_].pins)
        columns_[p.x].insert(p.y);
    const auto touched = [&](double x) {
      for (const auto& part : drawing_.parts) {
        const auto [left, right] = std::minmax_element(part.pins.begin(), part.pins.end(),
                                                       [](const Point& a, const Point& b) { return a.x < b.x; });
        const auto [high, low] = std::minmax_element(part.pins.begin(), part.pins.end(),
                                                     [](const Point& a, const Point& b) { return a.y < b.y; });
        if (left->x - 1 < x && x < right->x + 1 && high->y < bottom && top < low->y) return true;
      }
      const auto column = columns_.find(x);
      if (column == columns_.end()) return false;
      const auto at = column->second.upper_bound(top);
      return at != column->second.end() && *at <= bottom;
    };
    for (int aside = 0; aside < 8; ++aside)
      for (const double x : {wanted + 0.75 * aside, wanted - 0.75 * aside})
        if (!touched(x)) return x;
    return std::nullopt;
  }

  /// A port on its section's right edge is left in the gap, any other straight down.
  double dropOf(Point port) const {
    for (const auto& frame : drawing_.frames)
      if (std::abs(frame.right - port.x) < 1e-9) return port.x + gap_ / 4;
    return port.x;
  }

  /// Where a chain's end goes: the port that it joins, or that joins it.
  std::string returnOf(const Chain& chain) {
    const auto taker = joinedFrom_.find(chain.sections.back().id + ".out");
    if (taker == joinedFrom_.end()) return chain.to;
    drawnJoins_.insert(taker->second);
    return taker->second;
  }

  const double gap_; ///< between sections
  const Design design_;
  const Library& library_;
  std::unordered_map<std::string, int> rails_;
  std::unordered_map<std::string, const SectionUse*> supplyById_;
  std::unordered_set<std::string> taken_, takenByLine_;
  std::unordered_map<std::string, std::string> joinedFrom_; ///< "section.port" to the port that joins it
  std::set<std::string> drawnJoins_, flagged_; ///< "section.port" of joins that are shown, and of ends with a flag
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

} // namespace

Drawing drawSection(const SectionTemplate& section, const Library& library) {
  SectionUse use{section.id, section.id, {}, {}, {}, {}};
  Design design;
  design.line.push_back(std::move(use));
  nameParts(design, library);
  return RunLayout({}, library).alone(design.line[0], section);
}

Drawing drawRun(const Design& design, const Library& library, bool spread) {
  Design named = design;
  nameParts(named, library);
  return RunLayout(named, library, spread).run();
}

} // namespace vinegar::amp
