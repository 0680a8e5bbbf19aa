#include "predict/stages/stage_spread.h"

#include "circuit/periodic.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace vinegar::predict {

tl::expected<StageSpread, Problem> predictSpread(const Idle& idle, const amp::Library&, const SpreadQuestion& question,
                                                 const GoOn& goOn) {
  const auto* part = idle.circuit->part(question.tube);
  if (!part || !amp::isTube(part->resolved.part->kind) || part->devices.empty())
    return tl::unexpected(Problem{question.tube, "is no tube at work in this design"});
  const SmallSignal signal(idle, question.hertz);
  const auto span = signal.stands() ? gainSpan(signal, *part) : std::nullopt;
  circuit::MonteCarloQuestion builds;
  builds.builds = question.builds;
  builds.spreads = spreadsWithin(*idle.circuit, question.tolerances);
  builds.hertz = {question.hertz};
  builds.from = span ? span->first : part->nodes.front();
  builds.to = span ? span->second : part->nodes.front();
  builds.watched = {part->devices.front()};
  if (goOn) builds.goOn = [&] { return goOn(0.5); };
  const auto answer = circuit::solveMonteCarlo(*idle.point.system, builds);
  if (!answer) return tl::unexpected(answer.error());
  StageSpread spread;
  spread.builds = question.builds;
  spread.failures = answer->failures;
  std::vector<double> volts, amps, watts, gains;
  int over = 0;
  for (Eigen::Index b = 0; b < question.builds; ++b) {
    const Eigen::VectorXd x = answer->unknowns.col(b);
    if (!x.allFinite()) continue;
    volts.push_back(circuit::System::volts(x, part->nodes.front()) - circuit::System::volts(x, part->nodes.back()));
    amps.push_back(answer->amps(0, b));
    watts.push_back(volts.back() * amps.back());
    if (part->plateWattsLimit && watts.back() > *part->plateWattsLimit) ++over;
    gains.push_back(std::pow(10.0, answer->decibels(0, b) / 20));
  }
  if (volts.empty())
    return tl::unexpected(Problem{question.tube, "no build of these tolerances has an operating point"});
  if (part->plateWattsLimit) spread.overShare = static_cast<double>(over) / static_cast<double>(volts.size());
  spread.wattsLimit = part->plateWattsLimit;
  spread.plateVolts = bandOf(volts);
  spread.plateAmps = bandOf(amps);
  spread.builtVolts = std::move(volts);
  spread.builtAmps = std::move(amps);
  spread.plateWatts = bandOf(std::move(watts));
  if (span) spread.gain = bandOf(std::move(gains));
  return spread;
}

tl::expected<PairAnswer, Problem> predictPair(const Idle& idle, const amp::Library&, const PairQuestion& question,
                                              const GoOn& goOn) {
  const SmallSignal signal(idle, 1000);
  const auto partner = signal.stands() ? partnerIn(signal, question.tube) : std::nullopt;
  const auto speaker = idle.circuit->probe("speaker");
  if (!partner || speaker < 0)
    return tl::unexpected(Problem{question.tube, "is no half of a pair that drives a speaker"});
  const auto clipping = findClipping(idle, {1000, ClippingQuestion::Which::output}, goOn);
  if (!clipping) return tl::unexpected(clipping.error());
  if (!clipping->first())
    return tl::unexpected(Problem{question.tube, "does not clip with any input, so there is no drive to compare at"});
  const double drive = clipping->first()->inputPeak / 2;
  const std::array<const amp::CompiledPart*, 2> parts{idle.circuit->part(question.tube), idle.circuit->part(*partner)};
  PairAnswer answer;
  answer.first = question.tube;
  answer.second = *partner;
  answer.wattsLimit = parts[0]->plateWattsLimit;

  const auto stateOf = [&](const Idle& one) -> tl::expected<PairState, Problem> {
    PairState state;
    const auto amps = [&](std::size_t i) {
      return one.point.system->pinCurrents(parts[i]->devices.front(), one.point.dc.x).front();
    };
    const auto volts = [&](std::size_t i) {
      return one.point.volts(parts[i]->nodes.front()) - one.point.volts(parts[i]->nodes.back());
    };
    state.firstAmps = amps(0);
    state.secondAmps = amps(1);
    state.firstWatts = state.firstAmps * volts(0);
    state.secondWatts = state.secondAmps * volts(1);
    const SmallSignal own(one, 1000);
    const auto wave = driveAmplifier(own, drive, {speaker}, goOn);
    if (!wave) return tl::unexpected(wave.error());
    const auto harmonics = circuit::harmonics(wave->volts.row(0), 3);
    state.secondHarmonic = std::abs(harmonics[2]) / std::abs(harmonics[1]);
    return state;
  };
  const auto matched = stateOf(idle);
  if (!matched) return tl::unexpected(matched.error());
  answer.matched = *matched;

  // Newton's method on both emissions at once: they share a cathode or a supply.
  const auto& devices = idle.point.system->netlist().devices();
  Idle other = idle;
  auto system = *idle.point.system;
  Eigen::VectorXd x = idle.point.dc.x;
  Eigen::Vector2d logs = Eigen::Vector2d::Zero();
  const Eigen::Vector2d wanted(question.firstAmps > 0 ? question.firstAmps : matched->firstAmps,
                               question.secondAmps > 0 ? question.secondAmps : matched->secondAmps);
  const auto ampsAt = [&](const Eigen::Vector2d& at) -> std::optional<Eigen::Vector2d> {
    std::vector<std::pair<int, circuit::Law>> laws;
    for (std::size_t i = 0; i < 2; ++i) {
      const int device = parts[i]->devices.front();
      laws.emplace_back(device, circuit::varied(devices[static_cast<std::size_t>(device)].law,
                                                std::exp(at[static_cast<Eigen::Index>(i)])));
    }
    system.setLaws(laws);
    const auto dc = circuit::solveDc(system, &x);
    if (!dc) return std::nullopt;
    x = dc->x;
    return Eigen::Vector2d(system.pinCurrents(parts[0]->devices.front(), x).front(),
                           system.pinCurrents(parts[1]->devices.front(), x).front());
  };
  const Problem unreachable{question.tube, "no tubes of this type would draw these currents here"};
  bool reached = false;
  for (int i = 0; i < 30 && !reached; ++i) {
    const auto now = ampsAt(logs);
    if (!now) return tl::unexpected(unreachable);
    const Eigen::Vector2d wrong = (now->array() / wanted.array()).log();
    if (wrong.cwiseAbs().maxCoeff() < 1e-4) {
      reached = true;
      break;
    }
    Eigen::Matrix2d slopes;
    for (int c = 0; c < 2; ++c) {
      Eigen::Vector2d stepped = logs;
      stepped[c] += 1e-3;
      const auto moved = ampsAt(stepped);
      if (!moved) return tl::unexpected(unreachable);
      slopes.col(c) = ((moved->array() / now->array()).log() / 1e-3).matrix();
    }
    Eigen::Vector2d step = slopes.partialPivLu().solve(wrong);
    step = step.cwiseMax(-0.7).cwiseMin(0.7);
    logs -= step;
    if (logs.cwiseAbs().maxCoeff() > std::log(10.0)) return tl::unexpected(unreachable);
  }
  if (!reached) return tl::unexpected(unreachable);
  other.point.system = std::make_shared<const circuit::System>(system);
  other.point.dc.x = x;
  const auto asRead = stateOf(other);
  if (!asRead) return tl::unexpected(asRead.error());
  answer.asRead = *asRead;
  return answer;
}

} // namespace vinegar::predict
