// Room: engineering values as builders write them, and the preferred series. Nothing else.
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <tl/expected.hpp>
#include <vector>

namespace vinegar::units {

enum class Unit { none, ohm, farad, henry, volt, ampere, watt, siemens, hertz, decibel };

/// What is wrong with a written value, in one sentence for the builder.
struct ValueError {
  std::string message;
};

/// Reads "4k7", "4.7k", "2M2", "22n", ".022u", "22 uF", "470p", "R47", "6.3V" as an SI value.
/// A unit that is written must be `unit`; none need be written. A decimal comma is read where it cannot be a
/// thousands separator. Anything else is an error that says why.
tl::expected<double, ValueError> parse(std::string_view text, Unit unit = Unit::none);

/// Prints for a schematic, prefix in place of the point: 4700 -> "4k7", 22e-9 -> "22n", 0.47 -> "R47".
/// Keeps six significant digits; parse(schematic(v)) returns v to that precision.
std::string schematic(double value, Unit unit);

/// Prints a reading with unit: reading(0.00124, ampere, 3) -> "1.24 mA". `digits` significant digits; 0: as few as say
/// the value to six digits, 22e-6 F -> "22 uF".
std::string reading(double value, Unit unit, int digits = 3);

std::string_view symbol(Unit unit);

enum class Series { e6, e12, e24, e96 };
constexpr std::string_view seriesNames[]{"E6", "E12", "E24", "E96"};
inline std::string_view nameOf(Series series) { return seriesNames[static_cast<std::size_t>(series)]; }
/// By "E12"; nothing for any other text.
std::optional<Series> seriesNamed(std::string_view name);

/// Preferred value next above `value` (strictly, beyond a relative 1e-6). value > 0.
double nextUp(Series series, double value);
double nextDown(Series series, double value);
/// Nearest in ratio. Exact halfway goes up.
double nearest(Series series, double value);
/// The series' mantissas over one decade, [1, 10), ascending.
const std::vector<double>& mantissas(Series series);

/// 20 lg of a ratio of amplitudes; of nothing, -6000.
double decibels(double ratio);

} // namespace vinegar::units
