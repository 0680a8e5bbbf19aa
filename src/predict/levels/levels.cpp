#include "predict/levels/levels.h"

#include "amp/change/change.h"
#include "predict/rest/parallel.h"
#include "predict/rest/places.h"
#include "predict/wave/feedback.h"
#include "units/value.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>
#include <set>

namespace vinegar::predict {
namespace {

using circuit::Node;

const amp::CompiledPart* speakerOf(const amp::Circuit& circuit) {
  for (const auto& part : circuit.parts)
    if (part.resolved.part->kind == amp::PartKind::speaker && !part.devices.empty()) return &part;
  return nullptr;
}

double speakerWatts(const SmallSignal& signal, double scale) {
  double watts = 0;
  for (const auto& r : speakerResistors(*signal.idle().circuit))
    watts += 0.5 * scale * scale * std::norm(signal.volts(r.from) - signal.volts(r.to)) / r.ohms;
  return watts;
}

tl::expected<Levels, Problem> levelsAt(const Idle& idle, const amp::Library& library, const LevelsQuestion& question,
                                       const GoOn& goOn) {
  const auto& circuit = *idle.circuit;
  const SmallSignal signal(idle, question.hertz);
  if (!signal.stands())
    return tl::unexpected(Problem{"the input", "no signal comes in here; begin the line with a jack or a player"});
  const auto feedback = feedbackOf(signal);
  Levels levels{
      question.hertz, question.inputPeak, {}, {}, feedback ? std::optional(feedback->decibels()) : std::nullopt};
  const auto places = placesOf(circuit, library);
  const double scale = question.inputPeak / std::abs(signal.input());
  const auto* speaker = speakerOf(circuit);
  std::optional<Wave> wave;
  if (question.waves) {
    std::vector<Node> nodes;
    nodes.reserve(2 * places.size());
    for (const auto& place : places)
      nodes.push_back(place.out);
    for (const auto& place : places)
      nodes.push_back(std::max(place.second, 0));
    for (const auto& r : speakerResistors(circuit)) {
      nodes.push_back(r.from);
      nodes.push_back(r.to);
    }
    auto driven = driveAmplifier(signal, question.inputPeak, nodes, goOn);
    if (!driven) return tl::unexpected(driven.error());
    wave = std::move(*driven);
  }
  for (std::size_t p = 0; p < places.size(); ++p) {
    const auto& place = places[p];
    SectionLevel level;
    level.section = place.use->id;
    level.chain = place.chain;
    level.title = amp::describeSection(*place.use, library);
    for (const auto& part : circuit.parts)
      if (part.resolved.section == place.use->id && amp::isTube(part.resolved.part->kind) && !part.devices.empty())
        level.tubes.push_back(part.resolved.name);
    const double in = std::abs(signal.volts(place.in)), out = std::abs(signal.volts(place.out));
    if (place.in > 0 && place.in != place.out && in > 1e-9 * std::abs(signal.input()))
      level.gainDecibels = units::decibels(out / in);
    if (wave) {
      const auto rmsOf = [](const auto& row) { return std::sqrt((row.array() - row.mean()).square().mean()); };
      const auto row = wave->volts.row(static_cast<Eigen::Index>(p));
      const double rest = idle.point.volts(place.out);
      level.peakUp = row.maxCoeff() - rest;
      level.peakDown = rest - row.minCoeff();
      level.rms = rmsOf(row);
      if (place.second > 0) level.secondRms = rmsOf(wave->volts.row(static_cast<Eigen::Index>(places.size() + p)));
    } else {
      if (place.second > 0) level.secondRms = std::abs(signal.volts(place.second)) * scale / std::numbers::sqrt2;
      level.peakUp = level.peakDown = out * scale;
      level.rms = out * scale / std::numbers::sqrt2;
    }
    levels.sections.push_back(std::move(level));
  }
  for (const auto& tubes : stagesOf(circuit)) {
    const StagePorts stage(signal, tubes);
    if (!stage.drive().allFinite() || stage.amps().norm() <= 1e-12 * std::abs(signal.input())) continue;
    const auto up = crestLimit(stage, 0, signal, true, mostInputPeak);
    const auto down = crestLimit(stage, 0, signal, false, mostInputPeak);
    for (auto& level : levels.sections) {
      if (std::find(level.tubes.begin(), level.tubes.end(), tubes.front()->resolved.name) == level.tubes.end())
        continue;
      const auto put = [&](const std::optional<CrestLimit>& limit, auto& left, auto& kind) {
        if (!limit) return;
        const double db = units::decibels(limit->inputPeak / question.inputPeak);
        if (left && *left <= db) return;
        left = db;
        kind = limit->kind;
      };
      put(up, level.upDecibels, level.upKind);
      put(down, level.downDecibels, level.downKind);
    }
  }
  if (speaker)
    levels.speakerWatts = wave ? wattsOf(speakerResistors(circuit), *wave, static_cast<Eigen::Index>(2 * places.size()))
                               : speakerWatts(signal, scale);
  return levels;
}

/// A knob's parts belong to the circuit; turning it compiles the design anew.
tl::expected<Idle, Problem> turned(const Idle& idle, const amp::Library& library, const std::string& control,
                                   double setting, Warmth& warmth) {
  amp::Design design = *idle.circuit->design;
  design.knobs[control] = setting;
  return predictIdle(design, library, &warmth);
}

constexpr int exactEvery = 4;

const Limit* alike(const std::vector<Limit>& limits, const Limit& wanted, bool anyKind = false) {
  for (const auto& limit : limits)
    if (limit.tubes == wanted.tubes && (anyKind ? limit.isClipping() : limit.kind == wanted.kind)) return &limit;
  return nullptr;
}

/// Puts what the waves found in the place of the stages' own limits: as it is in the columns that were played, and in
/// those between by the share by which a limit is off in its neighbours, even in the logarithm. A limit that the stage
/// alone does not have goes along with its others.
void correct(LevelMap& map, const std::vector<std::vector<Limit>>& exact) {
  const auto local = map.columns;
  const auto ratio = [&](std::size_t column, const Limit& limit) -> std::optional<double> {
    const auto* found = alike(exact[column], limit);
    const auto* own = alike(local[column].limits, limit);
    if (!own) own = alike(local[column].limits, limit, true);
    return found && own ? std::optional(found->inputPeak / own->inputPeak) : std::nullopt;
  };
  std::size_t before = 0;
  for (std::size_t i = 0; i < map.columns.size(); ++i) {
    if (!exact[i].empty()) {
      before = i;
      map.columns[i].limits = exact[i];
      continue;
    }
    std::size_t after = i;
    while (after < exact.size() && exact[after].empty())
      ++after;
    if (exact[before].empty() && after >= exact.size()) continue; // no wave anywhere: the stages' own stand
    if (after >= exact.size()) after = before;
    if (exact[before].empty()) before = after;
    std::vector<Limit> between;
    const double part = after > before ? static_cast<double>(i - before) / static_cast<double>(after - before) : 0.0;
    auto wanted = exact[before];
    for (const auto& limit : exact[after])
      if (!alike(wanted, limit)) wanted.push_back(limit);
    for (auto& limit : wanted) {
      const auto* own = alike(local[i].limits, limit);
      if (!own) own = alike(local[i].limits, limit, true);
      const auto left = ratio(before, limit), right = ratio(after, limit);
      if (!own || (!left && !right)) continue;
      limit.inputPeak = own->inputPeak * std::exp((1 - part) * std::log(left ? *left : *right) +
                                                  part * std::log(right ? *right : *left));
      between.push_back(std::move(limit));
    }
    map.columns[i].limits = std::move(between);
  }
}

} // namespace

void putWaves(Levels& levels, const Clipping& clipping) {
  for (auto& level : levels.sections) {
    const auto put = [&](std::optional<double>& left, std::optional<Limit::Kind> kind) {
      std::optional<double> found;
      for (const auto& limit : clipping.limits)
        if (limit.kind == kind && std::any_of(limit.tubes.begin(), limit.tubes.end(), [&](const auto& tube) {
              return std::find(level.tubes.begin(), level.tubes.end(), tube) != level.tubes.end();
            })) {
          const double db = units::decibels(limit.inputPeak / levels.inputPeak);
          if (!found || db < *found) found = db;
        }
      if (left && found) left = found;
    };
    put(level.upDecibels, level.upKind);
    put(level.downDecibels, level.downKind);
  }
}

tl::expected<Levels, Problem> predictLevels(const Idle& idle, const amp::Library& library,
                                            const LevelsQuestion& question, const GoOn& goOn) {
  if (question.hertz > 0) return levelsAt(idle, library, question, goOn);
  std::optional<Levels> worst;
  for (std::size_t i = 0; i < rangeHertz.size(); ++i) {
    auto at = question;
    at.hertz = rangeHertz[i];
    auto levels = levelsAt(idle, library, at, [&](double share) {
      return !goOn || goOn((static_cast<double>(i) + share) / static_cast<double>(rangeHertz.size()));
    });
    if (!levels) return levels;
    if (!worst) {
      worst = std::move(*levels);
      worst->hertz = 0;
      continue;
    }
    const auto less = [](auto& left, auto& kind, const auto& otherLeft, const auto& otherKind) {
      if (!otherLeft || (left && *left <= *otherLeft)) return;
      left = otherLeft;
      kind = otherKind;
    };
    for (std::size_t s = 0; s < worst->sections.size(); ++s) {
      auto& kept = worst->sections[s];
      const auto& other = levels->sections[s];
      kept.peakUp = std::max(kept.peakUp, other.peakUp);
      kept.peakDown = std::max(kept.peakDown, other.peakDown);
      kept.rms = std::max(kept.rms, other.rms);
      if (other.secondRms) kept.secondRms = std::max(kept.secondRms.value_or(0), *other.secondRms);
      if (other.gainDecibels && (!kept.gainDecibels || *other.gainDecibels > *kept.gainDecibels))
        kept.gainDecibels = other.gainDecibels;
      less(kept.upDecibels, kept.upKind, other.upDecibels, other.upKind);
      less(kept.downDecibels, kept.downKind, other.downDecibels, other.downKind);
    }
    if (levels->speakerWatts) worst->speakerWatts = std::max(worst->speakerWatts.value_or(0), *levels->speakerWatts);
  }
  return *worst;
}

const LevelMap::Column* LevelMap::columnAt(double setting) const {
  const Column* nearest = nullptr;
  for (const auto& column : columns)
    if (!nearest || std::abs(column.setting - setting) < std::abs(nearest->setting - setting)) nearest = &column;
  return nearest;
}

std::optional<double> LevelMap::settingFor(const Limit& limit, double here, double inputPeak) const {
  const auto own = [&](const Column& column) {
    const auto* found = alike(column.limits, limit, true);
    return found ? found->inputPeak : std::numeric_limits<double>::infinity();
  };
  const auto* now = columnAt(here);
  if (!now) return std::nullopt;
  for (const auto& column : columns)
    if (limit.inputPeak * own(column) / own(*now) <= inputPeak) return column.setting;
  return std::nullopt;
}

std::optional<double> LevelMap::cleanUpTo(double setting) const {
  const auto* nearest = columnAt(setting);
  if (!nearest || nearest->limits.empty()) return std::nullopt;
  return nearest->limits.front().inputPeak;
}

std::optional<double> LevelMap::cleanTravel(double inputPeak) const {
  std::optional<double> travel;
  for (const auto& column : columns) {
    if (!column.limits.empty() && column.limits.front().inputPeak <= inputPeak) break;
    travel = column.setting;
  }
  return travel;
}

tl::expected<LevelMap, Problem> predictLevelMap(const Idle& idle, const amp::Library& library,
                                                const LevelMapQuestion& question, const GoOn& goOn) {
  const auto& parts = idle.circuit->parts;
  const bool isThere = std::any_of(parts.begin(), parts.end(), [&](const amp::CompiledPart& part) {
    return part.resolved.part->kind == amp::PartKind::pot && part.resolved.knob == question.control;
  });
  if (!isThere) return tl::unexpected(Problem{question.control, "is no control of this design"});
  if (question.hertz <= 0) return atWorst(predictLevelMap, idle, library, question, goOn);
  LevelMap map{question.control, question.hertz,
               std::vector<LevelMap::Column>(static_cast<std::size_t>(question.columns))};
  // Waves of every so many columns; what they make of the stages' own limits changes little from one to the next.
  const auto isExact = [&](int i) { return question.exact && (i % exactEvery == 0 || i + 1 == question.columns); };
  std::vector<std::vector<Limit>> exact(map.columns.size());
  std::vector<int> order; // the slow ones first
  for (const bool slow : {true, false})
    for (int i = 0; i < question.columns; ++i)
      if (isExact(i) == slow) order.push_back(i);
  std::vector<std::optional<Problem>> problems(map.columns.size());
  const bool whole = inTwoThreads(order.size(), goOn, [&](std::size_t n, const GoOn& goes) {
    const auto i = static_cast<std::size_t>(order[n]);
    auto& column = map.columns[i];
    column.setting = question.columns > 1 ? static_cast<double>(i) / (question.columns - 1) : 0.5;
    auto warmth = warmthOf(idle);
    warmth.driftVolts = 0.05;
    warmth.plan = std::make_shared<PlanKeeper>();
    const auto at = turned(idle, library, question.control, column.setting, warmth);
    if (!at) {
      problems[i] = at.error();
      return;
    }
    column.limits = localLimits(SmallSignal(*at, question.hertz), mostInputPeak);
    if (!isExact(order[n])) return;
    auto clipping = findClipping(*at, {question.hertz, ClippingQuestion::Which::lowest}, goes);
    if (clipping)
      exact[i] = std::move(clipping->limits);
    else
      problems[i] = clipping.error();
  });
  if (!whole) return tl::unexpected(Problem::stopped());
  for (const auto& problem : problems)
    if (problem) return tl::unexpected(*problem);
  if (question.exact) correct(map, exact);
  for (auto& column : map.columns) {
    std::erase_if(column.limits, [](const Limit& limit) { return !limit.isClipping(); });
    std::stable_sort(column.limits.begin(), column.limits.end(),
                     [](const Limit& a, const Limit& b) { return a.inputPeak < b.inputPeak; });
  }
  return map;
}

} // namespace vinegar::predict
