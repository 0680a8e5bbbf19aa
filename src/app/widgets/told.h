// Answers in tables as `tell` writes them: the same heads, figures and keys as on the command line.
#pragma once

#include "tell/columns.h"
#include "widgets/figure_sheet.h"

#include <algorithm>
#include <map>
#include <set>

namespace vinegar::app {

/// English words of the core, in the window's language.
QString toldWords(std::string_view english);
QString saidWords(const tell::Said& said);
QStringList toldTitles(const std::vector<tell::Head>& heads, bool withInk);
/// "ink: 212 V", before what else the tip says.
QString inkTip(const QString& ink, const QString& tip);
FigureSheet::Cell toldCell(const tell::Head& head, const tell::Cell& cell);

/// What a view adds to the told columns.
template <class Row> struct Told {
  bool acts = false; ///< the rows have buttons
  bool withInk = false;
  std::function<const Row*(const Row&)> ink = {}; ///< the ink's row of the same thing, or null
  /// Buttons, marks, further cells.
  std::function<void(const Row&, FigureSheet::Row&)> finish = {};
  QStringList before = {}, after = {}; ///< titles of cells that `finish` puts before and behind
  std::set<std::string> leaves = {};   ///< keys of columns that there is no room for
  /// By their keys, what is to be added to cells.
  std::map<std::string, std::function<void(const Row&, FigureSheet::Cell&)>> cells = {};
  QString note = {};      ///< a last row, of words alone
  bool inkInTips = false; ///< the ink's figures stand in tips, for want of room beside

  /// Beside the ink's rows, where there are any: each beside the one that is the same thing.
  template <class Same> void besides(const std::vector<Row>* rows, Same same) {
    withInk = rows != nullptr;
    ink = [rows, same](const Row& row) -> const Row* {
      const auto at = std::find_if(rows->begin(), rows->end(), [&](const Row& other) { return same(row, other); });
      return at == rows->end() ? nullptr : &*at;
    };
  }
};

/// Where the column of that key stands among those that are shown; -1: it is not there.
template <class Row> int toldColumn(const tell::Columns<Row>& columns, std::string_view key) {
  int at = 0;
  for (const auto& column : columns) {
    if (column.head.key == key) return at;
    at += !column.head.title.empty();
  }
  return -1;
}

template <class Row, class Rows>
void showTold(FigureSheet& table, const tell::Columns<Row>& columns, const Rows& rows, const Told<Row>& told = {}) {
  std::vector<FigureSheet::Row> all;
  for (const auto& row : rows) {
    FigureSheet::Row shown;
    const Row* ink = told.withInk && told.ink ? told.ink(row) : nullptr;
    for (const auto& column : columns) {
      if (column.head.title.empty() || told.leaves.contains(column.head.key)) continue;
      auto& cell = shown.cells.emplace_back(toldCell(column.head, column.of(row)));
      if (const auto more = told.cells.find(column.head.key); more != told.cells.end()) more->second(row, cell);
      if (!told.withInk || !column.head.besideInk) continue;
      const auto inked = ink ? toldCell(column.head, column.of(*ink)) : FigureSheet::Cell{};
      if (!told.inkInTips)
        shown.cells.push_back(inked);
      else if (ink && inked.text != cell.text)
        cell.tip = inkTip(inked.text, cell.tip);
    }
    if (told.finish) told.finish(row, shown);
    all.push_back(std::move(shown));
  }
  auto sheet = tell::sheetOf(columns, rows);
  std::vector<tell::Head> heads;
  for (const auto& head : sheet.heads)
    if (!told.leaves.contains(head.key)) heads.push_back(head);
  const auto titles = told.before + toldTitles(heads, told.withInk && !told.inkInTips) + told.after;
  if (!told.note.isEmpty()) {
    auto& row = all.emplace_back();
    row.cells.resize(static_cast<std::size_t>(titles.size()));
    row.cells.front() = {told.note, {}, false, false, true};
  }
  table.setSheet(titles, std::move(all), told.acts);
  table.setExport(std::move(sheet));
}

} // namespace vinegar::app
