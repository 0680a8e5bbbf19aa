// A small dense system eliminated and solved four pivots at a time, in vectors of N doubles.
#pragma once

#include "tubes/width.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstddef>

namespace vinegar::circuit {

/// Works in place on `count` rows of `stride` doubles that are filled up to whole blocks of four: `blocked(count)` rows
/// and columns. Allocates nothing (G. Golub, C. Van Loan, Matrix Computations, 1996, 3.2: block elimination).
template <int N> struct FourPivots {
  /// Vectors of eight would be half outside the block.
  static constexpr int across = std::min(N, 4);
  using Lanes = tubes::Lanes<across>;
  using V = typename Lanes::V;

  static constexpr int blocked(int count) { return (count + 3) / 4 * 4; }

  double* matrix; ///< afterwards what is above the diagonal, and below it the rows' factors
  std::ptrdiff_t stride;
  int count;
  double* inverses; ///< [blocked(count)] of the pivots; infinite where there is none
  int* order;       ///< [blocked(count)] which row stands where after the exchanges

  /// Rows and columns after `count` are filled first. A row is exchanged where its pivot is poor, not else: the
  /// matrices are one and something, so that most are good.
  VINEGAR_INLINE void eliminate() const {
    const int wide = blocked(count);
    for (int k = 0; k < wide; ++k) {
      order[k] = k;
      double* row = matrix + k * stride;
      std::fill(row + (k < count ? count : 0), row + wide, 0.0);
      if (k >= count) row[k] = 1;
    }
    for (int p = 0; p < wide; p += 4) {
      block(p);
      sweep(p, wide);
    }
  }

  /// x [blocked(count)] of matrix x = right [count].
  VINEGAR_INLINE void solve(const double* right, double* x) const {
    const int wide = blocked(count);
    for (int k = 0; k < count; ++k)
      x[k] = right[order[k]];
    std::fill(x + count, x + wide, 0.0);
    for (int p = 0; p < wide; p += 4) {
      const double *r1 = matrix + (p + 1) * stride + p, *r2 = r1 + stride, *r3 = r2 + stride;
      const auto [b0, b1, b2, b3] = less(p, x, 0, p);
      const double x0 = b0, x1 = b1 - r1[0] * x0, x2 = b2 - r2[0] * x0 - r2[1] * x1,
                   x3 = b3 - r3[0] * x0 - r3[1] * x1 - r3[2] * x2;
      x[p] = x0;
      x[p + 1] = x1;
      x[p + 2] = x2;
      x[p + 3] = x3;
    }
    for (int p = wide - 4; p >= 0; p -= 4) {
      const double *r0 = matrix + p * stride + p, *r1 = r0 + stride, *r2 = r1 + stride, *over = inverses + p;
      const auto [b0, b1, b2, b3] = less(p, x, p + 4, wide);
      const double x3 = b3 * over[3], x2 = (b2 - r2[3] * x3) * over[2], x1 = (b1 - r1[2] * x2 - r1[3] * x3) * over[1],
                   x0 = (b0 - r0[1] * x1 - r0[2] * x2 - r0[3] * x3) * over[0];
      x[p] = x0;
      x[p + 1] = x1;
      x[p + 2] = x2;
      x[p + 3] = x3;
    }
  }

private:
  struct Four {
    double b0, b1, b2, b3;
  };

  /// The four by four at `p`: its pivots and its rows' factors.
  VINEGAR_INLINE void block(int p) const {
    constexpr double poor = 1e-3;
    double* const first = matrix + p * stride;
    // What a row has at the block's column `at` once the pivots before `of` are taken off; their factors in f.
    const auto left = [&](const double* row, int at, int of, const double* f) __attribute__((always_inline)) {
      double own = row[p + at];
      for (int i = 0; i < of; ++i)
        own -= f[i] * first[i * stride + p + at];
      return own;
    };
    const auto factors = [&](const double* row, int of) __attribute__((always_inline)) {
      std::array<double, 4> f{};
      for (int j = 0; j < of; ++j)
        f[static_cast<std::size_t>(j)] = left(row, j, j, f.data()) * inverses[p + j];
      return f;
    };
    for (int k = 0; k < 4; ++k) {
      double* row = first + k * stride;
      auto f = factors(row, k);
      if (!(std::abs(left(row, k, k, f.data())) > poor)) {
        int best = p + k;
        double most = 0;
        for (int later = p + k; later < count; ++later) {
          const double* other = matrix + later * stride;
          const auto g = factors(other, k);
          if (const double size = std::abs(left(other, k, k, g.data())); size > most) {
            most = size;
            best = later;
          }
        }
        if (best != p + k) {
          std::swap_ranges(row, row + blocked(count), matrix + best * stride);
          std::swap(order[p + k], order[best]);
          f = factors(row, k);
        }
      }
      for (int at = k; at < 4; ++at)
        row[p + at] = left(row, at, k, f.data());
      std::copy_n(f.begin(), k, row + p);
      inverses[p + k] = 1 / row[p + k];
    }
  }

  /// What the block's pivots take off the columns after it, and off the rows below.
  VINEGAR_INLINE void sweep(int p, int wide) const {
    double *const r0 = matrix + p * stride, *const r1 = r0 + stride, *const r2 = r1 + stride, *const r3 = r2 + stride;
    for (int c = p + 4; c < wide; c += across) {
      const V u0 = Lanes::load(r0 + c), u1 = Lanes::load(r1 + c) - Lanes::all(r1[p]) * u0,
              u2 = Lanes::load(r2 + c) - Lanes::all(r2[p]) * u0 - Lanes::all(r2[p + 1]) * u1;
      Lanes::put(r1 + c, u1);
      Lanes::put(r2 + c, u2);
      Lanes::put(r3 + c, Lanes::load(r3 + c) - Lanes::all(r3[p]) * u0 - Lanes::all(r3[p + 1]) * u1 -
                             Lanes::all(r3[p + 2]) * u2);
    }
    const double u01 = r0[p + 1], u02 = r0[p + 2], u03 = r0[p + 3], u12 = r1[p + 2], u13 = r1[p + 3], u23 = r2[p + 3];
    const double* over = inverses + p;
    for (int later = p + 4; later < wide; ++later) {
      double* row = matrix + later * stride;
      // One by one: an array of them would be written by parts and read whole, which waits.
      const double f0 = row[p] * over[0], f1 = (row[p + 1] - f0 * u01) * over[1],
                   f2 = (row[p + 2] - f0 * u02 - f1 * u12) * over[2],
                   f3 = (row[p + 3] - f0 * u03 - f1 * u13 - f2 * u23) * over[3];
      row[p] = f0;
      row[p + 1] = f1;
      row[p + 2] = f2;
      row[p + 3] = f3;
      const V g0 = Lanes::all(f0), g1 = Lanes::all(f1), g2 = Lanes::all(f2), g3 = Lanes::all(f3);
      for (int c = p + 4; c < wide; c += across)
        Lanes::put(row + c, Lanes::load(row + c) - g0 * Lanes::load(r0 + c) - g1 * Lanes::load(r1 + c) -
                                g2 * Lanes::load(r2 + c) - g3 * Lanes::load(r3 + c));
    }
  }

  /// x of the four rows at `p`, less what the columns from one to another, whole blocks, make of x there.
  VINEGAR_INLINE Four less(int p, const double* x, int from, int to) const {
    const double *r0 = matrix + p * stride, *r1 = r0 + stride, *r2 = r1 + stride, *r3 = r2 + stride;
    V a0{}, a1{}, a2{}, a3{};
    for (int c = from; c < to; c += across) {
      const V y = Lanes::load(x + c);
      a0 += Lanes::load(r0 + c) * y;
      a1 += Lanes::load(r1 + c) * y;
      a2 += Lanes::load(r2 + c) * y;
      a3 += Lanes::load(r3 + c) * y;
    }
    return {x[p] - sum(a0), x[p + 1] - sum(a1), x[p + 2] - sum(a2), x[p + 3] - sum(a3)};
  }
  static VINEGAR_INLINE double sum(V v) {
    if constexpr (across == 4) return (v[0] + v[2]) + (v[1] + v[3]);
    return v[0] + v[1];
  }
};

} // namespace vinegar::circuit
