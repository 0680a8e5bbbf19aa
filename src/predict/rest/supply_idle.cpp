#include "predict/rest/supply_idle.h"

#include <Eigen/LU>
#include <cmath>
#include <numbers>

namespace vinegar::predict {
namespace {

constexpr double railVolts = 1e-4;
constexpr int mostRounds = 60;

/// Whether what a period carries through one supply serves for another of its topology: alike in every value but their
/// load's, and resistors, heaters among them, about the same.
bool carryAlike(const SupplyNetlist& a, const SupplyNetlist& b) {
  for (std::size_t d = 0; d < a.netlist.devices().size(); ++d) {
    if (static_cast<int>(d) == a.load || static_cast<int>(d) == a.extra) continue;
    const auto &mine = a.netlist.devices()[d].law, &other = b.netlist.devices()[d].law;
    if (mine == other) continue;
    const auto *ohms = std::get_if<circuit::Resistor>(&mine), *otherOhms = std::get_if<circuit::Resistor>(&other);
    if (!ohms || !otherOhms || std::abs(std::log(ohms->ohms / otherOhms->ohms)) > std::log(1.5)) return false;
  }
  return true;
}

/// The supply with its diodes as they are on average is linear; what it answers to an ampere at each rail. Nothing
/// where that cannot be told.
void findSlopes(SupplyIdle& idle, const AmpLoad& load, const circuit::Reduced& reduced) {
  const auto count = static_cast<Eigen::Index>(load.nodes().size());
  if (count == 0) return; // a supply that feeds nothing yet
  auto netlist = idle.part.netlist;
  for (const auto& [device, law] : idle.averaged)
    netlist.replaceLaw(idle.part.deviceOf[static_cast<std::size_t>(device)], law);
  if (idle.part.load >= 0)
    netlist.setLaw(idle.part.load, circuit::Norton{Eigen::VectorXd::Zero(count), Eigen::MatrixXd::Zero(count, count)});
  const circuit::System system(netlist);
  Eigen::MatrixXd matrix = Eigen::MatrixXd::Zero(system.size(), system.size());
  for (const auto& t : system.conductance())
    matrix(t.row(), t.col()) += t.value();
  for (int i = 0; i + 1 < netlist.nodeCount(); ++i)
    matrix(i, i) += 1e-12;
  const auto rowOf = [&](Eigen::Index k) {
    return circuit::System::row(idle.part.nodeOf[static_cast<std::size_t>(load.nodes()[static_cast<std::size_t>(k)])]);
  };
  Eigen::MatrixXd drawn = Eigen::MatrixXd::Zero(system.size(), count);
  for (Eigen::Index k = 0; k < count; ++k)
    drawn(rowOf(k), k) = -1;
  const Eigen::MatrixXd moved = matrix.partialPivLu().solve(drawn);
  if (!moved.allFinite()) return;
  idle.railsByLoad.resize(count, count);
  for (Eigen::Index k = 0; k < count; ++k)
    idle.railsByLoad.row(k) = moved.row(rowOf(k));
  idle.memoryByLoad = reduced.memoriesOf(moved);
}

} // namespace

std::function<double(double)> mainsWave(const amp::SupplyWiring& supply) {
  const double peak = std::numbers::sqrt2 * supply.volts, omega = 2 * std::numbers::pi * supply.hertz;
  return [peak, omega](double t) { return peak * std::sin(omega * t); };
}

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
  circuit::Cycle guess;
  const bool sloped = warm && count > 0 && like->railsByLoad.rows() == count;
  if (warm) {
    rails = railsOf(like->cycle);
    guess = like->cycle;
    start = &guess;
    // In another supply a period carries other things through.
    if (!carryAlike(idle.part, like->part)) guess.byStart.resize(0, 0);
  }
  if (sloped) { // where the amplifier draws otherwise than before, the rails move along the slopes found then
    const auto drawn = load.at(rails, question.emission);
    if (!drawn) return tl::unexpected(drawn.error());
    const Eigen::VectorXd more = drawn->amps + drawn->siemens * rails - like->drawnAmps;
    const Eigen::MatrixXd answered = Eigen::MatrixXd::Identity(count, count) - drawn->siemens * like->railsByLoad;
    const Eigen::VectorXd amps = answered.partialPivLu().solve(more);
    if (amps.allFinite()) {
      rails += like->railsByLoad * amps;
      guess.start.z += like->memoryByLoad * amps;
    }
  }
  circuit::Norton norton{Eigen::VectorXd::Zero(count), 2e-4 * Eigen::MatrixXd::Identity(count, count)};
  if (warm) {
    auto drawn = load.at(rails, question.emission);
    if (!drawn) return tl::unexpected(drawn.error());
    norton = std::move(*drawn);
  } // else a load of about the usual size, to have volts to begin with
  // What nothing draws from, as a rail behind an open switch, keeps any volts for ever but for its capacitor's leakage.
  const auto settle = [&](const circuit::Norton& drawn,
                          const circuit::Cycle* from) -> tl::expected<circuit::Cycle, Problem> {
    constexpr double leak = 1e-8;
    if (idle.part.load >= 0) reduced.setLaws({{idle.part.load, drawn}});
    auto cycle = circuit::steadyCycle(reduced, wave, period, stepsPerPeriod, from);
    if (cycle || idle.part.load < 0) return cycle;
    auto leaking = drawn;
    leaking.siemens.diagonal().array() += leak;
    reduced.setLaws({{idle.part.load, leaking}});
    return circuit::steadyCycle(reduced, wave, period, stepsPerPeriod, nullptr);
  };
  // How far the rails give to an ampere more, with much to spare; unknown without a like supply.
  const double ohms = sloped ? 10 * like->railsByLoad.lpNorm<Eigen::Infinity>() : INFINITY;
  double last = INFINITY, pace = 1;
  bool agreed = false;
  for (int round = 0; !agreed && round <= mostRounds; ++round) {
    auto cycle = settle(norton, start);
    if (!cycle) return tl::unexpected(cycle.error());
    idle.cycle = std::move(*cycle);
    idle.periods += idle.cycle.periods;
    start = &idle.cycle;
    const Eigen::VectorXd now = railsOf(idle.cycle);
    const double moved = count ? (now - rails).lpNorm<Eigen::Infinity>() : 0;
    agreed = (round > 0 || warm) && moved < railVolts;
    // The amplifier's currents bend: where whole moves chase each other, parts of them end between. A part of a move
    // leaves the rest of it for the next round, which is no chase.
    const bool chased = round > 1 && moved > (1 - 0.3 * pace) * last;
    pace = chased ? std::max(0.5 * pace, 0.05) : std::min(1.0, 1.5 * pace);
    if (agreed)
      rails = now;
    else
      rails += pace * (now - rails);
    last = moved;
    if (agreed || count == 0) continue;
    auto drawn = load.at(rails, question.emission);
    if (!drawn) return tl::unexpected(drawn.error());
    // Where the currents are those that the slopes foretold, another round would find the same rails.
    if (pace == 1 && std::isfinite(ohms)) {
      const Eigen::VectorXd missed = drawn->amps + drawn->siemens * rails - norton.amps - norton.siemens * rails;
      agreed = ohms * missed.lpNorm<1>() < railVolts;
    }
    if (!agreed) norton = std::move(*drawn);
  }
  if (!agreed)
    return tl::unexpected(Problem{"the supply", "no idle state was found in which rails and amplifier agree"});
  idle.drawnAmps = norton.amps + norton.siemens * rails;
  idle.loadAmps = idle.drawnAmps.sum();

  // The slope of each rectifier's mean current over its mean volts, from a slightly larger load.
  circuit::Cycle more = idle.cycle;
  if (idle.part.load >= 0) {
    auto heavier = norton;
    const Eigen::VectorXd added = (0.01 * idle.drawnAmps.cwiseAbs()).cwiseMax(1e-5);
    heavier.amps += added;
    circuit::Cycle near = idle.cycle;
    if (sloped) near.start.z += like->memoryByLoad * added;
    auto cycle = settle(heavier, &near);
    // From a supply that is switched off nothing can be drawn.
    constexpr double dead = 1;
    if (!cycle && !(rails.lpNorm<Eigen::Infinity>() < dead)) return tl::unexpected(cycle.error());
    if (!cycle) cycle = idle.cycle;
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
  findSlopes(idle, load, reduced);
  return idle;
}

circuit::Netlist averagedNetlist(const amp::Circuit& circuit, const SupplyIdle& idle) {
  auto netlist = circuit.netlist;
  for (const auto& [device, law] : idle.averaged)
    netlist.replaceLaw(device, law);
  return netlist;
}

} // namespace vinegar::predict
