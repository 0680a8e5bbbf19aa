#pragma once

#include "predict/levels/levels.h"
#include "tell/columns.h"

namespace vinegar::tell {

/// The signal at every section; volts rms at its end.
const Columns<predict::SectionLevel>& sections();

} // namespace vinegar::tell
