#include "predict/rest/ratings.h"

#include <array>
#include <fmt/format.h>

namespace vinegar::predict {
namespace {

using Quantity = Rating::Quantity;
using units::Unit;

struct QuantityFacts {
  Unit unit;
  double sensible;
  std::string_view words;
};
/// In the order of Rating::Quantity.
constexpr std::array<QuantityFacts, 14> quantities{{{Unit::watt, 1, "plate"},
                                                    {Unit::volt, 1, "plate"},
                                                    {Unit::watt, 1, "screen"},
                                                    {Unit::volt, 1, "screen"},
                                                    {Unit::volt, 1, "heater to cathode"},
                                                    {Unit::farad, 1, "first capacitor"},
                                                    {Unit::ohm, 1, "source resistance"},
                                                    {Unit::ampere, 1, "peak current"},
                                                    {Unit::ampere, 1, "direct current"},
                                                    {Unit::volt, 1, "reverse volts"},
                                                    {Unit::ampere, 1, "winding"},
                                                    {Unit::ampere, 1, "fuse"},
                                                    {Unit::volt, 0.9, "volts"},
                                                    {Unit::watt, 0.5, "watts"}}};
const QuantityFacts& factsOf(Quantity quantity) { return quantities.at(static_cast<std::size_t>(quantity)); }

} // namespace

Unit unitOf(Quantity quantity) { return factsOf(quantity).unit; }
double sensibleShare(Quantity quantity) { return factsOf(quantity).sensible; }
std::string_view words(Quantity quantity) { return factsOf(quantity).words; }

double Rating::share() const {
  if (!limit) return 0;
  return quantity == Quantity::plateOhms ? *limit / value : value / *limit;
}

bool Rating::over() const { return share() > ratingSlack * sensibleShare(quantity); }

std::string words(const Rating& rating) {
  if (rating.quantity == Quantity::windingAmps)
    return fmt::format("{} winding {:.0f} %", rating.of, 100 * rating.share());
  constexpr int digits = 3;
  const auto unit = unitOf(rating.quantity);
  const auto value = units::reading(rating.value, unit, digits);
  const auto of = rating.limit ? (rating.quantity == Quantity::plateOhms ? " of at least " : " of ") +
                                     units::reading(*rating.limit, unit, digits)
                               : std::string();
  return fmt::format("{} {}{}", words(rating.quantity), value, of);
}

Rating plateRating(const TubeReading& tube) {
  return {tube.name, Rating::Quantity::plateWatts, tube.plateWatts, tube.plateWattsLimit};
}

std::vector<Rating> tubeRatings(const TubeReading& tube, const tubes::Limits& limits) {
  std::vector<Rating> ratings{{tube.name, Quantity::plateWatts, tube.plateWatts, limits.plateWatts},
                              {tube.name, Quantity::plateVolts, tube.plateVolts, limits.plateVolts}};
  if (tube.screenWatts) ratings.push_back({tube.name, Quantity::screenWatts, *tube.screenWatts, limits.screenWatts});
  if (tube.screenVolts) ratings.push_back({tube.name, Quantity::screenVolts, *tube.screenVolts, limits.screenVolts});
  for (auto& rating : ratings)
    rating.of = tube.type;
  return ratings;
}

} // namespace vinegar::predict
