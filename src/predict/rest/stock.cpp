#include "predict/rest/stock.h"

#include <algorithm>
#include <cmath>

namespace vinegar::predict {

std::optional<double> steppedValue(const amp::ResolvedPart& part, const amp::Library& library, bool up) {
  if (!amp::hasValue(part.part->kind)) return std::nullopt;
  const double value = part.value();
  const auto& role = library.role(part.part->role);
  if (!role.stock.empty()) {
    auto stock = role.stock;
    std::sort(stock.begin(), stock.end());
    const auto next = up ? std::upper_bound(stock.begin(), stock.end(), value * (1 + 1e-6))
                         : std::lower_bound(stock.begin(), stock.end(), value * (1 - 1e-6));
    if (up) return next == stock.end() ? std::nullopt : std::optional(*next);
    return next == stock.begin() ? std::nullopt : std::optional(*(next - 1));
  }
  if (part.part->kind == amp::PartKind::voltageSource) return std::max(0.0, value + (up ? 5 : -5));
  if (part.part->kind == amp::PartKind::biasSource) return std::max(0.0, value + (up ? 1 : -1));
  if (value <= 0) return std::nullopt;
  const auto series = role.series.value_or(units::Series::e12);
  const double next = up ? units::nextUp(series, value) : units::nextDown(series, value);
  if (amp::checkSetting(part, "value", amp::Setting{next}, library)) return std::nullopt;
  return next;
}

std::pair<std::string, double> mostMoved(const OperatingPoint& before, const OperatingPoint& after) {
  constexpr double still = 1e-3, nothing = 1e-9; // a share, and ampere
  std::pair<std::string, double> most{"", 0};
  for (std::size_t t = 0; t < std::min(before.tubes.size(), after.tubes.size()); ++t) {
    const double amps = before.tubes[t].plateAmps;
    const double share = amps > nothing ? after.tubes[t].plateAmps / amps - 1 : 0;
    if (std::abs(share) > std::max(still, std::abs(most.second))) most = {before.tubes[t].name, share};
  }
  return most;
}

} // namespace vinegar::predict
