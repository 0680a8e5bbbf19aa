#include "circuit/poles.h"

#include "circuit/sweep.h"

#include <Eigen/Eigenvalues>
#include <algorithm>
#include <cmath>

namespace vinegar::circuit {

std::vector<std::complex<double>> findPoles(const System& system, const Eigen::VectorXd& operatingPoint) {
  const int n = system.size();
  Eigen::MatrixXd G = Eigen::MatrixXd::Zero(n, n), C = Eigen::MatrixXd::Zero(n, n);
  for (const auto& entry : smallSignalEntries(system, operatingPoint)) {
    if (entry.delay > 0) continue;
    G(entry.row, entry.column) += entry.g;
    C(entry.row, entry.column) += entry.c;
  }
  // (G + s C) x = 0 with (G + s0 C) = A: x = (s0 - s) A^-1 C x, so that the eigenvalues of A^-1 C are 1/(s0 - s) and
  // the infinite ones fall to zero instead of spreading over the finite. Each shift is trusted for poles near its size.
  std::vector<std::complex<double>> poles;
  for (int decade = -1; decade <= 9; ++decade) {
    const double shift = std::pow(10.0, decade);
    const Eigen::MatrixXd A = G + shift * C;
    const auto lu = A.fullPivLu();
    const Eigen::VectorXcd values = Eigen::EigenSolver<Eigen::MatrixXd>(lu.solve(C), false).eigenvalues();
    for (const auto& value : values) {
      if (std::abs(value) == 0) continue;
      const auto s = shift - 1.0 / value;
      const double size = std::abs(s) / shift;
      if (size >= std::sqrt(0.1) && size < std::sqrt(10.0)) poles.push_back(s);
    }
  }
  std::sort(poles.begin(), poles.end(), [](const auto& a, const auto& b) {
    return std::abs(a) != std::abs(b) ? std::abs(a) < std::abs(b) : a.imag() < b.imag();
  });
  return poles;
}

} // namespace vinegar::circuit
