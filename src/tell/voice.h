// What a curve says in numbers, what would come near another, how builds spread, and how two designs differ.
#pragma once

#include "amp/change/alignment.h"
#include "predict/voice/fit.h"
#include "predict/voice/readouts.h"
#include "predict/voice/section_gains.h"
#include "predict/voice/tolerance.h"
#include "tell/columns.h"

namespace vinegar::tell {

/// "Treble peak", "Level at E2", "Loss in volume control, least, at 312 Hz"; tilts against the band called so.
Said words(const predict::Readout& readout, const amp::Design& design, const amp::Library& library,
           const std::string& against);
/// "4.96 kHz", "72.1 dB", "+3.0 dB".
std::string written(const predict::Readout& readout);
/// Of a curve of that design, whose tilts are told against `against`.
Columns<predict::Readout> readouts(const amp::Design& design, const amp::Library& library, const std::string& against);

Columns<predict::FitSet> fitSets(const amp::Circuit& circuit);

/// The band that builds lie in, a row a frequency.
struct SpreadAt {
  double hertz = 0, low = 0, middle = 0, high = 0;
};
std::vector<SpreadAt> spreadOf(const predict::Tolerance& tolerance);
const Columns<SpreadAt>& spreads();
const Columns<predict::Tolerance::Culprit>& culprits();

/// Something in which two designs are not alike.
struct Difference {
  std::string chain; ///< empty: of the whole
  Said what;
  std::string first, second, about = {};
};
/// Of each design: itself, its readings and what its sections give, where they are known.
struct Compared {
  const amp::Design& design;
  const predict::Readouts* readouts = nullptr;
  const predict::SectionGains* gains = nullptr;
};
/// Readings first, then section by section: what stands there, what it gives, its parts.
std::vector<Difference> differencesOf(const Compared& first, const Compared& second, const amp::Library& library,
                                      const std::string& against);
Columns<Difference> differences(const std::string& first, const std::string& second);

} // namespace vinegar::tell
