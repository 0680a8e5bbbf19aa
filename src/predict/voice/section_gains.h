// What each section does to the signal in its place in the amplifier.
#pragma once

#include "predict/rest/idle.h"
#include "predict/voice/readouts.h"

#include <array>

namespace vinegar::predict {

struct SectionGainsQuestion {
  bool operator==(const SectionGainsQuestion&) const = default;
};
/// Level at a section's end over that at its beginning, dB, at E2, 1 kHz and 5 kHz; balanced sections by one half.
struct SectionGain {
  std::string chain, section; ///< its id
  std::array<double, 3> decibels{};
};
constexpr std::array sectionGainHertz{82.407, 1000.0, 5000.0};
struct SectionGains {
  std::vector<SectionGain> all; ///< of those that have a beginning and an end, along the line, then the sides
  [[nodiscard]] const SectionGain* of(const std::string& section) const;
};

/// Of the direct sound; under some milliseconds. A section that no signal comes to is left out.
tl::expected<SectionGains, Problem> predictSectionGains(const Idle& idle, const amp::Library& library,
                                                        const SectionGainsQuestion& question, const GoOn& goOn = {});

} // namespace vinegar::predict
