#pragma once

#include "tell/columns.h"
#include "units/json.h"
#include "units/value.h"

#include <optional>
#include <string>
#include <vector>

namespace vinegar::cli {

/// What a command found, a row a thing, printed as text, CSV or JSON alike: one list of columns serves all three.
class Table {
public:
  struct Column {
    std::string key;   ///< of CSV and JSON, with its unit: "plate_volts"
    std::string title; ///< of text; empty: not shown there
    units::Unit unit = units::Unit::none;
  };
  explicit Table(std::vector<Column> columns) : columns_(std::move(columns)) {}

  /// A new row; then a cell for every column, in order.
  Table& row();
  Table& put(const std::string& text);
  Table& put(double value);
  Table& put(const std::optional<double>& value);

  [[nodiscard]] units::Json json() const;
  /// On standard output: "csv", or text in columns. `json` is printed by whoever wraps it.
  void print(const std::string& format) const;

private:
  std::vector<Column> columns_;
  std::vector<std::vector<units::Json>> rows_;
};

/// What the window shows in a table: "csv", or text in columns.
void print(const tell::Sheet& sheet, const std::string& format);

} // namespace vinegar::cli
