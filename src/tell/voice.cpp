#include "tell/voice.h"

#include "tell/words.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <fmt/ranges.h>
#include <numbers>

namespace vinegar::tell {

using predict::FitSet, predict::Readout, units::Unit;
using Culprit = predict::Tolerance::Culprit;

namespace {

std::string capital(std::string words) {
  if (!words.empty()) words.front() = static_cast<char>(std::toupper(static_cast<unsigned char>(words.front())));
  return words;
}

/// What rounds to nothing has no sign.
double tenths(double value) { return std::round(10 * value) / 10 + 0.0; }

} // namespace

Said words(const Readout& readout, const amp::Design& design, const amp::Library& library, const std::string& against) {
  using Kind = Readout::Kind;
  constexpr double treble = 1500;
  switch (readout.kind) {
  case Kind::bassCorner:
    return "Bass corner";
  case Kind::hump:
    return "Hump over midband";
  case Kind::dip:
    return "Dip";
  case Kind::dipDepth:
    return "Its depth";
  case Kind::peak:
    return readout.hertz < treble ? "Peak" : "Treble peak";
  case Kind::trebleCorner:
    return "Treble corner";
  case Kind::level:
    return {"Level at %1", {readout.name}};
  case Kind::tilt:
    return {"%1 to %2", {capital(readout.name), against}};
  case Kind::loss:
    break;
  }
  const auto* use = design.section(readout.name);
  return {"Loss in %1, least, at %2",
          {use ? amp::describeSection(*use, library) : readout.name, units::reading(readout.hertz, Unit::hertz)}};
}

std::string written(const Readout& readout) {
  if (readout.isFrequency()) return units::reading(readout.value, Unit::hertz);
  const bool difference = readout.kind == Readout::Kind::tilt || readout.kind == Readout::Kind::hump;
  const double value = tenths(readout.value);
  return difference && value != 0 ? fmt::format("{:+.1f} dB", value) : fmt::format("{:.1f} dB", value);
}

Columns<Readout> readouts(const amp::Design& design, const amp::Library& library, const std::string& against) {
  return {{{"reading", "reading"},
           [&design, &library, against](const Readout& r) { return words(r, design, library, against); }},
          {{"value", "value", Unit::none, Style::reading, "", "", true},
           [](const Readout& r) {
             Cell cell(written(r));
             cell.order = r.value;
             return cell;
           }},
          {{"value_hertz", "", Unit::hertz}, [](const Readout& r) { return r.isFrequency() ? Cell(r.value) : Cell(); }},
          {{"value_decibels", "", Unit::decibel},
           [](const Readout& r) { return r.isFrequency() ? Cell() : Cell(r.value); }},
          {{"at_hertz", "", Unit::hertz}, &Readout::hertz},
          {{"at_decibels", "", Unit::decibel}, &Readout::decibels},
          {{"made_by", "made by"}, [](const Readout& r) {
             std::vector<std::string> names;
             for (const auto& maker : r.makers)
               names.push_back(maker.part);
             return joined(names);
           }}};
}

Columns<FitSet> fitSets(const amp::Circuit& circuit) {
  return {{{"changes", "values"}, [&circuit](const FitSet& s) { return changed(s.changes, &circuit); }},
          {{"distance_decibels", "from it", Unit::decibel, Style::reading,
            "from the target, root mean square over its range", "", false, "", 2},
           &FitSet::distance},
          {{"offset_decibels", "level over it", Unit::decibel, Style::change, "what the curve lies over the target"},
           &FitSet::offset},
          {{"at_1khz_decibels", "1 kHz", Unit::decibel, Style::change, "what becomes of the level at 1 kHz"},
           &FitSet::at1kHz},
          {{"clips_at_input_volts_rms", "clips at", Unit::volt, Style::reading,
            "the input, volts rms at 1 kHz, at which anything clips"},
           [](const FitSet& s) { return s.clipsAt ? Cell(*s.clipsAt / std::numbers::sqrt2) : Cell(); }},
          {{"moves", "moves", Unit::none, Style::reading, "the tube whose current is moved most"},
           [](const FitSet& s) { return moved(s.movedTube, s.movedShare); }}};
}

std::vector<SpreadAt> spreadOf(const predict::Tolerance& tolerance) {
  std::vector<SpreadAt> rows;
  for (std::size_t f = 0; f < tolerance.hertz.size(); ++f)
    rows.push_back({tolerance.hertz[f], tolerance.low[f], tolerance.middle[f], tolerance.high[f]});
  return rows;
}

const Columns<SpreadAt>& spreads() {
  static const Columns<SpreadAt> columns{{{"hertz", "frequency", Unit::hertz}, &SpreadAt::hertz},
                                         {{"low_decibels", "5 % under", Unit::decibel}, &SpreadAt::low},
                                         {{"middle_decibels", "middle", Unit::decibel}, &SpreadAt::middle},
                                         {{"high_decibels", "95 % under", Unit::decibel}, &SpreadAt::high}};
  return columns;
}

const Columns<Culprit>& culprits() {
  static const Columns<Culprit> columns{
      {{"part", "part"}, &Culprit::part},
      {{"share", "of the spread", Unit::none, Style::share, "of its variance between 40 Hz and 10 kHz"},
       &Culprit::share}};
  return columns;
}

namespace {

/// What a section gives or takes, where that is not alike in both.
std::optional<Difference> gainsApart(const amp::SectionPair& pair, const Compared& first, const Compared& second,
                                     const amp::Library& library) {
  constexpr double telling = 0.1;
  const auto of = [](const Compared& one, const amp::SectionUse* use) {
    return one.gains && use ? one.gains->of(use->id) : nullptr;
  };
  const auto *here = of(first, pair.first), *there = of(second, pair.second);
  if (!here && !there) return std::nullopt;
  double apart = here && there ? 0 : telling;
  for (std::size_t f = 0; here && there && f < here->decibels.size(); ++f)
    apart = std::max(apart, std::abs(here->decibels[f] - there->decibels[f]));
  if (apart < telling) return std::nullopt;
  const auto words = [](const predict::SectionGain* gain) {
    std::vector<std::string> levels;
    for (std::size_t f = 0; gain && f < gain->decibels.size(); ++f)
      levels.push_back(fmt::format("{:.1f}", tenths(gain->decibels[f])));
    return fmt::format("{}", fmt::join(levels, "  "));
  };
  return Difference{pair.chain,
                    {"dB by %1", {amp::describeSection(pair.first ? *pair.first : *pair.second, library)}},
                    words(here),
                    words(there),
                    "its end over its beginning at E2, 1 kHz and 5 kHz"};
}

} // namespace

std::vector<Difference> differencesOf(const Compared& first, const Compared& second, const amp::Library& library,
                                      const std::string& against) {
  std::vector<Difference> all;
  if (first.readouts && second.readouts)
    for (const auto& readout : first.readouts->all) {
      const auto* its = second.readouts->of(readout.kind, readout.name);
      const auto here = written(readout), there = its ? written(*its) : std::string();
      if (here != there && readout.kind != Readout::Kind::loss)
        all.push_back({"", words(readout, first.design, library, against), here, there});
    }
  for (const auto& pair : amp::align(first.design, second.design, library)) {
    const auto title = [&](const amp::SectionUse* use) {
      return use ? amp::describeSection(*use, library) : std::string();
    };
    if (!pair.first || !pair.second || pair.first->section != pair.second->section)
      all.push_back({pair.chain, pair.chain == "line" ? Said("Section") : Said("Section of %1", {pair.chain}),
                     title(pair.first), title(pair.second)});
    if (auto gains = gainsApart(pair, first, second, library)) all.push_back(std::move(*gains));
    for (const auto& part : pair.parts)
      all.push_back({pair.chain, capital(part.role), part.first, part.second});
  }
  return all;
}

Columns<Difference> differences(const std::string& first, const std::string& second) {
  return {{{"chain"}, &Difference::chain},
          {{"what", "what differs"}, &Difference::what},
          {{"first", first}, &Difference::first},
          {{"second", second}, &Difference::second}};
}

} // namespace vinegar::tell
