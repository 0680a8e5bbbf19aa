#include "cli/table.h"

#include "units/csv.h"
#include "units/printable.h"

#include <cmath>
#include <cstdio>
#include <fmt/format.h>

namespace vinegar::cli {
namespace {

using units::Json;

/// A figure with its unit: the column's, else what its key ends with.
std::string textOf(const Json& cell, const Table::Column& column) {
  if (cell.is_null()) return "-";
  if (cell.is_string()) return units::printable(cell.get<std::string>());
  const double value = cell.get<double>();
  if (column.unit != units::Unit::none) return units::reading(value, column.unit, 4);
  const std::string_view key = column.key;
  if (key.ends_with("_seconds"))
    return std::abs(value) < 1 ? fmt::format("{:.3g} ms", 1000 * value) : fmt::format("{:.3g} s", value);
  if (key.ends_with("share")) return fmt::format("{:.3g} %", 100 * value);
  if (key.ends_with("_decibels")) return units::reading(value, units::Unit::decibel, 4);
  return fmt::format("{:.4g}", value);
}

std::string csvOf(const Json& cell) {
  if (cell.is_null()) return "";
  return cell.is_string() ? units::csvCell(cell.get<std::string>()) : fmt::format("{:.9g}", cell.get<double>());
}

} // namespace

Table& Table::row() {
  rows_.emplace_back();
  return *this;
}

Table& Table::put(const std::string& text) {
  rows_.back().emplace_back(text);
  return *this;
}

Table& Table::put(double value) {
  rows_.back().push_back(std::isfinite(value) ? Json(value) : Json());
  return *this;
}

Table& Table::put(const std::optional<double>& value) {
  if (value) return put(*value);
  rows_.back().emplace_back();
  return *this;
}

Json Table::json() const {
  Json list = Json::array();
  for (const auto& row : rows_) {
    Json one;
    for (std::size_t c = 0; c < columns_.size(); ++c)
      one[columns_[c].key] = row[c];
    list.push_back(std::move(one));
  }
  return list;
}

void Table::print(const std::string& format) const {
  if (format == "csv") {
    for (std::size_t c = 0; c < columns_.size(); ++c)
      fmt::print("{}{}", c ? "," : "", columns_[c].key);
    fmt::print("\n");
    for (const auto& row : rows_) {
      for (std::size_t c = 0; c < columns_.size(); ++c)
        fmt::print("{}{}", c ? "," : "", csvOf(row[c]));
      fmt::print("\n");
    }
    return;
  }
  std::vector<std::size_t> widths;
  for (std::size_t c = 0; c < columns_.size(); ++c) {
    std::size_t width = columns_[c].title.size();
    for (const auto& row : rows_)
      width = std::max(width, textOf(row[c], columns_[c]).size());
    widths.push_back(width);
  }
  const auto line = [&](const auto& textAt) {
    std::string text;
    for (std::size_t c = 0; c < columns_.size(); ++c)
      if (!columns_[c].title.empty()) text += fmt::format("{:<{}}  ", textAt(c), widths[c]);
    text.erase(text.find_last_not_of(' ') + 1);
    fmt::print("{}\n", text);
  };
  line([&](std::size_t c) { return columns_[c].title; });
  for (const auto& row : rows_)
    line([&](std::size_t c) { return textOf(row[c], columns_[c]); });
}

void print(const tell::Sheet& sheet, const std::string& format) {
  fmt::print("{}", format == "csv" ? tell::csvOf(sheet) : tell::textOf(sheet));
}

} // namespace vinegar::cli
