// What clips in which order: the stages at once, and what the supply's giving way brings.
#pragma once

#include "predict/wave/clipping.h"

namespace vinegar::predict {

/// As findClipping; of `all`, what a sine that is held for seconds makes of the supply too: tenths of a second more.
tl::expected<Clipping, Problem> predictClipping(const Idle& idle, const amp::Library& library,
                                                const ClippingQuestion& question, const GoOn& goOn = {});

} // namespace vinegar::predict
