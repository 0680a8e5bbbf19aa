#pragma once

#include "circuit/reduced.h"
#include "predict/rest/amp_load.h"

namespace vinegar::predict {

struct SupplyQuestion {
  double emission = 1;         ///< of all tubes but the rectifiers: 1 at work, 0 cold or pulled
  double extraAmps = 0;        ///< drawn besides, a steady current
  circuit::Node extraFrom = 0; ///< from this node of the circuit
};

/// The supply cut out of a circuit: its own devices on nodes of the same names, and the amplifier as one load.
struct SupplyNetlist {
  circuit::Netlist netlist;
  std::vector<int> deviceOf;         ///< by device of the circuit's netlist: of this one, or -1
  std::vector<circuit::Node> nodeOf; ///< by node of the circuit's netlist: of this one, or -1
  int load = -1;                     ///< the Norton device, or -1 without amplifier
  int extra = -1;                    ///< a current source for loads besides
  int mains = -1;
};
SupplyNetlist cutSupply(const amp::Circuit& circuit, const AmpLoad& load, const SupplyQuestion& question);

/// The steady state of the supply over one period of the mains with the amplifier's own idle current.
struct SupplyIdle {
  SupplyNetlist part;
  std::shared_ptr<const circuit::System> system; ///< of part.netlist
  circuit::Cycle cycle;
  /// What each diode of the supply comes to on average, by device of the circuit's netlist: DC and small signals see
  /// this.
  std::vector<std::pair<int, circuit::Norton>> averaged;
  double loadAmps = 0;       ///< into the amplifier, all rails
  Eigen::VectorXd drawnAmps; ///< the same rail by rail, in AmpLoad's order
  int periods = 0;           ///< worked through to find it
  /// What an ampere more into each of the amplifier's rails does, by the averaged diodes: to the rails, in AmpLoad's
  /// order, and to the memories. The first guess of a like question.
  Eigen::MatrixXd railsByLoad, memoryByLoad;

  /// Of a node of the circuit, volts at each step of the period; empty if the supply has no such node.
  [[nodiscard]] Eigen::VectorXd volts(circuit::Node node) const;
  [[nodiscard]] double meanVolts(circuit::Node node) const;
  /// Into the first pin of a device of the circuit's netlist, at each step.
  [[nodiscard]] Eigen::VectorXd amps(int device) const;
  /// Of one winding of a transformer, likewise.
  [[nodiscard]] Eigen::VectorXd amps(int device, int winding) const;
};

/// The mains' volts over time, rising through nothing at 0.
std::function<double(double seconds)> mainsWave(const amp::SupplyWiring& supply);

constexpr int stepsPerPeriod = 256;

/// Newton's method between the supply's periodic state and the amplifier's DC equations, until the rails agree within
/// 0.1 mV. `like`: the answer for a like circuit, or null: changes how fast, never what. A supply without mains,
/// without a steady state or an amplifier without DC point is a Problem.
tl::expected<SupplyIdle, Problem> predictSupplyIdle(const amp::Circuit& circuit, const SupplyIdle* like = nullptr,
                                                    const SupplyQuestion& question = {});

/// The circuit's netlist with every diode of the supply as it is on average: what has a DC point.
circuit::Netlist averagedNetlist(const amp::Circuit& circuit, const SupplyIdle& idle);

} // namespace vinegar::predict
