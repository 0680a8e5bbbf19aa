// What is held to a limit: one kind of value for findings, choices, swaps, what is played, and all who tell of it.
#pragma once

#include "predict/rest/prediction.h"
#include "tubes/catalogue.h"

namespace vinegar::predict {

/// Over a limit by less than this is not told: no data sheet, wall socket or resistor is as exact.
constexpr double ratingSlack = 1.02;

/// What a part bears against what its data sheet or its own rating allows.
struct Rating {
  enum class Quantity {
    plateWatts, ///< of a tube
    plateVolts, ///< to its cathode
    screenWatts,
    screenVolts,
    heaterCathodeVolts, ///< either way
    firstFarads,        ///< of the capacitor that a rectifier charges
    plateOhms,          ///< in series with each plate of a rectifier: its limit is a least
    peakAmps,           ///< of a rectifier's plate
    directAmps,         ///< mean of all plates of a rectifier
    inverseVolts,
    windingAmps,    ///< rms
    fuseAmps,       ///< rms
    capacitorVolts, ///< the most
    resistorWatts,
  };
  enum class Condition {
    idle,
    unloaded, ///< tubes cold or out
    played,
  };
  std::string part;
  Quantity quantity = Quantity::plateWatts;
  double value = 0;
  std::optional<double> limit; ///< nothing where none is published
  Condition condition = Condition::idle;
  std::string of = {}; ///< the type or the winding that the limit is of

  /// 1 at the limit, more over it; of a least, the limit over the value. 0 without a limit.
  [[nodiscard]] double share() const;
  /// By more than the slack over what is sensible of the limit: `sensibleShare`.
  [[nodiscard]] bool over() const;
  bool operator==(const Rating&) const = default;
};
units::Unit unitOf(Rating::Quantity quantity);
/// Of the limit: nine tenths of an electrolytic's volts, half of a resistor's watts, all of any other.
double sensibleShare(Rating::Quantity quantity);
/// "plate", "peak current", "winding".
std::string_view words(Rating::Quantity quantity);
/// "plate 15.1 W of 12 W", "ht winding 120 %".
std::string words(const Rating& rating);

/// What its plate dissipates.
Rating plateRating(const TubeReading& tube);
/// Plate and screen at idle, those without a published limit among them.
std::vector<Rating> tubeRatings(const TubeReading& tube, const tubes::Limits& limits);

} // namespace vinegar::predict
