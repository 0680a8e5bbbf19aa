#include "predict/voice/hearing.h"

#include "predict/voice/weight.h"
#include "units/value.h"

#include <algorithm>
#include <array>
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

namespace {

/// Of ISO 226 (2003), table 1: exponent of loudness perception, transfer function normalized at 1 kHz, and threshold.
struct Hearing {
  double hertz, alpha, transfer, threshold;
};
constexpr std::array hearing{
    Hearing{20, 0.532, -31.6, 78.5},    Hearing{25, 0.506, -27.2, 68.7},  Hearing{31.5, 0.480, -23.0, 59.5},
    Hearing{40, 0.455, -19.1, 51.1},    Hearing{50, 0.432, -15.9, 44.0},  Hearing{63, 0.409, -13.0, 37.5},
    Hearing{80, 0.387, -10.3, 31.5},    Hearing{100, 0.367, -8.1, 26.5},  Hearing{125, 0.349, -6.2, 22.1},
    Hearing{160, 0.330, -4.5, 17.9},    Hearing{200, 0.315, -3.1, 14.4},  Hearing{250, 0.301, -2.0, 11.4},
    Hearing{315, 0.288, -1.1, 8.6},     Hearing{400, 0.276, -0.4, 6.2},   Hearing{500, 0.267, 0.0, 4.4},
    Hearing{630, 0.259, 0.3, 3.0},      Hearing{800, 0.253, 0.5, 2.2},    Hearing{1000, 0.250, 0.0, 2.4},
    Hearing{1250, 0.246, -2.7, 3.5},    Hearing{1600, 0.244, -4.1, 1.7},  Hearing{2000, 0.243, -1.0, -1.3},
    Hearing{2500, 0.243, 1.7, -4.2},    Hearing{3150, 0.243, 2.5, -6.0},  Hearing{4000, 0.242, 1.2, -5.4},
    Hearing{5000, 0.242, -2.1, -1.5},   Hearing{6300, 0.245, -7.1, 6.0},  Hearing{8000, 0.254, -11.2, 12.6},
    Hearing{10000, 0.271, -10.7, 13.9}, Hearing{12500, 0.301, -3.1, 12.3}};

/// Straight over the logarithm of frequency.
double betweenPoints(const std::vector<amp::CurvePoint>& points, double hertz) {
  const auto above = std::lower_bound(points.begin(), points.end(), hertz,
                                      [](const amp::CurvePoint& point, double f) { return point.hertz < f; });
  if (above == points.begin()) return points.front().decibels;
  if (above == points.end()) return points.back().decibels;
  const auto below = above - 1;
  return below->decibels +
         (above->decibels - below->decibels) * std::log(hertz / below->hertz) / std::log(above->hertz / below->hertz);
}

} // namespace

namespace {
std::vector<amp::CurvePoint> contourOf(double phons) {
  std::vector<amp::CurvePoint> contour;
  contour.reserve(hearing.size());
  for (const auto& [f, alpha, transfer, threshold] : hearing) {
    const double loudness = 4.47e-3 * (std::pow(10, 0.025 * phons) - 1.15) +
                            std::pow(0.4 * std::pow(10, (threshold + transfer) / 10 - 9), alpha);
    contour.push_back({f, 10 / alpha * std::log10(loudness) - transfer + 94});
  }
  return contour;
}
} // namespace

double equallyLoud(double hertz, double phons) { return betweenPoints(contourOf(phons), hertz); }

Response weightedByLoudness(const Response& response, double phons) {
  Response weighted = response;
  const auto contour = contourOf(phons);
  for (std::size_t f = 0; f < response.hertz.size(); ++f)
    weighted.decibels[f] -= betweenPoints(contour, response.hertz[f]) - phons;
  return weighted;
}

Response through(const Response& response, const std::vector<amp::CurvePoint>& sound) {
  Response heard;
  if (sound.empty()) return heard;
  for (std::size_t f = 0; f < response.hertz.size(); ++f) {
    const double hertz = response.hertz[f];
    if (hertz < sound.front().hertz || hertz > sound.back().hertz) continue;
    heard.hertz.push_back(hertz);
    heard.decibels.push_back(response.decibels[f] + betweenPoints(sound, hertz));
    if (f < response.degrees.size()) heard.degrees.push_back(response.degrees[f]);
  }
  return heard;
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

double decibelsApart(const Response& one, const Response& other, bool alike, Weighing weighing) {
  constexpr double from = 40, to = 1e4, phons = 70;
  const double lift = alike ? decibelsAt(one, 1000) - decibelsAt(other, 1000) : 0;
  const auto contour = contourOf(phons);
  const auto heard = [&](double hertz) {
    return weighing == Weighing::even     ? 0
           : weighing == Weighing::curveA ? units::decibels(weightA(hertz))
                                          : phons - betweenPoints(contour, hertz);
  };
  double squares = 0, weights = 0;
  for (std::size_t f = 0; f < one.hertz.size(); ++f) {
    if (one.hertz[f] < from || one.hertz[f] > to) continue;
    const double apart = one.decibels[f] - other.decibels[f] - lift;
    const double weight = std::pow(10, heard(one.hertz[f]) / 10);
    squares += weight * apart * apart;
    weights += weight;
  }
  return std::sqrt(squares / weights);
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
