#include "predict/supply/mean_supply.h"

#include <cmath>

namespace vinegar::predict {
namespace {

/// Of the idle load, dense where amplifiers that draw as much as they idle at live; what a burst draws is within.
constexpr std::array<double, 13> loads{0.05, 0.3, 0.45, 0.6, 0.75, 0.88, 1, 1.25, 1.6, 2.2, 3.2, 4.6, 6.5};
constexpr double spent = 0.3; ///< of the volts at idle: under that no amplifier plays

struct Seen {
  std::vector<double> volts, amps; ///< of each rectifier, in the order of the averaged ones
};

} // namespace

std::vector<std::pair<int, circuit::Law>> meanSupply(const Idle& idle, const GoOn& goOn) {
  std::vector<std::pair<int, circuit::Law>> laws;
  if (!idle.point.supply) return laws;
  const auto& supply = *idle.point.supply;
  for (const auto& [device, norton] : supply.averaged)
    laws.emplace_back(device, norton);
  if (supply.part.load < 0 || supply.drawnAmps.size() == 0) return laws;

  const auto& wiring = idle.circuit->supply;
  const double period = 1 / wiring.hertz;
  const auto mains = mainsWave(wiring);
  circuit::Reduced reduced(circuit::System(supply.part.netlist), {{supply.part.mains}}, period / stepsPerPeriod);
  const auto& ports = reduced.system().nonlinearDevices();
  const auto count = supply.drawnAmps.size();
  const auto seen = [&](const circuit::Cycle& cycle) {
    Seen one;
    for (const auto& [device, norton] : supply.averaged) {
      const int own = supply.part.deviceOf[static_cast<std::size_t>(device)];
      const auto& nodes = supply.part.netlist.devices()[static_cast<std::size_t>(own)].nodes;
      const auto port = static_cast<Eigen::Index>(std::find(ports.begin(), ports.end(), own) - ports.begin());
      one.volts.push_back(circuit::System::volts(cycle.meanX, nodes[0]) -
                          circuit::System::volts(cycle.meanX, nodes[1]));
      one.amps.push_back(cycle.meanAmps[port]);
    }
    return one;
  };
  std::vector<Seen> curve;
  const circuit::Cycle* like = &supply.cycle;
  std::vector<circuit::Cycle> cycles;
  cycles.reserve(loads.size());
  for (std::size_t k = 0; k < loads.size(); ++k) {
    if (goOn && !goOn(static_cast<double>(k) / loads.size())) break;
    if (loads[k] == 1) { // known
      curve.push_back(seen(supply.cycle));
      like = &supply.cycle;
      continue;
    }
    reduced.setLaws(
        {{supply.part.load, circuit::Norton{loads[k] * supply.drawnAmps, Eigen::MatrixXd::Zero(count, count)}}});
    auto cycle = circuit::steadyCycle(reduced, mains, period, stepsPerPeriod, like);
    if (!cycle) {
      if (loads[k] < 1) continue;
      break;
    }
    cycles.push_back(std::move(*cycle));
    like = &cycles.back();
    // A supply that is drawn empty passes no more.
    const double held = like->meanX.lpNorm<Eigen::Infinity>(), before = supply.cycle.meanX.lpNorm<Eigen::Infinity>();
    if (held < spent * before) break;
    curve.push_back(seen(*like));
  }
  for (std::size_t d = 0; d < laws.size(); ++d) {
    std::vector<double> volts, amps;
    for (const auto& one : curve) {
      volts.push_back(one.volts[d]);
      amps.push_back(one.amps[d]);
    }
    if (auto mean = circuit::meanDiode(std::move(volts), std::move(amps))) laws[d].second = std::move(*mean);
  }
  return laws;
}

} // namespace vinegar::predict
