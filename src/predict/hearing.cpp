#include "predict/hearing.h"

#include "predict/hiss.h"
#include "units/value.h"

#include <cmath>
#include <numbers>

namespace vinegar::predict {

Response thirdOctaves(const Response& response) {
  constexpr int inside = 12; // frequencies that a third is read at
  Response smooth = response;
  for (std::size_t f = 0; f < response.hertz.size(); ++f) {
    double power = 0;
    int count = 0;
    for (int i = 0; i <= inside; ++i) {
      const double octaves = (static_cast<double>(i) / inside - 0.5) / 3;
      const double decibels = decibelsAt(response, response.hertz[f] * std::exp2(octaves));
      if (!std::isfinite(decibels)) continue;
      power += std::pow(10.0, decibels / 10);
      ++count;
    }
    smooth.decibels[f] = 10 * std::log10(power / count);
  }
  return smooth;
}

Response weightedA(const Response& response) {
  Response weighted = response;
  for (std::size_t f = 0; f < response.hertz.size(); ++f)
    weighted.decibels[f] += units::decibels(weightA(response.hertz[f]));
  return weighted;
}

Response soundOf(const Response& motion, bool openBack) {
  constexpr double even = 400, roundMetres = 0.4, metresASecond = 343;
  const double corner = metresASecond / (2 * std::numbers::pi * roundMetres);
  Response sound = motion;
  for (std::size_t f = 0; f < motion.hertz.size(); ++f) {
    const double hertz = motion.hertz[f];
    sound.decibels[f] += units::decibels(hertz / even);
    if (openBack) sound.decibels[f] += units::decibels(hertz / std::hypot(hertz, corner));
  }
  return sound;
}

double decibelsApart(const Response& one, const Response& other, bool alike) {
  constexpr double from = 40, to = 1e4;
  const double lift = alike ? decibelsAt(one, 1000) - decibelsAt(other, 1000) : 0;
  double squares = 0;
  int count = 0;
  for (std::size_t f = 0; f < one.hertz.size(); ++f) {
    if (one.hertz[f] < from || one.hertz[f] > to) continue;
    const double apart = one.decibels[f] - other.decibels[f] - lift;
    squares += apart * apart;
    ++count;
  }
  return std::sqrt(squares / count);
}

std::vector<Partial> partialsOf(const Response& response, double noteHertz) {
  constexpr int most = 16;
  std::vector<Partial> partials;
  const double first = decibelsAt(response, noteHertz);
  for (int n = 1; n <= most; ++n) {
    const double decibels = decibelsAt(response, n * noteHertz);
    if (!std::isfinite(decibels)) break;
    partials.push_back({n, n * noteHertz, decibels - first});
  }
  return partials;
}

} // namespace vinegar::predict
