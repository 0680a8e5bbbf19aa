#include "predict/propose.h"

#include "circuit/dc.h"
#include "predict/steps.h"

#include <algorithm>
#include <cmath>

namespace vinegar::predict {
namespace {

using Wanted = ProposeQuestion::Wanted;

constexpr std::size_t mostSets = 5;
constexpr int mostSteps = 30;         ///< of a dial either way
constexpr double tellingShare = 0.05; ///< of the strongest part's effect: under it a part does not count

/// Parts that change together.
struct Gang {
  std::vector<const amp::CompiledPart*> parts;
  [[nodiscard]] double value() const { return parts.front()->resolved.value(); }
};

/// One solved amplifier whose parts are given other values and which is asked what one tube then does.
class Bench {
public:
  Bench(const Idle& idle, const amp::Library& library, const ProposeQuestion& question)
      : idle_(idle), library_(library), question_(question), system_(*idle.point.system), solver_(system_),
        x_(idle.point.dc.x) {
    tube_ = idle.circuit->part(question.tube);
  }

  [[nodiscard]] std::vector<Gang> gangs() const {
    std::vector<Gang> gangs;
    for (const auto& part : idle_.circuit->parts) {
      const auto& own = part.resolved;
      if (own.part->kind != amp::PartKind::resistor || part.devices.empty()) continue;
      // The range of a bias supply is the output tubes' own; any other tube feels it through the rails alone.
      const bool biases = own.part->role == "bias-range" && outputTransformerOf(*idle_.circuit, *tube_);
      if (own.section != tube_->resolved.section && !biases) continue;
      const auto alike = std::find_if(gangs.begin(), gangs.end(), [&](const Gang& gang) {
        const auto& first = gang.parts.front()->resolved;
        return first.part->role == own.part->role && first.section == own.section && first.value() == own.value();
      });
      if (alike != gangs.end())
        alike->parts.push_back(&part);
      else
        gangs.push_back({{&part}});
    }
    return gangs;
  }

  void set(const Gang& gang, double value) {
    for (const auto* part : gang.parts)
      if (const auto laws = idle_.circuit->lawsWith(part->resolved.name, "value", value, library_))
        system_.setLaws(*laws);
  }

  /// What the tube then does; nothing where there is no answer.
  std::optional<double> read() {
    const auto dc = solver_.solve(&x_);
    if (!dc) return std::nullopt;
    x_ = dc->x;
    const auto volts = [&](std::size_t pin) { return circuit::System::volts(x_, tube_->nodes[pin]); };
    if (question_.wanted == Wanted::plateVolts) return volts(0);
    if (question_.wanted == Wanted::plateAmps) return system_.pinCurrents(tube_->devices.front(), x_).front();
    Idle stepped = idle_;
    stepped.point.system = std::make_shared<const circuit::System>(system_);
    stepped.point.dc.x = x_;
    const SmallSignal signal(stepped, question_.hertz);
    return signal.stands() ? gainOf(signal, *tube_) : std::nullopt;
  }

private:
  const Idle& idle_;
  const amp::Library& library_;
  const ProposeQuestion& question_;
  const amp::CompiledPart* tube_;
  circuit::System system_;
  circuit::DcSolver solver_;
  Eigen::VectorXd x_;
};

struct Candidate {
  std::vector<std::pair<const Gang*, double>> values;
  double reached = 0, error = 0;
  int steps = 0; ///< of dials, all parts together
};

/// Turns a gang's dial towards what is wanted until it would be passed; keeps the nearer of the last two.
std::optional<Candidate> walk(Bench& bench, const amp::Library& library, const Gang& gang, double wanted, double now) {
  std::optional<Candidate> best;
  for (const bool up : {true, false}) {
    auto part = gang.parts.front()->resolved;
    double before = now;
    for (int step = 1; step <= mostSteps; ++step) {
      const auto value = steppedValue(part, library, up);
      if (!value) break;
      part.settings["value"] = *value;
      bench.set(gang, *value);
      const auto reached = bench.read();
      if (!reached) break;
      Candidate candidate{{{&gang, *value}}, *reached, std::abs(*reached - wanted), step};
      const bool away = std::abs(*reached - wanted) > std::abs(before - wanted);
      if (!away && (!best || candidate.error < best->error)) best = candidate;
      const bool passed = (*reached - wanted) * (before - wanted) <= 0;
      if (passed && (!best || candidate.error < best->error)) best = candidate;
      if (passed || away) break;
      before = *reached;
    }
    bench.set(gang, gang.value());
  }
  return best;
}

std::vector<amp::SetField> changesOf(const Candidate& candidate) {
  std::vector<amp::SetField> changes;
  for (const auto& [gang, value] : candidate.values)
    for (const auto* part : gang->parts)
      if (part->resolved.value() != value)
        changes.push_back({part->resolved.name, "value", part->resolved.value(), value});
  std::sort(changes.begin(), changes.end(), [](const auto& a, const auto& b) { return a.part < b.part; });
  return changes;
}

/// Gangs that move what is asked, the strongest first.
std::vector<const Gang*> telling(Bench& bench, const std::vector<Gang>& gangs, double now) {
  std::vector<std::pair<double, const Gang*>> effects;
  for (const auto& gang : gangs) {
    bench.set(gang, gang.value() * 1.1);
    const auto moved = bench.read();
    bench.set(gang, gang.value());
    if (moved) effects.emplace_back(std::abs(*moved - now), &gang);
  }
  std::sort(effects.begin(), effects.end(), [](const auto& a, const auto& b) { return a.first > b.first; });
  std::vector<const Gang*> telling;
  for (const auto& [effect, gang] : effects)
    if (effect > tellingShare * effects.front().first && effect > 1e-12) telling.push_back(gang);
  return telling;
}

} // namespace

tl::expected<Proposals, Problem> predictProposals(const Idle& idle, const amp::Library& library,
                                                  const ProposeQuestion& question, const GoOn& goOn) {
  const auto* tube = idle.circuit->part(question.tube);
  if (!tube || !amp::isTube(tube->resolved.part->kind) || tube->devices.empty())
    return tl::unexpected(Problem{question.tube, "is no tube at work in this design"});
  Bench bench(idle, library, question);
  Proposals proposals;
  const auto now = bench.read();
  if (!now) return tl::unexpected(Problem{question.tube, "carries no signal, so it has no gain to be changed"});
  proposals.now = *now;
  const auto gangs = bench.gangs();
  const auto strong = telling(bench, gangs, *now);
  for (const auto* gang : strong)
    for (const auto* part : gang->parts)
      proposals.tried.push_back(part->resolved.name);

  std::vector<Candidate> candidates;
  const auto keep = [&](std::optional<Candidate> candidate) {
    if (candidate) candidates.push_back(std::move(*candidate));
  };
  for (const auto* gang : strong) {
    if (goOn && !goOn(0.2)) return tl::unexpected(Problem::stopped());
    keep(walk(bench, library, *gang, question.value, *now));
  }
  // With another part one or two steps off, the strongest dials serve.
  for (std::size_t s = 0; s < std::min<std::size_t>(strong.size(), 3); ++s)
    for (std::size_t m = 0; m < std::min<std::size_t>(strong.size(), 2); ++m) {
      if (s == m) continue;
      for (const bool up : {true, false}) {
        auto part = strong[s]->parts.front()->resolved;
        for (int step = 1; step <= 2; ++step) {
          if (goOn && !goOn(0.5)) return tl::unexpected(Problem::stopped());
          const auto value = steppedValue(part, library, up);
          if (!value) break;
          part.settings["value"] = *value;
          bench.set(*strong[s], *value);
          const auto moved = bench.read();
          if (moved) {
            if (auto candidate = walk(bench, library, *strong[m], question.value, *moved)) {
              candidate->values.emplace_back(strong[s], *value);
              candidate->steps += step;
              keep(std::move(candidate));
            }
          }
        }
        bench.set(*strong[s], strong[s]->value());
      }
    }
  // Near enough is near enough: within two hundredths the smaller change is the better one.
  const double fine = std::max(std::abs(question.value) * 0.02, 1e-12);
  std::stable_sort(candidates.begin(), candidates.end(), [&](const Candidate& a, const Candidate& b) {
    const double far = std::max(a.error, fine), wide = std::max(b.error, fine);
    if (far != wide) return far < wide;
    if (a.values.size() != b.values.size()) return a.values.size() < b.values.size();
    return a.steps < b.steps;
  });
  auto warmth = warmthOf(idle);
  for (const auto& candidate : candidates) {
    if (proposals.sets.size() == mostSets) break;
    if (goOn && !goOn(0.8)) return tl::unexpected(Problem::stopped());
    auto changes = changesOf(candidate);
    if (changes.empty() || std::any_of(proposals.sets.begin(), proposals.sets.end(),
                                       [&](const Proposal& other) { return other.changes == changes; }))
      continue;
    // The search let the rails stand; what is proposed is solved whole.
    const auto whole = predictIdle(amp::withChanges(*idle.circuit->design, library, changes), library, &warmth);
    if (!whole) continue;
    auto stage = predictStage(*whole, library, question.tube, question.hertz);
    if (!stage) continue;
    Proposal proposal{std::move(changes), 0, std::move(*stage)};
    const auto& readings = proposal.stage;
    proposal.reached = question.wanted == Wanted::plateVolts
                           ? readings.tube.plateVolts + readings.tube.cathodeVoltsToGround
                       : question.wanted == Wanted::plateAmps ? readings.tube.plateAmps
                                                              : readings.gain.value_or(0);
    // No nearer than the design stands: nothing to propose.
    if (std::abs(proposal.reached - question.value) >= std::abs(proposals.now - question.value)) continue;
    proposals.sets.push_back(std::move(proposal));
  }
  return proposals;
}

std::optional<std::vector<amp::SetField>> rebias(const Idle& idle, const amp::Library& library, const std::string& tube,
                                                 double amps) {
  const ProposeQuestion question{tube, Wanted::plateAmps, amps};
  Bench bench(idle, library, question);
  const auto now = bench.read();
  if (!now) return std::nullopt;
  const auto gangs = bench.gangs();
  std::optional<Candidate> best;
  for (const auto& gang : gangs) {
    if (!library.role(gang.parts.front()->resolved.part->role).biases) continue;
    if (auto candidate = walk(bench, library, gang, amps, *now); candidate && (!best || candidate->error < best->error))
      best = std::move(candidate);
  }
  if (!best || best->error >= std::abs(*now - amps)) return std::nullopt;
  return changesOf(*best);
}

} // namespace vinegar::predict
