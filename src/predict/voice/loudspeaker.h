// A loudspeaker by its measured impedance.
#pragma once

#include "amp/change/change.h"
#include "amp/design/target.h"

#include <complex>

namespace vinegar::predict {

/// What a loudspeaker's part is made of; see amp's part devices.
struct Loudspeaker {
  double coilOhms = 0, coilHenries = 0, eddyOhms = 0, resonanceHertz = 0, mechanicalQ = 0, electricalQ = 0;
};
std::complex<double> impedanceOf(const Loudspeaker& speaker, double hertz);

struct LoudspeakerFit {
  Loudspeaker speaker;
  double ratedOhms = 0; ///< the customary rating that the least impedance over the resonance stands for
  double rms = 0;       ///< how far the model's impedance is from the measured one: share of it, root mean square
  double worst = 0, worstHertz = 0;
};
/// The loudspeaker whose impedance comes nearest to the measured points, ohms in place of decibels, over what they
/// cover of 10 Hz to 20 kHz (K. Levenberg, A method for the solution of certain non-linear problems in least squares,
/// 1944). A box with a port has two humps where this has one: `worst` tells. Fewer than eight points, or ohms that are
/// no impedance, are Problems. Milliseconds; any thread.
tl::expected<LoudspeakerFit, Problem> fitLoudspeaker(const std::vector<amp::CurvePoint>& ohms);
/// What the loudspeakers of a design would have to become.
std::vector<amp::SetField> changesTo(const LoudspeakerFit& fit, const amp::Design& design, const amp::Library& library);

} // namespace vinegar::predict
