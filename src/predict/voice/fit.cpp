#include "predict/voice/fit.h"

#include "predict/wave/clipping.h"

#include "circuit/ported.h"
#include "predict/rest/parallel.h"
#include "predict/rest/stock.h"

#include <algorithm>
#include <cmath>
#include <mutex>
#include <random>
#include <set>

namespace vinegar::predict {
namespace {

using circuit::Ported;

constexpr std::size_t mostSetsFound = 5, mostMoving = 6;
/// That are looked at for them: many are alike, by parts that do nothing here.
constexpr std::size_t mostCandidates = 40, candidatesEach = 15;
constexpr double alikeDecibels = 0.1;     ///< curves nearer to each other are one to the ear
constexpr int fitPoints = 40;             ///< that a distance is taken at
constexpr int dialSteps = 30;             ///< of a dial either way: of E12 two and a half decades
constexpr double dialSpan = 320;          ///< times more or less than a part's own value
constexpr std::size_t allTried = 450'000; ///< combinations that are all tried
constexpr std::size_t mostKept = 500;     ///< solved circuits, some twenty kilobytes each
constexpr int descents = 48;              ///< of the search where there are more
constexpr double restVolts = 1e-3;        ///< across a part that carries direct current

/// A part that may move, and the values it may have.
struct Dial {
  const amp::CompiledPart* part;
  std::vector<double> values; ///< rising
  std::size_t now = 0;        ///< the nearest to the part's own
  bool movesRest = false;     ///< direct current flows in it
  std::size_t first = 0;      ///< of its devices among the ported ones
  double share = 0;           ///< of a pot's resistance, where its knob stands
};
using Choice = std::vector<std::size_t>; ///< a value of each dial

double targetAt(const std::vector<TargetPoint>& target, double hertz) {
  const auto above =
      std::lower_bound(target.begin(), target.end(), hertz, [](const auto& p, double f) { return p.hertz < f; });
  if (above == target.begin()) return target.front().decibels;
  if (above == target.end()) return target.back().decibels;
  const auto& low = *(above - 1);
  const double share = std::log(hertz / low.hertz) / std::log(above->hertz / low.hertz);
  return low.decibels + share * (above->decibels - low.decibels);
}

/// Root mean square of a curve's distance to the target, and its mean.
struct Distance {
  double rms = 0, offset = 0;
};
Distance distanceOf(const std::vector<double>& curve, const std::vector<double>& target, bool level) {
  Distance distance;
  for (std::size_t i = 0; i < target.size(); ++i)
    distance.offset += (curve[i] - target[i]) / static_cast<double>(target.size());
  double squares = 0;
  for (std::size_t i = 0; i < target.size(); ++i) {
    const double off = curve[i] - target[i] - (level ? 0 : distance.offset);
    squares += off * off;
  }
  distance.rms = std::sqrt(squares / static_cast<double>(target.size()));
  return distance;
}

/// A part's value on its devices; pots keep their rotation.
void setOn(const amp::CompiledPart& part, double share, double value, Ported::Admittance* at) {
  switch (part.resolved.part->kind) {
  case amp::PartKind::pot: {
    const auto [upper, lower] = circuit::potHalves(value, share);
    at[0] = {1 / upper.ohms, 0};
    at[1] = {1 / lower.ohms, 0};
    break;
  }
  case amp::PartKind::capacitor:
    at[0] = {0, value};
    break;
  default:
    at[0] = {1 / value, 0};
  }
}

std::vector<double> dialOf(const amp::ResolvedPart& part, const amp::Library& library, const FitQuestion& question) {
  if (const auto own = question.atHand.find(part.name); own != question.atHand.end()) {
    std::vector<double> values;
    for (const double value : own->second)
      if (value > 0 && !amp::checkSetting(part, "value", amp::Setting{value}, library)) values.push_back(value);
    std::sort(values.begin(), values.end());
    return values;
  }
  std::vector<double> values{part.value()};
  for (const bool up : {false, true}) {
    auto stepped = part;
    for (int step = 0; step < dialSteps; ++step) {
      std::optional<double> next;
      if (question.series) {
        next =
            up ? units::nextUp(*question.series, stepped.value()) : units::nextDown(*question.series, stepped.value());
        if (amp::checkSetting(part, "value", amp::Setting{*next}, library)) next.reset();
      } else {
        next = steppedValue(stepped, library, up);
      }
      if (!next || *next <= 0 || *next > part.value() * dialSpan || *next < part.value() / dialSpan) break;
      values.push_back(*next);
      stepped.settings["value"] = *next;
    }
  }
  std::sort(values.begin(), values.end());
  return values;
}

/// The best found so far, each choice once.
class Podium {
public:
  explicit Podium(std::size_t most) : most_(most) {}
  void take(double distance, const Choice& choice) {
    if (!std::isfinite(distance) || (best_.size() == most_ && distance >= best_.back().first)) return;
    const auto same = std::find_if(best_.begin(), best_.end(), [&](const auto& b) { return b.second == choice; });
    if (same != best_.end()) return;
    best_.insert(
        std::upper_bound(best_.begin(), best_.end(), distance, [](double d, const auto& b) { return d < b.first; }),
        {distance, choice});
    if (best_.size() > most_) best_.pop_back();
  }
  [[nodiscard]] const std::vector<std::pair<double, Choice>>& best() const { return best_; }

private:
  std::size_t most_;
  std::vector<std::pair<double, Choice>> best_;
};

class ValueSearch {
public:
  ValueSearch(const Idle& idle, const amp::Library& library, const FitQuestion& question,
              const std::vector<Dial>& dials, std::vector<double> hertz, std::vector<double> target)
      : idle_(idle), library_(library), question_(question), dials_(dials), hertz_(std::move(hertz)),
        target_(std::move(target)) {
    for (std::size_t d = 0; d < dials_.size(); ++d)
      (dials_[d].movesRest ? moving_ : standing_).push_back(d);
    for (const auto d : standing_)
      devices_.insert(devices_.end(), dials_[d].part->devices.begin(), dials_[d].part->devices.end());
  }

  /// The best choices, nearest first; nothing when it was stopped.
  std::optional<std::vector<Choice>> run(const GoOn& goOn) {
    Choice now;
    for (const auto& dial : dials_)
      now.push_back(dial.now);
    if (moving_.empty()) {
      const auto* ported = at(now);
      if (!ported) return std::vector<Choice>{};
      if (!searchStanding(*ported, now, podium_, goOn)) return std::nullopt;
    } else if (!searchMoving(now, goOn)) {
      return std::nullopt;
    }
    std::vector<Choice> choices;
    for (const auto& [distance, choice] : podium_.best())
      choices.push_back(choice);
    return choices;
  }
  [[nodiscard]] std::size_t tried() const { return tried_; }

private:
  /// The circuit with the moving parts so chosen, seen from the standing ones; null where it has no answer.
  const Ported* at(const Choice& choice) {
    Choice key;
    for (const auto d : moving_)
      key.push_back(choice[d]);
    const auto known = solved_.find(key);
    if (known != solved_.end()) return known->second ? &*known->second : nullptr;
    circuit::System system = *idle_.point.system;
    for (const auto d : moving_)
      if (const auto laws =
              idle_.circuit->lawsWith(dials_[d].part->resolved.name, "value", dials_[d].values[choice[d]], library_))
        system.setLaws(*laws);
    if (solved_.size() >= mostKept) solved_.clear();
    auto& entry = solved_[key];
    const auto dc = circuit::solveDc(system, x_.size() ? &x_ : &idle_.point.dc.x);
    if (!dc) return nullptr;
    x_ = dc->x;
    auto plan = idle_.plan ? idle_.plan->plan() : nullptr;
    auto ported = Ported::of(system, dc->x, hertz_, idle_.circuit->probe(question_.from),
                             idle_.circuit->probe(question_.to), devices_, &plan);
    if (!ported) return nullptr;
    entry = std::move(*ported);
    return &*entry;
  }

  struct Work {
    std::vector<Ported::Admittance> values;
    std::vector<double> curve;
    std::size_t tried = 0;
  };
  [[nodiscard]] Work workOf(const Ported& ported) const { return {ported.given(), {}, 0}; }
  double distance(const Ported& ported, const Choice& choice, Work& work) const {
    for (const auto d : standing_) {
      const auto& dial = dials_[d];
      setOn(*dial.part, dial.share, dial.values[choice[d]], &work.values[dial.first]);
    }
    ported.decibels(work.values, work.curve);
    ++work.tried;
    return distanceOf(work.curve, target_, question_.level).rms;
  }

  /// One dial at a time until none helps, then two; from a choice to a place where no two dials do better.
  double descend(const Ported& ported, Choice& choice, Work& work, bool inPairs) const {
    double best = distance(ported, choice, work);
    for (bool moved = true; moved;) {
      moved = false;
      const auto better = [&](const Choice& trial) {
        const double its = distance(ported, trial, work);
        if (!(its < best - 1e-9)) return;
        best = its;
        choice = trial;
        moved = true;
      };
      for (const auto d : standing_) {
        Choice trial = choice;
        for (std::size_t v = 0; v < dials_[d].values.size(); ++v) {
          trial = choice;
          trial[d] = v;
          better(trial);
        }
      }
      if (moved || !inPairs) continue;
      for (std::size_t a = 0; a < standing_.size(); ++a)
        for (std::size_t b = a + 1; b < standing_.size(); ++b) {
          for (std::size_t v = 0; v < dials_[standing_[a]].values.size(); ++v)
            for (std::size_t w = 0; w < dials_[standing_[b]].values.size(); ++w) {
              Choice trial = choice;
              trial[standing_[a]] = v;
              trial[standing_[b]] = w;
              better(trial);
            }
        }
    }
    return best;
  }

  bool searchStanding(const Ported& ported, const Choice& now, Podium& podium, const GoOn& goOn) {
    std::size_t combinations = 1;
    for (const auto d : standing_)
      if (combinations <= allTried) combinations *= dials_[d].values.size();
    std::mutex mutex;
    const auto merge = [&](const Podium& own, std::size_t tried) {
      const std::lock_guard lock(mutex);
      for (const auto& [distance, choice] : own.best())
        podium.take(distance, choice);
      tried_ += tried;
    };
    if (combinations <= allTried && !standing_.empty()) {
      const auto outer = standing_.front();
      const std::size_t inner = combinations / dials_[outer].values.size();
      return inTwoThreads(dials_[outer].values.size(), goOn, [&](std::size_t first, const GoOn& goes) {
        Podium own(candidatesEach);
        auto work = workOf(ported);
        Choice choice = now;
        choice[outer] = first;
        for (std::size_t i = 0; i < inner; ++i) {
          if (i % 256 == 0 && !goes(0)) return;
          std::size_t rest = i;
          for (const auto d : standing_) {
            if (d == outer) continue;
            choice[d] = rest % dials_[d].values.size();
            rest /= dials_[d].values.size();
          }
          own.take(distance(ported, choice, work), choice);
        }
        merge(own, work.tried);
      });
    }
    return inTwoThreads(descents, goOn, [&](std::size_t start, const GoOn& goes) {
      Podium own(candidatesEach);
      auto work = workOf(ported);
      std::mt19937 dice(static_cast<std::uint32_t>(start));
      Choice choice = now;
      if (start > 0)
        for (const auto d : standing_)
          choice[d] = dice() % dials_[d].values.size();
      own.take(descend(ported, choice, work, goes(0) && start % 4 == 0), choice);
      merge(own, work.tried);
    });
  }

  /// Parts that move the tubes: one dial at a time, the standing ones following each.
  bool searchMoving(const Choice& now, const GoOn& goOn) {
    Choice best = now;
    double nearest = std::numeric_limits<double>::infinity();
    const auto follow = [&](Choice choice, bool thorough) {
      const auto* ported = at(choice);
      if (!ported) return std::pair{std::numeric_limits<double>::infinity(), choice};
      auto work = workOf(*ported);
      double its = std::numeric_limits<double>::infinity();
      if (thorough && !standing_.empty()) {
        Podium own(candidatesEach);
        if (!searchStanding(*ported, choice, own, goOn)) return std::pair{its, choice};
        for (const auto& [distance, found] : own.best())
          podium_.take(distance, found);
        if (!own.best().empty()) std::tie(its, choice) = own.best().front();
      } else {
        its = descend(*ported, choice, work, false);
        podium_.take(its, choice);
        tried_ += work.tried;
      }
      return std::pair{its, choice};
    };
    std::tie(nearest, best) = follow(now, false);
    int round = 0;
    for (bool moved = true; moved && round < 6; ++round) {
      moved = false;
      // From the second round on pairs of moving parts go together too, a few steps at a time.
      for (const auto d : moving_)
        for (std::size_t v = 0; v < dials_[d].values.size(); ++v) {
          if (goOn && !goOn(std::min(0.9, 0.15 * round))) return false;
          Choice trial = best;
          trial[d] = v;
          const auto [its, choice] = follow(trial, false);
          if (its < nearest - 1e-9) {
            nearest = its;
            best = choice;
            moved = true;
          }
        }
      if (moved) continue;
      for (std::size_t a = 0; a < moving_.size(); ++a)
        for (std::size_t b = a + 1; b < moving_.size(); ++b)
          for (int u = -3; u <= 3; ++u)
            for (int w = -3; w <= 3; ++w) {
              if (goOn && !goOn(std::min(0.9, 0.15 * round))) return false;
              Choice trial = best;
              const auto step = [&](std::size_t d, int by) {
                const auto to = static_cast<std::ptrdiff_t>(trial[d]) + by;
                if (to < 0 || to >= std::ssize(dials_[d].values)) return false;
                trial[d] = static_cast<std::size_t>(to);
                return true;
              };
              if (!step(moving_[a], u) || !step(moving_[b], w)) continue;
              const auto [its, choice] = follow(trial, false);
              if (its < nearest - 1e-9) {
                nearest = its;
                best = choice;
                moved = true;
              }
            }
    }
    follow(best, true);
    return !goOn || goOn(0.95);
  }

  const Idle& idle_;
  const amp::Library& library_;
  const FitQuestion& question_;
  const std::vector<Dial>& dials_;
  std::vector<double> hertz_, target_;
  std::vector<std::size_t> standing_, moving_; ///< dials
  std::vector<int> devices_;                   ///< of the standing ones
  std::map<Choice, std::optional<Ported>> solved_;
  Eigen::VectorXd x_;
  Podium podium_{mostCandidates};
  std::size_t tried_ = 0;
};

tl::expected<std::vector<Dial>, Problem> dialsOf(const Idle& idle, const amp::Library& library,
                                                 const FitQuestion& question) {
  std::vector<Dial> dials;
  if (question.parts.empty()) return tl::unexpected(Problem{"the fit", "name the parts that may move"});
  if (question.parts.size() > mostMoving)
    return tl::unexpected(Problem{"the fit", "more than six parts at once leave too much to chance; name fewer"});
  std::size_t devices = 0;
  for (const auto& name : question.parts) {
    const auto* part = idle.circuit->part(name);
    const auto says = [&](const char* what) { return tl::unexpected(Problem{name, what}); };
    if (!part || part->devices.empty()) return says("is no part at work in this design");
    const auto kind = part->resolved.part->kind;
    if (kind != amp::PartKind::resistor && kind != amp::PartKind::capacitor && kind != amp::PartKind::pot)
      return says("is no resistor, capacitor or pot, so it has no stock values to try");
    if (std::any_of(dials.begin(), dials.end(), [&](const Dial& dial) { return dial.part == part; }))
      return says("is named twice");
    Dial dial{part, dialOf(part->resolved, library, question), 0, false, 0, 0};
    if (kind == amp::PartKind::pot)
      dial.share = circuit::taperShare(*amp::taperNamed(part->resolved.text("taper")),
                                       amp::knobOf(*idle.circuit->design, part->resolved));
    if (dial.values.empty()) return says("has none of the values at hand that it could be given");
    for (std::size_t v = 0; v < dial.values.size(); ++v)
      if (std::abs(std::log(dial.values[v] / part->resolved.value())) <
          std::abs(std::log(dial.values[dial.now] / part->resolved.value())))
        dial.now = v;
    for (const int index : part->devices) {
      const auto& device = idle.point.system->netlist().devices()[static_cast<std::size_t>(index)];
      const double volts = idle.point.volts(device.nodes[0]) - idle.point.volts(device.nodes[1]);
      if (std::holds_alternative<circuit::Resistor>(device.law) && std::abs(volts) > restVolts) dial.movesRest = true;
    }
    if (!dial.movesRest) {
      dial.first = devices;
      devices += part->devices.size();
    }
    dials.push_back(std::move(dial));
  }
  return dials;
}

} // namespace

tl::expected<Fit, Problem> predictFit(const Idle& whole, const amp::Library& library, const FitQuestion& question,
                                      const GoOn& goOn) {
  const auto& points = question.target;
  for (std::size_t i = 0; i < points.size(); ++i)
    if (!(points[i].hertz > 0) || !std::isfinite(points[i].decibels) ||
        (i > 0 && points[i].hertz <= points[i - 1].hertz))
      return tl::unexpected(Problem{"the target", "goes from lower to higher frequencies, each with a level"});
  if (points.size() < 2) return tl::unexpected(Problem{"the target", "needs two points or more"});
  const Idle idle = withoutEchoes(whole);
  const auto dials = dialsOf(idle, library, question);
  if (!dials) return tl::unexpected(dials.error());
  const auto hertz = circuit::logSpaced(points.front().hertz, points.back().hertz, fitPoints);
  std::vector<double> target;
  target.reserve(hertz.size());
  for (const double f : hertz)
    target.push_back(targetAt(points, f));

  Fit fit;
  fit.hertz = circuit::logSpaced(10, 1e5, 201);
  auto all = fit.hertz;
  all.insert(all.end(), hertz.begin(), hertz.end());
  all.push_back(1000);
  struct Read {
    std::vector<double> curve;
    Distance distance;
    double at1kHz;
  };
  const auto read = [&](const Idle& one) -> tl::expected<Read, Problem> {
    auto response = predictResponse(withoutEchoes(one), library, {question.from, question.to, all});
    if (!response) return tl::unexpected(response.error());
    auto& levels = response->decibels;
    const auto middle = levels.begin() + std::ssize(fit.hertz);
    const std::vector<double> wanted(middle, levels.end() - 1);
    return Read{{levels.begin(), middle}, distanceOf(wanted, target, question.level), levels.back()};
  };
  const auto now = read(idle);
  if (!now) return tl::unexpected(now.error());
  fit.now = now->curve;
  fit.distance = now->distance.rms;
  ValueSearch search(idle, library, question, *dials, hertz, target);
  const auto choices = search.run(goOn);
  if (!choices) return tl::unexpected(Problem::stopped());
  fit.tried = search.tried();
  for (const auto& dial : *dials)
    fit.searched.push_back({dial.part->resolved.name, dial.values.front(), dial.values.back()});
  auto warmth = warmthOf(idle);
  for (const auto& choice : *choices) {
    if (goOn && !goOn(0.97)) return tl::unexpected(Problem::stopped());
    FitSet set;
    for (std::size_t d = 0; d < dials->size(); ++d) {
      const auto& own = (*dials)[d].part->resolved;
      const double value = (*dials)[d].values[choice[d]];
      if (value != own.value()) set.changes.push_back({own.name, "value", own.value(), value});
    }
    if (set.changes.empty()) continue;
    // The search let the rails stand; what is proposed is solved whole.
    const auto other = predictIdle(amp::withChanges(*idle.circuit->design, library, set.changes), library, &warmth);
    const auto its = other ? read(*other) : tl::unexpected(other.error());
    if (!its || !(its->distance.rms < fit.distance)) continue;
    set.distance = its->distance.rms;
    set.offset = its->distance.offset;
    set.decibels = its->curve;
    set.at1kHz = its->at1kHz - now->at1kHz;
    std::tie(set.movedTube, set.movedShare) = mostMoved(idle.point, other->point);
    const auto alike = std::find_if(fit.sets.begin(), fit.sets.end(), [&](const FitSet& other) {
      double apart = 0;
      for (std::size_t f = 0; f < fit.hertz.size(); ++f)
        if (fit.hertz[f] >= points.front().hertz && fit.hertz[f] <= points.back().hertz)
          apart = std::max(apart, std::abs(other.decibels[f] - set.decibels[f]));
      return apart < alikeDecibels;
    });
    if (alike == fit.sets.end())
      fit.sets.push_back(std::move(set));
    else if (set.changes.size() < alike->changes.size()) // the same for less work
      *alike = std::move(set);
    if (fit.sets.size() == mostSetsFound) break;
  }
  std::stable_sort(fit.sets.begin(), fit.sets.end(),
                   [](const auto& a, const auto& b) { return a.distance < b.distance; });
  // Nothing where nothing clips, or nothing drives it.
  const auto clipsAt = [&](const Idle& one, double share) -> tl::expected<std::optional<double>, Problem> {
    const GoOn goes = [&](double) { return !goOn || goOn(share); };
    const auto clipping = findClipping(one, {1000, ClippingQuestion::Which::first}, goes);
    if (!clipping && clipping.error().cancelled) return tl::unexpected(clipping.error());
    const auto* first = clipping ? clipping->first() : nullptr;
    return first ? std::optional(first->inputPeak) : std::nullopt;
  };
  if (fit.sets.empty()) return fit;
  const auto clips = clipsAt(whole, 0.98);
  if (!clips) return tl::unexpected(clips.error());
  fit.clipsAt = *clips;
  for (auto& set : fit.sets) {
    const auto other = predictIdle(amp::withChanges(*whole.circuit->design, library, set.changes), library, &warmth);
    if (!other) continue;
    const auto its = clipsAt(*other, 0.99);
    if (!its) return tl::unexpected(its.error());
    set.clipsAt = *its;
  }
  return fit;
}

} // namespace vinegar::predict
