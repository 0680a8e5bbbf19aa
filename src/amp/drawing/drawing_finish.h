#pragma once

#include "amp/drawing/drawing.h"

namespace vinegar::amp {

/// What follows from lines, parts and tags once all of them stand: junction dots, which way tags grow, the bounds.
/// n log n in the corners.
void finish(Drawing& drawing);

} // namespace vinegar::amp
