#include "circuit/sweep.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <numbers>

namespace vinegar::circuit {
namespace {

using Number = Elimination::Number;

constexpr double trustedResidual = 1e-10;
/// Just above rounding, so that the quick check sends every doubt to the full one.
constexpr double quickResidualLimit = 1e-13;

double radiansOf(double hertz) { return 2 * std::numbers::pi * hertz; }

void store(std::vector<Number>& numbers, const Eigen::VectorXcd& from, std::size_t lane) {
  for (std::size_t i = 0; i < numbers.size(); ++i) {
    numbers[i].re[lane] = from[static_cast<Eigen::Index>(i)].real();
    numbers[i].im[lane] = from[static_cast<Eigen::Index>(i)].imag();
  }
}

} // namespace

void SweepBlock::transposed(int column, std::vector<Number>& answer) const {
  Number one{};
  one.re.fill(1);
  transposed({{column, one}}, answer);
}

void SweepBlock::transposed(const std::vector<std::pair<int, Number>>& wanted, std::vector<Number>& answer) const {
  if (fresh_.empty()) return elimination_->solveTransposed(wanted, *workspace_, answer);
  const auto n = fresh_.front().rows();
  answer.assign(static_cast<std::size_t>(n), Number{});
  for (std::size_t lane = 0; lane < fresh_.size(); ++lane) {
    Eigen::VectorXcd weights = Eigen::VectorXcd::Zero(n);
    for (const auto& [column, weight] : wanted)
      weights[column] = {weight.re[lane], weight.im[lane]};
    store(answer, fresh_[lane].transpose().solve(weights), lane);
  }
}

void SweepBlock::again(std::vector<Number>& excitation, std::vector<Number>& answer) const {
  if (fresh_.empty()) return elimination_->solveAgain(excitation, *workspace_, answer);
  answer.assign(excitation.size(), Number{});
  Eigen::VectorXcd b(static_cast<Eigen::Index>(excitation.size()));
  for (std::size_t lane = 0; lane < fresh_.size(); ++lane) {
    for (std::size_t i = 0; i < excitation.size(); ++i)
      b[static_cast<Eigen::Index>(i)] = {excitation[i].re[lane], excitation[i].im[lane]};
    store(answer, fresh_[lane].solve(b), lane);
  }
}

/// One sweep: what its blocks share.
class Sweeper {
public:
  Sweeper(const System& system, const Eigen::VectorXd& operatingPoint, const std::vector<double>& hertz, AcPlan& plan)
      : system_(system), hertz_(hertz), plan_(plan), entries_(smallSignalEntries(system, operatingPoint)),
        excitation_(system.acExcitation().data(), system.acExcitation().data() + system.size()) {
    const auto [low, high] = std::minmax_element(hertz.begin(), hertz.end());
    low_ = radiansOf(*low);
    high_ = radiansOf(*high);
    madeNow_ = !plan_;
    if (madeNow_) makePlan();
    load();
  }

  std::optional<Problem> run(const std::function<void(const SweepBlock&)>& take) {
    SweepBlock block;
    for (block.first = 0; block.first < hertz_.size(); block.first += Elimination::lanes) {
      block.count = std::min<std::size_t>(Elimination::lanes, hertz_.size() - block.first);
      for (std::size_t lane = 0; lane < Elimination::lanes; ++lane)
        block.radians[lane] = radiansOf(hertz_[std::min(block.first + lane, hertz_.size() - 1)]);
      // Every eighth block, and whatever the quick check doubts, gets the full check.
      const bool thorough = block.first % (std::size_t{8} * Elimination::lanes) == 0;
      bool good = trusted(block.radians, thorough);
      if (!good && !madeNow_) {
        madeNow_ = true;
        makePlan();
        load();
        good = trusted(block.radians, thorough);
      }
      block.elimination_ = plan_.get();
      block.workspace_ = &workspace_;
      block.x_ = workspace_.unknowns.data();
      block.fresh_.clear();
      if (!good)
        if (auto problem = solveFresh(block)) return problem;
      take(block);
    }
    return std::nullopt;
  }

private:
  void makePlan() {
    plan_ = std::make_shared<Elimination>(system_.size(), entries_, std::vector{low_, std::sqrt(low_ * high_), high_});
  }
  void load() {
    if (plan_->usable()) loaded_ = plan_->load(entries_, excitation_, std::sqrt(low_ * high_));
  }

  bool trusted(const Elimination::Lane& radians, bool thorough) {
    if (!plan_->usable()) return false;
    plan_->sweep(loaded_, radians, workspace_);
    if (!thorough && plan_->quickResidual(loaded_, radians, workspace_) <= quickResidualLimit) return true;
    return plan_->fullResidual(loaded_, radians, workspace_) <= trustedResidual;
  }

  std::optional<Problem> solveFresh(SweepBlock& block) {
    const auto n = system_.size();
    block.freshX_.assign(static_cast<std::size_t>(n), Number{});
    for (std::size_t lane = 0; lane < block.count; ++lane) {
      Eigen::MatrixXcd matrix = Eigen::MatrixXcd::Zero(n, n);
      for (const auto& entry : entries_)
        matrix(entry.row, entry.column) += std::complex<double>(entry.g, block.radians[lane] * entry.c);
      block.fresh_.emplace_back(matrix);
      const Eigen::VectorXcd x = block.fresh_.back().solve(system_.acExcitation());
      const double rest = (matrix * x - system_.acExcitation()).cwiseAbs().maxCoeff();
      const double scale = (matrix.cwiseAbs() * x.cwiseAbs()).maxCoeff() + system_.acExcitation().cwiseAbs().maxCoeff();
      // Nothing real conducts less than this; what rests on it is not determined.
      const double least = block.fresh_.back().matrixLU().diagonal().cwiseAbs().minCoeff();
      if (!x.allFinite() || rest > 1e-9 * scale || least < 1e-18)
        return Problem{fmt::format("{:.3g} Hz", hertz_[block.first + lane]),
                       "the circuit has no single answer at this frequency; look for a part shorted or left hanging"};
      store(block.freshX_, x, lane);
    }
    block.x_ = block.freshX_.data();
    return std::nullopt;
  }

  const System& system_;
  const std::vector<double>& hertz_;
  AcPlan& plan_;
  std::vector<Entry> entries_;
  std::vector<std::complex<double>> excitation_;
  double low_ = 0, high_ = 0;
  bool madeNow_ = false;
  Elimination::Loaded loaded_;
  Elimination::Workspace workspace_;
};

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

std::optional<Problem> sweepSmallSignal(const System& system, const Eigen::VectorXd& operatingPoint,
                                        const std::vector<double>& hertz, AcPlan* plan,
                                        const std::function<void(const SweepBlock&)>& take) {
  if (hertz.empty()) return std::nullopt;
  AcPlan own;
  return Sweeper(system, operatingPoint, hertz, plan ? *plan : own).run(take);
}

} // namespace vinegar::circuit
