#pragma once

#include "circuit/sweep.h"

namespace vinegar::circuit {

/// Phasors of every unknown at every frequency, for the netlist's AC sources.
struct AcSolution {
  std::vector<double> hertz;
  Eigen::MatrixXcd x; ///< rows as in System, one column per frequency

  [[nodiscard]] std::complex<double> volts(Node node, std::size_t index) const {
    return node == 0 ? 0.0 : x(node - 1, static_cast<Eigen::Index>(index));
  }
};

/// Small-signal sweep at a DC operating point, every unknown kept: sweepSmallSignal says how and what can go wrong.
tl::expected<AcSolution, Problem> solveAc(const System& system, const Eigen::VectorXd& operatingPoint,
                                          const std::vector<double>& hertz, AcPlan* plan = nullptr);

/// The same by a plain dense complex LU at each point: slow, and shares nothing with solveAc but the equations.
AcSolution solveAcDense(const System& system, const Eigen::VectorXd& operatingPoint, const std::vector<double>& hertz);

/// `count` frequencies from `low` to `high`, evenly spaced in ratio, both ends exact.
std::vector<double> logSpaced(double low, double high, int count);

} // namespace vinegar::circuit
