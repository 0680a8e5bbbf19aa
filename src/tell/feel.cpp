#include "tell/feel.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

namespace vinegar::tell {

using predict::BiasMove, predict::FeelRow, predict::FeelSubject, predict::PlayedRating, predict::RailDip, units::Unit;

const Columns<RailDip>& dips() {
  constexpr auto share = "of the droop; back: of what is left of it when the last note is stopped";
  static const Columns<RailDip> columns{
      {{"rail", "rail"}, &RailDip::rail},
      {{"before_volts", "before", Unit::volt, Style::reading, "at rest", "", false, "", 4}, &RailDip::before},
      {{"lowest_volts", "lowest", Unit::volt, Style::reading, "", "", false, "", 4}, &RailDip::lowest},
      {{"lowest_seconds", "at", Unit::none, Style::time}, &RailDip::lowestAt},
      {{"settled_volts", "settled", Unit::volt, Style::reading, "over the last sixth of what sounds", "", false, "", 4},
       &RailDip::settled},
      {{"droop_share", "droop", Unit::none, Style::share}, &RailDip::share},
      {{"down63_seconds", "down 63 %", Unit::none, Style::time, share}, &RailDip::down63},
      {{"down90_seconds", "90 %", Unit::none, Style::time, share}, &RailDip::down90},
      {{"back63_seconds", "back 63 %", Unit::none, Style::time, share}, &RailDip::back63},
      {{"back90_seconds", "90 %", Unit::none, Style::time, share}, &RailDip::back90}};
  return columns;
}

const Columns<BiasMove>& biasMoves() {
  static const Columns<BiasMove> columns{
      {{"tube", "tube"}, &BiasMove::tube},
      {{"before_volts", "bias", Unit::volt, Style::reading, "grid to cathode, at rest"}, &BiasMove::before},
      {{"moved_volts", "moves by", Unit::volt, Style::reading,
        "the most, over three periods of the mains; down is colder"},
       &BiasMove::most},
      {{"cathode_volts", "by its cathode", Unit::volt, Style::reading, "of that, what its cathode has risen"},
       &BiasMove::byCathode},
      {{"grid_volts", "by its grid", Unit::volt, Style::reading, "of that, the grid's, charged where it conducts"},
       &BiasMove::byGrid}};
  return columns;
}

namespace {
/// Each row has a unit of its own: in words, the figures for machines beside them.
Cell borne(const PlayedRating& rating) {
  const auto unit = predict::unitOf(rating.quantity);
  Cell cell(rating.limit
                ? fmt::format("{} of {}", units::reading(rating.value, unit), units::reading(*rating.limit, unit))
                : units::reading(rating.value, unit));
  cell.over = rating.over();
  cell.order = rating.share();
  return cell;
}
} // namespace

const Columns<PlayedRating>& stresses() {
  static const Columns<PlayedRating> columns{
      {{"part", "part"}, &PlayedRating::part},
      {{"what", "what"}, [](const PlayedRating& r) { return std::string(predict::words(r.quantity)); }},
      {{"borne", "most"}, borne},
      {{"most"}, &PlayedRating::value},
      {{"idle"}, &PlayedRating::idle},
      {{"limit"}, &PlayedRating::limit},
      {{"unit"}, [](const PlayedRating& r) { return std::string(units::symbol(predict::unitOf(r.quantity))); }}};
  return columns;
}

namespace {

/// Of a row that has an answer; nothing of the others.
template <class Read> std::function<Cell(const FeelRow&)> rowOf(Read read) {
  return [read](const FeelRow& row) { return row.problem ? Cell() : Cell(read(row)); };
}

Cell speaksAgainst(const FeelRow& row) {
  Cell cell(row.problem ? row.problem->line() : fmt::format("{}", fmt::join(row.against, "; ")));
  cell.over = row.problem || !row.against.empty();
  cell.order = static_cast<double>(row.against.size());
  return cell;
}

/// How much speaks against a row is seen before its words, which stand where there is room.
Cell countAgainst(const FeelRow& row) {
  if (row.problem || row.against.empty()) return {};
  Cell cell(std::to_string(row.against.size()));
  cell.over = true;
  cell.order = static_cast<double>(row.against.size());
  return cell;
}

} // namespace

Columns<FeelRow> feelRows(FeelSubject subject) {
  Columns<FeelRow> columns{
      {{"with", "with"}, &FeelRow::title},
      {{"against_count", "against", Unit::none, Style::reading, "how many things are against it"}, countAgainst},
      {{"before_volts", "B+", Unit::volt, Style::reading, "of the rail that feeds the output stage, before"},
       rowOf([](const FeelRow& r) { return r.dip.before; })},
      {{"droop_volts", "", Unit::volt}, rowOf([](const FeelRow& r) { return r.dip.droop(); })},
      {{"droop_share", "droop", Unit::none, Style::share, "of the rail that feeds the output stage"},
       rowOf([](const FeelRow& r) { return r.dip.share(); })},
      {{"back_seconds", "back", Unit::none, Style::time, "until two thirds are regained"},
       rowOf([](const FeelRow& r) { return r.recovers; })},
      {{"ripple_volts_peak_to_peak", "ripple", Unit::volt, Style::reading, "peak to peak, of the rail at its lowest",
        "", false, "", 2},
       rowOf([](const FeelRow& r) { return r.rippleVolts; })},
      {{"loudest_watts", "loudest", Unit::watt, Style::reading,
        "that the loudspeaker takes in its loudest period of the mains"},
       rowOf([](const FeelRow& r) { return r.outputWatts; })},
      {{"hottest_tube"}, rowOf([](const FeelRow& r) { return r.hottest; })},
      {{"hottest_share", "idle", Unit::none, Style::share, "the hottest plate at idle, of its rating"},
       [](const FeelRow& r) {
         Cell cell = r.problem ? Cell() : Cell(r.hottestShare);
         cell.over = predict::Rating{r.hottest, predict::Rating::Quantity::plateWatts, r.hottestShare, 1}.over();
         return cell;
       }}};
  if (subject == FeelSubject::rectifiers)
    columns.push_back({{"rebias", "re-bias", Unit::none, Style::reading, "keeps the output tubes' idle dissipation"},
                       rowOf([](const FeelRow& r) { return r.rebiased; })});
  columns.push_back(
      {{"against", "what is against it", Unit::none, Style::reading, "", "", false, "nothing"}, speaksAgainst});
  return columns;
}

} // namespace vinegar::tell
