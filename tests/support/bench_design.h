// Sections put together by a test: each with its file's own values but for the settings given, fed from rail "A".
#pragma once

#include "amp/change/change.h"
#include "predict/rest/idle.h"
#include "support/samples.h"

namespace vinegar::testing_support {

using Settings = std::map<std::string, amp::Settings>; ///< by ref and field

constexpr double never = 1e9;  ///< ohms that load nothing
constexpr double always = 0.1; ///< farads that stop nothing

amp::SectionUse use(const std::string& id, const std::string& section, const Settings& settings = {});
/// A line source, these sections, and a bench supply.
amp::Design benchDesign(std::vector<amp::SectionUse> line, double volts = 300);
/// Compiled and at rest; throws what is wrong with it.
predict::Idle atRest(const amp::Design& design);
/// The sample of that name, at rest.
predict::Idle sampleAtRest(const std::string& name);

/// Levels of a span in dB; throws why there are none.
std::vector<double> levels(const predict::Idle& idle, const std::vector<double>& hertz,
                           const std::string& from = "jack", const std::string& to = "speaker");
/// The amplifier with these changes, solved anew.
predict::Idle changed(const predict::Idle& idle, const std::vector<amp::SetField>& changes);
/// A part's value made another.
amp::SetField valued(const predict::Idle& idle, const std::string& part, double value);

} // namespace vinegar::testing_support
