#include "predict/choices/swap.h"

#include "amp/compile/part_devices.h"
#include "predict/rest/parallel.h"
#include "predict/stages/propose.h"
#include "predict/supply/held.h"

#include <algorithm>
#include <cctype>
#include <cmath>
#include <fmt/format.h>
#include <fmt/ranges.h>
#include <limits>
#include <set>

namespace vinegar::predict {
namespace {

/// "plate 1" and "anode" say the same of a pin.
std::string electrodeOf(std::string words) {
  for (const auto& [word, same] : {std::pair{"anode", "plate"}, {"g1", "grid"}, {"g2", "screen"}})
    if (const auto at = words.find(word); at != std::string::npos)
      words.replace(at, std::string_view(word).size(), same);
  if (words.starts_with("g ")) words.replace(0, 1, "grid");
  // Beam plates and a suppressor that is joined inside are no wire of their own.
  if (const auto plus = words.find(" + "); plus != std::string::npos) words.erase(plus);
  // Which half of a twin is called the first is nothing to the socket.
  while (!words.empty() && (std::isdigit(static_cast<unsigned char>(words.back())) || words.back() == ' '))
    words.pop_back();
  return words;
}

/// Where what the stage's coupling capacitor lets through is 3 dB down, between the electrode and the section's end.
std::optional<double> couplingCorner(const Idle& idle, const amp::CompiledPart& tube, StageKind kind, double hertz) {
  const auto out = idle.circuit->probe(tube.resolved.section + ".out");
  const auto from = kind == StageKind::follower ? tube.nodes.back() : tube.nodes.front();
  if (out <= 0 || from <= 0 || out == from) return std::nullopt;
  const auto sweep = circuit::logSpaced(0.5, hertz, 60);
  circuit::AcPlan plan = idle.plan ? idle.plan->plan() : nullptr;
  const auto before = plan;
  const auto ac = circuit::solveAc(*idle.point.system, idle.point.dc.x, sweep, &plan);
  if (idle.plan && plan != before) idle.plan->keep(plan);
  if (!ac) return std::nullopt;
  const auto level = [&](std::size_t k) { return std::abs(ac->volts(out, k) / ac->volts(from, k)); };
  const double down = level(sweep.size() - 1) / std::sqrt(2.0);
  for (std::size_t k = sweep.size() - 1; k-- > 0;)
    if (const double low = level(k), high = level(k + 1); low < down)
      return sweep[k] * std::pow(sweep[k + 1] / sweep[k], (down - low) / (high - low));
  return std::nullopt;
}

} // namespace

std::string rewiringFor(const tubes::TubeType& from, const tubes::TubeType& to) {
  if (from.base != to.base) return fmt::format("another socket: {}", to.base.empty() ? "not on record" : to.base);
  if (from.pins.empty() || to.pins.empty()) return from.name == to.name ? "" : "its pins are not on record here";
  std::string pins;
  const auto other = [&](const std::map<std::string, std::string>& of, const std::string& pin) {
    const auto found = of.find(pin);
    return found == of.end() ? std::string() : electrodeOf(found->second);
  };
  std::map<std::string, std::string> all = from.pins;
  all.insert(to.pins.begin(), to.pins.end());
  for (const auto& [pin, electrode] : all) {
    const auto now = other(from.pins, pin), then = other(to.pins, pin);
    // A shield or an unused pin takes any wire that was there but a live one.
    if (now == then || (then.empty() && now.empty())) continue;
    pins += (pins.empty() ? "" : ", ") + pin + (then.empty() ? "" : " (" + then + ")");
  }
  return pins.empty() ? "" : "rewire pins " + pins;
}

namespace {

/// What its heater winding has left, were these bottles out.
std::optional<double> heaterLeft(const Idle& idle, const amp::Library& library, const amp::CompiledPart& part,
                                 const tubes::TubeType& present, double count) {
  std::optional<double> left;
  if (idle.point.supply) {
    const auto report = readSupply(*idle.circuit, library, idle.point);
    const auto by = amp::Heating(*idle.circuit->design, library).of(part.resolved, present);
    for (const auto& heater : report.heaters)
      if (!by.empty() && heater.part == by.front())
        for (const auto& winding : report.windings) // the one whose volts the heaters see
          if (std::abs(winding.rmsVolts - heater.rmsVolts) < 0.05 * heater.rmsVolts)
            left = winding.ratedAmps - winding.rmsAmps + count * present.heaterAmps;
  }
  return left;
}

/// What fits in the tube's place, the present type first, then what needs no rewiring; each with its rewiring.
std::vector<std::pair<std::string, const tubes::TubeType*>>
typesFor(const amp::CompiledPart& part, const tubes::TubeType& present, const amp::Library& library) {
  std::vector<std::pair<std::string, const tubes::TubeType*>> types;
  for (const auto& [name, type] : library.tubes.types())
    if (amp::fits(part.resolved.part->kind, type) && (type.offered || &type == &present) &&
        std::abs(type.heaterVolts - present.heaterVolts) < 0.05)
      types.emplace_back(&type == &present ? "" : rewiringFor(present, type), &type);
  std::stable_sort(types.begin(), types.end(), [&](const auto& a, const auto& b) {
    const auto rank = [&](const auto& t) { return t.second == &present ? 0 : t.first.empty() ? 1 : 2; };
    return rank(a) < rank(b);
  });
  return types;
}

} // namespace

tl::expected<Swaps, Problem> predictSwaps(const Idle& idle, const amp::Library& library, const SwapQuestion& question,
                                          const GoOn& goOn) {
  const auto* part = idle.circuit->part(question.tube);
  if (!part || !amp::isTube(part->resolved.part->kind) || part->devices.empty())
    return tl::unexpected(Problem{question.tube, "is no tube at work in this design"});
  const auto* present = library.tubes.find(part->resolved.text("tube"));
  const auto& design = *idle.circuit->design;
  // A pair or quad on one transformer is one stage: it is swapped as one.
  std::vector<std::string> together;
  std::set<std::string> bottles;
  for (const auto& stage : stagesOf(*idle.circuit))
    if (std::find(stage.begin(), stage.end(), part) != stage.end())
      for (const auto* tube : stage) {
        if (!amp::fits(tube->resolved.part->kind, *present)) continue;
        together.push_back(tube->resolved.name);
        bottles.insert(amp::bottleOf(tube->resolved.name));
      }
  const auto count = static_cast<double>(bottles.size());
  const auto left = heaterLeft(idle, library, *part, *present, count);
  const auto types = typesFor(*part, *present, library);
  // Where both halves of a bottle are at work, a type with one such unit leaves the other without.
  std::string besides;
  for (const auto& other : idle.circuit->parts)
    if (&other != part && !other.devices.empty() && amp::isTube(other.resolved.part->kind) &&
        amp::bottleOf(other.resolved.name) == amp::bottleOf(part->resolved.name))
      besides = other.resolved.name;
  Swaps swaps;
  const auto start = warmthOf(idle);
  // How far its plate swings to the nearer of its limits: a bias that leaves less than half of that is no offer.
  const auto swingOf = [](const StageReadings& stage) {
    double least = std::numeric_limits<double>::infinity();
    for (const auto* limit : {&stage.up, &stage.down})
      if (*limit) least = std::min(least, std::abs((*limit)->plateVolts));
    return least;
  };
  const auto standing = predictStage(idle, library, question.tube, question.hertz);
  const double swing = standing ? swingOf(*standing) : 0;
  const TubeReading* before = nullptr;
  for (const auto& tube : idle.point.tubes)
    if (tube.name == question.tube) before = &tube;
  swaps.rows.resize(types.size());
  const bool whole = inTwoThreads(types.size(), goOn, [&](std::size_t i, const GoOn&) {
    const auto& [rewiring, type] = types[i];
    auto& row = swaps.rows[i];
    row.type = type->name;
    row.rewiring = rewiring;
    if (type != present)
      for (const auto& name : together)
        for (auto& change : amp::changesFor(design, library, name, "tube", type->name))
          if (std::none_of(row.changes.begin(), row.changes.end(),
                           [&](const auto& other) { return other.part == change.part; }))
            row.changes.push_back(std::move(change));
    row.bottles = static_cast<int>(bottles.size());
    auto warmth = start;
    warmth.driftVolts = 0.2;
    const auto stateOf = [&](const Idle& solved) -> tl::expected<SwapState, Problem> {
      auto stage = predictStage(solved, library, question.tube, question.hertz);
      if (!stage) return tl::unexpected(stage.error());
      const auto corner = couplingCorner(solved, *solved.circuit->part(question.tube), stage->kind, question.hertz);
      return SwapState{std::move(*stage), corner, warningsOf(solved, library)};
    };
    const auto swapped = predictIdle(amp::withChanges(design, library, row.changes), library, &warmth);
    auto plugged = swapped ? stateOf(*swapped) : tl::unexpected(swapped.error());
    if (!plugged) {
      row.problem = plugged.error();
      return;
    }
    row.plugged = std::move(*plugged);
    row.heaterAmps = count * type->heaterAmps;
    row.heaterLeftAmps = left;
    std::string unit, tooMuch;
    if (!besides.empty() && type != present && library.tubes.otherHalf(*type) != type)
      unit = fmt::format("one such unit in its bottle: {} needs another", besides);
    // Back to the same share of its rating where it is a power tube, else to the same current.
    if (type != present && before) {
      const auto& own = row.plugged.stage.tube;
      double wanted = before->plateAmps;
      if (before->plateWattsLimit && type->limits.plateWatts && before->plateWatts > 2)
        wanted =
            before->plateWatts / *before->plateWattsLimit * *type->limits.plateWatts / std::max(own.plateVolts, 1.0);
      constexpr double near = 0.07, reached = 0.2; // of what is wanted
      if (std::abs(own.plateAmps / wanted - 1) > near) {
        row.wantsBias = true;
        if (const auto changes = rebias(*swapped, library, question.tube, wanted)) {
          auto both = row.changes;
          both.insert(both.end(), changes->begin(), changes->end());
          auto again = warmthOf(*swapped);
          if (const auto cured = predictIdle(amp::withChanges(design, library, both), library, &again))
            if (auto state = stateOf(*cured); state && std::abs(state->stage.tube.plateAmps / wanted - 1) < reached &&
                                              hasRoom(state->stage) &&
                                              !(std::isfinite(swing) && swingOf(state->stage) < 0.5 * swing)) {
              // A bias that the supply cannot feed is no offer.
              if (state->against.size() > row.plugged.against.size()) {
                tooMuch = fmt::format("{}", fmt::join(state->against, ", "));
              } else {
                row.rebias = *changes;
                row.rebiased = std::move(*state);
              }
            }
        }
      }
    }
    if (row.wantsBias && !row.rebiased)
      row.plugged.against.push_back(tooMuch.empty() ? "no stock value of its bias suits it"
                                                    : fmt::format("biased as it wants it asks too much: {}", tooMuch));
    if (!unit.empty()) {
      row.plugged.against.insert(row.plugged.against.begin(), unit);
      if (row.rebiased) row.rebiased->against.insert(row.rebiased->against.begin(), unit);
    }
  });
  if (!whole) return tl::unexpected(Problem::stopped());
  return swaps;
}

} // namespace vinegar::predict
