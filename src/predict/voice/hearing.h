// A response as the ear takes it, and the partials of a note in it.
#pragma once

#include "amp/design/target.h"
#include "predict/rest/prediction.h"

namespace vinegar::predict {

/// The power within a third of an octave about each frequency, in dB: what narrow wiggles add up to. At the ends of the
/// sweep, of what there is.
Response thirdOctaves(const Response& response);
/// Weighted by curve A of IEC 61672-1: what of it is heard, quietly played.
Response weightedA(const Response& response);

/// The same as loud as it is played: by the contour of equal loudness of ISO 226 (2003) through `phons` at 1 kHz, 20 to
/// 90. The lower it is, the less of the bass is heard. Nothing is known under 20 Hz and over 12.5 kHz: there it goes on
/// as at the ends.
Response weightedByLoudness(const Response& response, double phons);
/// Sound pressure level that is as loud as `phons` at 1 kHz, dB (ISO 226, 2003).
double equallyLoud(double hertz, double phons);
/// Through a loudspeaker that was measured: its level over frequency added to the volts'. Outside of what was measured,
/// nothing.
Response through(const Response& response, const std::vector<amp::CurvePoint>& sound);

/// Sound pressure before a loudspeaker from the volts across its motion, which are the cone's speed: pressure follows
/// its acceleration as long as the cone moves as one piston, so it is an estimate, and none above a kilohertz or two
/// (L. L. Beranek, Acoustics, 1954). Even with the volts at 400 Hz. `openBack`: what comes round from behind, half a
/// wave late on a way of 0.4 m, takes the lowest notes.
Response soundOf(const Response& motion, bool openBack);

/// Root mean square difference of two responses over the same frequencies between 40 Hz and 10 kHz, dB, each frequency
/// counting as much as is heard of it: all alike, by curve A, or by equal loudness at 70 phon. `alike`: with their
/// levels at 1 kHz set alike.
enum class Weighing { even, curveA, loudness };
double decibelsApart(const Response& one, const Response& other, bool alike, Weighing weighing = Weighing::even);

struct Partial {
  int number = 1;
  double hertz = 0;
  double decibels = 0; ///< of the response there, over the response at the note itself
};
/// The note's own frequency and its multiples, up to sixteen, as far as the sweep goes. The string's own spectrum is
/// not in it: the same for every amplifier.
std::vector<Partial> partialsOf(const Response& response, double noteHertz);

} // namespace vinegar::predict
