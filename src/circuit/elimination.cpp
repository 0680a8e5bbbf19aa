#include "circuit/elimination.h"

#include "circuit/lanes.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <map>

namespace vinegar::circuit {
namespace {

using Number = Elimination::Number;

/// A pivot must be at least this share of the largest entry in its column at every sample frequency.
constexpr double pivotShare = 1e-3;
/// An unknown this much smaller than the largest one may be rounding.
constexpr double quietShare = 1e-6;

inline void multiplySubtract(Number& target, const Number& a, const Number& b) {
  const Vec ar = re(a), ai = im(a), br = re(b), bi = im(b);
  re(target) = re(target) - ar * br + ai * bi;
  im(target) = im(target) - ar * bi - ai * br;
}

/// `target` may be `a` or `b`.
inline void multiply(Number& target, const Number& a, const Number& b) {
  const Vec ar = re(a), ai = im(a), br = re(b), bi = im(b);
  re(target) = ar * br - ai * bi;
  im(target) = ar * bi + ai * br;
}

inline void invert(Number& a) {
  const Vec scale = 1 / (re(a) * re(a) + im(a) * im(a));
  re(a) = re(a) * scale;
  im(a) = -im(a) * scale;
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
    if (slotCount_ > places_.size()) places_.emplace_back(entry.row, entry.column);
    for (std::size_t s = 0; s < plan.samples; ++s)
      place.values[s] += entry.at(sampleRadians[s]);
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

VINEGAR_WIDE void substituteBack(const Number* values, const Number* rhs, Number* x, const auto& pivots,
                                 const auto& upper) {
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
  substituteBack(values, rhs, x, pivots, upper);
}

VINEGAR_WIDE void replayTransposed(const Number* values, Number* rest, Number* answer, const auto& pivots,
                                   const auto& factors, const auto& upper) {
  std::int32_t u = 0;
  for (const auto& pivot : pivots) {
    Number& z = rest[pivot.column];
    multiply(z, z, values[pivot.slot]);
    for (; u < pivot.upperEnd; ++u)
      multiplySubtract(rest[upper[u].column], values[upper[u].slot], z);
  }
  auto next = static_cast<std::int32_t>(factors.size());
  for (auto pivot = pivots.rbegin(); pivot != pivots.rend(); ++pivot) {
    const auto begin = pivot + 1 == pivots.rend() ? 0 : (pivot + 1)->factorsEnd;
    Number sum = rest[pivot->column];
    while (next > begin) {
      --next;
      multiplySubtract(sum, values[factors[next].slot], answer[factors[next].row]);
    }
    answer[pivot->row] = sum;
  }
}

VINEGAR_WIDE void replayForward(const Number* values, Number* rhs, Number* x, const auto& pivots, const auto& factors,
                                const auto& upper) {
  std::int32_t f = 0;
  for (const auto& pivot : pivots)
    for (; f < pivot.factorsEnd; ++f)
      multiplySubtract(rhs[factors[f].row], values[factors[f].slot], rhs[pivot.row]);
  substituteBack(values, rhs, x, pivots, upper);
}

VINEGAR_WIDE void fill(Number* values, const std::vector<Entry>& places, const Elimination::Lane& radians) {
  for (std::size_t slot = 0; slot < places.size(); ++slot) {
    Number& value = values[slot];
    for (int i = 0; i < Elimination::lanes; ++i) {
      value.re[i] = places[slot].g;
      value.im[i] = radians[i] * places[slot].c;
    }
  }
}

VINEGAR_WIDE void residuals(Number* rest, Number* scale, const std::vector<Entry>& entries,
                            const Elimination::Lane& radians, const Number* x) {
  for (const auto& entry : entries) {
    Number& r = rest[entry.row];
    Number& s = scale[entry.row];
    const Number& v = x[entry.column];
    for (int i = 0; i < Elimination::lanes; ++i) {
      const double c = radians[i] * entry.c;
      r.re[i] -= entry.g * v.re[i] - c * v.im[i];
      r.im[i] -= entry.g * v.im[i] + c * v.re[i];
      s.re[i] += (std::abs(entry.g) + std::abs(c)) * (std::abs(v.re[i]) + std::abs(v.im[i]));
      s.im[i] += std::abs(entry.g) + std::abs(c); // the row's own size
    }
  }
}

VINEGAR_WIDE void weightedResidual(Number& rest, Number& scale, const std::vector<Entry>& sums,
                                   const std::vector<Entry>& sizes, const Elimination::Lane& radians, const Number* x) {
  for (std::size_t j = 0; j < sums.size(); ++j)
    for (int i = 0; i < Elimination::lanes; ++i) {
      const double c = radians[i] * sums[j].c;
      rest.re[i] -= sums[j].g * x[j].re[i] - c * x[j].im[i];
      rest.im[i] -= sums[j].g * x[j].im[i] + c * x[j].re[i];
      scale.re[i] += (sizes[j].g + radians[i] * sizes[j].c) * (std::abs(x[j].re[i]) + std::abs(x[j].im[i]));
    }
}

/// g exp(-jw delay) at every lane; few circuits have any, so these are not in the straight-line code.
void addDelayed(Number& value, const Entry& entry, const Elimination::Lane& radians, double weight = 1) {
  for (std::size_t i = 0; i < Elimination::lanes; ++i) {
    const auto z = weight * entry.at(radians[i]);
    value.re[i] += z.real();
    value.im[i] += z.imag();
  }
}

void subtractDelayed(Number& rest, Number& scale, const Entry& entry, const Elimination::Lane& radians, double weight,
                     const Number& x) {
  Number factor{};
  addDelayed(factor, entry, radians, weight);
  multiplySubtract(rest, factor, x);
  for (std::size_t i = 0; i < Elimination::lanes; ++i)
    scale.re[i] += std::abs(weight * entry.g) * (std::abs(x.re[i]) + std::abs(x.im[i]));
}

double worstOf(const Number& rest, const Number& scale) {
  double worst = 0;
  for (int k = 0; k < Elimination::lanes; ++k) {
    const double size = std::abs(rest.re[k]) + std::abs(rest.im[k]);
    if (!std::isfinite(size)) return std::numeric_limits<double>::infinity();
    if (size > 0) worst = std::max(worst, size / (scale.re[k] + 1e-300));
  }
  return worst;
}

} // namespace

Elimination::Loaded Elimination::load(const std::vector<Entry>& entries,
                                      const std::vector<std::complex<double>>& excitation, double middleRadians) const {
  Loaded loaded;
  loaded.excitation = excitation;
  loaded.places.reserve(places_.size());
  for (const auto& [row, column] : places_)
    loaded.places.push_back({row, column, 0, 0});
  for (std::size_t e = 0; e < entries.size(); ++e) {
    if (entries[e].delay > 0) {
      loaded.delayed.push_back({entrySlots_[e], 0, entries[e]});
      continue;
    }
    auto& place = loaded.places[static_cast<std::size_t>(entrySlots_[e])];
    place.g += entries[e].g;
    place.c += entries[e].c;
  }
  const auto n = static_cast<std::size_t>(size_);
  std::vector<double> weight(n, 0);
  for (const auto& p : loaded.places) {
    auto& w = weight[static_cast<std::size_t>(p.row)];
    w = std::max(w, std::abs(p.g) + middleRadians * std::abs(p.c));
  }
  for (const auto& d : loaded.delayed) {
    auto& w = weight[static_cast<std::size_t>(d.entry.row)];
    w = std::max(w, std::abs(d.entry.g));
  }
  // Signs without pattern, the same every time.
  std::uint32_t random = 0x9e3779b9U;
  for (auto& w : weight) {
    random = random * 1664525U + 1013904223U;
    w = (random >> 31 ? 1.0 : -1.0) / (w > 0 ? w : 1);
  }
  loaded.weighted.assign(n, {0, 0, 0, 0});
  loaded.size.assign(n, {0, 0, 0, 0});
  for (const auto& p : loaded.places) {
    const double w = weight[static_cast<std::size_t>(p.row)];
    auto& sum = loaded.weighted[static_cast<std::size_t>(p.column)];
    auto& size = loaded.size[static_cast<std::size_t>(p.column)];
    sum.g += w * p.g;
    sum.c += w * p.c;
    size.g += std::abs(w * p.g);
    size.c += std::abs(w * p.c);
  }
  for (auto& d : loaded.delayed)
    d.weight = weight[static_cast<std::size_t>(d.entry.row)];
  for (std::size_t i = 0; i < n; ++i)
    loaded.weightedExcitation += weight[i] * excitation[i];
  return loaded;
}

void Elimination::sweep(const Loaded& loaded, const Lane& radians, Workspace& workspace) const {
  const auto n = static_cast<std::size_t>(size_);
  workspace.values.resize(slotCount_);
  workspace.unknowns.resize(3 * n);
  Number* x = workspace.unknowns.data();
  Number* rhs = x + n;
  fill(workspace.values.data(), loaded.places, radians);
  std::fill(workspace.values.begin() + static_cast<std::ptrdiff_t>(loaded.places.size()), workspace.values.end(),
            Number{});
  for (const auto& d : loaded.delayed)
    addDelayed(workspace.values[static_cast<std::size_t>(d.slot)], d.entry, radians);
  for (std::size_t i = 0; i < n; ++i) {
    rhs[i].re.fill(loaded.excitation[i].real());
    rhs[i].im.fill(loaded.excitation[i].imag());
  }
  replay(workspace.values.data(), rhs, x, pivots_, factors_, updates_, upper_);
}

void Elimination::solveAgain(std::vector<Number>& excitation, const Workspace& workspace,
                             std::vector<Number>& answer) const {
  answer.resize(static_cast<std::size_t>(size_));
  replayForward(workspace.values.data(), excitation.data(), answer.data(), pivots_, factors_, upper_);
}

void Elimination::solveTransposed(const std::vector<std::pair<int, Number>>& wanted, const Workspace& workspace,
                                  std::vector<Number>& answer) const {
  const auto n = static_cast<std::size_t>(size_);
  answer.assign(2 * n, Number{});
  Number* rest = answer.data() + n;
  for (const auto& [column, weight] : wanted)
    rest[column] = weight;
  replayTransposed(workspace.values.data(), rest, answer.data(), pivots_, factors_, upper_);
  answer.resize(n);
}

void Elimination::refine(Workspace& workspace, std::vector<Number>& correction) const {
  const auto n = static_cast<std::size_t>(size_);
  correction.resize(n);
  Number* x = workspace.unknowns.data();
  replayForward(workspace.values.data(), x + n, correction.data(), pivots_, factors_, upper_);
  for (std::size_t i = 0; i < n; ++i)
    for (std::size_t k = 0; k < Elimination::lanes; ++k) {
      x[i].re[k] += correction[i].re[k];
      x[i].im[k] += correction[i].im[k];
    }
}

double Elimination::quickResidual(const Loaded& loaded, const Lane& radians, const Workspace& workspace) const {
  Number rest, scale;
  rest.re.fill(loaded.weightedExcitation.real());
  rest.im.fill(loaded.weightedExcitation.imag());
  scale.re.fill(std::abs(loaded.weightedExcitation));
  weightedResidual(rest, scale, loaded.weighted, loaded.size, radians, workspace.unknowns.data());
  for (const auto& d : loaded.delayed)
    subtractDelayed(rest, scale, d.entry, radians, d.weight,
                    workspace.unknowns[static_cast<std::size_t>(d.entry.column)]);
  return worstOf(rest, scale);
}

double Elimination::fullResidual(const Loaded& loaded, const Lane& radians, Workspace& workspace) const {
  const auto n = static_cast<std::size_t>(size_);
  Number* x = workspace.unknowns.data();
  Number* rest = x + n;
  Number* scale = rest + n;
  for (std::size_t i = 0; i < n; ++i) {
    rest[i].re.fill(loaded.excitation[i].real());
    rest[i].im.fill(loaded.excitation[i].imag());
    scale[i].re.fill(std::abs(loaded.excitation[i]));
    scale[i].im.fill(0);
  }
  residuals(rest, scale, loaded.places, radians, x);
  for (const auto& d : loaded.delayed)
    subtractDelayed(rest[d.entry.row], scale[d.entry.row], d.entry, radians, 1, x[d.entry.column]);
  Lane largest{};
  for (std::size_t i = 0; i < n; ++i)
    for (std::size_t k = 0; k < Elimination::lanes; ++k)
      largest[k] = std::max(largest[k], std::abs(x[i].re[k]) + std::abs(x[i].im[k]));
  double worst = 0;
  // Where a row's own terms are nothing but rounding of larger ones, their ratio says nothing.
  for (std::size_t i = 0; i < n; ++i)
    for (std::size_t k = 0; k < Elimination::lanes; ++k)
      scale[i].re[k] += quietShare * scale[i].im[k] * largest[k];
  for (std::size_t i = 0; i < n; ++i)
    worst = std::max(worst, worstOf(rest[i], scale[i]));
  return worst;
}

} // namespace vinegar::circuit
