// Supplies in front of a sample's amplifier, as parts and as the design that they make.
#pragma once

#include "predict/supply/supply.h"
#include "support/samples.h"
#include "support/supply_reference.h"

namespace vinegar::testing_support {

amp::SectionUse supplyUse(const std::string& id, const std::string& section, const std::string& node,
                          const std::map<std::string, amp::Settings>& parts);
/// Slipway's amplifier on another supply, all of it on the supply's last node. With cold tubes it is next to nothing.
amp::Design onSupply(std::vector<amp::SectionUse> supply);

struct TestSupply {
  std::string name, section, rectifier;
  double volts, ohms, hertz, seriesOhms, farads;
  std::vector<ReferenceSupply::Section> sections;
  double amps;
};
std::vector<amp::SectionUse> sectionsOf(const TestSupply& s);

struct SolvedSupply {
  amp::Circuit circuit;
  predict::SupplyIdle idle;
  predict::SupplyReport report;
};
/// `rail`: whose node the question's extra current is taken from.
SolvedSupply solveSupply(const amp::Design& design, const predict::SupplyQuestion& question = {},
                         const std::string& rail = {});

} // namespace vinegar::testing_support
