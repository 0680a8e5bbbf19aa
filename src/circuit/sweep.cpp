#include "circuit/sweep.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <numbers>

namespace vinegar::circuit {
namespace {

using Number = Elimination::Number;

constexpr double trustedResidual = 1e-10;
constexpr int mostRefinements = 4;
/// Just above rounding, so that the quick check sends every doubt to the full one.
constexpr double quickResidualLimit = 1e-13;

double radiansOf(double hertz) { return 2 * std::numbers::pi * hertz; }

} // namespace

void SweepBlock::transposed(int column, std::vector<Number>& answer) const {
  Number one{};
  one.re.fill(1);
  transposed({{column, one}}, answer);
}

void SweepBlock::transposed(const std::vector<std::pair<int, Number>>& wanted, std::vector<Number>& answer) const {
  if (elimination_) return elimination_->solveTransposed(wanted, *workspace_, answer);
  std::vector<Number> weights(static_cast<std::size_t>(pivoted_->front()->size()), Number{});
  for (const auto& [column, weight] : wanted)
    weights[static_cast<std::size_t>(column)] = weight;
  byLane(weights, answer, true);
}

void SweepBlock::again(std::vector<Number>& excitation, std::vector<Number>& answer) const {
  if (elimination_) return elimination_->solveAgain(excitation, *workspace_, answer);
  byLane(excitation, answer, false);
}

void SweepBlock::byLane(const std::vector<Number>& excitation, std::vector<Number>& answer, bool transposed) const {
  const auto n = static_cast<std::size_t>(pivoted_->front()->size());
  answer.assign(n, Number{});
  Pivoted::Vector own(n);
  for (std::size_t lane = 0; lane < Elimination::lanes; ++lane) {
    for (std::size_t i = 0; i < n; ++i)
      own[i] = {excitation[i].re[lane], excitation[i].im[lane]};
    const auto& solver = *(*pivoted_)[std::min(lane, pivoted_->size() - 1)];
    const auto x = transposed ? solver.solveTransposed(own) : solver.solve(own);
    for (std::size_t i = 0; i < x.size(); ++i) {
      answer[i].re[lane] = x[i].real();
      answer[i].im[lane] = x[i].imag();
    }
  }
}

/// One sweep: what its blocks share.
class Sweeper {
public:
  Sweeper(const System& system, const Eigen::VectorXd& operatingPoint, const std::vector<double>& hertz, AcPlan& plan)
      : system_(system), hertz_(hertz), plan_(plan), entries_(smallSignalEntries(system, operatingPoint)),
        excitation_(system.acExcitation().data(), system.acExcitation().data() + system.size()) {
    const auto [low, high] = std::minmax_element(hertz.begin(), hertz.end());
    const double first = radiansOf(*low), last = radiansOf(*high);
    middle_ = std::sqrt(first * last);
    if (!plan_) makePlan({first, middle_, last});
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
      if (trusted(block.radians, thorough) || (makeOwnPlan(block.radians) && trusted(block.radians, true))) {
        block.elimination_ = plan_.get();
        block.workspace_ = &workspace_;
        block.x_ = workspace_.unknowns.data();
      } else if (solveByLane(block)) {
        ownPlansServe_ = false; // or every block would make one in vain
        block.elimination_ = nullptr;
        block.pivoted_ = &pivoted_;
        block.x_ = byLane_.data();
      } else {
        return Problem{fmt::format("{:.3g} Hz", hertz_[block.first]),
                       "the circuit has no single answer at this frequency; look for a part shorted or left hanging"};
      }
      take(block);
    }
    return std::nullopt;
  }

private:
  void makePlan(const std::vector<double>& radians) {
    plan_ = std::make_shared<Elimination>(system_.size(), entries_, radians);
  }
  bool makeOwnPlan(const Elimination::Lane& radians) {
    if (!ownPlansServe_) return false;
    makePlan({radians.begin(), radians.end()});
    load();
    return true;
  }
  bool solveByLane(const SweepBlock& block) {
    pivoted_.clear();
    byLane_.assign(static_cast<std::size_t>(system_.size()), Number{});
    for (std::size_t lane = 0; lane < block.count; ++lane) {
      pivoted_.push_back(std::make_unique<Pivoted>(system_.size(), entries_, block.radians[lane]));
      if (!pivoted_.back()->hasOneAnswer(excitation_)) return false;
      const auto x = pivoted_.back()->solve(excitation_);
      for (std::size_t i = 0; i < x.size(); ++i) {
        byLane_[i].re[lane] = x[i].real();
        byLane_[i].im[lane] = x[i].imag();
      }
    }
    return true;
  }
  void load() {
    if (plan_->usable()) loaded_ = plan_->load(entries_, excitation_, middle_);
  }

  bool trusted(const Elimination::Lane& radians, bool thorough) {
    if (!plan_->usable()) return false;
    plan_->sweep(loaded_, radians, workspace_);
    if (!thorough && plan_->quickResidual(loaded_, radians, workspace_) <= quickResidualLimit) return true;
    double residual = plan_->fullResidual(loaded_, radians, workspace_);
    // Fixed pivots lose digits where they are small; as long as some are right, refining brings the rest back.
    for (int i = 0; i < mostRefinements && residual > trustedResidual; ++i) {
      plan_->refine(workspace_, correction_);
      const double next = plan_->fullResidual(loaded_, radians, workspace_);
      if (!(next < residual / 2)) return next <= trustedResidual;
      residual = next;
    }
    return residual <= trustedResidual;
  }

  const System& system_;
  const std::vector<double>& hertz_;
  AcPlan& plan_;
  std::vector<Entry> entries_;
  std::vector<std::complex<double>> excitation_;
  double middle_ = 0;
  Elimination::Loaded loaded_;
  Elimination::Workspace workspace_;
  std::vector<Number> correction_, byLane_;
  SweepBlock::Lanes pivoted_;
  bool ownPlansServe_ = true;
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
  for (const auto& d : system.delayed())
    entries.push_back({d.row, d.column, d.gain, 0, d.seconds});
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
