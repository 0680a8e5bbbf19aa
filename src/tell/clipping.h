#pragma once

#include "predict/levels/clip_order.h"
#include "tell/columns.h"

namespace vinegar::tell {

/// What clips, in its order; levels are volts rms at the jack.
const Columns<predict::Limit>& limits();
/// "supply sags, 301 V to 280 V" and "cut-off" of a limit.
Said words(const predict::Limit& limit);

} // namespace vinegar::tell
