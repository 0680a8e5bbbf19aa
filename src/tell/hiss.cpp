#include "tell/hiss.h"

#include "tell/words.h"

namespace vinegar::tell {
namespace {

using predict::HissCure, predict::HissSource, units::Unit;

std::string kindWords(const std::string& kind) {
  if (kind == "thermal") return "its resistance";
  if (kind == "space-charge") return "its cathode";
  if (kind == "partition") return "its screen's share";
  if (kind == "grid") return "its grid current";
  return "its current";
}

} // namespace

const Columns<HissSource>& hissSources() {
  static const Columns<HissSource> columns{
      {{"part", "part"}, &HissSource::part},
      {{"kind"}, &HissSource::kind},
      {{"by", "by"}, [](const HissSource& s) { return kindWords(s.kind); }},
      {{"volts", "", Unit::volt}, &HissSource::volts},
      {{"weighted_volts", "as heard", Unit::volt, Style::reading, "weighted by curve A"}, &HissSource::weighted},
      {{"share", "share", Unit::none, Style::share, "of the weighted power"}, &HissSource::share}};
  return columns;
}

Columns<HissCure> hissCures(const amp::Circuit& circuit) {
  return {{{"change", "one step"}, [&circuit](const HissCure& c) { return changed({c.change}, &circuit); }},
          {{"quieter_decibels", "net", Unit::decibel, Style::change, "hiss less gain: as heard at one loudness"},
           &HissCure::quieter},
          {{"hiss_decibels", "hiss", Unit::decibel, Style::change}, &HissCure::hiss},
          {{"gain_decibels", "gain", Unit::decibel, Style::change, "at 1 kHz"}, &HissCure::gain},
          {{"radio_decibels", "radio", Unit::decibel, Style::change, "what comes to the first grid at 1 MHz"},
           &HissCure::radio},
          {{"moves", "moves"}, [](const HissCure& c) { return moved(c.movedTube, c.movedShare); }}};
}

} // namespace vinegar::tell
