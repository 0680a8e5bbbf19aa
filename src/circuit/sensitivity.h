#pragma once

#include "circuit/noise.h"

namespace vinegar::circuit {

/// Something about a circuit that can be a little more or less: a part's value, a tube's emission. Given as the laws of
/// its devices a small step up and down.
struct Parameter {
  std::vector<std::pair<int, Law>> up, down;
  double step = 0; ///< from the middle to either side, in the parameter's own unit
};

/// d(unknown)/d(parameter) at DC: one column per parameter, rows as in System. One factorisation serves all.
Eigen::MatrixXd dcSensitivities(const System& system, const Eigen::VectorXd& operatingPoint,
                                const std::vector<Parameter>& parameters);

/// d ln(volts(to) / volts(from)) / d(parameter), complex: the real part times 20/ln 10 is decibels, the imaginary part
/// radians. One row per parameter, one column per frequency. What a parameter does by moving the operating point is
/// included. One transposed solve per frequency serves all parameters (S. W. Director and R. A. Rohrer, The generalized
/// adjoint network and network sensitivities, IEEE Transactions on Circuit Theory, 1969).
tl::expected<Eigen::MatrixXcd, Problem>
responseSensitivities(const System& system, const Eigen::VectorXd& operatingPoint, const std::vector<double>& hertz,
                      Node from, Node to, const std::vector<Parameter>& parameters, AcPlan* plan = nullptr);

/// d ln(noise density at `output`) / d(parameter); rows and columns as above.
tl::expected<Eigen::MatrixXd, Problem> noiseSensitivities(const System& system, const Eigen::VectorXd& operatingPoint,
                                                          const std::vector<double>& hertz, Node output,
                                                          const std::vector<Parameter>& parameters,
                                                          AcPlan* plan = nullptr);

} // namespace vinegar::circuit
