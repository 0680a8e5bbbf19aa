// How a reading of a curve is named and written on screen.
#pragma once

#include "amp/change/change.h"
#include "predict/voice/readouts.h"

#include <QString>

namespace vinegar::app {

/// `against`: the band that tilts are told against. "Treble peak", "Level at E2", "Loss in volume control".
QString readoutWords(const predict::Readout& readout, const amp::Design& design, const amp::Library& library,
                     const QString& against);
/// "4.96 kHz", "72.1", "+3.0".
QString readoutValue(const predict::Readout& readout);

} // namespace vinegar::app
