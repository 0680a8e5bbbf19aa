#include "tell/words.h"

#include <cmath>
#include <fmt/format.h>
#include <fmt/ranges.h>

namespace vinegar::tell {

std::string changed(const std::vector<amp::SetField>& changes, const amp::Circuit* circuit) {
  std::string type;
  std::vector<std::string> words;
  for (const auto& change : changes) {
    if (const auto* word = std::get_if<std::string>(&change.to)) type = *word;
    const auto* value = std::get_if<double>(&change.to);
    if (!value) continue;
    const auto* part = circuit ? circuit->part(change.part) : nullptr;
    words.push_back(change.part + " " +
                    units::schematic(*value, part ? amp::valueUnit(part->resolved.part->kind) : units::Unit::none));
  }
  if (!type.empty()) words.insert(words.begin(), type);
  return joined(words);
}

std::string moved(const std::string& tube, double share) {
  return tube.empty() ? std::string() : fmt::format("{} {:+.1f} %", tube, 100 * share);
}

Said limited(const std::optional<predict::CrestLimit>& limit) {
  if (!limit) return "none";
  return {predict::words(*limit) + " at %1",
          {(limit->gridVolts > 0 ? "+" : "") + units::reading(limit->gridVolts, units::Unit::volt)}};
}

Cell limitCell(const std::optional<predict::CrestLimit>& limit) {
  constexpr double never = 1e9;
  Cell cell(limited(limit));
  cell.order = limit ? std::abs(limit->gridVolts) : never;
  return cell;
}

std::string joined(const std::vector<std::string>& names) { return fmt::format("{}", fmt::join(names, ", ")); }

} // namespace vinegar::tell
