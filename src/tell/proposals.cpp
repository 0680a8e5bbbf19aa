#include "tell/proposals.h"

#include "tell/words.h"

#include <fmt/format.h>

namespace vinegar::tell {

using predict::Proposal, units::Unit;

std::string words(const Proposal& proposal, const amp::Circuit& circuit) {
  std::vector<std::string> words;
  if (!proposal.changes.empty()) words.push_back(changed(proposal.changes, &circuit));
  for (const auto& [knob, stands] : proposal.knobs)
    words.push_back(fmt::format("{} to {:.1f}", knob, 10 * stands));
  return joined(words);
}

Columns<Proposal> proposals(Unit unit, const amp::Circuit& circuit) {
  return {{{"changes", "change"}, [&circuit](const Proposal& p) { return words(p, circuit); }},
          {{"reached", "reached", unit}, &Proposal::reached},
          {{"plate_amps", "current", Unit::ampere}, [](const Proposal& p) { return p.stage.tube.plateAmps; }},
          {{"plate_watts", "watts", Unit::watt}, [](const Proposal& p) { return p.stage.tube.plateWatts; }},
          {{"gain", "gain"}, [](const Proposal& p) { return p.stage.gain; }},
          {{"output_ohms", "output", Unit::ohm}, [](const Proposal& p) { return p.stage.outputOhms; }},
          {{"grid_up", "grid up"}, [](const Proposal& p) { return limitCell(p.stage.up); }},
          {{"grid_down", "grid down"}, [](const Proposal& p) { return limitCell(p.stage.down); }}};
}

} // namespace vinegar::tell
