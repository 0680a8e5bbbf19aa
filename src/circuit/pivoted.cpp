#include "circuit/pivoted.h"

#include <algorithm>
#include <cmath>
#include <klu.h>
#include <limits>

namespace vinegar::circuit {
namespace {

constexpr double sameAnswer = 1e-3; ///< of the largest unknown
constexpr double lastDigits = 8 * std::numeric_limits<double>::epsilon();
constexpr int mostSolveRefinements = 8;

double largest(const Pivoted::Vector& x) {
  double most = 0;
  for (const auto& value : x)
    most = std::max(most, std::isfinite(std::abs(value)) ? std::abs(value) : std::numeric_limits<double>::infinity());
  return most;
}

} // namespace

struct Pivoted::Factors {
  klu_common common{};
  klu_symbolic* symbolic = nullptr;
  klu_numeric* numeric = nullptr;

  Factors(int size, std::vector<int> starts, std::vector<int> rows, Vector values) {
    klu_defaults(&common);
    common.tol = 1;   // the largest of the column, whatever it fills
    common.scale = 2; // rows by their largest
    symbolic = klu_analyze(size, starts.data(), rows.data(), &common);
    if (symbolic)
      numeric = klu_z_factor(starts.data(), rows.data(), reinterpret_cast<double*>(values.data()), symbolic, &common);
  }
  ~Factors() {
    if (numeric) klu_z_free_numeric(&numeric, &common);
    if (symbolic) klu_free_symbolic(&symbolic, &common);
  }
  Factors(const Factors&) = delete;
  Factors& operator=(const Factors&) = delete;

  [[nodiscard]] bool usable() const { return numeric && common.status == KLU_OK; }

  bool solve(Vector& x, bool transposed) {
    if (!usable()) return false;
    auto* data = reinterpret_cast<double*>(x.data());
    const auto size = static_cast<int>(x.size());
    return (transposed ? klu_z_tsolve(symbolic, numeric, size, 1, data, 0, &common)
                       : klu_z_solve(symbolic, numeric, size, 1, data, &common)) == 1 &&
           std::isfinite(largest(x));
  }
};

Pivoted::Pivoted(int size, const std::vector<Entry>& entries, double radians)
    : size_(size), starts_(static_cast<std::size_t>(size) + 1, 0) {
  std::vector<const Entry*> order;
  order.reserve(entries.size());
  for (const auto& entry : entries)
    order.push_back(&entry);
  std::sort(order.begin(), order.end(), [](const Entry* a, const Entry* b) {
    return std::pair{a->column, a->row} < std::pair{b->column, b->row};
  });
  int column = -1, row = -1;
  for (const auto* entry : order) {
    if (entry->column != column || entry->row != row) {
      rows_.push_back(entry->row);
      values_.emplace_back(0);
      ++starts_[static_cast<std::size_t>(entry->column) + 1];
    }
    column = entry->column;
    row = entry->row;
    values_.back() += entry->at(radians);
  }
  for (std::size_t c = 0; c < static_cast<std::size_t>(size); ++c)
    starts_[c + 1] += starts_[c];
  factors_ = std::make_unique<Factors>(size, starts_, rows_, values_);
}

Pivoted::~Pivoted() = default;

Pivoted::Vector Pivoted::product(const Vector& x, bool transposed) const {
  Vector y(x.size());
  for (std::size_t c = 0; c < static_cast<std::size_t>(size_); ++c)
    for (auto k = static_cast<std::size_t>(starts_[c]); k < static_cast<std::size_t>(starts_[c + 1]); ++k) {
      const auto r = static_cast<std::size_t>(rows_[k]);
      if (transposed)
        y[c] += values_[k] * x[r];
      else
        y[r] += values_[k] * x[c];
    }
  return y;
}

Pivoted::Vector Pivoted::refined(const Vector& excitation, bool transposed) const {
  Vector x = excitation;
  if (!factors_->solve(x, transposed)) return {};
  double before = std::numeric_limits<double>::infinity();
  for (int i = 0; i < mostSolveRefinements; ++i) {
    Vector step = product(x, transposed);
    for (std::size_t k = 0; k < step.size(); ++k)
      step[k] = excitation[k] - step[k];
    if (!factors_->solve(step, transposed)) return {};
    const double moved = largest(step);
    if (!(moved < before / 2)) break;
    before = moved;
    for (std::size_t k = 0; k < x.size(); ++k)
      x[k] += step[k];
    if (moved == 0) break;
  }
  return x;
}

Pivoted::Vector Pivoted::solve(const Vector& excitation) const { return refined(excitation, false); }
Pivoted::Vector Pivoted::solveTransposed(const Vector& excitation) const { return refined(excitation, true); }

bool Pivoted::hasOneAnswer(const Vector& excitation) const {
  const Vector x = solve(excitation);
  if (x.empty()) return false;
  Vector shaken = values_;
  std::uint32_t random = 0x2545f491U; // the same every time
  for (auto& value : shaken) {
    random = random * 1664525U + 1013904223U;
    value *= 1 + lastDigits * (random >> 31 ? 1.0 : -1.0);
  }
  Factors other(size_, starts_, rows_, shaken);
  Vector y = excitation;
  if (!other.solve(y, false)) return false;
  for (std::size_t k = 0; k < x.size(); ++k)
    y[k] -= x[k];
  return largest(y) <= sameAnswer * largest(x);
}

} // namespace vinegar::circuit
