#include "predict/voice/travel.h"

#include "circuit/ported.h"
#include "predict/rest/parallel.h"
#include "predict/rest/stock.h"

#include <algorithm>
#include <cmath>
#include <functional>
#include <mutex>
#include <set>

namespace vinegar::predict {
namespace {

using circuit::Ported;

constexpr int travelPoints = 120, rotations = 11;
constexpr double wayFrom = 40, wayTo = 1e4; ///< Hz that a control's way is measured over
constexpr double offDecibels = 40;          ///< dB under the most
constexpr double carryingVolts = 1e-3;      ///< volts across a pot that direct current flows in
constexpr std::array usualTapers{"linear", "log10", "log15", "log20", "reverse-log10", "reverse-log15"};

/// The pots or the switch that one knob turns.
std::vector<const amp::CompiledPart*> partsOf(const amp::Circuit& circuit, const std::string& knob) {
  std::vector<const amp::CompiledPart*> parts;
  for (const auto& part : circuit.parts)
    if (amp::isControl(part.resolved.part->kind) && part.resolved.knob == knob && !part.devices.empty())
      parts.push_back(&part);
  return parts;
}
bool arePots(const std::vector<const amp::CompiledPart*>& parts) {
  return std::all_of(parts.begin(), parts.end(),
                     [](const auto* part) { return part->resolved.part->kind == amp::PartKind::pot; });
}
bool carryCurrent(const Idle& idle, const std::vector<const amp::CompiledPart*>& parts) {
  return std::any_of(parts.begin(), parts.end(), [&](const auto* part) {
    const auto& devices = idle.point.system->netlist().devices();
    return std::any_of(part->devices.begin(), part->devices.end(), [&](int index) {
      const auto& nodes = devices[static_cast<std::size_t>(index)].nodes;
      return std::abs(idle.point.volts(nodes[0]) - idle.point.volts(nodes[1])) > carryingVolts;
    });
  });
}

/// Pots without direct current, and the response of a span for any way they stand.
class Turned {
public:
  static tl::expected<Turned, Problem> of(const Idle& idle, const std::vector<std::string>& knobs,
                                          const std::string& from, const std::string& to,
                                          const std::vector<double>& hertz) {
    Turned turned;
    std::vector<int> devices;
    for (const auto& knob : knobs) {
      const auto parts = partsOf(*idle.circuit, knob);
      if (carryCurrent(idle, parts))
        return tl::unexpected(Problem{knob, "carries direct current, so the tubes move with it"});
      turned.first_.push_back(turned.pots_.size());
      for (const auto* part : parts) {
        turned.pots_.push_back({&part->resolved, *amp::taperNamed(part->resolved.text("taper"))});
        devices.insert(devices.end(), part->devices.begin(), part->devices.end());
      }
    }
    turned.first_.push_back(turned.pots_.size());
    auto plan = idle.plan ? idle.plan->plan() : nullptr;
    const auto nodeOf = [&](const std::string& name) { return idle.circuit->probe(name); };
    for (const auto& name : {from, to})
      if (nodeOf(name) < 0) return tl::unexpected(Problem{name, "there is no probe or node of this name"});
    auto ported = Ported::of(*idle.point.system, idle.point.dc.x, hertz, nodeOf(from), nodeOf(to), devices, &plan);
    if (!ported) return tl::unexpected(ported.error());
    turned.ported_ = std::move(*ported);
    turned.values_ = turned.ported_.given();
    return turned;
  }

  /// The wiper's share of the resistance, of every pot on a knob; `scale`: of its value.
  void setShare(std::size_t knob, double share, double scale = 1) {
    for (auto p = first_[knob]; p < first_[knob + 1]; ++p)
      set(p, share, scale);
  }
  /// The same by rotation and each pot's own law.
  void setRotation(std::size_t knob, double rotation, double scale = 1) {
    for (auto p = first_[knob]; p < first_[knob + 1]; ++p)
      set(p, circuit::taperShare(pots_[p].taper, rotation), scale);
  }
  void decibels(std::vector<double>& out) const { ported_.decibels(values_, out); }

private:
  void set(std::size_t pot, double share, double scale) {
    const auto [upper, lower] = circuit::potHalves(pots_[pot].part->value() * scale, share);
    values_[2 * pot] = {1 / upper.ohms, 0};
    values_[2 * pot + 1] = {1 / lower.ohms, 0};
  }
  struct Pot {
    const amp::ResolvedPart* part;
    circuit::Taper taper;
  };
  std::vector<Pot> pots_;
  std::vector<std::size_t> first_; ///< of each knob's pots, and the end
  Ported ported_;
  std::vector<Ported::Admittance> values_;
};

/// The way that curves go one after the other: its length up to each.
std::vector<double> wayAlong(const std::vector<std::vector<double>>& curves, const std::vector<double>& hertz) {
  std::vector<double> floor(hertz.size(), -6000), way{0};
  for (const auto& curve : curves)
    for (std::size_t f = 0; f < curve.size(); ++f)
      floor[f] = std::max(floor[f], curve[f] - offDecibels);
  for (std::size_t c = 1; c < curves.size(); ++c) {
    double squares = 0;
    int counted = 0;
    for (std::size_t f = 0; f < hertz.size(); ++f) {
      if (hertz[f] < wayFrom || hertz[f] > wayTo) continue;
      const double change = std::max(curves[c][f], floor[f]) - std::max(curves[c - 1][f], floor[f]);
      squares += change * change;
      ++counted;
    }
    way.push_back(way.back() + std::sqrt(squares / counted));
  }
  return way;
}

double along(const std::vector<double>& shares, const std::vector<double>& way, double share) {
  const auto above = std::lower_bound(shares.begin(), shares.end(), share);
  if (above == shares.begin()) return way.front();
  if (above == shares.end()) return way.back();
  const auto i = static_cast<std::size_t>(above - shares.begin());
  return way[i - 1] + (way[i] - way[i - 1]) * (share - shares[i - 1]) / (shares[i] - shares[i - 1]);
}

Thirds thirdsOf(const std::vector<double>& shares, const std::vector<double>& way, const circuit::Taper& taper) {
  Thirds thirds;
  if (way.back() <= 0) return thirds;
  for (std::size_t i = 0; i < 3; ++i) {
    const auto at = [&](std::size_t third) {
      return along(shares, way, circuit::taperShare(taper, static_cast<double>(third) / 3));
    };
    thirds.share[i] = (at(i + 1) - at(i)) / way.back();
  }
  return thirds;
}

/// The design with a knob elsewhere, solved whole.
tl::expected<std::vector<double>, Problem> wholeAt(const Idle& idle, const amp::Library& library, Warmth& warmth,
                                                   const TravelQuestion& question, double setting,
                                                   const std::vector<double>& hertz) {
  auto design = *idle.circuit->design;
  design.knobs[question.control] = setting;
  const auto other = predictIdle(design, library, &warmth);
  if (!other) return tl::unexpected(other.error());
  auto response = predictResponse(*other, library, {question.from, question.to, hertz});
  if (!response) return tl::unexpected(response.error());
  return std::move(response->decibels);
}

/// A rotation at which a law has this share; laws rise.
double rotationFor(const circuit::Taper& taper, double share) {
  double low = 0, high = 1;
  for (int i = 0; i < 40; ++i) {
    const double middle = (low + high) / 2;
    (circuit::taperShare(taper, middle) < share ? low : high) = middle;
  }
  return (low + high) / 2;
}

} // namespace

tl::expected<Travel, Problem> predictTravel(const Idle& idle, const amp::Library& library,
                                            const TravelQuestion& question, const GoOn& goOn) {
  const auto parts = partsOf(*idle.circuit, question.control);
  if (parts.empty()) return tl::unexpected(Problem{question.control, "is no control at work in this design"});
  Travel travel;
  travel.control = question.control;
  travel.isSwitch = !arePots(parts);
  travel.hertz = circuit::logSpaced(10, 1e5, travelPoints);
  auto warmth = warmthOf(idle);
  const auto whole = [&](double setting) { return wholeAt(idle, library, warmth, question, setting, travel.hertz); };
  const auto& own = parts.front()->resolved;
  if (travel.isSwitch) {
    std::vector<std::vector<double>> curves;
    for (std::size_t p = 0; p < own.part->positions.size(); ++p) {
      if (goOn && !goOn(static_cast<double>(p) / static_cast<double>(own.part->positions.size())))
        return tl::unexpected(Problem::stopped());
      auto curve = whole(static_cast<double>(p + 1));
      if (!curve) return tl::unexpected(curve.error());
      curves.push_back(*curve);
      travel.curves.push_back({static_cast<double>(p + 1), own.part->positions[p].title, std::move(*curve)});
    }
    travel.whole = wayAlong(curves, travel.hertz).back();
    return travel;
  }

  travel.taper = own.text("taper");
  const auto law = *amp::taperNamed(travel.taper);
  const bool moves = carryCurrent(idle, parts);
  std::optional<Turned> turned;
  if (!moves) {
    auto made = Turned::of(idle, {question.control}, question.from, question.to, travel.hertz);
    if (!made) return tl::unexpected(made.error());
    turned = std::move(*made);
  }
  std::vector<double> curve;
  for (int r = 0; r < rotations; ++r) {
    if (goOn && !goOn(0.5 * r / rotations)) return tl::unexpected(Problem::stopped());
    const double rotation = static_cast<double>(r) / (rotations - 1);
    if (turned) {
      turned->setRotation(0, rotation);
      turned->decibels(curve);
    } else {
      auto solved = whole(rotation);
      if (!solved) return tl::unexpected(solved.error());
      curve = std::move(*solved);
    }
    travel.curves.push_back({rotation, {}, curve});
  }

  // The way depends on where the wiper stands alone: what a law does is to go it at another pace.
  std::set<double> places{0, 1};
  const int fine = turned ? 60 : 10;
  for (const char* taper : usualTapers)
    for (int r = 1; r < fine; ++r)
      if (turned || taper == std::string_view("linear") || taper == std::string_view("log10"))
        places.insert(circuit::taperShare(*amp::taperNamed(taper), static_cast<double>(r) / fine));
  const std::vector<double> shares(places.begin(), places.end());
  const auto wayOf = [&](double scale) -> tl::expected<std::vector<double>, Problem> {
    std::vector<std::vector<double>> curves;
    for (const double share : shares) {
      if (goOn && !goOn(0.5 + 0.4 * share)) return tl::unexpected(Problem::stopped());
      if (turned) {
        turned->setShare(0, share, scale);
        turned->decibels(curve);
        curves.push_back(curve);
      } else {
        auto solved = whole(rotationFor(law, share));
        if (!solved) return tl::unexpected(solved.error());
        curves.push_back(std::move(*solved));
      }
    }
    return wayAlong(curves, travel.hertz);
  };
  const auto way = wayOf(1);
  if (!way) return tl::unexpected(way.error());
  travel.whole = way->back();
  travel.thirds = thirdsOf(shares, *way, law);
  for (const char* taper : usualTapers)
    travel.tapers.push_back({taper, thirdsOf(shares, *way, *amp::taperNamed(taper))});
  if (std::find(usualTapers.begin(), usualTapers.end(), travel.taper) == usualTapers.end())
    travel.tapers.push_back({travel.taper, travel.thirds}); // the builder's own
  std::stable_sort(travel.tapers.begin(), travel.tapers.end(),
                   [](const auto& a, const auto& b) { return a.thirds.unevenness() < b.thirds.unevenness(); });
  if (turned)
    for (const bool up : {false, true})
      if (const auto value = steppedValue(own, library, up); value && *value > 0) {
        const auto other = wayOf(*value / own.value());
        if (!other) return tl::unexpected(other.error());
        travel.values.push_back({*value, other->back(), thirdsOf(shares, *other, law)});
      }
  return travel;
}

namespace {

/// The least and the most of curves at every frequency.
class Reached {
public:
  void take(const std::vector<double>& curve) {
    least.resize(curve.size(), std::numeric_limits<double>::infinity());
    most.resize(curve.size(), -std::numeric_limits<double>::infinity());
    for (std::size_t f = 0; f < curve.size(); ++f) {
      least[f] = std::min(least[f], curve[f]);
      most[f] = std::max(most[f], curve[f]);
    }
  }
  std::vector<double> least, most;
};

/// `visit(rotations)` at all combinations of so many steps of so many knobs.
void everyWay(std::size_t knobs, std::size_t steps, const std::function<bool(const std::vector<double>&)>& visit) {
  std::size_t ways = 1;
  for (std::size_t k = 0; k < knobs; ++k)
    ways *= steps;
  std::vector<double> rotations(knobs);
  for (std::size_t way = 0; way < ways; ++way) {
    for (std::size_t k = 0, rest = way; k < knobs; ++k, rest /= steps)
      rotations[k] = static_cast<double>(rest % steps) / static_cast<double>(steps - 1);
    if (!visit(rotations)) return;
  }
}

} // namespace

tl::expected<Envelope, Problem> predictEnvelope(const Idle& idle, const amp::Library& library,
                                                const EnvelopeQuestion& question, const GoOn& goOn) {
  if (question.controls.empty() || question.controls.size() > 3 || question.steps < 2)
    return tl::unexpected(Problem{"the envelope", "is of one to three controls, each at two places or more"});
  // Pots that carry direct current move the tubes with them: a whole solution for each of their ways.
  std::vector<std::string> moving, standing;
  for (const auto& knob : question.controls) {
    const auto parts = partsOf(*idle.circuit, knob);
    if (parts.empty()) return tl::unexpected(Problem{knob, "is no control at work in this design"});
    if (!arePots(parts)) return tl::unexpected(Problem{knob, "is a switch, which is not turned"});
    (carryCurrent(idle, parts) ? moving : standing).push_back(knob);
  }
  Envelope envelope;
  envelope.hertz = circuit::logSpaced(10, 1e5, travelPoints);
  const auto steps = static_cast<std::size_t>(question.steps);
  constexpr std::size_t fewer = 5; // three that move all: a thousand whole solutions are too many
  const std::size_t coarse = moving.size() == 3 ? std::min(steps, fewer) : steps;
  // The outermost in turn on both threads: ways of those that move, or the places of the first that stands.
  std::vector<std::vector<double>> outer;
  std::optional<Turned> turned;
  if (moving.empty()) {
    auto made = Turned::of(idle, standing, question.from, question.to, envelope.hertz);
    if (!made) return tl::unexpected(made.error());
    turned = std::move(*made);
  }
  everyWay(moving.empty() ? 1 : moving.size(), coarse, [&](const auto& rotations) {
    outer.push_back(rotations);
    return true;
  });
  Reached reached;
  std::optional<Problem> problem;
  std::mutex mutex;
  const bool finished = inTwoThreads(outer.size(), goOn, [&](std::size_t way, const GoOn& goes) {
    Reached here;
    std::size_t settings = 0;
    std::vector<double> curve;
    const auto turnAll = [&](Turned& own, std::size_t first) {
      everyWay(standing.size() - first, steps, [&](const auto& rotations) {
        for (std::size_t k = 0; k < rotations.size(); ++k)
          own.setRotation(first + k, rotations[k]);
        own.decibels(curve);
        here.take(curve);
        ++settings;
        return goes(0);
      });
    };
    std::optional<Problem> failed;
    if (moving.empty()) {
      auto own = *turned;
      own.setRotation(0, outer[way][0]);
      turnAll(own, 1);
    } else {
      auto design = *idle.circuit->design;
      for (std::size_t k = 0; k < moving.size(); ++k)
        design.knobs[moving[k]] = outer[way][k];
      auto warmth = warmthOf(idle);
      const auto there = predictIdle(design, library, &warmth);
      auto own = there ? Turned::of(*there, standing, question.from, question.to, envelope.hertz)
                       : tl::expected<Turned, Problem>(tl::unexpected(there.error()));
      if (own)
        turnAll(*own, 0);
      else
        failed = own.error();
    }
    const std::lock_guard lock(mutex);
    if (failed && !problem) problem = failed;
    if (here.least.empty()) return;
    reached.take(here.least);
    reached.take(here.most);
    envelope.settings += settings;
  });
  if (!finished) return tl::unexpected(Problem::stopped());
  if (problem) return tl::unexpected(*problem);
  envelope.least = std::move(reached.least);
  envelope.most = std::move(reached.most);
  return envelope;
}

} // namespace vinegar::predict
