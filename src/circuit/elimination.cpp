#include "circuit/elimination.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <map>

#if defined(__x86_64__) && defined(__GNUC__) && !defined(__clang__) && !defined(VINEGAR_NO_TARGET_CLONES)
#define VINEGAR_WIDE __attribute__((target_clones("default", "avx2,fma", "arch=x86-64-v4")))
#else
#define VINEGAR_WIDE
#endif

namespace vinegar::circuit {
namespace {

using Number = Elimination::Number;
constexpr int lanes = Elimination::lanes;

/// A pivot must be at least this share of the largest entry in its column at every sample frequency.
constexpr double pivotShare = 1e-3;

inline void multiplySubtract(Number& target, const Number& a, const Number& b) {
  for (int i = 0; i < lanes; ++i) {
    target.re[i] -= a.re[i] * b.re[i] - a.im[i] * b.im[i];
    target.im[i] -= a.re[i] * b.im[i] + a.im[i] * b.re[i];
  }
}

inline void multiply(Number& target, const Number& a, const Number& b) {
  for (int i = 0; i < lanes; ++i) {
    const double re = a.re[i] * b.re[i] - a.im[i] * b.im[i];
    target.im[i] = a.re[i] * b.im[i] + a.im[i] * b.re[i];
    target.re[i] = re;
  }
}

inline void invert(Number& a) {
  for (int i = 0; i < lanes; ++i) {
    const double scale = 1 / (a.re[i] * a.re[i] + a.im[i] * a.im[i]);
    a.re[i] *= scale;
    a.im[i] *= -scale;
  }
}

/// The matrix during planning: a small complex vector, one number per sample frequency, at each place.
struct Planner {
  using Samples = std::vector<std::complex<double>>;
  struct Place {
    std::int32_t slot;
    Samples values;
  };
  std::vector<std::map<int, Place>> rows;
  std::vector<std::vector<int>> columnRows; ///< rows that have this column (may hold eliminated rows)
  std::size_t samples;

  [[nodiscard]] bool largeEnough(int row, int column, const std::vector<bool>& rowDone) const {
    const auto& pivot = rows[static_cast<std::size_t>(row)].at(column).values;
    for (std::size_t s = 0; s < samples; ++s) {
      double largest = 0;
      for (const int r : columnRows[static_cast<std::size_t>(column)])
        if (!rowDone[static_cast<std::size_t>(r)])
          largest = std::max(largest, std::abs(rows[static_cast<std::size_t>(r)].at(column).values[s]));
      if (!(std::abs(pivot[s]) > 0) || std::abs(pivot[s]) < pivotShare * largest) return false;
    }
    return true;
  }
};

} // namespace

Elimination::Elimination(int size, const std::vector<Entry>& entries, const std::vector<double>& sampleRadians)
    : size_(size) {
  Planner plan;
  plan.samples = sampleRadians.size();
  plan.rows.resize(static_cast<std::size_t>(size));
  plan.columnRows.resize(static_cast<std::size_t>(size));
  const auto placeAt = [&](int row, int column) -> Planner::Place& {
    auto [place, isNew] = plan.rows[static_cast<std::size_t>(row)].try_emplace(column);
    if (isNew) {
      place->second.slot = static_cast<std::int32_t>(slotCount_++);
      place->second.values.assign(plan.samples, 0);
      plan.columnRows[static_cast<std::size_t>(column)].push_back(row);
    }
    return place->second;
  };
  for (const auto& entry : entries) {
    auto& place = placeAt(entry.row, entry.column);
    entrySlots_.push_back(place.slot);
    for (std::size_t s = 0; s < plan.samples; ++s)
      place.values[s] += std::complex<double>(entry.g, sampleRadians[s] * entry.c);
  }

  std::vector<bool> rowDone(static_cast<std::size_t>(size)), columnDone(static_cast<std::size_t>(size));
  for (int step = 0; step < size; ++step) {
    std::vector<int> columnCount(static_cast<std::size_t>(size));
    for (int r = 0; r < size; ++r)
      if (!rowDone[static_cast<std::size_t>(r)])
        for (const auto& [c, place] : plan.rows[static_cast<std::size_t>(r)])
          if (!columnDone[static_cast<std::size_t>(c)]) ++columnCount[static_cast<std::size_t>(c)];
    long best = std::numeric_limits<long>::max();
    int pivotRow = -1, pivotColumn = -1;
    for (int r = 0; r < size; ++r) {
      if (rowDone[static_cast<std::size_t>(r)]) continue;
      auto& row = plan.rows[static_cast<std::size_t>(r)];
      const auto rowCount = std::count_if(
          row.begin(), row.end(), [&](const auto& p) { return !columnDone[static_cast<std::size_t>(p.first)]; });
      for (const auto& [c, place] : row) {
        if (columnDone[static_cast<std::size_t>(c)]) continue;
        const long cost = (rowCount - 1) * (columnCount[static_cast<std::size_t>(c)] - 1);
        if (cost < best && plan.largeEnough(r, c, rowDone)) {
          best = cost;
          pivotRow = r;
          pivotColumn = c;
        }
      }
    }
    if (pivotRow < 0) return; // singular at some frequency: not usable

    auto& pivotEntries = plan.rows[static_cast<std::size_t>(pivotRow)];
    const auto pivot = pivotEntries.at(pivotColumn);
    for (const auto& [c, place] : pivotEntries)
      if (c != pivotColumn && !columnDone[static_cast<std::size_t>(c)]) upper_.push_back({place.slot, c});
    const auto below = plan.columnRows[static_cast<std::size_t>(pivotColumn)];
    for (const int r : below) {
      if (r == pivotRow || rowDone[static_cast<std::size_t>(r)]) continue;
      const auto left = plan.rows[static_cast<std::size_t>(r)].at(pivotColumn);
      factors_.push_back({left.slot, r});
      for (const auto& [c, right] : pivotEntries) {
        if (c == pivotColumn || columnDone[static_cast<std::size_t>(c)]) continue;
        auto& target = placeAt(r, c);
        updates_.push_back({target.slot, left.slot, right.slot});
        for (std::size_t s = 0; s < plan.samples; ++s)
          target.values[s] -= left.values[s] / pivot.values[s] * right.values[s];
      }
    }
    pivots_.push_back({pivot.slot, pivotRow, pivotColumn, static_cast<std::int32_t>(factors_.size()),
                       static_cast<std::int32_t>(updates_.size()), static_cast<std::int32_t>(upper_.size())});
    rowDone[static_cast<std::size_t>(pivotRow)] = true;
    columnDone[static_cast<std::size_t>(pivotColumn)] = true;
  }
  usable_ = true;
}

namespace {

VINEGAR_WIDE void replay(Number* values, Number* rhs, Number* x, const auto& pivots, const auto& factors,
                         const auto& updates, const auto& upper) {
  std::int32_t f = 0, u = 0;
  for (const auto& pivot : pivots) {
    Number inverse = values[pivot.slot];
    invert(inverse);
    values[pivot.slot] = inverse;
    for (; f < pivot.factorsEnd; ++f) {
      Number& factor = values[factors[f].slot];
      multiply(factor, factor, inverse);
      multiplySubtract(rhs[factors[f].row], factor, rhs[pivot.row]);
    }
    for (; u < pivot.updatesEnd; ++u)
      multiplySubtract(values[updates[u].target], values[updates[u].left], values[updates[u].right]);
  }
  auto next = static_cast<std::int32_t>(upper.size());
  for (auto pivot = pivots.rbegin(); pivot != pivots.rend(); ++pivot) {
    const auto begin = pivot + 1 == pivots.rend() ? 0 : (pivot + 1)->upperEnd;
    Number sum = rhs[pivot->row];
    while (next > begin) {
      --next;
      multiplySubtract(sum, values[upper[next].slot], x[upper[next].column]);
    }
    multiply(x[pivot->column], sum, values[pivot->slot]);
  }
}

VINEGAR_WIDE void load(Number* values, const std::vector<Entry>& entries, const std::vector<std::int32_t>& slots,
                       const Elimination::Lane& radians) {
  for (std::size_t e = 0; e < entries.size(); ++e) {
    Number& value = values[slots[e]];
    for (int i = 0; i < lanes; ++i) {
      value.re[i] += entries[e].g;
      value.im[i] += radians[i] * entries[e].c;
    }
  }
}

VINEGAR_WIDE void residuals(Number* rest, Number* scale, const std::vector<Entry>& entries,
                            const Elimination::Lane& radians, const Number* x) {
  for (const auto& entry : entries) {
    Number& r = rest[entry.row];
    Number& s = scale[entry.row];
    const Number& v = x[entry.column];
    for (int i = 0; i < lanes; ++i) {
      const double b = radians[i] * entry.c;
      const double re = entry.g * v.re[i] - b * v.im[i];
      const double im = entry.g * v.im[i] + b * v.re[i];
      r.re[i] -= re;
      r.im[i] -= im;
      s.re[i] += std::abs(re) + std::abs(im);
    }
  }
}

} // namespace

double Elimination::sweep(const std::vector<Entry>& entries, const Lane& radians,
                          const std::vector<std::complex<double>>& excitation, Workspace& workspace) const {
  const auto n = static_cast<std::size_t>(size_);
  workspace.values.assign(slotCount_, Number{});
  workspace.unknowns.resize(3 * n);
  Number* x = workspace.unknowns.data();
  Number* rhs = x + n;
  Number* scale = rhs + n;
  const auto setExcitation = [&] {
    for (std::size_t i = 0; i < n; ++i) {
      rhs[i].re.fill(excitation[i].real());
      rhs[i].im.fill(excitation[i].imag());
    }
  };
  load(workspace.values.data(), entries, entrySlots_, radians);
  setExcitation();
  replay(workspace.values.data(), rhs, x, pivots_, factors_, updates_, upper_);

  setExcitation();
  for (std::size_t i = 0; i < n; ++i) {
    scale[i].re.fill(std::abs(excitation[i]));
    scale[i].im.fill(0);
  }
  residuals(rhs, scale, entries, radians, x);
  double worst = 0;
  for (std::size_t i = 0; i < n; ++i)
    for (int k = 0; k < lanes; ++k) {
      const double rest = std::abs(rhs[i].re[k]) + std::abs(rhs[i].im[k]);
      if (!std::isfinite(rest)) return std::numeric_limits<double>::infinity();
      if (rest > 0) worst = std::max(worst, rest / (scale[i].re[k] + 1e-300));
    }
  return worst;
}

} // namespace vinegar::circuit
