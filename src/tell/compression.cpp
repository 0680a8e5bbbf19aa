#include "tell/compression.h"

#include <numbers>

namespace vinegar::tell {
namespace {

using predict::CompressionRow, units::Unit;

/// Nothing of a level without an answer.
std::function<Cell(const CompressionRow&)> whereKnown(double CompressionRow::*figure) {
  return [figure](const CompressionRow& row) { return row.problem ? Cell() : Cell(row.*figure); };
}

} // namespace

Columns<CompressionRow> compressionRows(bool hasSupply) {
  return {
      {{"input_volts_rms", "input, rms", Unit::volt, Style::reading, "at the jack"},
       [](const CompressionRow& r) { return r.inputPeak / std::numbers::sqrt2; }},
      {{"output_volts", "output, rms", Unit::volt, Style::reading, "of the loudest three periods of the mains"},
       whereKnown(&CompressionRow::outputVolts)},
      {{"struck_decibels", "struck", Unit::decibel, Style::reading, "under what it would be uncompressed, at first"},
       whereKnown(&CompressionRow::attack)},
      {{"late_decibels", "late", Unit::decibel, Style::reading, "the same over the last sixth", "", true},
       whereKnown(&CompressionRow::late)},
      {{"by_supply_decibels", "supply", Unit::decibel, Style::reading,
        "Of what is missing late, what a supply that holds its rails would give back"},
       [hasSupply](const CompressionRow& r) { return r.problem || !hasSupply ? Cell() : Cell(r.bySupply); }},
      {{"problem", "remarks", Unit::none, Style::reading, "", "", false, " "}, [](const CompressionRow& r) {
         Cell cell(r.problem ? r.problem->line() : std::string());
         cell.over = r.problem.has_value();
         return cell;
       }}};
}

} // namespace vinegar::tell
