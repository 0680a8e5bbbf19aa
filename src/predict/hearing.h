// A response as the ear takes it, and the partials of a note in it.
#pragma once

#include "predict/prediction.h"

namespace vinegar::predict {

/// The power within a third of an octave about each frequency, in dB: what narrow wiggles add up to. At the ends of the
/// sweep, of what there is.
Response thirdOctaves(const Response& response);
/// Weighted by curve A of IEC 61672-1: what of it is heard, quietly played.
Response weightedA(const Response& response);

/// Sound pressure before a loudspeaker from the volts across its motion, which are the cone's speed: pressure follows
/// its acceleration as long as the cone moves as one piston, so it is an estimate, and none above a kilohertz or two
/// (L. L. Beranek, Acoustics, 1954). Even with the volts at 400 Hz. `openBack`: what comes round from behind, half a
/// wave late on a way of 0.4 m, takes the lowest notes.
Response soundOf(const Response& motion, bool openBack);

/// Root mean square difference of two responses over the same frequencies between 40 Hz and 10 kHz, dB; `alike`: with
/// their levels at 1 kHz set alike.
double decibelsApart(const Response& one, const Response& other, bool alike);

struct Partial {
  int number = 1;
  double hertz = 0;
  double decibels = 0; ///< of the response there, over the response at the note itself
};
/// The note's own frequency and its multiples, up to sixteen, as far as the sweep goes. The string's own spectrum is
/// not in it: the same for every amplifier.
std::vector<Partial> partialsOf(const Response& response, double noteHertz);

} // namespace vinegar::predict
