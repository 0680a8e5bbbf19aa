// A burst through supplies of every kind: the averaged one against the rectifiers cycle by cycle.
#include "predict/choices/consequences.h"
#include "predict/feel/feel.h"
#include "predict/feel/feel_choices.h"

#include "files/design_file.h"
#include "support/bench_design.h"
#include "support/paths.h"
#include "support/phrases.h"

#include <cmath>
#include <gtest/gtest.h>

namespace vinegar::predict {
namespace {

using testing_support::library;
using testing_support::sound;
using What = Track::What;

amp::SectionUse supplySection(const std::string& section, const std::string& node,
                              const testing_support::Settings& settings = {}) {
  auto one = testing_support::use("supply-" + node, section, settings);
  one.node = node;
  one.joins.clear();
  return one;
}

/// A small single-ended amplifier on other supplies of about its volts; two channels are a design of their own.
amp::Design onSupply(const std::string& kind) {
  if (kind == "two channels") return testing_support::skeleton("5-two-channels").ink;
  auto design = testing_support::sample("net-loft").ink;
  auto& supply = design.supply;
  const auto after = std::vector<amp::SectionUse>(supply.begin() + 2, supply.end());
  if (kind == "choke input") {
    supply = {supply[0], supplySection("supply-choke-node", "A")};
    supply[0].parts["T"].settings["htVolts"] = 330.0;
  } else if (kind == "regulated screens") {
    supply.resize(2);
    supply.push_back(supplySection("supply-zener-node", "B"));
    supply.push_back(after[1]);
    return design;
  } else if (kind == "doubler") {
    supply = {supplySection("supply-doubler", "A", {{"T", {{"htVolts", 115.0}}}})};
  } else if (kind == "bridge") {
    supply = {supplySection("supply-bridge", "K", {{"T", {{"htVolts", 215.0}}}}), supply[1]};
  }
  supply.insert(supply.end(), after.begin(), after.end());
  amp::nameParts(design, library());
  return design;
}

/// Droop within 2 %, recovery within 5 %, output within 0.2 dB, whatever feeds the amplifier. A rail behind Zener
/// diodes follows the ripple's crests, which the average has not: within 1.5 % of its volts.
TEST(FeelSupplies, AveragedIsCycleByCycle) {
  VINEGAR_LONG_TEST(numbers);
  int compared = 0;
  for (const char* kind : {"choke input", "regulated screens", "doubler", "bridge", "two channels"}) {
    const auto idle = testing_support::atRest(onSupply(kind));
    ASSERT_TRUE(idle.point.supply) << kind;
    const auto drone = sound("drone");
    BurstQuestion question{drone, 0.3, 24000};
    const auto feelOf = [&] {
      auto burst = playBurst(idle, library(), question);
      EXPECT_TRUE(burst) << kind << ' ' << burst.error().line();
      return readBurst(idle, library(), std::move(*burst), *drone);
    };
    const auto cycles = feelOf();
    question.averaged = true;
    const auto mean = feelOf();
    ASSERT_EQ(cycles.rails.size(), mean.rails.size()) << kind;
    ASSERT_GE(cycles.fed, 0) << kind;
    for (std::size_t r = 0; r < mean.rails.size(); ++r) {
      const auto &a = cycles.rails[r], &b = mean.rails[r];
      const bool zeners = std::string(kind) == "regulated screens";
      EXPECT_NEAR(b.droop(), a.droop(), zeners ? 0.015 * a.before : 0.02 * a.droop() + 0.4) << kind << ' ' << a.rail;
      EXPECT_NEAR(b.before, a.before, 1e-3 * a.before) << kind << ' ' << a.rail;
      if (a.droop() > 1.5 && std::isfinite(a.back63)) {
        EXPECT_NEAR(b.back63, a.back63, 0.05 * a.back63 + 0.004) << kind << ' ' << a.rail;
        ++compared;
      }
    }
    const auto level = [](const Feel& feel) { return overPeriods(feel.burst.track(What::output)->squares, 5); };
    const auto a = level(cycles), b = level(mean);
    const auto from = static_cast<std::size_t>((mean.burst.lead + 0.1) / mean.burst.hop);
    const auto to = static_cast<std::size_t>((mean.burst.lead + mean.burst.sounds) / mean.burst.hop);
    for (std::size_t k = from; k < to; ++k)
      ASSERT_NEAR(10 * std::log10(b[k] / a[k]), 0, 0.2) << kind << ' ' << k;
  }
  EXPECT_GE(compared, 3);
}

/// Steps that err are gone through again in quarters: nearer to a run of short steps, and said.
TEST(FeelSupplies, StepsThatErrAreGoneThroughFiner) {
  const auto idle = testing_support::sampleAtRest("slipway");
  const auto chord = sound("chord");
  BurstQuestion question{chord, 0.3, 6000};
  question.mostSeconds = 0.2;
  const auto far = [&](const Burst& burst, const Burst& from) {
    const auto each = static_cast<std::size_t>(from.samplesPerSecond / burst.samplesPerSecond);
    double off = 0, all = 0;
    for (std::size_t k = 0; k < burst.output.size(); ++k) {
      const double want = static_cast<double>(from.output[(k + 1) * each - 1]);
      off += std::pow(static_cast<double>(burst.output[k]) - want, 2);
      all += want * want;
    }
    return std::sqrt(off / all);
  };
  const auto play = [&](double rate, double bound) {
    auto one = question;
    one.samplesPerSecond = rate;
    one.mostStepError = bound;
    auto burst = playBurst(idle, library(), one);
    EXPECT_TRUE(burst) << burst.error().line();
    return std::move(*burst);
  };
  const auto fine = play(96000, 0), free = play(6000, 0), bounded = play(6000, 0.02), quarters = play(24000, 0);
  EXPECT_EQ(free.redone, 0);
  EXPECT_GT(bounded.redone, 0);
  EXPECT_EQ(bounded.output.size(), free.output.size());
  EXPECT_LT(far(bounded, fine), 0.5 * far(free, fine));
  EXPECT_LT(far(bounded, fine), 2 * far(quarters, fine));
  const auto never = play(6000, 10);
  EXPECT_EQ(never.redone, 0);
  EXPECT_EQ(never.output, free.output);
}

/// Another transformer's winding and another choke are among what brings more sag or less, in the design's own words.
TEST(FeelSupplies, WindingsAndChokesAreTried) {
  VINEGAR_LONG_TEST(numbers);
  const auto idle = testing_support::sampleAtRest("slipway");
  BurstQuestion burst{sound("chord"), 0.1, 6000};
  burst.mostSeconds = 0.3;
  int watts = 0;
  for (const double wanted : {0.03, 0.12}) {
    const auto rows = predictFeelRows(idle, library(), {FeelSubject::sag, burst, wanted});
    ASSERT_TRUE(rows) << rows.error().line();
    bool winding = false;
    for (const auto& row : rows->rows) {
      for (const auto& change : row.changes)
        winding |= change.field == "htOhms" || change.field == "regulation";
      // A resistor's watts at idle are the square of the current that its wave's root mean square stands for.
      for (const auto& change : row.changes)
        if (change.part == "R33" && change.field == "value") {
          const auto other = testing_support::changed(idle, row.changes);
          const auto* part = other.circuit->part("R33");
          const auto amps = other.point.supply->amps(part->devices.front());
          const double rms = std::sqrt(amps.squaredNorm() / static_cast<double>(amps.size()));
          const auto said = units::reading(rms * rms * part->resolved.value(), units::Unit::watt, 2);
          EXPECT_NE(row.about.find("R33 dissipates " + said + " at idle"), std::string::npos)
              << row.title << ": " << row.about << ", not " << said;
          ++watts;
        }
    }
    EXPECT_TRUE(winding) << wanted;
  }
  EXPECT_GT(watts, 0);
}

/// The value that brings the output tubes back is the best of its stock list, and what is said of it is what it does.
TEST(FeelSupplies, RebiasBringsTheDissipationBack) {
  const auto idle = testing_support::sampleAtRest("slipway");
  const auto wattsOf = [](const Idle& of) {
    for (const auto& tube : of.point.tubes)
      if (tube.name == "V3") return tube.plateWatts;
    return 0.0;
  };
  const auto answer = predictConsequences(idle, library(), ConsequencesQuestion{"V5", true}, {});
  ASSERT_TRUE(answer);
  const double now = wattsOf(idle);
  int found = 0;
  for (const auto& row : answer->rows) {
    if (row.choice.changes.empty()) {
      EXPECT_TRUE(row.rebias.empty());
      continue;
    }
    const double without = wattsOf(testing_support::changed(idle, row.choice.changes));
    EXPECT_EQ(row.rebias.empty(), std::abs(without / now - 1) < 0.07) << row.choice.title;
    if (row.rebias.empty()) continue;
    ++found;
    ASSERT_EQ(row.rebias.size(), 1U);
    EXPECT_EQ(row.rebiased,
              row.rebias[0].part + " " + units::schematic(std::get<double>(row.rebias[0].to), units::Unit::ohm));
    const auto missAt = [&](double ohms) {
      auto both = row.choice.changes;
      both.push_back({row.rebias[0].part, row.rebias[0].field, row.rebias[0].from, ohms});
      return std::abs(wattsOf(testing_support::changed(idle, both)) - now);
    };
    const double ohms = std::get<double>(row.rebias[0].to), miss = missAt(ohms);
    EXPECT_LT(miss, std::abs(without - now)) << row.choice.title;
    for (const double other :
         {units::nearest(units::Series::e12, ohms * 1.2), units::nearest(units::Series::e12, ohms / 1.2)})
      EXPECT_LE(miss, missAt(other) + 0.02 * now) << row.choice.title << ' ' << ohms << ' ' << other;
  }
  EXPECT_GT(found, 3);
  // The Feel page has it of the same code.
  BurstQuestion burst{sound("chord"), 0.1, 12000};
  burst.mostSeconds = 0.1;
  const auto rows = predictFeelRows(idle, library(), {FeelSubject::rectifiers, burst});
  ASSERT_TRUE(rows);
  int same = 0;
  for (const auto& row : rows->rows)
    for (const auto& other : answer->rows)
      if (!row.changes.empty() && row.changes == other.choice.changes) {
        EXPECT_EQ(row.rebias, other.rebias) << row.title;
        ++same;
      }
  EXPECT_GT(same, 3);
}

} // namespace
} // namespace vinegar::predict
