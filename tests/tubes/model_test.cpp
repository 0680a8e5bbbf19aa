#include "support/samples.h"
#include "tubes/catalogue.h"
#include "tubes/fit/fit.h"
#include "tubes/model.h"
#include "tubes/published.h"

#include <algorithm>
#include <cmath>
#include <gtest/gtest.h>
#include <map>
#include <random>

namespace vinegar::tubes {
namespace {

const TubeType& tube(const std::string& name) { return *testing_support::library().tubes.find(name); }

// The tables of docs/tube-models.md, worked out by hand from its text with another program.
TEST(TriodeModel, GivesTheWorkedValues) {
  const TriodeModel model{1.37092, 116.464, 1.49067, 0.706835, 492.472, 0.15, 0.25, 2.5, 1, 15};
  const double rows[][3] = {
      {250, -2, 1.20098754},   {100, -1, 0.498471962}, {100, 0, 2.2753191},      {12, 0, 0.232948163},
      {300, -4, 0.093962243},  {50, 2, 2.64609195},    {250, -8, 2.4094395e-07}, {0, 0, 0},
      {0.2, 0, 0.000390396353}};
  for (const auto& [plate, grid, milliamps] : rows)
    EXPECT_NEAR(triodeCurrent(model, plate, grid).plate * 1e3, milliamps, 1e-8 * milliamps + 1e-18)
        << plate << ", " << grid;
}

TEST(PentodeModel, GivesTheWorkedValues) {
  const PentodeModel model{3.44287,  20.3431, 1.51742, 0.629233, 114.013, 571.615, 0.101489,
                           0.582114, 0.15,    0.125,   2.3,      1,       15};
  const double rows[][5] = {{250, -7.3, 250, 48.1360755, 5.49844599},       {300, -11, 300, 37.8324434, 4.29376386},
                            {250, 0, 250, 155.428071, 18.7511825},          {30, 0, 250, 80.7916754, 85.8013107},
                            {10, -7.3, 250, 16.7226051, 31.781293},         {500, -7.3, 250, 54.4035337, 4.82764634},
                            {250, -25, 250, 0.00297729593, 0.000335865078}, {48, 0, 48, 15.1557912, 1.89621854}};
  for (const auto& [plate, grid, screen, plateMilliamps, screenMilliamps] : rows) {
    const auto current = pentodeCurrent(model, plate, grid, screen);
    EXPECT_NEAR(current.plate * 1e3 / plateMilliamps, 1, 1e-8) << plate << ", " << grid << ", " << screen;
    EXPECT_NEAR(current.screen * 1e3 / screenMilliamps, 1, 1e-8) << plate << ", " << grid << ", " << screen;
  }
}

/// All but the rectifiers.
std::map<std::string, TubeType> amplifyingTypes() {
  auto types = testing_support::library().tubes.types();
  std::erase_if(types, [](const auto& entry) { return entry.second.isRectifier(); });
  return types;
}

/// Where an electrode passes the cathode the slopes meet without a corner: Newton's iterations need it.
TEST(EveryTube, HasNoCornerAtTheCathodesVolts) {
  for (const auto& [name, type] : amplifyingTypes())
    for (const double grid : {-2.0, 0.0, 5.0}) {
      const auto slopeAt = [&, &t = type](double plate) {
        if (t.isTriode()) return triodeCurrent(std::get<TriodeModel>(t.model), plate, grid).byPlate;
        return pentodeCurrent(std::get<PentodeModel>(t.model), plate, grid, 150).plateByPlate;
      };
      // A kink would leave the second difference at its size however small the step.
      const auto bend = [&](double h) { return std::abs(slopeAt(h) - 2 * slopeAt(0) + slopeAt(-h)) / h; };
      EXPECT_LT(bend(1e-5), 0.1 * bend(1e-2) + 1e-9) << name;
    }
}

TEST(GridCurrent, FollowsItsLaw) {
  const auto& type = tube("12AX7");
  const double K = 1.37092;
  EXPECT_NEAR(gridCurrent(type.grid, K, 0).grid * 1e6, 29, 1);
  EXPECT_NEAR(gridCurrent(type.grid, K, -0.5).grid * 1e6, 2, 0.1);
}

/// Every tube at random volts: slopes are the slopes of the current, currents finite and never negative, and rising
/// with plate and grid volts.
TEST(EveryTube, IsSmoothMonotonicAndFinite) {
  std::mt19937 random(11);
  std::uniform_real_distribution<double> plates(-50, 900), grids(-100, 20), screens(0, 500);
  for (const auto& [ofType, type] : amplifyingTypes())
    for (int i = 0; i < 3000; ++i) {
      const auto& name = ofType;
      const double p = plates(random), g = grids(random), s = screens(random), h = 1e-4;
      const auto slopeNear = [&](double high, double low, double slope, double size) {
        EXPECT_NEAR((high - low) / (2 * h), slope, 1e-4 * std::abs(slope) + 1e-8 * size + 1e-12)
            << name << " " << p << " " << g << " " << s;
      };
      if (type.isTriode()) {
        const auto& m = std::get<TriodeModel>(type.model);
        const auto c = triodeCurrent(m, p, g);
        ASSERT_TRUE(std::isfinite(c.plate) && c.plate >= 0 && c.byPlate >= 0 && c.byGrid >= 0)
            << name << " " << p << " " << g;
        slopeNear(triodeCurrent(m, p + h, g).plate, triodeCurrent(m, p - h, g).plate, c.byPlate, c.plate);
        slopeNear(triodeCurrent(m, p, g + h).plate, triodeCurrent(m, p, g - h).plate, c.byGrid, c.plate);
      } else {
        const auto& m = std::get<PentodeModel>(type.model);
        const auto c = pentodeCurrent(m, p, g, s);
        ASSERT_TRUE(std::isfinite(c.plate) && std::isfinite(c.screen) && c.plate >= 0 && c.screen >= -1e-15) << name;
        ASSERT_GE(c.plateByPlate, 0) << name << " " << p << " " << g << " " << s;
        ASSERT_GE(c.plateByGrid, 0) << name << " " << p << " " << g << " " << s;
        const auto at = [&](double dp, double dg, double ds) { return pentodeCurrent(m, p + dp, g + dg, s + ds); };
        const double size = c.plate + c.screen;
        slopeNear(at(h, 0, 0).plate, at(-h, 0, 0).plate, c.plateByPlate, size);
        slopeNear(at(0, h, 0).plate, at(0, -h, 0).plate, c.plateByGrid, size);
        slopeNear(at(0, 0, h).plate, at(0, 0, -h).plate, c.plateByScreen, size);
        slopeNear(at(h, 0, 0).screen, at(-h, 0, 0).screen, c.screenByPlate, size);
        slopeNear(at(0, h, 0).screen, at(0, -h, 0).screen, c.screenByGrid, size);
        slopeNear(at(0, 0, h).screen, at(0, 0, -h).screen, c.screenByScreen, size);
      }
    }
}

TEST(EveryTube, SurvivesExtremeVolts) {
  for (const auto& [name, type] : amplifyingTypes())
    for (const double p : {-1e6, -1.0, 0.0, 1e-12, 1e6})
      for (const double g : {-1e6, 0.0, 1e3}) {
        if (type.isTriode()) {
          EXPECT_TRUE(std::isfinite(triodeCurrent(std::get<TriodeModel>(type.model), p, g).plate)) << name;
        } else {
          for (const double s : {-1e6, 0.0, 1e6}) {
            const auto c = pentodeCurrent(std::get<PentodeModel>(type.model), p, g, s);
            EXPECT_TRUE(std::isfinite(c.plate) && std::isfinite(c.screen)) << name;
          }
        }
        EXPECT_TRUE(std::isfinite(gridCurrent(type.grid, 3, g).grid)) << name;
      }
}

/// The shipped parameters against the data-sheet points shipped beside them: each figure within its bar or excused with
/// a reason, and the median figure within half a bar.
TEST(Catalogue, TubesMatchTheirPublishedPoints) {
  std::map<std::string, std::vector<double>> shares;
  int excused = 0;
  for (const auto& [name, type] : amplifyingTypes()) {
    EXPECT_FALSE(type.published.empty()) << name;
    for (const auto& d : compareWithPublished(type)) {
      if (d.bar <= 0) continue;
      shares[d.quantity].push_back(std::abs(d.error) / d.bar);
      if (d.over() && !d.point.exception.empty()) ++excused;
      EXPECT_TRUE(!d.over() || !d.point.exception.empty())
          << name << " " << d.quantity << " at " << d.point.plateVolts << " V: " << d.error;
    }
  }
  EXPECT_LE(excused, 2);
  for (auto& [quantity, values] : shares) {
    std::nth_element(values.begin(), values.begin() + static_cast<std::ptrdiff_t>(values.size() / 2), values.end());
    EXPECT_GT(values.size(), 30U) << quantity;
    EXPECT_LT(values[values.size() / 2], 0.5) << quantity;
  }
}

/// The slopes behind gm, mu and rp, against differences of the current at the published points themselves.
TEST(Catalogue, SmallSignalFiguresAreSlopesOfTheCurrent) {
  for (const auto& [name, type] : amplifyingTypes())
    for (const auto& point : type.published) {
      const double h = 1e-4;
      const auto amps = [&, &t = type](double plate, double grid) {
        auto moved = point;
        if (!moved.screenVolts && !moved.triodeConnected) moved.screenVolts = point.plateVolts;
        moved.plateVolts += plate;
        moved.gridVolts += grid;
        return modelAt(t, moved).plateAmps;
      };
      const auto model = modelAt(type, point);
      EXPECT_NEAR((amps(0, h) - amps(0, -h)) / (2 * h), model.gm, 1e-6 * model.gm) << name;
      EXPECT_NEAR((amps(h, 0) - amps(-h, 0)) / (2 * h), 1 / model.rp, 1e-5 / model.rp) << name;
    }
}

/// Another machine may round the last digit otherwise; the figures that count may not move.
TEST(Catalogue, FittingAgainGivesTheShippedParameters) {
  for (const char* name : {"12AX7", "12AT7", "300B", "EL84", "6V6GT", "EF86"}) {
    const auto model = fitModel(tube(name));
    ASSERT_TRUE(model) << model.error().line();
    TubeType again = tube(name);
    again.model = *model;
    const auto shipped = compareWithPublished(tube(name)), fitted = compareWithPublished(again);
    for (std::size_t i = 0; i < shipped.size(); ++i)
      EXPECT_NEAR(fitted[i].modelled / shipped[i].modelled, 1, 1e-5) << name << " " << shipped[i].quantity;
  }
}

/// A made-up tube whose points come from the law itself is found again.
TEST(Fit, FindsTheModelBehindThePoints) {
  TubeType made = tube("6SN7GT");
  const auto truth = TriodeModel{1.1, 24, 1.48, 0.45, 140, 0.15, 0.25, 2.5, 1, 15};
  made.model = truth;
  made.published.clear();
  for (const double plate : {100.0, 180.0, 250.0, 300.0})
    for (const double grid : {0.0, -3.0, -8.0}) {
      PublishedPoint point;
      point.plateVolts = plate, point.gridVolts = grid;
      const auto m = modelAt(made, point);
      if (m.plateAmps < 1e-4) continue;
      point.plateAmps = m.plateAmps, point.gm = m.gm, point.mu = m.mu, point.rp = m.rp;
      made.published.push_back(point);
    }
  const auto found = fitModel(made);
  ASSERT_TRUE(found);
  TubeType fitted = made;
  fitted.model = *found;
  for (const auto& d : compareWithPublished(fitted))
    EXPECT_LT(std::abs(d.error), 0.02) << d.quantity << " at " << d.point.plateVolts << ", " << d.point.gridVolts;
}

TEST(Fit, RefusesATubeWithoutPoints) {
  TubeType bare = tube("12AX7");
  bare.published.clear();
  EXPECT_FALSE(fitModel(bare));
}

/// A worn tube is the same law with the currents scaled and the grid's volts scaled.
TEST(Wear, ScalesCurrentsAndGridVolts) {
  const Wear wear{0.7, 0.9};
  const auto& triode = std::get<TriodeModel>(tube("12AX7").model);
  const auto& pentode = std::get<PentodeModel>(tube("EL84").model);
  for (const double plate : {20.0, 150.0, 300.0})
    for (const double grid : {-6.0, -1.5, 0.0, 3.0}) {
      EXPECT_NEAR(triodeCurrent(worn(triode, wear), plate, grid).plate,
                  0.7 * triodeCurrent(triode, plate, 0.9 * grid).plate, 1e-9 * triodeCurrent(triode, plate, 3).plate);
      EXPECT_NEAR(pentodeCurrent(worn(pentode, wear), plate, grid, 250).screen,
                  0.7 * pentodeCurrent(pentode, plate, 0.9 * grid, 250).screen, 1e-10);
    }
}

TEST(Catalogue, FindsAliases) {
  const auto& catalogue = testing_support::library().tubes;
  EXPECT_EQ(catalogue.find("ECC83"), catalogue.find("12AX7"));
  EXPECT_EQ(catalogue.find("no such tube"), nullptr);
}

} // namespace
} // namespace vinegar::tubes
