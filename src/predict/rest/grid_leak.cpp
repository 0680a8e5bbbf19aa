#include "predict/rest/grid_leak.h"

#include <Eigen/KLUSupport>

namespace vinegar::predict {

std::optional<double> gridLeakOhms(const Idle& idle, const std::string& tube) {
  const auto* part = idle.circuit->part(tube);
  if (!part || !amp::isTube(part->resolved.part->kind) || part->devices.empty()) return std::nullopt;
  const auto& system = *idle.point.system;
  const int n = system.size();
  constexpr double leakage = 1e-12, open = 1e11; // siemens, so that what hangs on capacitors has an answer; ohms
  auto entries = system.conductance();
  for (int i = 0; i + 1 < system.netlist().nodeCount(); ++i)
    entries.emplace_back(i, i, leakage);
  Eigen::SparseMatrix<double> matrix(n, n);
  matrix.setFromTriplets(entries.begin(), entries.end());
  Eigen::KLU<Eigen::SparseMatrix<double>> factors(matrix);
  const auto row = circuit::System::row(part->nodes[part->nodes.size() - 2]);
  if (row < 0 || factors.info() != Eigen::Success) return std::nullopt;
  const Eigen::VectorXd one = Eigen::VectorXd::Unit(n, row), volts = factors.solve(one);
  if (!volts.allFinite() || !(volts[row] > 0) || volts[row] > open) return std::nullopt;
  return volts[row];
}

} // namespace vinegar::predict
