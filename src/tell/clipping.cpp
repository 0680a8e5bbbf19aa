#include "tell/clipping.h"

#include "tell/words.h"

#include <numbers>

namespace vinegar::tell {

using predict::Limit, units::Unit;

Said words(const Limit& limit) {
  if (!limit.sag) return std::string(predict::words(limit.kind));
  return {"supply sags, %1 to %2",
          {units::reading(limit.sag->volts, Unit::volt), units::reading(limit.sag->sagged, Unit::volt)}};
}

const Columns<Limit>& limits() {
  static const Columns<Limit> columns{
      {{"tubes", "what"}, [](const Limit& l) { return joined(l.tubes); }},
      {{"by", "by", Unit::none, Style::reading,
        "of the supply: held for seconds, such a sine takes its rail down so far"},
       [](const Limit& l) { return words(l); }},
      {{"limit"}, [](const Limit& l) { return std::string(predict::words(l.kind)); }},
      {{"input_volts_rms", "input, rms", Unit::volt, Style::reading, "volts rms at the jack", "", true},
       [](const Limit& l) { return l.inputPeak / std::numbers::sqrt2; }},
      {{"rail_volts", "", Unit::volt}, [](const Limit& l) { return l.sag ? Cell(l.sag->volts) : Cell(); }},
      {{"sagged_volts", "", Unit::volt}, [](const Limit& l) { return l.sag ? Cell(l.sag->sagged) : Cell(); }}};
  return columns;
}

} // namespace vinegar::tell
