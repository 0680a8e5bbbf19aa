#include "files/columns.h"

#include "units/file.h"
#include "units/value.h"

#include <algorithm>
#include <cmath>
#include <cstring>
#include <fmt/format.h>
#include <optional>
#include <sstream>

namespace vinegar::files {
namespace {
constexpr std::size_t mostLines = 10'000;

bool isDigit(char c) { return c >= '0' && c <= '9'; }

/// Whether a mark stands between two digits anywhere in the text, as a decimal one does.
bool standsInNumbers(const std::string& text, char mark) {
  for (std::size_t i = 1; i + 1 < text.size(); ++i)
    if (text[i] == mark && isDigit(text[i - 1]) && isDigit(text[i + 1])) return true;
  return false;
}

/// A line's cells. Where semicolons or tabs part them, a comma is a decimal one; where commas may be either, nothing.
std::optional<std::vector<std::string>> cellsOf(std::string line, bool hasPoints) {
  std::erase(line, '\r');
  const bool parted = line.find_first_of(";\t") != std::string::npos;
  const auto split = [](std::string part, const char* at) {
    for (char& c : part)
      if (std::strchr(at, c)) c = ' ';
    std::istringstream stream(part);
    std::vector<std::string> cells;
    for (std::string cell; stream >> cell;)
      cells.push_back(cell);
    return cells;
  };
  if (parted) {
    auto cells = split(line, ";\t");
    for (auto& cell : cells) {
      const auto commas = std::count(cell.begin(), cell.end(), ',');
      if (commas > 1 || (commas == 1 && cell.find('.') != std::string::npos)) return std::nullopt;
      std::replace(cell.begin(), cell.end(), ',', '.');
    }
    return cells;
  }
  auto cells = split(line, ",");
  if (hasPoints || !standsInNumbers(line, ',')) return cells;
  // "100 1,5" and "100,1,5": no point in the whole file, and more numbers than the columns need.
  const bool blanks = split(line, "").size() > 1;
  if (blanks || (cells.size() > 2 && std::all_of(cells[2].begin(), cells[2].end(), isDigit))) return std::nullopt;
  return cells;
}
} // namespace

tl::expected<std::vector<amp::CurvePoint>, Problem> parseColumns(const std::string& text, const std::string& place,
                                                                 const std::string& what) {
  std::vector<amp::CurvePoint> points;
  std::istringstream lines(text);
  std::string line;
  const bool hasPoints = standsInNumbers(text, '.');
  for (int number = 1; std::getline(lines, line); ++number) {
    const auto start = line.find_first_not_of(" \t");
    if (start == std::string::npos || std::strchr("#*\"\r", line[start])) continue;
    const auto cells = cellsOf(line, hasPoints);
    if (!cells)
      return tl::unexpected(Problem{fmt::format("{}:{}", place, number),
                                    "its commas may part columns or decimals; part the columns by semicolons or tabs"});
    if (cells->empty()) continue;
    const auto &first = cells->front(), second = cells->size() > 1 ? (*cells)[1] : std::string();
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
