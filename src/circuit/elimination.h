#pragma once

#include <array>
#include <complex>
#include <cstdint>
#include <vector>

namespace vinegar::circuit {

/// One matrix entry at jw: g + jw c, or where there is a delay, g exp(-jw delay).
struct Entry {
  int row, column;
  double g, c;
  double delay = 0;

  [[nodiscard]] std::complex<double> at(double radians) const {
    return delay > 0 ? g * std::polar(1.0, -radians * delay) : std::complex<double>(g, radians * c);
  }
};

/// Sparse elimination with pivots fixed in advance, recorded as a straight list of operations and replayed on eight
/// frequencies at once. The pivots are chosen by Markowitz's count (H. M. Markowitz, The elimination form of the
/// inverse, Management Science, 1957) among entries that are large enough at every sample frequency.
class Elimination {
public:
  static constexpr int lanes = 8;
  using Lane = std::array<double, lanes>;
  /// Real and imaginary parts of one number at `lanes` frequencies.
  struct alignas(64) Number {
    Lane re, im;
  };

  /// `entries` may repeat places; they add. The numbers serve to choose pivots; only the places are kept.
  Elimination(int size, const std::vector<Entry>& entries, const std::vector<double>& sampleRadians);

  [[nodiscard]] bool usable() const { return usable_; }
  [[nodiscard]] std::size_t operations() const { return updates_.size(); }

  /// The numbers of one circuit, one per place, with what the cheap check of an answer needs. Made once per sweep.
  struct Loaded {
    std::vector<Entry> places;
    /// Entries with a delay, which stay by themselves; with the weight of their row in the check.
    struct Delayed {
      std::int32_t slot;
      double weight;
      Entry entry;
    };
    std::vector<Delayed> delayed;
    std::vector<std::complex<double>> excitation;
    /// Rows weighted by random signs over their size, then summed: (sum of w A) x must equal (sum of w b).
    std::vector<Entry> weighted; ///< g, c: weighted sums of a column; row and column unused
    std::vector<Entry> size;     ///< the same of absolute values
    std::complex<double> weightedExcitation;
  };
  /// `entries` in the order given to the constructor. The check is scaled for frequencies around `middleRadians`.
  [[nodiscard]] Loaded load(const std::vector<Entry>& entries, const std::vector<std::complex<double>>& excitation,
                            double middleRadians) const;

  /// Working memory for one caller; make one per thread.
  struct Workspace {
    std::vector<Number> values;
    std::vector<Number> unknowns;
  };

  /// Eliminates at eight angular frequencies and solves for the excitation, the same at every frequency. Results are
  /// in workspace.unknowns.
  void sweep(const Loaded& loaded, const Lane& radians, Workspace& workspace) const;
  /// After `sweep`, with the same factors: solves for another excitation, one that may differ from lane to lane.
  /// `excitation` has one Number per row and is used up; `answer` one per unknown.
  void solveAgain(std::vector<Number>& excitation, const Workspace& workspace, std::vector<Number>& answer) const;
  /// After `sweep`, with the same factors: solves the transposed system, so that answer[row] is what a unit source in
  /// equation `row` does to the sum of weight times unknown over `wanted`. `answer` has one Number per row.
  void solveTransposed(const std::vector<std::pair<int, Number>>& wanted, const Workspace& workspace,
                       std::vector<Number>& answer) const;
  /// Residual of one weighted sum of all rows, relative to its terms: cheap, sees every kind of breakdown of the fixed
  /// pivots, but not a small loss in a quiet corner of the circuit.
  [[nodiscard]] double quickResidual(const Loaded& loaded, const Lane& radians, const Workspace& workspace) const;
  /// The largest residual of any row, relative to that row's own terms.
  [[nodiscard]] double fullResidual(const Loaded& loaded, const Lane& radians, Workspace& workspace) const;

  /// After `fullResidual`: corrects the unknowns by what the same factors make of the residual that it left.
  /// `correction` is working memory.
  void refine(Workspace& workspace, std::vector<Number>& correction) const;

private:
  struct Update {
    std::int32_t target, left, right;
  };
  struct Pivot {
    std::int32_t slot, row, column;
    std::int32_t factorsEnd; ///< end of this pivot's rows below, in factors_
    std::int32_t updatesEnd; ///< end of this pivot's updates
    std::int32_t upperEnd;   ///< end of this pivot's row to the right, in upper_
  };
  struct Factor {
    std::int32_t slot, row;
  };
  struct Upper {
    std::int32_t slot, column;
  };

  int size_;
  bool usable_ = false;
  std::size_t slotCount_ = 0;
  std::vector<std::pair<int, int>> places_; ///< row and column of the slots that entries fill
  std::vector<std::int32_t> entrySlots_;
  std::vector<Pivot> pivots_;
  std::vector<Factor> factors_;
  std::vector<Upper> upper_;
  std::vector<Update> updates_;
};

} // namespace vinegar::circuit
