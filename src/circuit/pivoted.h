#pragma once

#include "circuit/elimination.h"

#include <complex>
#include <memory>
#include <vector>

namespace vinegar::circuit {

/// The small-signal equations at one frequency by a sparse solve that chooses its pivots anew for these very numbers,
/// with rows scaled and the answer refined. Some thirty times slower than Elimination; for what its fixed pivots do not
/// serve. SuiteSparse's KLU (T. A. Davis and E. Palamadai Natarajan, Algorithm 907: KLU, ACM Trans. Math. Softw.,
/// 2010). One thread at a time.
class Pivoted {
public:
  using Vector = std::vector<std::complex<double>>;

  Pivoted(int size, const std::vector<Entry>& entries, double radians);
  ~Pivoted();
  Pivoted(const Pivoted&) = delete;
  Pivoted& operator=(const Pivoted&) = delete;

  [[nodiscard]] int size() const { return size_; }
  /// Whether there is one answer: a change of the entries in their last digits must not change it beyond a thousandth
  /// of its largest unknown. Costs a second solve.
  [[nodiscard]] bool hasOneAnswer(const Vector& excitation) const;
  /// Refined until the residual stops falling. Empty where the equations are singular.
  [[nodiscard]] Vector solve(const Vector& excitation) const;
  /// Of the transposed equations.
  [[nodiscard]] Vector solveTransposed(const Vector& excitation) const;

private:
  struct Factors;
  [[nodiscard]] Vector product(const Vector& x, bool transposed) const;
  [[nodiscard]] Vector refined(const Vector& excitation, bool transposed) const;

  int size_;
  std::vector<int> starts_, rows_;
  Vector values_;
  std::unique_ptr<Factors> factors_;
};

} // namespace vinegar::circuit
