#pragma once

#include "circuit/dc.h"
#include "circuit/elimination.h"
#include "circuit/pivoted.h"

#include <functional>
#include <memory>

namespace vinegar::circuit {

/// The elimination order, found once per topology and kept by whoever asks again with other values.
using AcPlan = std::shared_ptr<const Elimination>;

/// Small-signal answers at up to eight neighbouring frequencies.
class SweepBlock {
public:
  std::size_t first = 0, count = 0; ///< these frequencies of the sweep
  Elimination::Lane radians;
  /// One Number per unknown, for the netlist's AC sources.
  [[nodiscard]] const Elimination::Number* x() const { return x_; }
  /// answer[row]: what a unit source in equation `row` does to unknown `column`.
  void transposed(int column, std::vector<Elimination::Number>& answer) const;
  /// The same for a weighted sum of unknowns, each named once.
  void transposed(const std::vector<std::pair<int, Elimination::Number>>& wanted,
                  std::vector<Elimination::Number>& answer) const;
  /// Unknowns for another excitation, used up.
  void again(std::vector<Elimination::Number>& excitation, std::vector<Elimination::Number>& answer) const;

private:
  friend class Sweeper;
  using Lanes = std::vector<std::unique_ptr<Pivoted>>;
  /// Solves lane by lane where the fixed pivots did not serve.
  void byLane(const std::vector<Elimination::Number>& excitation, std::vector<Elimination::Number>& answer,
              bool transposed) const;

  const Elimination::Number* x_ = nullptr;
  const Elimination* elimination_ = nullptr; ///< null: `pivoted_` stands for it
  const Elimination::Workspace* workspace_ = nullptr;
  const Lanes* pivoted_ = nullptr;
};

/// Solves (G + di/dx + jwC) x = b at each frequency and hands the blocks on in order. `plan` is used if given and
/// written back. The residual is checked at every point (Elimination says how) and the answer refined where it is not
/// small; where a plan's pivots do not serve, one is made for that block's own frequencies, and where that does not
/// either, each frequency is solved with pivots of its own (Pivoted). A circuit that has no single answer then is the
/// Problem returned.
std::optional<Problem> sweepSmallSignal(const System& system, const Eigen::VectorXd& operatingPoint,
                                        const std::vector<double>& hertz, AcPlan* plan,
                                        const std::function<void(const SweepBlock&)>& take);

/// The entries of the small-signal equations, in the order that plans are made for.
std::vector<Entry> smallSignalEntries(const System& system, const Eigen::VectorXd& operatingPoint);

} // namespace vinegar::circuit
