// Sections as they stand in the signal's way.
#pragma once

#include "amp/compile/compile.h"

namespace vinegar::predict {

/// A section with a signal at its end, and where it comes in and goes out; -1: it has no such node.
struct Place {
  std::string chain;
  const amp::SectionUse* use; ///< of the circuit's design
  const amp::SectionTemplate* section;
  circuit::Node in = -1, out = -1; ///< of a load, what stands on it is both
  circuit::Node second = -1;       ///< the other half of a balanced output
};

/// The main line first, then each side chain.
std::vector<Place> placesOf(const amp::Circuit& circuit, const amp::Library& library);

/// The probe at the amplifier's end: the speaker, or where the main line ends; empty where no signal ends anywhere.
std::string endOf(const amp::Circuit& circuit);

} // namespace vinegar::predict
