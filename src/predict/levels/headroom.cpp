#include "predict/levels/headroom.h"

#include "predict/rest/places.h"
#include "predict/rest/stock.h"
#include "units/value.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace vinegar::predict {
namespace {

constexpr std::size_t mostVerified = 8, mostPartners = 4;
constexpr int mostDialSteps = 2;
constexpr double worthIt = 0.2; ///< dB: less is not worth a soldering iron

struct Tried {
  std::vector<amp::SetField> changes;
  double stagePeak = 0, otherPeak = 0; ///< of the stage, and the lowest of the others
};

/// Lowest clipping input of the stage that holds the tube and of all others.
std::pair<double, double> peaksOf(const std::vector<Limit>& limits, const std::string& tube) {
  double own = std::numeric_limits<double>::infinity(), others = own;
  for (const auto& limit : limits) {
    if (!limit.isClipping()) continue;
    const bool isOwn = std::find(limit.tubes.begin(), limit.tubes.end(), tube) != limit.tubes.end();
    (isOwn ? own : others) = std::min(isOwn ? own : others, limit.inputPeak);
  }
  return {own, others};
}

class Trials {
public:
  Trials(const Idle& idle, const amp::Library& library, const HeadroomQuestion& question)
      : idle_(idle), library_(library), question_(question) {}

  /// What the stages alone come to with these parts at other values; the rails let stand.
  std::optional<Tried> with(const std::vector<amp::SetField>& changes) const {
    auto system = *idle_.point.system;
    for (const auto& change : changes) {
      const auto laws = idle_.circuit->lawsWith(change.part, change.field, change.to, library_);
      if (!laws) return std::nullopt;
      system.setLaws(*laws);
    }
    const auto dc = circuit::solveDc(system, &idle_.point.dc.x);
    if (!dc) return std::nullopt;
    Idle other = idle_;
    other.point.system = std::make_shared<const circuit::System>(std::move(system));
    other.point.dc = *dc;
    const SmallSignal signal(other, question_.hertz);
    const auto [own, others] = peaksOf(localLimits(signal, mostInputPeak), question_.tube);
    if (!std::isfinite(own)) return std::nullopt;
    return Tried{changes, own, others};
  }

private:
  const Idle& idle_;
  const amp::Library& library_;
  const HeadroomQuestion& question_;
};

/// Steps of a part's dial either way, as changes.
std::vector<amp::SetField> stepsOf(const amp::ResolvedPart& part, const amp::Library& library) {
  std::vector<amp::SetField> steps;
  for (const bool up : {true, false}) {
    auto stepped = part;
    for (int i = 0; i < mostDialSteps; ++i) {
      const auto value = steppedValue(stepped, library, up);
      if (!value) break;
      stepped.settings["value"] = *value;
      steps.push_back({part.name, "value", part.settings.at("value"), *value});
    }
  }
  return steps;
}

} // namespace

tl::expected<HeadroomChanges, Problem> predictHeadroom(const Idle& idle, const amp::Library& library,
                                                       const HeadroomQuestion& question, const GoOn& goOn) {
  const auto* tube = idle.circuit->part(question.tube);
  if (!tube || !amp::isTube(tube->resolved.part->kind) || tube->devices.empty())
    return tl::unexpected(Problem{question.tube, "is no tube at work in this design"});
  if (question.hertz <= 0) return atWorst(predictHeadroom, idle, library, question, goOn);
  const Trials trials(idle, library, question);
  const auto now = trials.with({});
  if (!now)
    return tl::unexpected(Problem{question.tube, "meets no limit with any input, so there is none to be moved"});
  // More is better: of its own limit, or of the room between it and the others'.
  const auto merit = [&](const Tried& tried) {
    return question.breakFirst ? units::decibels(tried.otherPeak / tried.stagePeak)
                               : units::decibels(tried.stagePeak / now->stagePeak);
  };
  std::vector<Tried> singles;
  std::vector<const amp::CompiledPart*> parts;
  for (const auto& part : idle.circuit->parts) {
    const auto kind = part.resolved.part->kind;
    const auto& ofSupply = idle.circuit->supply.devices;
    if ((kind == amp::PartKind::resistor || kind == amp::PartKind::capacitor) && !part.devices.empty() &&
        std::find(ofSupply.begin(), ofSupply.end(), part.devices.front()) == ofSupply.end())
      parts.push_back(&part);
  }
  for (std::size_t p = 0; p < parts.size(); ++p) {
    if (goOn && !goOn(0.7 * static_cast<double>(p) / static_cast<double>(parts.size())))
      return tl::unexpected(Problem::stopped());
    std::optional<Tried> best;
    for (const auto& step : stepsOf(parts[p]->resolved, library))
      if (auto tried = trials.with({step}); tried && (!best || merit(*tried) > merit(*best))) best = std::move(tried);
    if (best && merit(*best) > merit(*now) + worthIt) singles.push_back(std::move(*best));
  }
  const auto better = [&](const Tried& a, const Tried& b) { return merit(a) > merit(b); };
  std::sort(singles.begin(), singles.end(), better);
  auto all = singles;
  for (std::size_t a = 0; a < std::min(singles.size(), mostPartners); ++a)
    for (std::size_t b = a + 1; b < std::min(singles.size(), mostPartners); ++b) {
      auto both = singles[a].changes;
      both.insert(both.end(), singles[b].changes.begin(), singles[b].changes.end());
      if (auto tried = trials.with(both); tried && merit(*tried) > merit(singles[a]) + worthIt)
        all.push_back(std::move(*tried));
    }
  // As many with one part as with two are shown, each kind by merit.
  std::stable_sort(all.begin(), all.end(), [&](const Tried& a, const Tried& b) {
    return a.changes.size() != b.changes.size() ? a.changes.size() < b.changes.size() : better(a, b);
  });
  std::vector<Tried> wanted;
  for (const std::size_t size : {1U, 2U}) {
    std::size_t taken = 0;
    for (const auto& tried : all)
      if (tried.changes.size() == size && taken < (size == 1 ? mostVerified - 3 : 3)) {
        wanted.push_back(tried);
        ++taken;
      }
  }

  HeadroomChanges answer;
  answer.hertz = question.hertz;
  const auto verified = [&](const Idle& one) -> std::optional<HeadroomChange> {
    const auto clipping = findClipping(one, {question.hertz, ClippingQuestion::Which::lowest});
    if (!clipping || !clipping->first()) return std::nullopt;
    HeadroomChange change;
    const auto own = peaksOf(clipping->limits, question.tube).first;
    // One that clips far later than the first is beyond what the waves looked at: then by itself.
    const SmallSignal signal(one, question.hertz);
    change.stagePeak = std::isfinite(own) ? own : peaksOf(localLimits(signal, mostInputPeak), question.tube).first;
    change.firstTube = clipping->first()->tubes.front();
    change.firstPeak = clipping->first()->inputPeak;
    const auto end = endOf(*one.circuit);
    const auto node = end.empty() ? 0 : one.circuit->probe(end);
    change.gainDecibels = node > 0 && std::abs(signal.volts(node)) > 0
                              ? units::decibels(std::abs(signal.volts(node) / signal.input()))
                              : 0;
    return change;
  };
  const auto before = verified(idle);
  if (!before) return tl::unexpected(Problem{question.tube, "was not found to clip with any wave"});
  answer.stagePeak = before->stagePeak;
  answer.firstTube = before->firstTube;
  answer.firstPeak = before->firstPeak;
  auto warmth = warmthOf(idle);
  for (std::size_t i = 0; i < wanted.size(); ++i) {
    if (goOn && !goOn(0.7 + 0.3 * static_cast<double>(i) / static_cast<double>(wanted.size())))
      return tl::unexpected(Problem::stopped());
    const auto whole =
        predictIdle(amp::withChanges(*idle.circuit->design, library, wanted[i].changes), library, &warmth);
    if (!whole) continue;
    auto change = verified(*whole);
    if (!change) continue;
    change->changes = wanted[i].changes;
    change->gainDecibels -= before->gainDecibels;
    answer.best.push_back(std::move(*change));
  }
  std::stable_sort(answer.best.begin(), answer.best.end(), [&](const HeadroomChange& a, const HeadroomChange& b) {
    if (!question.breakFirst) return a.stagePeak > b.stagePeak;
    return a.firstPeak / a.stagePeak > b.firstPeak / b.stagePeak;
  });
  return answer;
}

} // namespace vinegar::predict
