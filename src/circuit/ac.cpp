#include "circuit/ac.h"

#include <Eigen/KLUSupport>
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <numbers>

namespace vinegar::circuit {
namespace {

constexpr double trustedResidual = 1e-10;
/// Just above rounding, so that the quick check sends every doubt to the full one.
constexpr double quickResidualLimit = 1e-13;

std::vector<Entry> smallSignalEntries(const System& system, const Eigen::VectorXd& operatingPoint) {
  std::vector<Entry> entries;
  Eigen::VectorXd current = Eigen::VectorXd::Zero(system.size());
  std::vector<System::Triplet> slopes;
  system.nonlinear(operatingPoint, current, slopes);
  entries.reserve(system.conductance().size() + slopes.size() + system.storage().size());
  for (const auto& t : system.conductance())
    entries.push_back({t.row(), t.col(), t.value(), 0});
  for (const auto& t : slopes)
    entries.push_back({t.row(), t.col(), t.value(), 0});
  for (const auto& t : system.storage())
    entries.push_back({t.row(), t.col(), 0, t.value()});
  return entries;
}

double radians(double hertz) { return 2 * std::numbers::pi * hertz; }

bool solveWithFreshPivots(const std::vector<Entry>& entries, double omega, const Eigen::VectorXcd& excitation,
                          Eigen::MatrixXcd& x, Eigen::Index column) {
  using Complex = std::complex<double>;
  std::vector<Eigen::Triplet<Complex>> triplets;
  triplets.reserve(entries.size());
  for (const auto& entry : entries)
    triplets.emplace_back(entry.row, entry.column, Complex(entry.g, omega * entry.c));
  Eigen::SparseMatrix<Complex> matrix(excitation.size(), excitation.size());
  matrix.setFromTriplets(triplets.begin(), triplets.end());
  Eigen::KLU<Eigen::SparseMatrix<Complex>> klu(matrix);
  if (klu.info() != Eigen::Success) return false;
  x.col(column) = klu.solve(excitation);
  return klu.info() == Eigen::Success && x.col(column).allFinite();
}

} // namespace

tl::expected<AcSolution, Problem> solveAc(const System& system, const Eigen::VectorXd& operatingPoint,
                                          const std::vector<double>& hertz, AcPlan* plan) {
  const auto entries = smallSignalEntries(system, operatingPoint);
  AcPlan own;
  AcPlan& elimination = plan ? *plan : own;
  const auto& b = system.acExcitation();
  const std::vector<std::complex<double>> excitation(b.data(), b.data() + b.size());
  AcSolution solution{hertz, Eigen::MatrixXcd(system.size(), static_cast<Eigen::Index>(hertz.size()))};
  if (hertz.empty()) return solution;

  const auto makePlan = [&] {
    const auto [low, high] = std::minmax_element(hertz.begin(), hertz.end());
    const double middle = std::sqrt(*low * *high);
    elimination = std::make_shared<Elimination>(system.size(), entries,
                                                std::vector{radians(*low), radians(middle), radians(*high)});
  };
  const bool reused = elimination != nullptr;
  if (!reused) makePlan();
  const auto [low, high] = std::minmax_element(hertz.begin(), hertz.end());
  const double middle = radians(std::sqrt(*low * *high));
  Elimination::Loaded loaded;
  if (elimination->usable()) loaded = elimination->load(entries, excitation, middle);
  Elimination::Workspace workspace;
  bool remade = !reused;
  for (std::size_t first = 0; first < hertz.size(); first += Elimination::lanes) {
    Elimination::Lane omega;
    for (std::size_t lane = 0; lane < Elimination::lanes; ++lane)
      omega[lane] = radians(hertz[std::min(first + lane, hertz.size() - 1)]);
    // Every point gets the quick check; every eighth block, and whatever the quick check doubts, the full one.
    const bool thorough = first % (8 * Elimination::lanes) == 0;
    const auto trusted = [&] {
      if (!elimination->usable()) return false;
      elimination->sweep(loaded, omega, workspace);
      if (!thorough && elimination->quickResidual(loaded, omega, workspace) <= quickResidualLimit) return true;
      return elimination->fullResidual(loaded, omega, workspace) <= trustedResidual;
    };
    bool good = trusted();
    if (!good && !remade) {
      remade = true;
      makePlan();
      if (elimination->usable()) loaded = elimination->load(entries, excitation, middle);
      good = trusted();
    }
    for (std::size_t lane = 0; lane < Elimination::lanes && first + lane < hertz.size(); ++lane) {
      const auto column = static_cast<Eigen::Index>(first + lane);
      if (good) {
        for (int i = 0; i < system.size(); ++i) {
          const auto& number = workspace.unknowns[static_cast<std::size_t>(i)];
          solution.x(i, column) = {number.re[lane], number.im[lane]};
        }
      } else if (!solveWithFreshPivots(entries, omega[lane], b, solution.x, column)) {
        return tl::unexpected(Problem{fmt::format("{:.3g} Hz", hertz[first + lane]),
                                      "the circuit has no single answer at this frequency; look for a part shorted or "
                                      "left hanging"});
      }
    }
  }
  return solution;
}

AcSolution solveAcDense(const System& system, const Eigen::VectorXd& operatingPoint, const std::vector<double>& hertz) {
  const auto entries = smallSignalEntries(system, operatingPoint);
  AcSolution solution{hertz, Eigen::MatrixXcd(system.size(), static_cast<Eigen::Index>(hertz.size()))};
  for (std::size_t k = 0; k < hertz.size(); ++k) {
    Eigen::MatrixXcd matrix = Eigen::MatrixXcd::Zero(system.size(), system.size());
    for (const auto& entry : entries)
      matrix(entry.row, entry.column) += std::complex<double>(entry.g, radians(hertz[k]) * entry.c);
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
