#include "tubes/bank.h"

#include "support/samples.h"

#include <gtest/gtest.h>
#include <random>

namespace vinegar::tubes {
namespace {

/// Every tube of the catalogue, over volts from far below to far beyond what it is used at: each width of vector unit
/// gives what the laws one at a time give.
TEST(TubeBank, EveryWidthGivesTheLaws) {
  std::vector<TubeBank::Tube<TriodeModel>> triodes;
  std::vector<TubeBank::Tube<PentodeModel>> pentodes;
  for (const auto& [name, type] : testing_support::library().tubes.types()) {
    if (const auto* triode = std::get_if<TriodeModel>(&type.model)) triodes.push_back({*triode, type.grid});
    if (const auto* pentode = std::get_if<PentodeModel>(&type.model)) pentodes.push_back({*pentode, type.grid});
  }
  ASSERT_GT(triodes.size(), 5U);
  ASSERT_GT(pentodes.size(), 5U);
  std::mt19937 random(11);
  const auto between = [&](double low, double high) { return std::uniform_real_distribution(low, high)(random); };
  for (const Width width : widthsHere()) {
    const TubeBank bank(triodes, pentodes, width);
    const auto lanes = static_cast<std::size_t>(bank.lanes());
    std::vector<double> plate(lanes), screen(lanes), grid(lanes), answer(lanes * TubeBank::rows);
    for (int round = 0; round < 2000; ++round) {
      const double far = round % 3 == 0 ? 5 : round % 3 == 1 ? 100 : 1500;
      for (std::size_t lane = 0; lane < lanes; ++lane) {
        plate[lane] = round % 10 == 0 ? 0 : between(-0.3 * far, far);
        screen[lane] = between(-0.2 * far, far);
        grid[lane] = between(-far / 8, std::min(far, 60.0));
      }
      bank.evaluate(plate.data(), screen.data(), grid.data(), answer.data());
      const auto at = [&](TubeBank::Row row, std::size_t lane) { return answer[row * lanes + lane]; };
      const auto same = [&](double got, double want, double scale) {
        return std::abs(got - want) <= 1e-11 * (std::abs(want) + scale) + 1e-200;
      };
      const auto name = [&](std::size_t lane) {
        return testing::Message() << static_cast<int>(width) << " lanes, lane " << lane << " at " << plate[lane] << " "
                                  << screen[lane] << " " << grid[lane];
      };
      for (std::size_t i = 0; i < triodes.size() + pentodes.size(); ++i) {
        const bool pentode = i >= triodes.size();
        const std::size_t lane = pentode ? static_cast<std::size_t>(bank.pentodesFrom()) + i - triodes.size() : i;
        if (pentode) {
          const auto& [model, gridModel] = pentodes[i - triodes.size()];
          const auto want = pentodeCurrent(model, plate[lane], grid[lane], screen[lane]);
          const double space = want.plate + want.screen,
                       slope = std::abs(want.plateByGrid) + std::abs(want.screenByGrid);
          ASSERT_TRUE(same(at(TubeBank::plate, lane), want.plate, space)) << name(lane);
          ASSERT_TRUE(same(at(TubeBank::screen, lane), want.screen, space)) << name(lane);
          ASSERT_TRUE(same(at(TubeBank::plateByPlate, lane), want.plateByPlate, slope)) << name(lane);
          ASSERT_TRUE(same(at(TubeBank::plateByScreen, lane), want.plateByScreen, slope)) << name(lane);
          ASSERT_TRUE(same(at(TubeBank::plateByGrid, lane), want.plateByGrid, slope)) << name(lane);
          ASSERT_TRUE(same(at(TubeBank::screenByPlate, lane), want.screenByPlate, slope)) << name(lane);
          ASSERT_TRUE(same(at(TubeBank::screenByScreen, lane), want.screenByScreen, slope)) << name(lane);
          ASSERT_TRUE(same(at(TubeBank::screenByGrid, lane), want.screenByGrid, slope)) << name(lane);
          const auto own = gridCurrent(gridModel, model.K, grid[lane]);
          ASSERT_TRUE(same(at(TubeBank::grid, lane), own.grid, 0)) << name(lane);
          ASSERT_TRUE(same(at(TubeBank::gridByGrid, lane), own.byGrid, 0)) << name(lane);
        } else {
          const auto& [model, gridModel] = triodes[i];
          const auto want = triodeCurrent(model, plate[lane], grid[lane]);
          ASSERT_TRUE(same(at(TubeBank::plate, lane), want.plate, 0)) << name(lane);
          ASSERT_TRUE(same(at(TubeBank::plateByPlate, lane), want.byPlate, want.byGrid)) << name(lane);
          ASSERT_TRUE(same(at(TubeBank::plateByGrid, lane), want.byGrid, 0)) << name(lane);
          const auto own = gridCurrent(gridModel, model.K, grid[lane]);
          ASSERT_TRUE(same(at(TubeBank::grid, lane), own.grid, 0)) << name(lane);
          ASSERT_TRUE(same(at(TubeBank::gridByGrid, lane), own.byGrid, 0)) << name(lane);
        }
      }
    }
  }
}

} // namespace
} // namespace vinegar::tubes
