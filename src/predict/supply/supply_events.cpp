#include "predict/supply/supply_events.h"

#include "circuit/stepper.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace vinegar::predict {
namespace {

constexpr double loadInterval = 0.1;     ///< s, between questions to the amplifier once it is warm
constexpr double warmingInterval = 0.04; ///< s, while something warms
constexpr int coarseSteps = 128;         ///< per period of the mains

/// What the rails see of the amplifier at a moment.
class RailLoad {
public:
  RailLoad(AmpLoad& load, circuit::Reduced& reduced, const SupplyNetlist& part)
      : load_(load), reduced_(reduced), part_(part) {
    for (const auto node : load.nodes())
      rows_.push_back(circuit::System::row(part.nodeOf[static_cast<std::size_t>(node)]));
  }
  [[nodiscard]] std::optional<Problem> update(const Eigen::VectorXd& mean, const std::vector<double>& emissions) {
    if (part_.load < 0) return std::nullopt;
    Eigen::VectorXd volts(static_cast<Eigen::Index>(rows_.size()));
    for (std::size_t k = 0; k < rows_.size(); ++k)
      volts[static_cast<Eigen::Index>(k)] = mean[rows_[k]];
    auto drawn = load_.at(volts, emissions);
    if (!drawn) return drawn.error();
    reduced_.setLaws({{part_.load, std::move(*drawn)}});
    return std::nullopt;
  }

private:
  AmpLoad& load_;
  circuit::Reduced& reduced_;
  const SupplyNetlist& part_;
  std::vector<int> rows_;
};

struct Cathodes {
  std::vector<double> amplifier; ///< warmSeconds of each tube, in the order of the netlist
  std::vector<double> rectifier; ///< of each port
};

Cathodes cathodesOf(const amp::Circuit& circuit, const amp::Library& library, const SupplyNetlist& part,
                    const circuit::System& system) {
  Cathodes cathodes;
  cathodes.rectifier.assign(system.nonlinearDevices().size(), 0);
  for (const auto& p : circuit.parts) {
    if (!amp::hasType(p.resolved.part->kind) || p.devices.empty()) continue;
    const auto* type = library.tubes.find(p.resolved.text("tube"));
    const double warm = type ? type->warmSeconds : 0;
    if (amp::isTube(p.resolved.part->kind)) {
      cathodes.amplifier.push_back(warm);
      continue;
    }
    for (const int device : p.devices) {
      const auto& ports = system.nonlinearDevices();
      const auto port = std::find(ports.begin(), ports.end(), part.deviceOf[static_cast<std::size_t>(device)]);
      if (port != ports.end()) cathodes.rectifier[static_cast<std::size_t>(port - ports.begin())] = warm;
    }
  }
  return cathodes;
}

} // namespace

double emissionAfter(double warmSeconds, double seconds) {
  if (warmSeconds <= 0 || seconds >= warmSeconds) return 1;
  // Nothing during the first third, while the cathode is below red heat; then a smooth step.
  const double u = std::clamp((seconds / warmSeconds - 1.0 / 3) * 1.5, 0.0, 1.0);
  return u * u * u * (10 - 15 * u + 6 * u * u);
}

tl::expected<SwitchOnAnswer, Problem> switchOnOf(const amp::Circuit& circuit, const amp::Library& library,
                                                 const SwitchOnQuestion& question, const GoOn& goOn) {
  if (!circuit.supply.isRectified()) return tl::unexpected(noMains());
  AmpLoad load(circuit);
  const auto part = cutSupply(circuit, load, {});
  if (auto floating = circuit::findFloatingNode(part.netlist)) return tl::unexpected(*floating);
  const double period = 1 / circuit.supply.hertz, h = period / coarseSteps;
  circuit::Reduced reduced(circuit::System(part.netlist), {{part.mains}}, h);
  RailLoad rails(load, reduced, part);
  const auto cathodes = cathodesOf(circuit, library, part, reduced.system());
  const auto wave = mainsWave(circuit.supply);
  using From = SwitchOnQuestion::From;
  const auto emission = [&](double warm, double t) {
    return question.from == From::cold ? emissionAfter(warm, t) : 1.0;
  };
  const double warmAt = question.from == From::cold
                            ? std::max(cathodes.amplifier.empty()
                                           ? 0
                                           : *std::max_element(cathodes.amplifier.begin(), cathodes.amplifier.end()),
                                       cathodes.rectifier.empty()
                                           ? 0
                                           : *std::max_element(cathodes.rectifier.begin(), cathodes.rectifier.end()))
                            : 0;

  SwitchOnAnswer answer;
  answer.fed = mainRails(circuit).fed;
  std::vector<int> rows;
  for (const auto& rail : circuit.rails)
    if (const auto own = part.nodeOf[static_cast<std::size_t>(rail.node)]; own > 0) {
      answer.rails.push_back({rail.name, rail.node, {}, {}, {}, 0, 0});
      rows.push_back(circuit::System::row(own));
    }
  std::vector<std::vector<Eigen::Index>> partPorts;
  for (const auto& p : circuit.parts) {
    const auto kind = p.resolved.part->kind;
    if ((kind != amp::PartKind::rectifier && kind != amp::PartKind::diode) || p.devices.empty()) continue;
    answer.rectifiers.push_back(p.resolved.name);
    answer.peakAmps.push_back(0);
    partPorts.emplace_back();
    const auto& ports = reduced.system().nonlinearDevices();
    for (const int device : p.devices)
      partPorts.back().push_back(
          std::find(ports.begin(), ports.end(), part.deviceOf[static_cast<std::size_t>(device)]) - ports.begin());
  }
  std::vector<int> primaryRows;
  for (const auto& p : circuit.parts)
    if (p.resolved.part->kind == amp::PartKind::powerTransformer && !p.devices.empty())
      primaryRows.push_back(reduced.system().branch(part.deviceOf[static_cast<std::size_t>(p.devices.front())]));

  auto state = reduced.rest();
  Eigen::VectorXd mean = Eigen::VectorXd::Zero(reduced.system().size());
  if (question.from == From::hot) { // what the capacitors still hold
    const auto idle = predictSupplyIdle(circuit);
    if (!idle) return tl::unexpected(idle.error());
    const auto off = dischargeFrom(circuit, *idle, true, offSeconds);
    if (!off) return tl::unexpected(off.error());
    mean = off->lastX;
    state = reduced.at(mean);
  }
  double nextLoad = 0;
  const auto periods = static_cast<long>(std::ceil(question.seconds / period));
  std::vector<double> emissions(cathodes.amplifier.size());
  for (long k = 0; k < periods; ++k) {
    const double t0 = static_cast<double>(k) * period;
    if (k % 25 == 0 && goOn && !goOn(static_cast<double>(k) / static_cast<double>(periods)))
      return tl::unexpected(Problem::stopped());
    if (t0 >= nextLoad) {
      for (std::size_t i = 0; i < emissions.size(); ++i)
        emissions[i] = emission(cathodes.amplifier[i], t0);
      for (std::size_t i = 0; i < cathodes.rectifier.size(); ++i)
        reduced.setEmission(i, emission(cathodes.rectifier[i], t0));
      if (const auto problem = rails.update(mean, emissions)) return tl::unexpected(*problem);
      nextLoad = t0 + (t0 < warmAt + 1 ? warmingInterval : loadInterval);
    }
    circuit::Reduced::Mean sums;
    for (std::size_t r = 0; r < rows.size(); ++r) {
      answer.rails[r].least.push_back(INFINITY);
      answer.rails[r].greatest.push_back(-INFINITY);
    }
    for (int s = 0; s < coarseSteps; ++s) {
      const double t = t0 + s * h;
      if (!reduced.step(state, t, wave, nullptr, &sums))
        return tl::unexpected(Problem{"the supply", "could not be followed after switch-on; look for a part value far "
                                                    "from what its place wants"});
      for (std::size_t p = 0; p < partPorts.size(); ++p)
        for (const auto port : partPorts[p])
          answer.peakAmps[p] = std::max(answer.peakAmps[p], reduced.amps()[port]);
      double primaries = 0;
      for (const auto row : primaryRows)
        primaries += reduced.x(row);
      answer.primaryPeakAmps = std::max(answer.primaryPeakAmps, std::abs(primaries));
      for (std::size_t r = 0; r < rows.size(); ++r) {
        const double volts = reduced.x(rows[r]);
        auto& rail = answer.rails[r];
        rail.least.back() = std::min(rail.least.back(), volts);
        rail.greatest.back() = std::max(rail.greatest.back(), volts);
        if (volts > rail.highest) {
          rail.highest = volts;
          rail.highestAt = t + h;
        }
      }
    }
    mean = reduced.x(sums);
    answer.seconds.push_back(t0 + period);
    for (std::size_t r = 0; r < rows.size(); ++r)
      answer.rails[r].mean.push_back(mean[rows[r]]);
  }
  for (const auto& rail : answer.rails)
    for (std::size_t k = 0; k < rail.mean.size(); ++k)
      if (std::abs(rail.mean[k] - rail.mean.back()) > 0.02 * std::abs(rail.mean.back()))
        answer.settledAt = std::max(answer.settledAt, answer.seconds[k]);
  return answer;
}

namespace {

/// The next moment of rails that fall, and when each is under 50 V for good.
template <class Volts> void keepMoment(DischargeAnswer& answer, double t, const Volts& voltsOf) {
  answer.seconds.push_back(t);
  for (std::size_t r = 0; r < answer.rails.size(); ++r) {
    auto& rail = answer.rails[r];
    const double volts = voltsOf(r);
    if (std::abs(volts) >= 50) rail.secondsTo50.reset();
    if (std::abs(volts) < 50 && !rail.secondsTo50) {
      const double before = rail.volts.empty() ? volts : rail.volts.back();
      const double last = rail.volts.empty() ? t : answer.seconds[answer.seconds.size() - 2];
      const double over = std::abs(before) - 50;
      rail.secondsTo50 = over > 0 ? last + (t - last) * over / std::abs(before - volts) : t;
    }
    rail.volts.push_back(volts);
  }
}

constexpr double firstStep = 1e-3; ///< s; steps grow with time: everything that happens fast happens first
constexpr int perLength = 40;      ///< steps of one length
constexpr double growth = 1.6, emptyVolts = 5;

/// The whole amplifier without its mains, from idle.
tl::expected<DischargeAnswer, Problem> fall(const Idle& idle, double seconds, const GoOn& goOn) {
  constexpr double longest = 0.2, damping = 0.6;
  const auto& circuit = *idle.circuit;
  auto netlist = circuit.netlist;
  for (std::size_t d = 0; d < netlist.devices().size(); ++d) // echoes of what was played are over
    if (const auto* delay = std::get_if<circuit::Delay>(&netlist.devices()[d].law))
      netlist.setLaw(static_cast<int>(d), circuit::Delay{0, std::max(delay->seconds, 2 * longest)});
  const circuit::System system(netlist);
  const auto x = startOfCycle(idle);
  DischargeAnswer answer;
  answer.fed = mainRails(circuit).fed;
  circuit::StepperSetup setup;
  setup.theta = damping;
  for (const auto& rail : circuit.rails)
    if (idle.point.supply->part.nodeOf[static_cast<std::size_t>(rail.node)] > 0) {
      answer.rails.push_back({rail.name, rail.node, {}, {}});
      setup.outputs.push_back(rail.node);
    }
  keepMoment(answer, 0, [&](std::size_t r) { return idle.point.volts(answer.rails[r].node); });
  std::optional<circuit::Stepper> stepper;
  double t = 0;
  for (double h = firstStep; t < seconds; h = std::min(growth * h, longest)) {
    setup.samplesPerSecond = 1 / h;
    circuit::Stepper next(system, x, setup);
    if (stepper) next.resume(*stepper);
    stepper.emplace(std::move(next));
    if (goOn && !goOn(t / seconds)) return tl::unexpected(Problem::stopped());
    const std::vector<double> none;
    for (int k = 0; k < perLength && t < seconds; ++k) {
      if (!stepper->step(none.data()) &&
          !stepper->stepFiner([&](double) -> const std::vector<double>& { return none; }))
        return tl::unexpected(Problem{"the amplifier", "could not be followed after switch-off"});
      t += h;
      keepMoment(answer, t, [&](std::size_t r) { return stepper->output(r); });
    }
    if (std::all_of(answer.rails.begin(), answer.rails.end(),
                    [](const auto& rail) { return std::abs(rail.volts.back()) < emptyVolts; }))
      break;
  }
  return answer;
}

} // namespace

tl::expected<SupplyIdle, Problem> unloadedSupply(const amp::Circuit& circuit, const SupplyIdle& idle) {
  return predictSupplyIdle(circuit, &idle, {0, 0, 0});
}

tl::expected<DischargeAnswer, Problem> dischargeFrom(const amp::Circuit& circuit, const SupplyIdle& idle, bool tubesIn,
                                                     double seconds, const GoOn& goOn) {
  AmpLoad load(circuit);
  const auto part = cutSupply(circuit, load, {});
  DischargeAnswer answer;
  answer.fed = mainRails(circuit).fed;
  std::vector<int> rows;
  for (const auto& rail : circuit.rails)
    if (const auto own = part.nodeOf[static_cast<std::size_t>(rail.node)]; own > 0) {
      answer.rails.push_back({rail.name, rail.node, {}, {}});
      rows.push_back(circuit::System::row(own));
    }
  const std::vector<double> emissions(
      static_cast<std::size_t>(
          std::count_if(circuit.parts.begin(), circuit.parts.end(),
                        [](const auto& p) { return amp::isTube(p.resolved.part->kind) && !p.devices.empty(); })),
      tubesIn ? 1.0 : 0.0);
  const bool linear = load.isLinear(emissions);
  Eigen::VectorXd x = idle.cycle.meanX;
  if (x.size() != circuit::System(part.netlist).size())
    return tl::unexpected(Problem{"the supply", "the idle state belongs to another question"});
  double t = 0, h = firstStep;
  std::unique_ptr<circuit::Reduced> reduced;
  circuit::Reduced::State state;
  const auto still = [](double) { return 0.0; };
  const auto keep = [&] { keepMoment(answer, t, [&](std::size_t r) { return x[rows[r]]; }); };
  keep();
  answer.lastX = x;
  while (t < seconds) {
    reduced = std::make_unique<circuit::Reduced>(circuit::System(part.netlist),
                                                 std::vector<circuit::Reduced::Driven>{{part.mains}}, h);
    RailLoad rails(load, *reduced, part);
    state = reduced->at(x);
    if (goOn && !goOn(t / seconds)) return tl::unexpected(Problem::stopped());
    for (int k = 0; k < perLength && t < seconds; ++k) {
      // An amplifier that is linear is asked once: its currents and slopes say all.
      if (k == 0 || !linear)
        if (const auto problem = rails.update(x, emissions)) return tl::unexpected(*problem);
      if (!reduced->step(state, t, still))
        return tl::unexpected(Problem{"the supply", "could not be followed after switch-off"});
      x = reduced->x();
      t += h;
      keep();
    }
    answer.lastX = x;
    const bool empty = std::all_of(rows.begin(), rows.end(), [&](int row) { return std::abs(x[row]) < emptyVolts; });
    if (empty) break;
    h = std::min(growth * h, 5.0);
  }
  return answer;
}

const DischargeAnswer::Rail* DischargeAnswer::slowest() const {
  const auto later = [](const Rail& a, const Rail& b) {
    return a.secondsTo50.value_or(INFINITY) < b.secondsTo50.value_or(INFINITY);
  };
  const auto last = std::max_element(rails.begin(), rails.end(), later);
  return last == rails.end() ? nullptr : &*last;
}

tl::expected<SwitchOnAnswer, Problem> predictSwitchOn(const Idle& idle, const amp::Library& library,
                                                      const SwitchOnQuestion& question, const GoOn& goOn) {
  return switchOnOf(*idle.circuit, library, question, goOn);
}

tl::expected<DischargeAnswer, Problem> predictDischarge(const Idle& idle, const amp::Library&,
                                                        const DischargeQuestion& question, const GoOn& goOn) {
  constexpr double longest = 1200;
  if (!idle.point.supply) return tl::unexpected(noMains());
  if (question.tubesIn) return fall(idle, longest, goOn);
  const auto unloaded = unloadedSupply(*idle.circuit, *idle.point.supply);
  if (!unloaded) return tl::unexpected(unloaded.error());
  return dischargeFrom(*idle.circuit, *unloaded, false, longest, goOn);
}

} // namespace vinegar::predict
