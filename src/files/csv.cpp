#include "files/csv.h"

#include "units/csv.h"

#include <fmt/format.h>

namespace vinegar::files {

using units::csvCell;

std::string operatingPointCsv(const predict::OperatingPoint& point) {
  std::string csv = "what,name,volts,amps,watts\n";
  for (const auto& [name, volts] : point.nodes)
    csv += fmt::format("node,{},{:.9g},,\n", csvCell(name), volts);
  for (const auto& part : point.parts)
    csv += fmt::format("part,{},{:.9g},{:.9g},{:.9g}\n", csvCell(part.name), part.volts, part.amps, part.watts);
  return csv;
}

std::string responsesCsv(const std::vector<std::pair<std::string, predict::Response>>& curves) {
  std::string csv = "frequency_hz";
  for (const auto& [name, curve] : curves) {
    const std::string prefix = curves.size() > 1 ? name + "_" : "";
    csv += "," + csvCell(prefix + "magnitude_db") + "," + csvCell(prefix + "phase_deg");
  }
  csv += "\n";
  if (curves.empty()) return csv;
  for (std::size_t k = 0; k < curves.front().second.hertz.size(); ++k) {
    csv += fmt::format("{:.9g}", curves.front().second.hertz[k]);
    for (const auto& [name, curve] : curves)
      csv += fmt::format(",{:.9g},{:.9g}", curve.decibels[k], curve.degrees[k]);
    csv += "\n";
  }
  return csv;
}

} // namespace vinegar::files
