#include "tell/ranking.h"

#include "tell/words.h"

namespace vinegar::tell {

using predict::RankedStep, units::Unit;

Columns<RankedStep> rankedSteps(const amp::Circuit& circuit) {
  const auto value = [&circuit](const std::string& name, double written) {
    const auto* part = circuit.part(name);
    return units::schematic(written, part ? amp::valueUnit(part->resolved.part->kind) : Unit::none);
  };
  return {{{"step", "one step"}, [value](const RankedStep& s) { return s.part + " " + value(s.part, s.to); }},
          {{"part"}, &RankedStep::part},
          {{"from", "from"}, [value](const RankedStep& s) { return value(s.part, s.from); }},
          {{"to"}, [value](const RankedStep& s) { return value(s.part, s.to); }},
          {{"there_decibels", "there", Unit::decibel, Style::change, "mean over the band"}, &RankedStep::there},
          {{"elsewhere_decibels", "elsewhere", Unit::decibel, Style::reading,
            "root mean square between 20 Hz and 20 kHz outside the band"},
           &RankedStep::elsewhere},
          {{"at_1khz_decibels", "1 kHz", Unit::decibel, Style::change}, &RankedStep::at1kHz},
          {{"moves", "moves", Unit::none, Style::reading, "whose plate current changes most"},
           [](const RankedStep& s) { return moved(s.movedTube, s.movedShare); }}};
}

} // namespace vinegar::tell
