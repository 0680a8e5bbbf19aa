#include "units/value.h"

#include <cmath>
#include <gtest/gtest.h>
#include <random>

namespace vinegar::units {
namespace {

struct Written {
  const char* text;
  Unit unit;
  double value;
};

class WrittenValue : public testing::TestWithParam<Written> {};

TEST_P(WrittenValue, IsReadAsBuildersMeanIt) {
  const auto [text, unit, value] = GetParam();
  const auto parsed = parse(text, unit);
  ASSERT_TRUE(parsed) << text << ": " << parsed.error().message;
  EXPECT_NEAR(*parsed / value, 1, 1e-12) << text;
}

INSTANTIATE_TEST_SUITE_P(
    Values, WrittenValue,
    testing::Values(Written{"4k7", Unit::ohm, 4700}, Written{"4.7k", Unit::ohm, 4700}, Written{"2M2", Unit::ohm, 2.2e6},
                    Written{"22n", Unit::farad, 22e-9}, Written{".022u", Unit::farad, 22e-9},
                    Written{"22 uF", Unit::farad, 22e-6}, Written{"470p", Unit::farad, 470e-12},
                    Written{"R47", Unit::ohm, 0.47}, Written{"6.3V", Unit::volt, 6.3}, Written{"6V3", Unit::volt, 6.3},
                    Written{"4R7", Unit::ohm, 4.7}, Written{"47R", Unit::ohm, 47}, Written{"1 meg", Unit::ohm, 1e6},
                    Written{"1Meg", Unit::ohm, 1e6}, Written{"100", Unit::ohm, 100}, Written{"4,7k", Unit::ohm, 4700},
                    Written{"22 \u00b5F", Unit::farad, 22e-6}, Written{"0.1 mfd", Unit::farad, 1e-7},
                    Written{"500 mmfd", Unit::farad, 500e-12}, Written{"-15V", Unit::volt, -15},
                    Written{"1e3", Unit::ohm, 1000}, Written{"2.2e-8F", Unit::farad, 2.2e-8},
                    Written{"100k\u03a9", Unit::ohm, 1e5}, Written{"220kohm", Unit::ohm, 220e3},
                    Written{"10H", Unit::henry, 10}, Written{"30mH", Unit::henry, 0.03},
                    Written{"1kHz", Unit::hertz, 1000}, Written{"5 mA", Unit::ampere, 0.005},
                    Written{"4n7F", Unit::farad, 4.7e-9}, Written{"1u", Unit::none, 1e-6}));

class NotAValue : public testing::TestWithParam<std::pair<const char*, Unit>> {};

TEST_P(NotAValue, IsRefusedWithAReason) {
  const auto parsed = parse(GetParam().first, GetParam().second);
  ASSERT_FALSE(parsed) << GetParam().first << " was read as " << *parsed;
  EXPECT_FALSE(parsed.error().message.empty());
}

INSTANTIATE_TEST_SUITE_P(
    Values, NotAValue,
    testing::Values(std::pair{"", Unit::ohm}, std::pair{"  ", Unit::ohm}, std::pair{"k", Unit::ohm},
                    std::pair{"4k7k", Unit::ohm}, std::pair{"4..7", Unit::ohm}, std::pair{"22x", Unit::farad},
                    std::pair{"x", Unit::none}, std::pair{"22uF", Unit::ohm}, std::pair{"100V", Unit::ohm},
                    std::pair{"1,000", Unit::ohm}, std::pair{"1e999", Unit::ohm}, std::pair{"nan", Unit::ohm},
                    std::pair{"inf", Unit::ohm}, std::pair{"four", Unit::ohm}, std::pair{"4 7", Unit::ohm},
                    std::pair{"--4", Unit::ohm}, std::pair{"R", Unit::ohm}, std::pair{"1e", Unit::ohm}));

TEST(Value, ErrorNamesTheWrongUnit) {
  EXPECT_NE(parse("22uF", Unit::ohm).error().message.find("farads"), std::string::npos);
}

TEST(Value, PrintsAsOnASchematic) {
  EXPECT_EQ(schematic(4700, Unit::ohm), "4k7");
  EXPECT_EQ(schematic(22e-9, Unit::farad), "22n");
  EXPECT_EQ(schematic(0.47, Unit::ohm), "R47");
  EXPECT_EQ(schematic(4.7, Unit::ohm), "4R7");
  EXPECT_EQ(schematic(100, Unit::ohm), "100");
  EXPECT_EQ(schematic(2.2e6, Unit::ohm), "2M2");
  EXPECT_EQ(schematic(999999.9, Unit::ohm), "1M");
  EXPECT_EQ(schematic(0.33e-6, Unit::farad), "330n");
  EXPECT_EQ(reading(0.00124, Unit::ampere), "1.24 mA");
  EXPECT_EQ(reading(151.34, Unit::volt), "151 V");
  EXPECT_EQ(reading(-38.2345e-6, Unit::ampere), "-38.2 \u00b5A");
}

TEST(Value, RoundTripsOverTheWholeRange) {
  std::mt19937 random(7);
  std::uniform_real_distribution<double> exponent(-11.9, 8.9);
  for (const Unit unit : {Unit::ohm, Unit::farad, Unit::henry, Unit::volt, Unit::ampere, Unit::hertz})
    for (int i = 0; i < 5000; ++i) {
      const double value = std::pow(10.0, exponent(random));
      const auto back = parse(schematic(value, unit), unit);
      ASSERT_TRUE(back) << schematic(value, unit) << ": " << back.error().message;
      EXPECT_NEAR(*back / value, 1, 6e-6) << schematic(value, unit);
    }
}

TEST(Reading, KnowsNoPrefixUnderPico) {
  EXPECT_EQ(reading(1e-13, Unit::farad), "0.1 pF");
  EXPECT_EQ(reading(4.6e-13, Unit::farad), "0.46 pF");
  EXPECT_EQ(reading(1.7e-12, Unit::farad), "1.70 pF");
}

TEST(Series, StepsThroughStockValuesAndBack) {
  EXPECT_DOUBLE_EQ(nextUp(Series::e12, 22e-6), 27e-6);
  EXPECT_DOUBLE_EQ(nextDown(Series::e12, 1e-7), 82e-9);
  EXPECT_DOUBLE_EQ(nextUp(Series::e6, 6.8), 10);
  EXPECT_DOUBLE_EQ(nearest(Series::e24, 5000), 5100);
  EXPECT_DOUBLE_EQ(nearest(Series::e12, 4700), 4700);
  EXPECT_DOUBLE_EQ(nearest(Series::e96, 49900), 49900);
  std::mt19937 random(3);
  std::uniform_real_distribution<double> exponent(-11, 7);
  for (const Series series : {Series::e6, Series::e12, Series::e24, Series::e96})
    for (int i = 0; i < 2000; ++i) {
      const double start = nearest(series, std::pow(10.0, exponent(random)));
      EXPECT_EQ(nextDown(series, nextUp(series, start)), start);
      EXPECT_EQ(nextUp(series, nextDown(series, start)), start);
      EXPECT_EQ(nearest(series, start), start);
    }
}

TEST(Series, E96FollowsItsDefinition) {
  // IEC 60063: E96 is 10^(i/96) to three figures; E48's members are every other one.
  EXPECT_EQ(mantissas(Series::e96).size(), 96U);
  EXPECT_DOUBLE_EQ(mantissas(Series::e96)[48], 3.16);
  EXPECT_DOUBLE_EQ(mantissas(Series::e96)[95], 9.76);
}

} // namespace
} // namespace vinegar::units
