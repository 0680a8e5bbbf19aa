#include "tell/swaps.h"

#include "predict/rest/ratings.h"
#include "tell/words.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

namespace vinegar::tell {
namespace {

using predict::Rating;
using units::Unit;

/// Of a type that has an answer; nothing of the others.
template <class Read> std::function<Cell(const ToldSwap&)> where(Read read) {
  return [read](const ToldSwap& swap) { return swap.row.problem ? Cell() : Cell(read(swap)); };
}

Cell against(const ToldSwap& swap) {
  std::vector<std::string> words;
  if (swap.row.problem) words.push_back(swap.row.problem->line());
  if (!swap.row.rewiring.empty()) words.push_back(swap.row.rewiring);
  words.insert(words.end(), swap.state.against.begin(), swap.state.against.end());
  Cell cell(fmt::format("{}", fmt::join(words, "; ")));
  cell.over = swap.row.problem || !swap.state.against.empty();
  return cell;
}

Cell watts(const ToldSwap& swap) {
  const auto& tube = swap.state.stage.tube;
  return Cell::held(tube.plateWatts, tube.plateWattsLimit, predict::plateRating(tube).over());
}

Cell heater(const ToldSwap& swap) {
  const auto& row = swap.row;
  const bool over =
      row.heaterAmps && Rating{{}, Rating::Quantity::windingAmps, *row.heaterAmps, row.heaterLeftAmps}.over();
  return Cell::held(row.heaterAmps, row.heaterLeftAmps, over);
}

} // namespace

const Columns<ToldSwap>& swaps() {
  static const Columns<ToldSwap> columns{
      {{"type", "type"}, [](const ToldSwap& s) { return s.row.type; }},
      {{"socket"}, [](const ToldSwap& s) { return s.row.rewiring; }},
      {{"plate_amps", "current", Unit::ampere, Style::reading, "of each tube's plate, at rest"},
       where([](const ToldSwap& s) { return s.state.stage.tube.plateAmps; })},
      {{"plate_watts", "watts", Unit::watt, Style::reading, "of each plate, at rest, of its rating",
        "plate_watts_limit"},
       where(watts)},
      {{"gain", "gain", Unit::none, Style::reading, "from grid to plate, times"},
       where([](const ToldSwap& s) { return s.state.stage.gain; })},
      {{"published_mu", "sheet mu"},
       where([](const ToldSwap& s) { return s.state.stage.published ? s.state.stage.published->mu : std::nullopt; })},
      {{"first_limit", "first limit", Unit::none, Style::reading, "how far its grid may be driven from its bias"},
       where([](const ToldSwap& s) { return limited(firstLimit(s.state.stage)); })},
      {{"first_limit_grid_volts", "", Unit::volt}, where([](const ToldSwap& s) {
         const auto& limit = firstLimit(s.state.stage);
         return limit ? std::optional(limit->gridVolts) : std::nullopt;
       })},
      {{"rebias", "new bias", Unit::none, Style::reading, "the stock value that its bias asks for"},
       where([](const ToldSwap& s) { return changed(s.row.rebias); })},
      {{"plugged_plate_amps", "", Unit::ampere}, where([](const ToldSwap& s) {
         return s.row.rebiased ? std::optional(s.row.plugged.stage.tube.plateAmps) : std::nullopt;
       })},
      {{"against", "against it", Unit::none, Style::reading, "", "", false, "nothing"}, against},
      {{"coupling_hertz", "coupling", Unit::hertz, Style::reading, "where what follows gets half of the power"},
       where([](const ToldSwap& s) { return s.state.couplingHertz; })},
      {{"miller_hertz", "Miller", Unit::hertz, Style::reading, "where its input capacitance takes half of the power"},
       where([](const ToldSwap& s) { return s.state.stage.millerHertz; })},
      {{"heater_amps", "heater", Unit::ampere, Style::reading, "of what its winding has left", "heater_left_amps"},
       where(heater)}};
  return columns;
}

} // namespace vinegar::tell
