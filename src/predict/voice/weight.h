#pragma once

namespace vinegar::predict {

/// The ear's weight on an amplitude, curve A of IEC 61672-1, 2013; 1 at 1 kHz.
double weightA(double hertz);

} // namespace vinegar::predict
