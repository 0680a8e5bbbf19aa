#include "predict/stages/propose.h"

#include "amp/compile/part_devices.h"
#include "circuit/dc.h"
#include "predict/rest/stock.h"
#include "predict/supply/held.h"

#include <algorithm>
#include <cmath>
#include <map>

namespace vinegar::predict {
namespace {

using Wanted = ProposeQuestion::Wanted;

constexpr std::size_t mostSets = 5;
constexpr int mostSteps = 50;         ///< of a dial either way
constexpr double reaches = 0.05;      ///< of what is wanted
constexpr double tellingShare = 0.05; ///< of the strongest part's effect: under it a part does not count

/// What changes together: resistors, each by the same factor, or a control that is set at the bench.
struct Gang {
  std::vector<const amp::CompiledPart*> parts;
  bool turned = false; ///< a pot by its knob, not by its value
  double stands = 0;   ///< the knob
  [[nodiscard]] double value() const { return turned ? stands : parts.front()->resolved.value(); }
};

constexpr double turn = 0.02; ///< of a bench control's travel, a step

/// A value of the gang's first part in those of another one: the same for parts alike, the nearest stock value by the
/// same factor for others.
double valueIn(const Gang& gang, const amp::CompiledPart& part, double value, const amp::Library& library) {
  const double own = part.resolved.value(), first = gang.parts.front()->resolved.value();
  if (own == first || value == first) return value == first ? own : value;
  return units::nearest(library.role(part.resolved.part->role).series.value_or(units::Series::e12),
                        own * value / first);
}

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
      const bool isOutput = outputTransformerOf(*idle_.circuit, *tube_);
      const bool biases = own.part->role == "bias-range" && isOutput;
      if (own.section != tube_->resolved.section && !biases) continue;
      const auto alike = std::find_if(gangs.begin(), gangs.end(), [&](const Gang& gang) {
        const auto& first = gang.parts.front()->resolved;
        if (first.section != own.section) return false;
        if (first.part->role == own.part->role && (first.value() == own.value() || gives(own.section))) return true;
        // A splitter of one tube has a load at its plate and one at its cathode: its halves are alike by them.
        const auto isLoad = [](const amp::ResolvedPart& part) {
          return part.part->role == "splitter-plate-load" || part.part->role == "splitter-cathode-load";
        };
        return isLoad(first) && isLoad(own);
      });
      if (alike != gangs.end())
        alike->parts.push_back(&part);
      else
        gangs.push_back({{&part}});
    }
    if (outputTransformerOf(*idle_.circuit, *tube_))
      for (const auto& part : idle_.circuit->parts)
        if (part.resolved.part->role == "bias-adjust" && part.resolved.part->kind == amp::PartKind::pot &&
            !part.devices.empty() && part.resolved.section == tube_->resolved.section)
          gangs.push_back({{&part}, true, amp::knobOf(*idle_.circuit->design, part.resolved)});
    return gangs;
  }

  void set(const Gang& gang, double value) {
    for (const auto* part : gang.parts)
      if (gang.turned) {
        amp::Design design = *idle_.circuit->design;
        design.knobs[part->resolved.knob] = value;
        auto devices = amp::devicesOf(*part, design, library_);
        amp::DeviceLaws laws;
        for (std::size_t d = 0; d < devices.size(); ++d)
          laws.emplace_back(part->devices[d], std::move(devices[d].law));
        system_.setLaws(laws);
      } else if (const auto laws = idle_.circuit->lawsWith(part->resolved.name, "value",
                                                           valueIn(gang, *part, value, library_), library_)) {
        system_.setLaws(*laws);
      }
  }

  /// The next value of a gang's dial; nothing at its end.
  [[nodiscard]] std::optional<double> stepped(const Gang& gang, double from, bool up) const {
    if (gang.turned) {
      const double to = from + (up ? turn : -turn);
      return to < -turn / 2 || to > 1 + turn / 2 ? std::nullopt : std::optional(std::clamp(to, 0.0, 1.0));
    }
    auto part = gang.parts.front()->resolved;
    part.settings["value"] = from;
    return steppedValue(part, library_, up);
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
  /// Whether a section gives two opposite signals: its halves are changed together, or they would no longer be alike.
  [[nodiscard]] bool gives(const std::string& section) const {
    const auto* use = idle_.circuit->design->section(section);
    const auto known = use ? library_.sections.find(use->section) : library_.sections.end();
    return known != library_.sections.end() && known->second.out == amp::Carries::balanced;
  }

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
std::optional<Candidate> walk(Bench& bench, const Gang& gang, double wanted, double now) {
  std::optional<Candidate> best;
  for (const bool up : {true, false}) {
    double before = now, stands = gang.value();
    for (int step = 1; step <= mostSteps; ++step) {
      const auto value = bench.stepped(gang, stands, up);
      if (!value) break;
      stands = *value;
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

std::vector<amp::SetField> changesOf(const Candidate& candidate, const amp::Library& library) {
  std::vector<amp::SetField> changes;
  for (const auto& [gang, value] : candidate.values)
    for (const auto* part : gang->parts)
      if (const double to = gang->turned ? 0 : valueIn(*gang, *part, value, library);
          !gang->turned && part->resolved.value() != to)
        changes.push_back({part->resolved.name, "value", part->resolved.value(), to});
  std::sort(changes.begin(), changes.end(), [](const auto& a, const auto& b) { return a.part < b.part; });
  return changes;
}

std::map<std::string, double> knobsOf(const Candidate& candidate) {
  std::map<std::string, double> knobs;
  for (const auto& [gang, value] : candidate.values)
    if (gang->turned && value != gang->stands) knobs[gang->parts.front()->resolved.knob] = value;
  return knobs;
}

/// Gangs that move what is asked, the strongest first.
std::vector<const Gang*> telling(Bench& bench, const std::vector<Gang>& gangs, double now) {
  std::vector<std::pair<double, const Gang*>> effects;
  for (const auto& gang : gangs) {
    bench.set(gang, gang.turned ? (gang.stands < 0.5 ? gang.stands + 0.1 : gang.stands - 0.1) : gang.value() * 1.1);
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
    keep(walk(bench, *gang, question.value, *now));
  }
  // With another part one or two steps off, the strongest dials serve.
  for (std::size_t s = 0; s < std::min<std::size_t>(strong.size(), 3); ++s)
    for (std::size_t m = 0; m < std::min<std::size_t>(strong.size(), 2); ++m) {
      if (s == m) continue;
      for (const bool up : {true, false}) {
        double stands = strong[s]->value();
        for (int step = 1; step <= 2; ++step) {
          if (goOn && !goOn(0.5)) return tl::unexpected(Problem::stopped());
          const auto value = bench.stepped(*strong[s], stands, up);
          if (!value) break;
          stands = *value;
          bench.set(*strong[s], *value);
          const auto moved = bench.read();
          if (moved) {
            if (auto candidate = walk(bench, *strong[m], question.value, *moved)) {
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
  const auto already = warningsOf(idle, library).size();
  for (const auto& candidate : candidates) {
    if (proposals.sets.size() == mostSets) break;
    if (goOn && !goOn(0.8)) return tl::unexpected(Problem::stopped());
    auto changes = changesOf(candidate, library);
    auto knobs = knobsOf(candidate);
    if ((changes.empty() && knobs.empty()) ||
        std::any_of(proposals.sets.begin(), proposals.sets.end(),
                    [&](const Proposal& other) { return other.changes == changes && other.knobs == knobs; }))
      continue;
    // The search let the rails stand; what is proposed is solved whole.
    auto design = amp::withChanges(*idle.circuit->design, library, changes);
    for (const auto& [knob, stands] : knobs)
      design.knobs[knob] = stands;
    const auto whole = predictIdle(design, library, &warmth);
    if (!whole) continue;
    auto stage = predictStage(*whole, library, question.tube, question.hertz);
    if (!stage) continue;
    Proposal proposal{std::move(changes), std::move(knobs), 0, std::move(*stage)};
    const auto& readings = proposal.stage;
    proposal.reached = question.wanted == Wanted::plateVolts
                           ? readings.tube.plateVolts + readings.tube.cathodeVoltsToGround
                       : question.wanted == Wanted::plateAmps ? readings.tube.plateAmps
                                                              : readings.gain.value_or(0);
    // What does not reach what was asked is no way to it, nor what puts something else over its rating or leaves the
    // grid no way to swing.
    if (std::abs(proposal.reached - question.value) > reaches * std::abs(question.value) ||
        std::abs(proposal.reached - question.value) >= std::abs(proposals.now - question.value) ||
        warningsOf(*whole, library).size() > already || !hasRoom(readings))
      continue;
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
    if (gang.turned) continue;
    if (auto candidate = walk(bench, gang, amps, *now); candidate && (!best || candidate->error < best->error))
      best = std::move(candidate);
  }
  if (!best || best->error >= std::abs(*now - amps)) return std::nullopt;
  return changesOf(*best, library);
}

} // namespace vinegar::predict
