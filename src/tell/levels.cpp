#include "tell/levels.h"

namespace vinegar::tell {

using predict::SectionLevel, units::Unit;

const Columns<SectionLevel>& sections() {
  static const Columns<SectionLevel> columns{
      {{"title", "section"}, &SectionLevel::title},
      {{"chain", "chain"},
       [](const SectionLevel& s) { return s.chain == "line" ? std::string("main line") : s.chain; }},
      {{"section"}, &SectionLevel::section},
      {{"gain_decibels", "gain", Unit::decibel, Style::change, "from its input to its output", "", true},
       &SectionLevel::gainDecibels},
      {{"rms_volts", "at its end, rms", Unit::volt}, &SectionLevel::rms},
      {{"second_rms_volts", "other half, rms", Unit::volt, Style::reading, "of a balanced output, to ground"},
       &SectionLevel::secondRms},
      {{"peak_up_volts", "crest", Unit::volt, Style::reading, "about the rest"}, &SectionLevel::peakUp},
      {{"peak_down_volts", "trough", Unit::volt, Style::reading, "about the rest"}, &SectionLevel::peakDown},
      {{"up_headroom_decibels", "left, grid up", Unit::decibel, Style::change,
        "of input, until it clips with its grid's wave upward"},
       &SectionLevel::upDecibels},
      {{"down_headroom_decibels", "left, grid down", Unit::decibel, Style::change,
        "of input, until it clips with its grid's wave downward"},
       &SectionLevel::downDecibels}};
  return columns;
}

} // namespace vinegar::tell
