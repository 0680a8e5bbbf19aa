// Where the line, the supply and their wires stand; and drawSection and drawRun of drawing.h.
#include "amp/drawing/run_layout.h"

#include "amp/drawing/drawing_finish.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <utility>

namespace vinegar::amp {
namespace {

constexpr double stripDepth = 9;                 ///< a supply node's parts hang this far below the rail
constexpr double deepest = 18;                   ///< what hangs lower stands beside the line instead of above it
constexpr double tapLength = 3;                  ///< least length of a rail tap
constexpr double railMargin = 2;                 ///< between a rail tap and the next supply node's parts
constexpr double emptyWidth = 18, emptyHalf = 5; ///< of the frame of a section that nobody has

/// What stands for a section that the library does not have: its ends, as far as they can be guessed, and no parts.
SectionTemplate emptyFrame(const SectionUse& use, bool ofSupply) {
  SectionTemplate section;
  section.title = use.section;
  section.width = emptyWidth;
  const auto add = [&](const char* name, double x) {
    section.ports.push_back({name, name, {x, 0}, false, false, false, "open", {}});
  };
  if (ofSupply) {
    add("node", 0);
    add("from", emptyWidth);
  } else {
    add("in", 0);
    add("out", emptyWidth);
  }
  return section;
}

} // namespace

double onGrid(double y) { return std::ceil(2 * y) / 2; }

Extent extentOf(const SectionTemplate& section) {
  Extent extent;
  if (section.parts.empty()) extent = {-emptyHalf, emptyHalf};
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

RunLayout::RunLayout(Design design, const Library& library, Form form)
    : form_(form), gap_(form == Form::spread ? 8 : 3), design_(std::move(design)), library_(library),
      taken_(takenPorts(design_)) {
  for (std::size_t i = 0; i < design_.supply.size(); ++i)
    rails_.try_emplace(design_.supply[i].node, static_cast<int>(i));
  for (const auto& use : design_.supply)
    supplyById_.try_emplace(use.id, &use);
  for (const auto& [chain, uses] : design_.chains())
    for (const auto& use : *uses)
      if (!library_.sections.contains(use.section)) empty_.try_emplace(use.section, emptyFrame(use, chain == "supply"));
  for (const auto* use : std::as_const(design_).sections())
    for (const auto& [port, target] : use->joins)
      wanted_.insert(target);
  for (const auto* use : std::as_const(design_).sections())
    for (const auto& [port, to] : use->joins)
      joinedFrom_[to] = use->id + "." + port;
}

Drawing RunLayout::run() {
  placeLine();
  if (form_ == Form::paper) leaveTheLine();
  placeRemainingSupply();
  placeRail();
  drawRails();
  placeSides();
  flagOtherJoins();
  finish(drawing_);
  return std::move(drawing_);
}

Drawing RunLayout::alone(const SectionUse& use, const SectionTemplate& section) {
  addSection(use, section, {0, 0});
  addFlagsAndGrounds(use, section, {0, 0});
  for (const auto& name : section.railPorts) {
    const auto& port = *section.port(name);
    addFlag(name, nodeKey(use, port.node), port, section, port.at, !port.flag);
  }
  finish(drawing_);
  return std::move(drawing_);
}

const SectionTemplate* RunLayout::sectionOf(const SectionUse& use) const {
  if (const auto found = library_.sections.find(use.section); found != library_.sections.end()) return &found->second;
  const auto empty = empty_.find(use.section);
  return empty == empty_.end() ? nullptr : &empty->second;
}

int RunLayout::railIndex(const std::string& name) const {
  const auto found = rails_.find(name);
  return found == rails_.end() ? -1 : found->second;
}

std::string RunLayout::nodeKey(const SectionUse& use, const std::string& local) {
  return local == "ground" ? local : use.id + "/" + local;
}

void RunLayout::addSection(const SectionUse& use, const SectionTemplate& section, Point origin) {
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
                             origin.y + extent.bottom, section.parts.empty()});
  lineBottom_ = std::max(lineBottom_, origin.y + extent.bottom);
}

int RunLayout::wiredRail(const SectionUse& use, const Port& port) const {
  if (port.flag || form_ == Form::paper) return -1;
  const auto join = use.joins.find(port.name);
  if (join == use.joins.end()) return -1;
  const int index = railIndex(join->second);
  return index >= 0 && index <= openRail_ ? index : -1;
}

void RunLayout::placeLine() {
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

void RunLayout::leaveTheLine() {
  constexpr double apart = 30;
  double room = lineEnd_ + apart;
  for (const auto& side : design_.sides)
    for (const auto& use : side.sections)
      if (const auto* section = sectionOf(use)) room += section->width + gap_;
  lineEnd_ = lastTap_ = stripEnd_ = room;
  drawing_.supplyFrom = room - apart / 2; // its flags reach to the left
}

double RunLayout::placeStrips(int rail, double tapX) {
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

double RunLayout::stripWidth(int index) const {
  const auto* section = sectionOf(design_.supply[static_cast<std::size_t>(index)]);
  return section ? section->width + gap_ - 2 : 0;
}

void RunLayout::placeRemainingSupply() {
  if (design_.supply.empty()) return;
  placeStrips(0, std::max(lineEnd_ - stripWidth(0), lastTap_ + railMargin));
  // What hangs deeper than a strip, as a transformer does, stands beside the line instead of above it.
  const auto* first = sectionOf(design_.supply[0]);
  const bool deep = first && extentOf(*first).bottom > deepest;
  stripX_[0] = std::max({stripEnd_, lastTap_ + railMargin, deep ? lineEnd_ + gap_ : lineEnd_ - stripWidth(0) - gap_});
}

void RunLayout::placeRail() {
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

double RunLayout::depthOf(std::size_t index) const {
  const auto* section = sectionOf(design_.supply[index]);
  return section ? std::max(stripDepth, extentOf(*section).bottom + 1.5) : stripDepth;
}

void RunLayout::drawRails() {
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

void RunLayout::addLine(const std::string& node, std::vector<Point> points) {
  if (points.front() == points.back() && points.size() == 2) return;
  drawing_.lines.push_back({node, std::move(points)});
}

void RunLayout::joinToPrevious(const SectionUse* before, const SectionUse& use) {
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

Drawing drawSection(const SectionTemplate& section, const Library& library) {
  SectionUse use{section.id, section.id, {}, {}, {}, {}};
  Design design;
  design.line.push_back(std::move(use));
  nameParts(design, library);
  return RunLayout({}, library).alone(design.line[0], section);
}

Drawing drawRun(const Design& design, const Library& library, Form form) {
  Design named = design;
  nameParts(named, library);
  return RunLayout(named, library, form).run();
}

} // namespace vinegar::amp
