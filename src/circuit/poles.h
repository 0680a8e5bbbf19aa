#pragma once

#include "circuit/system.h"

#include <complex>

namespace vinegar::circuit {

/// Natural frequencies of the small-signal circuit: the finite s for which (G + di/dx + s C) is singular, in rad/s, the
/// slowest first, from 0.03 to 3e9. A real part above zero is a circuit that oscillates or runs away by itself. A delay
/// has no end of poles: circuits with one are looked at with it silent. Found from the eigenvalues of (G + s0 C)^-1 C
/// around one shift s0 per decade (shift and invert; Y. Saad, Numerical methods for large eigenvalue problems, 1992),
/// so that poles ten decades apart do not drown each other.
std::vector<std::complex<double>> findPoles(const System& system, const Eigen::VectorXd& operatingPoint);

} // namespace vinegar::circuit
