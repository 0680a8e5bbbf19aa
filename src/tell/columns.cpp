#include "tell/columns.h"

#include "units/csv.h"
#include "units/printable.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <fmt/ranges.h>

namespace vinegar::tell {
namespace {

using units::Json, units::Unit;

/// Nobody hears less of a decibel; what rounds to nothing has no sign.
double inTenths(double value) { return std::round(10 * value) / 10 + 0.0; }

std::string figureOf(const Head& head, double value) {
  switch (head.style) {
  case Style::share:
    return fmt::format("{:.1f} %", 100 * value);
  case Style::change: {
    const auto number = inTenths(value) == 0 ? std::string("0.0") : fmt::format("{:+.1f}", inTenths(value));
    return head.unit == Unit::decibel ? number + " dB" : number;
  }
  case Style::shareChange: {
    const double percent = std::round(100 * value) + 0.0;
    return percent == 0 ? "0 %" : fmt::format("{:+.0f} %", percent);
  }
  case Style::time:
    if (std::abs(value) < 0.9995) return fmt::format("{:.0f} ms", 1000 * value);
    return std::abs(value) < 9.995 ? fmt::format("{:.2f} s", value) : fmt::format("{:.1f} s", value);
  case Style::reading:
    break;
  }
  if (head.unit == Unit::decibel)
    return head.digits ? fmt::format("{:.{}f} dB", value, head.digits) : fmt::format("{:.1f} dB", inTenths(value));
  const int digits = head.digits ? head.digits : 3;
  constexpr double whole = 1000;
  if (head.unit == Unit::none) // a gain of 0.937 is no 937m
    return std::abs(value) < whole ? fmt::format("{:.{}g}", value, digits) : fmt::format("{:.0f}", value);
  return units::reading(value, head.unit, digits);
}

/// Letters on screen, not bytes: "µ" is one.
std::size_t widthOf(const std::string& text) {
  return static_cast<std::size_t>(
      std::count_if(text.begin(), text.end(), [](char c) { return (static_cast<unsigned char>(c) & 0xc0) != 0x80; }));
}

template <class Each> void eachKey(const Head& head, const Cell& cell, const Each& each) {
  each(head.key, cell.figure ? Json(*cell.figure) : cell.words.empty() ? Json() : Json(cell.words.english()));
  if (!head.limitKey.empty()) each(head.limitKey, cell.limit ? Json(*cell.limit) : Json());
}

} // namespace

Cell::Cell(double value) {
  if (std::isfinite(value)) figure = value;
}
Cell::Cell(const std::optional<double>& value) {
  if (value && std::isfinite(*value)) figure = value;
}
Cell::Cell(std::string text) : words(std::move(text)) {}
Cell::Cell(Said said) : words(std::move(said)) {}

Cell Cell::held(const std::optional<double>& value, const std::optional<double>& limit, bool over) {
  Cell cell(value);
  cell.limit = limit;
  cell.over = over;
  return cell;
}

std::vector<std::size_t> places(std::size_t count, std::size_t every) {
  std::vector<std::size_t> all;
  for (std::size_t i = every - 1; i < count; i += every)
    all.push_back(i);
  return all;
}

std::string written(const Head& head, const Cell& cell) {
  if (!cell.figure) return cell.words.empty() ? head.none : cell.words.english();
  const auto figure = figureOf(head, *cell.figure);
  return cell.limit ? fmt::format("{} of {}", figure, figureOf(head, *cell.limit)) : figure;
}

std::vector<std::string> keysOf(const std::vector<Head>& heads) {
  std::vector<std::string> keys;
  for (const auto& head : heads)
    eachKey(head, {}, [&](const std::string& key, const Json&) { keys.emplace_back(key); });
  return keys;
}

Json jsonOf(const Sheet& sheet) {
  Json list = Json::array();
  for (const auto& row : sheet.rows) {
    Json one;
    for (std::size_t c = 0; c < row.size(); ++c)
      eachKey(sheet.heads[c], row[c], [&](const std::string& key, Json value) { one[key] = std::move(value); });
    list.push_back(std::move(one));
  }
  return list;
}

std::string csvOf(const Sheet& sheet) {
  auto keys = keysOf(sheet.heads);
  for (auto& key : keys)
    key = units::csvCell(key);
  std::string csv = fmt::format("{}\n", fmt::join(keys, ","));
  for (const auto& row : sheet.rows) {
    std::vector<std::string> cells;
    for (std::size_t c = 0; c < row.size(); ++c)
      eachKey(sheet.heads[c], row[c], [&](const std::string&, const Json& value) {
        cells.push_back(value.is_null()     ? ""
                        : value.is_string() ? units::csvCell(value.get<std::string>())
                                            : fmt::format("{:.9g}", value.get<double>()));
      });
    csv += fmt::format("{}\n", fmt::join(cells, ","));
  }
  return csv;
}

std::string textOf(const Sheet& sheet) {
  std::vector<std::vector<std::string>> lines(1 + sheet.rows.size());
  for (std::size_t c = 0; c < sheet.heads.size(); ++c) {
    const auto& head = sheet.heads[c];
    if (head.title.empty()) continue;
    lines[0].push_back(units::printable(head.title)); // a rail of the builder's own may be one
    for (std::size_t r = 0; r < sheet.rows.size(); ++r) {
      const auto words = units::printable(written(head, sheet.rows[r][c]));
      lines[r + 1].push_back(words.empty() ? "-" : words);
    }
  }
  std::string text;
  std::vector<std::size_t> widths(lines[0].size());
  for (const auto& line : lines)
    for (std::size_t c = 0; c < line.size(); ++c)
      widths[c] = std::max(widths[c], widthOf(line[c]));
  for (const auto& line : lines) {
    std::string row;
    for (std::size_t c = 0; c < line.size(); ++c)
      row += line[c] + std::string(widths[c] - widthOf(line[c]) + 2, ' ');
    row.erase(row.find_last_not_of(' ') + 1);
    text += row + '\n';
  }
  return text;
}

} // namespace vinegar::tell
