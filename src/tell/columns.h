// Room: what an answer is called and how it is written, once for the window's tables, the command line's text, CSV and
// JSON, the clipboard and exports. Knows no widget; its English words are the keys that the window translates.
#pragma once

#include "tell/said.h"
#include "units/json.h"
#include "units/value.h"

#include <functional>
#include <optional>
#include <string>
#include <vector>

namespace vinegar::tell {

/// How a figure is written where its unit does not say it all.
enum class Style {
  reading,     ///< "319 V", "4.7"
  share,       ///< of 1: "83 %"
  change,      ///< with its sign: "+1.4 dB"
  shareChange, ///< of 1, with its sign: "+3 %"
  time,        ///< of seconds: "120 ms", "1.4 s"
};

/// What stands over a column, and how its figures are written.
struct Head {
  std::string key;        ///< of CSV and JSON, with the unit of its figures: "plate_volts"
  std::string title = {}; ///< empty: a column that only CSV and JSON have
  units::Unit unit = units::Unit::none;
  Style style = Style::reading;
  std::string about = {};    ///< what the title leaves out
  std::string limitKey = {}; ///< of CSV and JSON, where the cells have limits
  bool besideInk = false;    ///< the ink's stands beside it
  std::string none = {};     ///< what is written where there is nothing
  int digits = 0;            ///< that count, 3 unless said; of decibels those behind the point, 1 unless said
};

/// A figure, words, or nothing; a figure that is none is nothing.
struct Cell {
  Cell() = default;
  Cell(double value);                       // NOLINT: a column's getter returns what it has
  Cell(const std::optional<double>& value); // NOLINT
  Cell(std::string words);                  // NOLINT
  Cell(Said words);                         // NOLINT
  /// A figure that is held to a limit, written "9.1 W of 12 W".
  static Cell held(const std::optional<double>& value, const std::optional<double>& limit, bool over);

  std::optional<double> figure, limit;
  Said words;                  ///< where there is no figure
  bool over = false;           ///< its limit is broken, or the words are of what is wrong
  std::optional<double> order; ///< what words are sorted by
};

/// One column of rows of that type: its head, and how it is read.
template <class Row> struct Column {
  Head head;
  std::function<Cell(const Row&)> of;
};
template <class Row> using Columns = std::vector<Column<Row>>;

/// Heads and cells, whatever the rows were.
struct Sheet {
  std::vector<Head> heads;
  std::vector<std::vector<Cell>> rows;
};
template <class Row, class Rows> Sheet sheetOf(const Columns<Row>& columns, const Rows& rows) {
  Sheet sheet;
  for (const auto& column : columns)
    sheet.heads.push_back(column.head);
  for (const auto& row : rows) {
    auto& cells = sheet.rows.emplace_back();
    for (const auto& column : columns)
      cells.push_back(column.of(row));
  }
  return sheet;
}

/// Rows of what is read by index, as curves are: 0 to count - 1, or the last of every so many.
std::vector<std::size_t> places(std::size_t count, std::size_t every = 1);

/// As a builder reads it; where there is nothing, what the head says of that.
std::string written(const Head& head, const Cell& cell);

/// {key: figure, words or null} for each row; a limit under its own key.
units::Json jsonOf(const Sheet& sheet);
/// The keys of CSV and JSON in their order.
std::vector<std::string> keysOf(const std::vector<Head>& heads);
/// A line of keys, then one a row.
std::string csvOf(const Sheet& sheet);
/// In columns, those that have a title.
std::string textOf(const Sheet& sheet);

} // namespace vinegar::tell
