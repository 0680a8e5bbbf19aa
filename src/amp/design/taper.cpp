#include "amp/design/section.h"
#include "units/value.h"

#include <algorithm>
#include <fmt/format.h>
#include <sstream>

namespace vinegar::amp {
namespace {

constexpr std::size_t mostTaperPoints = 101;

/// "0:0 25:4 50:12 100:100", percent of the travel and of the resistance.
std::optional<circuit::Taper> measuredLaw(const std::string& text) {
  circuit::Taper taper{circuit::Taper::Kind::measured, 0.5, {}};
  std::istringstream words(text);
  for (std::string word; words >> word;) {
    const auto colon = word.find(':');
    const auto travel = units::parse(word.substr(0, colon));
    const auto share = units::parse(colon == std::string::npos ? std::string() : word.substr(colon + 1));
    if (!travel || !share || *share < 0 || *share > 100) return std::nullopt;
    if (!taper.points.empty() &&
        (*travel / 100 <= taper.points.back().first || *share / 100 < taper.points.back().second))
      return std::nullopt;
    taper.points.emplace_back(*travel / 100, *share / 100);
  }
  const bool whole = taper.points.size() >= 2 && taper.points.size() <= mostTaperPoints &&
                     taper.points.front().first == 0 && taper.points.back().first == 1;
  return whole ? std::optional(std::move(taper)) : std::nullopt;
}

} // namespace

std::optional<circuit::Taper> taperNamed(const std::string& name) {
  using Kind = circuit::Taper::Kind;
  if (name == "linear") return circuit::Taper{Kind::linear, 0.5};
  if (name.starts_with(measuredTaper)) return measuredLaw(name.substr(measuredTaper.size()));
  for (const auto& [prefix, kind] : {std::pair{std::string("reverse-log"), Kind::reverseLog}, {"log", Kind::log}})
    if (name.starts_with(prefix)) {
      const auto percent = units::parse(name.substr(prefix.size()));
      if (percent && *percent > 0.5 && *percent < 50) return circuit::Taper{kind, *percent / 100};
    }
  return std::nullopt;
}

std::string measuredTaperOf(const std::vector<std::pair<double, double>>& points) {
  std::string name(measuredTaper);
  for (const auto& [travel, share] : points)
    name += fmt::format("{}{:.4g}:{:.4g}", name.back() == ' ' ? "" : " ", 100 * travel, 100 * share);
  return name;
}

} // namespace vinegar::amp
