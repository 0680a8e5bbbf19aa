#include "units/value.h"

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>
#include <fmt/format.h>
#include <optional>

namespace vinegar::units {
namespace {

struct Prefix {
  std::string_view text;
  int exponent;
};

// Order matters: longer spellings first, so "meg" is not read as milli.
constexpr std::array<Prefix, 14> prefixes{{{"meg", 6},
                                           {"Meg", 6},
                                           {"MEG", 6},
                                           {"p", -12},
                                           {"n", -9},
                                           {"u", -6},
                                           {"\u00b5", -6},
                                           {"\u03bc", -6},
                                           {"m", -3},
                                           {"k", 3},
                                           {"K", 3},
                                           {"M", 6},
                                           {"G", 9},
                                           {"P", -12}}};

struct Spelling {
  std::string_view text;
  Unit unit;
};
constexpr std::array<Spelling, 22> spellings{
    {{"ohms", Unit::ohm},   {"ohm", Unit::ohm},  {"Ohm", Unit::ohm},  {"Ohms", Unit::ohm}, {"\u03a9", Unit::ohm},
     {"\u2126", Unit::ohm}, {"F", Unit::farad},  {"f", Unit::farad},  {"fd", Unit::farad}, {"H", Unit::henry},
     {"h", Unit::henry},    {"V", Unit::volt},   {"v", Unit::volt},   {"A", Unit::ampere}, {"a", Unit::ampere},
     {"W", Unit::watt},     {"w", Unit::watt},   {"Hz", Unit::hertz}, {"hz", Unit::hertz}, {"dB", Unit::decibel},
     {"E", Unit::ohm},      {"S", Unit::siemens}}};

std::string_view unitName(Unit unit) {
  switch (unit) {
  case Unit::ohm:
    return "ohms";
  case Unit::farad:
    return "farads";
  case Unit::henry:
    return "henries";
  case Unit::volt:
    return "volts";
  case Unit::ampere:
    return "amperes";
  case Unit::watt:
    return "watts";
  case Unit::siemens:
    return "siemens";
  case Unit::hertz:
    return "hertz";
  case Unit::decibel:
    return "decibels";
  case Unit::none:
    break;
  }
  return "a plain number";
}

std::string_view trimmed(std::string_view text) {
  const auto first = text.find_first_not_of(" \t\r\n");
  if (first == std::string_view::npos) return {};
  return text.substr(first, text.find_last_not_of(" \t\r\n") - first + 1);
}

std::string_view takeDigits(std::string_view& text) {
  std::size_t n = 0;
  while (n < text.size() && text[n] >= '0' && text[n] <= '9')
    ++n;
  const auto digits = text.substr(0, n);
  text.remove_prefix(n);
  return digits;
}

bool take(std::string_view& text, std::string_view word) {
  if (text.substr(0, word.size()) != word) return false;
  text.remove_prefix(word.size());
  return true;
}

std::optional<int> takePrefix(std::string_view& text) {
  for (const auto& prefix : prefixes)
    if (take(text, prefix.text)) return prefix.exponent;
  return std::nullopt;
}

const Spelling* wholeUnit(std::string_view text) {
  for (const auto& spelling : spellings)
    if (spelling.text == text) return &spelling;
  return nullptr;
}

tl::unexpected<ValueError> fail(std::string message) { return tl::unexpected(ValueError{std::move(message)}); }

struct Scaled {
  double mantissa;
  int exponent;
};

/// Splits into a mantissa in [1, 1000) after rounding to `digits`, and an exponent that is a multiple of three.
Scaled engineering(double magnitude, int digits) {
  int exponent = static_cast<int>(std::floor(std::log10(magnitude) / 3.0)) * 3;
  double mantissa = magnitude / std::pow(10.0, exponent);
  const double scale = std::pow(10.0, digits - 1 - static_cast<int>(std::floor(std::log10(mantissa))));
  mantissa = std::round(mantissa * scale) / scale;
  if (mantissa >= 1000.0) {
    mantissa /= 1000.0;
    exponent += 3;
  }
  return {mantissa, exponent};
}

std::string_view prefixFor(int exponent) {
  switch (exponent) {
  case -12:
    return "p";
  case -9:
    return "n";
  case -6:
    return "u";
  case -3:
    return "m";
  case 0:
    return "";
  case 3:
    return "k";
  case 6:
    return "M";
  case 9:
    return "G";
  default:
    return "?";
  }
}

} // namespace

std::string_view symbol(Unit unit) {
  switch (unit) {
  case Unit::ohm:
    return "\u03a9";
  case Unit::farad:
    return "F";
  case Unit::henry:
    return "H";
  case Unit::volt:
    return "V";
  case Unit::ampere:
    return "A";
  case Unit::watt:
    return "W";
  case Unit::siemens:
    return "S";
  case Unit::hertz:
    return "Hz";
  case Unit::decibel:
    return "dB";
  case Unit::none:
    break;
  }
  return "";
}

tl::expected<double, ValueError> parse(std::string_view original, Unit unit) {
  std::string_view text = trimmed(original);
  if (text.empty()) return fail("no value given");
  const auto bad = [&](std::string_view why) { return fail(fmt::format("\"{}\" is not a value: {}", original, why)); };
  if (text.size() > 40) return fail("not a value: too long");

  const bool negative = take(text, "-");
  if (!negative) take(text, "+");
  const auto whole = takeDigits(text);
  std::string_view fraction;
  std::optional<int> exponent;
  bool point = false;
  if (take(text, ".")) {
    point = true;
    fraction = takeDigits(text);
  } else if (text.size() > 1 && text[0] == ',') {
    text.remove_prefix(1);
    point = true;
    fraction = takeDigits(text);
    if (fraction.size() == 3) return bad("a comma before three digits can mean two things; write a point");
  } else {
    // A prefix or the unit letter standing in place of the point: 4k7, R47, 6V3.
    auto rest = text;
    std::optional<int> letter = takePrefix(rest);
    if (!letter && !rest.empty() &&
        ((rest[0] == 'R' && (unit == Unit::ohm || unit == Unit::none)) ||
         (rest[0] == 'V' && (unit == Unit::volt || unit == Unit::none)))) {
      rest.remove_prefix(1);
      letter = 0;
    }
    if (letter) {
      auto digits = rest;
      fraction = takeDigits(digits);
      if (!fraction.empty() || (text[0] == 'R' && digits.empty())) {
        exponent = letter;
        text = digits;
      }
    }
  }
  if (whole.empty() && fraction.empty()) return bad("it has no digits");

  int scientific = 0;
  if (!exponent && text.size() > 1 && (text[0] == 'e' || text[0] == 'E')) {
    auto digits = text.substr(1);
    const bool minus = take(digits, "-");
    if (!minus) take(digits, "+");
    const auto number = takeDigits(digits);
    if (!number.empty()) {
      if (number.size() > 3) return bad("its exponent is out of range");
      std::from_chars(number.data(), number.data() + number.size(), scientific);
      if (minus) scientific = -scientific;
      text = digits;
    }
  }
  text = trimmed(text);

  // "mfd" and "mmfd" are the old spellings of microfarad and picofarad and still stand on parts in drawers.
  if (!exponent && (unit == Unit::farad || unit == Unit::none)) {
    if (text == "mfd" || text == "mF" || text == "MFD" || text == "Mfd") {
      if (text != "mF") {
        exponent = -6;
        text = {};
      }
    } else if (text == "mmfd" || text == "MMFD") {
      exponent = -12;
      text = {};
    }
  }
  const Spelling* spelled = text.empty() ? nullptr : wholeUnit(text);
  if (!spelled && !text.empty() && !exponent) {
    exponent = takePrefix(text);
    if (!exponent && text == "R" && (unit == Unit::ohm || unit == Unit::none)) text = {};
    text = trimmed(text);
    spelled = text.empty() ? nullptr : wholeUnit(text);
  }
  if (!text.empty() && !spelled) return bad(fmt::format("\"{}\" is neither a prefix nor a unit", text));
  if (spelled && unit != Unit::none && spelled->unit != unit)
    return bad(fmt::format("it is in {}, {} are wanted here", unitName(spelled->unit), unitName(unit)));

  std::string digits{whole.empty() ? "0" : whole};
  if (point || !fraction.empty()) digits.append(".").append(fraction.empty() ? "0" : fraction);
  digits += fmt::format("e{}", exponent.value_or(0) + scientific);
  double value = 0;
  const auto [end, error] = std::from_chars(digits.data(), digits.data() + digits.size(), value);
  if (error != std::errc{} || !std::isfinite(value)) return bad("it is out of range");
  return negative ? -value : value;
}

std::string schematic(double value, Unit unit) {
  if (value == 0 || !std::isfinite(value)) return fmt::format("{}", value);
  const auto [mantissa, exponent] = engineering(std::abs(value), 6);
  if (exponent < -12 || exponent > 9) return fmt::format("{:.6g}", value);
  std::string digits = fmt::format("{:.6g}", mantissa);
  std::string letter{prefixFor(exponent)};
  if (letter.empty()) {
    if (unit == Unit::ohm)
      letter = "R";
    else if (unit == Unit::volt)
      letter = "V";
  }
  const std::string sign = value < 0 ? "-" : "";
  // Below one ohm builders write R47, not 470m.
  if (unit == Unit::ohm && exponent == -3 && mantissa >= 100) {
    digits = fmt::format("{:.9f}", mantissa / 1000).substr(2);
    digits.erase(digits.find_last_not_of('0') + 1);
    return sign + "R" + digits;
  }
  const auto point = digits.find('.');
  if (point == std::string::npos) return sign + digits + (letter == "R" ? std::string{} : letter);
  if (letter.empty()) return sign + digits;
  return sign + digits.replace(point, 1, letter);
}

std::string reading(double value, Unit unit, int digits) {
  if (!std::isfinite(value)) return "\u2014";
  const std::string_view suffix = symbol(unit);
  const char* gap = suffix.empty() ? "" : " ";
  if (unit == Unit::decibel) return fmt::format("{:.{}f}{}{}", value, std::max(digits - 2, 0), gap, suffix);
  if (std::abs(value) < 1e-15) return fmt::format("0{}{}", gap, suffix);
  const auto [mantissa, exponent] = engineering(std::abs(value), digits > 0 ? digits : 6);
  // Builders know no prefix under pico.
  if (exponent == -15) return fmt::format("{:.{}g}{}p{}", value * 1e12, std::max(digits, 3), gap, suffix);
  if (exponent < -12 || exponent > 9) return fmt::format("{:.{}g}{}{}", value, std::max(digits, 3), gap, suffix);
  if (digits == 0)
    return fmt::format("{}{:.6g}{}{}{}", value < 0 ? "-" : "", mantissa, gap,
                       exponent == -6 ? "\u00b5" : prefixFor(exponent), suffix);
  const int whole = mantissa >= 100 ? 3 : mantissa >= 10 ? 2 : 1;
  return fmt::format("{}{:.{}f}{}{}{}", value < 0 ? "-" : "", mantissa, std::max(digits - whole, 0), gap,
                     exponent == -6 ? "\u00b5" : prefixFor(exponent), suffix);
}

const std::vector<double>& mantissas(Series series) {
  static const std::vector<double> e6{1.0, 1.5, 2.2, 3.3, 4.7, 6.8};
  static const std::vector<double> e12{1.0, 1.2, 1.5, 1.8, 2.2, 2.7, 3.3, 3.9, 4.7, 5.6, 6.8, 8.2};
  static const std::vector<double> e24{1.0, 1.1, 1.2, 1.3, 1.5, 1.6, 1.8, 2.0, 2.2, 2.4, 2.7, 3.0,
                                       3.3, 3.6, 3.9, 4.3, 4.7, 5.1, 5.6, 6.2, 6.8, 7.5, 8.2, 9.1};
  static const std::vector<double> e96 = [] {
    std::vector<double> values;
    values.reserve(96);
    for (int i = 0; i < 96; ++i)
      values.push_back(std::round(std::pow(10.0, i / 96.0) * 100) / 100);
    return values;
  }();
  switch (series) {
  case Series::e6:
    return e6;
  case Series::e12:
    return e12;
  case Series::e24:
    return e24;
  case Series::e96:
    break;
  }
  return e96;
}

namespace {
/// Rounded to the nearest double that a person would write, so stepping up and down returns to the same number.
double preferred(double mantissa, int decade) {
  double value = 0;
  const std::string text = fmt::format("{:.4g}e{}", mantissa, decade);
  std::from_chars(text.data(), text.data() + text.size(), value);
  return value;
}
} // namespace

std::optional<Series> seriesNamed(std::string_view name) {
  const auto* const found = std::find(std::begin(seriesNames), std::end(seriesNames), name);
  return found == std::end(seriesNames) ? std::nullopt
                                        : std::optional(static_cast<Series>(found - std::begin(seriesNames)));
}

double nextUp(Series series, double value) {
  const int decade = static_cast<int>(std::floor(std::log10(value)));
  for (int d = decade - 1; d <= decade + 1; ++d)
    for (const double mantissa : mantissas(series))
      if (const double candidate = preferred(mantissa, d); candidate > value * (1 + 1e-6)) return candidate;
  return preferred(1, decade + 2);
}

double nextDown(Series series, double value) {
  const int decade = static_cast<int>(std::floor(std::log10(value)));
  const auto& all = mantissas(series);
  for (int d = decade + 1; d >= decade - 1; --d)
    for (auto mantissa = all.rbegin(); mantissa != all.rend(); ++mantissa)
      if (const double candidate = preferred(*mantissa, d); candidate < value * (1 - 1e-6)) return candidate;
  return preferred(all.back(), decade - 2);
}

double nearest(Series series, double value) {
  const double up = nextUp(series, value * (1 - 1e-5));
  const double down = nextDown(series, value * (1 + 1e-5));
  return up / value <= value / down ? up : down;
}

double decibels(double ratio) { return 20 * std::log10(std::max(ratio, 1e-300)); }

} // namespace vinegar::units
