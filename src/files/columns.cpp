#include "files/columns.h"

#include "units/file.h"
#include "units/value.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <sstream>

namespace vinegar::files {
namespace {
constexpr std::size_t mostLines = 10'000;
}

tl::expected<std::vector<amp::CurvePoint>, Problem> parseColumns(const std::string& text, const std::string& place,
                                                                 const std::string& what) {
  std::vector<amp::CurvePoint> points;
  std::istringstream lines(text);
  std::string line;
  for (int number = 1; std::getline(lines, line); ++number) {
    std::replace_if(
        line.begin(), line.end(), [](char c) { return c == ',' || c == ';' || c == '\t' || c == '\r'; }, ' ');
    std::istringstream cells(line);
    std::string first, second;
    if (!(cells >> first) || first.front() == '#' || first.front() == '*' || first.front() == '"') continue;
    cells >> second;
    const auto hertz = units::parse(first, units::Unit::hertz), value = units::parse(second);
    const auto level = value ? value : units::parse(second, units::Unit::decibel);
    if (!hertz || !level || !(*hertz > 0) || !std::isfinite(*level)) {
      if (points.empty() && !hertz) continue; // its head
      return tl::unexpected(Problem{fmt::format("{}:{}", place, number), "needs a frequency and a " + what});
    }
    points.push_back({*hertz, *level});
    if (points.size() > mostLines)
      return tl::unexpected(Problem{place, "more points than a curve needs; 10000 are enough"});
  }
  if (points.empty())
    return tl::unexpected(Problem{place, "holds no curve: two columns are wanted, frequency and " + what});
  std::stable_sort(points.begin(), points.end(), [](const auto& a, const auto& b) { return a.hertz < b.hertz; });
  const auto twice =
      std::adjacent_find(points.begin(), points.end(), [](const auto& a, const auto& b) { return a.hertz == b.hertz; });
  if (twice != points.end())
    return tl::unexpected(Problem{place, fmt::format("has two values at {:g} Hz", twice->hertz)});
  return points;
}

tl::expected<std::vector<amp::CurvePoint>, Problem> readColumns(const std::filesystem::path& path,
                                                                const std::string& what) {
  const auto text = units::readFile(path);
  if (!text) return tl::unexpected(text.error());
  return parseColumns(*text, path.string(), what);
}

} // namespace vinegar::files
