#include "predict/supply_idle.h"

#include <cmath>
#include <numbers>

namespace vinegar::predict {
namespace {

constexpr double railVolts = 1e-4;
constexpr int mostRounds = 60;

std::function<double(double)> mainsWave(const amp::SupplyWiring& supply) {
  const double peak = std::numbers::sqrt2 * supply.volts, omega = 2 * std::numbers::pi * supply.hertz;
  return [peak, omega](double t) { return peak * std::sin(omega * t); };
}

} // namespace

SupplyNetlist cutSupply(const amp::Circuit& circuit, const AmpLoad& load, const SupplyQuestion& question) {
  SupplyNetlist cut;
  const auto& names = circuit.netlist.nodeNames();
  cut.nodeOf.assign(names.size(), -1);
  cut.nodeOf[0] = 0;
  cut.deviceOf.assign(circuit.netlist.devices().size(), -1);
  const auto own = [&](circuit::Node node) {
    auto& mine = cut.nodeOf[static_cast<std::size_t>(node)];
    if (mine < 0) mine = cut.netlist.node(names[static_cast<std::size_t>(node)]);
    return mine;
  };
  for (const int d : circuit.supply.devices) {
    const auto& device = circuit.netlist.devices()[static_cast<std::size_t>(d)];
    std::vector<circuit::Node> nodes;
    for (const auto node : device.nodes)
      nodes.push_back(own(node));
    cut.deviceOf[static_cast<std::size_t>(d)] = cut.netlist.add(device.id, nodes, device.law);
  }
  cut.mains = cut.deviceOf[static_cast<std::size_t>(circuit.supply.mains)];
  std::vector<circuit::Node> nodes;
  for (const auto node : load.nodes())
    nodes.push_back(own(node));
  const auto count = static_cast<Eigen::Index>(nodes.size());
  if (count > 0)
    cut.load = cut.netlist.add("amplifier", nodes,
                               circuit::Norton{Eigen::VectorXd::Zero(count), Eigen::MatrixXd::Zero(count, count)});
  if (question.extraFrom > 0)
    cut.extra = cut.netlist.add("extra", {own(question.extraFrom), 0}, circuit::CurrentSource{question.extraAmps});
  return cut;
}

Eigen::VectorXd SupplyIdle::volts(circuit::Node node) const {
  const auto own = node >= 0 ? part.nodeOf[static_cast<std::size_t>(node)] : -1;
  if (own == 0) return Eigen::VectorXd::Zero(cycle.x.cols());
  if (own < 0) return {};
  return cycle.x.row(circuit::System::row(own)).transpose();
}

double SupplyIdle::meanVolts(circuit::Node node) const {
  const auto own = node >= 0 ? part.nodeOf[static_cast<std::size_t>(node)] : -1;
  return own > 0 ? circuit::System::volts(cycle.meanX, own) : 0;
}

Eigen::VectorXd SupplyIdle::amps(int device) const { return amps(device, 0); }

Eigen::VectorXd SupplyIdle::amps(int device, int winding) const {
  const int own = part.deviceOf[static_cast<std::size_t>(device)];
  Eigen::VectorXd result = Eigen::VectorXd::Zero(cycle.x.cols());
  if (own < 0) return result;
  const auto& found = part.netlist.devices()[static_cast<std::size_t>(own)];
  if (const int branch = system->branch(own); branch >= 0) return cycle.x.row(branch + winding).transpose();
  if (const auto* capacitor = std::get_if<circuit::Capacitor>(&found.law)) {
    // Charge over each step; the period closes on itself.
    const auto n = result.size();
    const auto across = [&](Eigen::Index k) {
      const auto x = cycle.x.col((k + n) % n);
      return circuit::System::volts(x, found.nodes[0]) - circuit::System::volts(x, found.nodes[1]);
    };
    for (Eigen::Index k = 0; k < n; ++k)
      result[k] = capacitor->farads * (across(k) - across(k - 1)) * static_cast<double>(n) / cycle.period;
    return result;
  }
  for (Eigen::Index k = 0; k < result.size(); ++k)
    result[k] = system->pinCurrents(own, cycle.x.col(k)).front();
  return result;
}

tl::expected<SupplyIdle, Problem> predictSupplyIdle(const amp::Circuit& circuit, const SupplyIdle* like,
                                                    const SupplyQuestion& question) {
  if (!circuit.supply.isRectified())
    return tl::unexpected(Problem{"the supply", "has no mains and rectifier; start it with a transformer section"});
  AmpLoad load(circuit);
  SupplyIdle idle;
  idle.part = cutSupply(circuit, load, question);
  if (auto floating = circuit::findFloatingNode(idle.part.netlist)) return tl::unexpected(*floating);
  const double period = 1 / circuit.supply.hertz;
  circuit::Reduced reduced(circuit::System(idle.part.netlist), {{idle.part.mains}}, period / stepsPerPeriod);
  const auto wave = mainsWave(circuit.supply);
  const auto count = static_cast<Eigen::Index>(load.nodes().size());
  const bool warm = like && like->part.netlist.sameTopology(idle.part.netlist);
  const circuit::Cycle* start = warm ? &like->cycle : nullptr;

  Eigen::VectorXd rails = Eigen::VectorXd::Zero(count);
  const auto railsOf = [&](const circuit::Cycle& cycle) {
    Eigen::VectorXd volts(count);
    for (Eigen::Index k = 0; k < count; ++k)
      volts[k] = circuit::System::volts(
          cycle.meanX, idle.part.nodeOf[static_cast<std::size_t>(load.nodes()[static_cast<std::size_t>(k)])]);
    return volts;
  };
  if (warm) rails = railsOf(like->cycle);
  circuit::Norton norton;
  double last = INFINITY, pace = 1;
  for (int round = 0;; ++round) {
    if (round > 0 || warm) {
      auto drawn = load.at(rails, question.emission);
      if (!drawn) return tl::unexpected(drawn.error());
      norton = std::move(*drawn);
    } else { // to have volts to begin with: a load of about the usual size
      norton = {Eigen::VectorXd::Zero(count), 2e-4 * Eigen::MatrixXd::Identity(count, count)};
    }
    if (idle.part.load >= 0) reduced.setLaws({{idle.part.load, norton}});
    auto cycle = circuit::steadyCycle(reduced, wave, period, stepsPerPeriod, start);
    if (!cycle) return tl::unexpected(cycle.error());
    idle.cycle = std::move(*cycle);
    idle.periods += idle.cycle.periods;
    start = &idle.cycle;
    const Eigen::VectorXd now = railsOf(idle.cycle);
    const double moved = count ? (now - rails).lpNorm<Eigen::Infinity>() : 0;
    if ((round > 0 || warm) && moved < railVolts) {
      rails = now;
      break;
    }
    // The amplifier's currents bend: where whole moves chase each other, parts of them end between.
    pace = round > 1 && moved > 0.7 * last ? std::max(0.5 * pace, 0.05) : std::min(1.0, 1.5 * pace);
    rails += pace * (now - rails);
    last = moved;
    if (round >= mostRounds)
      return tl::unexpected(Problem{"the supply", "no idle state was found in which rails and amplifier agree"});
  }
  for (Eigen::Index k = 0; k < count; ++k)
    idle.loadAmps += norton.amps[k] + norton.siemens.row(k).dot(rails);

  // The slope of each rectifier's mean current over its mean volts, from a slightly larger load.
  circuit::Cycle more = idle.cycle;
  if (idle.part.load >= 0) {
    auto heavier = norton;
    for (Eigen::Index k = 0; k < count; ++k)
      heavier.amps[k] += std::max(0.01 * std::abs(norton.amps[k] + norton.siemens.row(k).dot(rails)), 1e-5);
    reduced.setLaws({{idle.part.load, heavier}});
    auto cycle = circuit::steadyCycle(reduced, wave, period, stepsPerPeriod, &idle.cycle);
    if (!cycle) return tl::unexpected(cycle.error());
    more = std::move(*cycle);
    idle.periods += more.periods;
    reduced.setLaws({{idle.part.load, norton}});
  }
  idle.system = std::make_shared<circuit::System>(reduced.system());
  const auto& ports = idle.system->nonlinearDevices();
  for (const int d : circuit.supply.devices) {
    const int own = idle.part.deviceOf[static_cast<std::size_t>(d)];
    // Rectifiers, and Zener diodes: under ripple neither passes the current of its mean volts.
    if (!circuit::isNonlinear(circuit.netlist.devices()[static_cast<std::size_t>(d)].law)) continue;
    const auto& nodes = idle.part.netlist.devices()[static_cast<std::size_t>(own)].nodes;
    // Every diode is one port.
    const auto port = static_cast<Eigen::Index>(std::find(ports.begin(), ports.end(), own) - ports.begin());
    const auto across = [&](const circuit::Cycle& cycle) {
      return circuit::System::volts(cycle.meanX, nodes[0]) - circuit::System::volts(cycle.meanX, nodes[1]);
    };
    const double amps = idle.cycle.meanAmps[port], volts = across(idle.cycle);
    const double dAmps = more.meanAmps[port] - amps, dVolts = across(more) - volts;
    double siemens = std::abs(dVolts) > 1e-7 ? dAmps / dVolts : 0;
    if (!(siemens > 1e-9)) siemens = std::max(10 * std::abs(amps) / std::max(std::abs(volts), 1.0), 1e-9);
    siemens = std::min(siemens, 10.0);
    const double still = amps - siemens * volts;
    Eigen::Matrix2d matrix;
    matrix << siemens, -siemens, -siemens, siemens;
    idle.averaged.emplace_back(d, circuit::Norton{Eigen::Vector2d(still, -still), matrix});
  }
  return idle;
}

circuit::Netlist averagedNetlist(const amp::Circuit& circuit, const SupplyIdle& idle) {
  auto netlist = circuit.netlist;
  for (const auto& [device, law] : idle.averaged)
    netlist.replaceLaw(device, law);
  return netlist;
}

} // namespace vinegar::predict
