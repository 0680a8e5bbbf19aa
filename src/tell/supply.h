// What a supply gives, and what its parts bear, at idle, after the switch closes and after it opens.
#pragma once

#include "audit/supply_rules.h"
#include "predict/supply/supply_budget.h"
#include "predict/supply/supply_events.h"
#include "tell/columns.h"

namespace vinegar::tell {

/// The harmonics' keys say the mains' multiple, their titles hertz.
Columns<predict::RailReading> rails(double mainsHertz);
const Columns<predict::RectifierReading>& rectifiers();
const Columns<predict::WindingReading>& windings();
const Columns<predict::PrimaryReading>& primaries();
const Columns<predict::HeaterReading>& heaters();
const Columns<predict::HeaterCathodeReading>& heaterCathodes();
const Columns<predict::RailTrace>& switchedOn();
struct ToldDischarge {
  predict::DischargeAnswer::Rail rail;
  bool tubesIn = true;
  double asked = 0; ///< s that were looked at
};
const Columns<ToldDischarge>& discharges();
const Columns<audit::Finding>& findings();

/// Those that are rails of their own: one that a wire joins to the next is the next one.
template <class Rail> std::vector<Rail> rowsOf(const std::vector<Rail>& rails) {
  std::vector<Rail> rows;
  for (std::size_t i = 0; i < rails.size(); ++i)
    if (predict::isItself(rails, i)) rows.push_back(rails[i]);
  return rows;
}

} // namespace vinegar::tell
