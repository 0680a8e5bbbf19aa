// What a builder wants to hear, as it is kept with a design.
#pragma once

#include "units/value.h"

#include <map>
#include <optional>
#include <string>
#include <vector>

namespace vinegar::amp {

/// A point of a curve over frequency.
struct CurvePoint {
  double hertz = 0, decibels = 0;
  bool operator==(const CurvePoint&) const = default;
};

/// A wanted curve of a span, and the parts that may move to come near it.
struct Target {
  std::string from = "jack", to = "speaker";
  std::vector<CurvePoint> target; ///< rising in frequency; between two, straight over the logarithm of frequency
  std::vector<std::string> parts; ///< that may move; all others stay
  bool level = false;             ///< whether the level counts too, or the shape alone
  /// The series of the values to be tried; unset: each part's own dial.
  std::optional<units::Series> series;
  /// Values at hand in place of all others, by part.
  std::map<std::string, std::vector<double>> atHand;
  std::string extra = {}; ///< what the file has besides, kept as it is
  bool operator==(const Target&) const = default;
};

/// A stretch of the spectrum by what people call it.
struct ToneBand {
  std::string name;
  double low = 0, high = 0; ///< Hz
  std::string extra = {};   ///< what the file has besides, kept as it is
  bool operator==(const ToneBand&) const = default;
};

/// What a loudspeaker's sound was measured to be over frequency at even volts.
struct MeasuredSound {
  std::string name;
  std::vector<CurvePoint> points; ///< rising in frequency
  std::string extra = {};         ///< what the file has besides, kept as it is
  bool operator==(const MeasuredSound&) const = default;
};

} // namespace vinegar::amp
