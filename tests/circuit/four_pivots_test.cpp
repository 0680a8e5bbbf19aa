#include "circuit/four_pivots.h"

#include <Eigen/LU>
#include <gtest/gtest.h>
#include <random>
#include <vector>

using namespace vinegar;
using circuit::FourPivots;

namespace {

/// x of matrix x = right, at a width; what is behind the matrix in memory is no number.
template <int N> Eigen::VectorXd solved(const Eigen::MatrixXd& matrix, const Eigen::VectorXd& right) {
  const auto count = static_cast<int>(right.size());
  const auto wide = static_cast<std::size_t>(tubes::padded(std::max(count, 1)));
  std::vector<double> rows(wide * wide, std::nan("")), inverses(wide), x(wide, std::nan(""));
  std::vector<int> order(wide);
  for (int r = 0; r < count; ++r)
    for (int c = 0; c < count; ++c)
      rows[static_cast<std::size_t>(r) * wide + static_cast<std::size_t>(c)] = matrix(r, c);
  const FourPivots<N> factors{rows.data(), static_cast<std::ptrdiff_t>(wide), count, inverses.data(), order.data()};
  factors.eliminate();
  factors.solve(right.data(), x.data());
  return Eigen::Map<Eigen::VectorXd>(x.data(), count);
}

class FourPivotsOf : public testing::TestWithParam<int> {
protected:
  std::mt19937 numbers{static_cast<unsigned>(GetParam())};
  Eigen::MatrixXd random(int count) {
    std::uniform_real_distribution<double> any(-1, 1);
    return Eigen::MatrixXd::NullaryExpr(count, count, [&] { return any(numbers); });
  }
  /// All widths against elimination that looks for the best pivot in every row and column.
  void expectSolved(const Eigen::MatrixXd& matrix) {
    const Eigen::VectorXd right = random(static_cast<int>(matrix.rows())).col(0);
    const Eigen::VectorXd expected = matrix.fullPivLu().solve(right);
    for (const Eigen::VectorXd& x : {solved<2>(matrix, right), solved<4>(matrix, right), solved<8>(matrix, right)}) {
      ASSERT_TRUE(x.allFinite()) << matrix;
      EXPECT_LT((x - expected).lpNorm<Eigen::Infinity>(), 1e-9 * (1 + expected.lpNorm<Eigen::Infinity>())) << matrix;
    }
  }
};

TEST_P(FourPivotsOf, SolvesWhatIsOneAndSomething) {
  const int count = GetParam();
  for (int k = 0; k < 20; ++k)
    expectSolved(Eigen::MatrixXd::Identity(count, count) + 0.3 * random(count));
}

/// No pivot stands where it should: in its own block, in a later one, or only once others are taken off.
TEST_P(FourPivotsOf, ExchangesRowsWherePivotsArePoor) {
  const int count = GetParam();
  for (int by = 0; by < count; ++by) {
    Eigen::MatrixXd turned = Eigen::MatrixXd::Zero(count, count);
    for (int k = 0; k < count; ++k)
      turned(k, (k + by) % count) = 1 + 0.1 * k;
    expectSolved(turned);
    const Eigen::MatrixXd lower = Eigen::MatrixXd::Identity(count, count) +
                                  0.5 * Eigen::MatrixXd(random(count).triangularView<Eigen::StrictlyLower>()),
                          upper = Eigen::MatrixXd::Identity(count, count) +
                                  0.5 * Eigen::MatrixXd(random(count).triangularView<Eigen::StrictlyUpper>());
    expectSolved(lower * turned * upper);
  }
}

TEST_P(FourPivotsOf, NothingFiniteComesOfASingularMatrix) {
  const int count = GetParam();
  Eigen::MatrixXd matrix = Eigen::MatrixXd::Identity(count, count);
  matrix(count - 1, count - 1) = 0;
  EXPECT_FALSE(solved<4>(matrix, Eigen::VectorXd::Ones(count)).allFinite());
}

INSTANTIATE_TEST_SUITE_P(Sizes, FourPivotsOf, testing::Values(1, 2, 3, 4, 5, 7, 8, 9, 12, 13, 29));

} // namespace
