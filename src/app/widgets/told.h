// Answers in tables as `tell` writes them: the same heads, figures and keys as on the command line.
#pragma once

#include "tell/columns.h"
#include "widgets/figure_sheet.h"

#include <algorithm>

namespace vinegar::app {

/// English words of the core, in the window's language.
QString toldWords(const std::string& english);
QStringList toldTitles(const std::vector<tell::Head>& heads, bool withInk);
FigureSheet::Cell toldCell(const tell::Head& head, const tell::Cell& cell);

/// What a view adds to the told columns.
template <class Row> struct Told {
  bool acts = false; ///< the rows have buttons
  bool withInk = false;
  std::function<const Row*(const Row&)> ink = {}; ///< the ink's row of the same thing, or null
  /// Buttons, marks, further cells.
  std::function<void(const Row&, FigureSheet::Row&)> finish = {};
  QStringList before = {}, after = {}; ///< titles of cells that `finish` puts before and behind

  /// Beside the ink's rows, where there are any: each beside the one that is the same thing.
  template <class Same> void besides(const std::vector<Row>* rows, Same same) {
    withInk = rows != nullptr;
    ink = [rows, same](const Row& row) -> const Row* {
      const auto at = std::find_if(rows->begin(), rows->end(), [&](const Row& other) { return same(row, other); });
      return at == rows->end() ? nullptr : &*at;
    };
  }
};

template <class Row, class Rows>
void showTold(FigureSheet& table, const tell::Columns<Row>& columns, const Rows& rows, const Told<Row>& told = {}) {
  std::vector<FigureSheet::Row> all;
  for (const auto& row : rows) {
    FigureSheet::Row shown;
    const Row* ink = told.withInk && told.ink ? told.ink(row) : nullptr;
    for (const auto& column : columns) {
      if (!*column.head.title) continue;
      shown.cells.push_back(toldCell(column.head, column.of(row)));
      if (told.withInk && column.head.besideInk)
        shown.cells.push_back(ink ? toldCell(column.head, column.of(*ink)) : FigureSheet::Cell{});
    }
    if (told.finish) told.finish(row, shown);
    all.push_back(std::move(shown));
  }
  auto sheet = tell::sheetOf(columns, rows);
  const auto titles = told.before + toldTitles(sheet.heads, told.withInk) + told.after;
  table.setSheet(titles, std::move(all), told.acts);
  table.setExport(std::move(sheet));
}

} // namespace vinegar::app
