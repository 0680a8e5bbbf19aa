#pragma once

#include "amp/compile/compile.h"
#include "circuit/dc.h"

#include <memory>

namespace vinegar::predict {

/// The amplifier as its supply sees it: what it draws from the rails at given volts, from its own DC equations.
class AmpLoad {
public:
  explicit AmpLoad(const amp::Circuit& circuit);

  /// Nodes that supply and amplifier share, as numbers of the circuit's netlist.
  [[nodiscard]] const std::vector<circuit::Node>& nodes() const { return nodes_; }
  /// Currents out of the supply and their slopes, linear about `volts` of those nodes. `emission` is the share of their
  /// current that the tubes give; 0: cold or pulled. No DC solution is a Problem.
  tl::expected<circuit::Norton, Problem> at(const Eigen::VectorXd& volts, double emission = 1);
  /// The same with each tube at its own share, by its place among the circuit's tubes.
  tl::expected<circuit::Norton, Problem> at(const Eigen::VectorXd& volts, const std::vector<double>& emissions);
  /// Whether what it draws is linear in the volts: tubes that give nothing, and nothing else that bends.
  [[nodiscard]] bool isLinear(const std::vector<double>& emissions) const;
  /// Volts of a circuit's node as of the last solution; 0 for one that only the supply has.
  [[nodiscard]] double volts(circuit::Node node) const;

private:
  std::vector<circuit::Node> nodes_;
  std::vector<circuit::Node> own_; ///< by node of the circuit's netlist: of the load's, or -1
  struct Tube {
    int device;
    circuit::Law law;
  };
  std::vector<Tube> tubes_;
  std::vector<int> sources_;
  std::vector<double> emissions_;
  std::unique_ptr<circuit::System> system_;
  std::unique_ptr<circuit::DcSolver> solver_;
  Eigen::VectorXd x_;
};

} // namespace vinegar::predict
