#include "circuit/ac.h"

#include <Eigen/LU>
#include <cmath>
#include <numbers>

namespace vinegar::circuit {
namespace {

double radians(double hertz) { return 2 * std::numbers::pi * hertz; }

} // namespace

tl::expected<AcSolution, Problem> solveAc(const System& system, const Eigen::VectorXd& operatingPoint,
                                          const std::vector<double>& hertz, AcPlan* plan) {
  AcSolution solution{hertz, Eigen::MatrixXcd(system.size(), static_cast<Eigen::Index>(hertz.size()))};
  auto problem = sweepSmallSignal(system, operatingPoint, hertz, plan, [&](const SweepBlock& block) {
    for (std::size_t lane = 0; lane < block.count; ++lane) {
      auto column = solution.x.col(static_cast<Eigen::Index>(block.first + lane));
      for (int i = 0; i < system.size(); ++i)
        column[i] = {block.x()[i].re[lane], block.x()[i].im[lane]};
    }
  });
  if (problem) return tl::unexpected(*problem);
  return solution;
}

AcSolution solveAcDense(const System& system, const Eigen::VectorXd& operatingPoint, const std::vector<double>& hertz) {
  const auto entries = smallSignalEntries(system, operatingPoint);
  AcSolution solution{hertz, Eigen::MatrixXcd(system.size(), static_cast<Eigen::Index>(hertz.size()))};
  for (std::size_t k = 0; k < hertz.size(); ++k) {
    Eigen::MatrixXcd matrix = Eigen::MatrixXcd::Zero(system.size(), system.size());
    for (const auto& entry : entries)
      matrix(entry.row, entry.column) += entry.at(radians(hertz[k]));
    solution.x.col(static_cast<Eigen::Index>(k)) = matrix.partialPivLu().solve(system.acExcitation());
  }
  return solution;
}

std::vector<double> logSpaced(double low, double high, int count) {
  std::vector<double> values;
  values.reserve(static_cast<std::size_t>(count));
  for (int i = 0; i < count; ++i)
    values.push_back(count == 1 ? low : low * std::pow(high / low, static_cast<double>(i) / (count - 1)));
  if (count > 1) values.back() = high;
  return values;
}

} // namespace vinegar::circuit
