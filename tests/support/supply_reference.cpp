#include "support/supply_reference.h"

#include <algorithm>
#include <cmath>

namespace vinegar::testing_support {
namespace {

/// Current of `count` diodes in series fed through `ohms` by `volts`, by bisection.
double through(const std::function<double(double)>& diode, double volts, double ohms, int count) {
  if (volts <= 0) return 0;
  double low = 0, high = volts; // volts over the diodes
  for (int i = 0; i < 60; ++i) {
    const double middle = 0.5 * (low + high);
    (diode(middle / count) * ohms + middle > volts ? high : low) = middle;
  }
  return diode(0.5 * (low + high) / count);
}

} // namespace

ReferenceAnswer stepThrough(const ReferenceSupply& s) {
  constexpr double h = 2e-6;
  const auto perPeriod = static_cast<int>(std::lround(1 / (s.hertz * h)));
  const double peak = s.voltsRms * std::sqrt(2.0);
  const bool doubler = s.kind == ReferenceSupply::Kind::doubler;
  const std::size_t n = s.sections.size();
  std::vector<double> volts(n + 1, 0.8 * peak * (doubler ? 2 : 1)), choke(n, 0.0);
  double upper = 0.8 * peak, lower = 0.8 * peak; // a doubler's two capacitors
  if (s.farads == 0) std::fill(volts.begin(), volts.end(), 0.6 * peak);
  for (std::size_t k = 0; k < n; ++k)
    choke[k] = s.loadAmps;

  // The diode's current depends on one voltage only, so it is tabled once.
  const double source = s.sourceOhms + s.seriesOhms;
  const int inSeries = s.kind == ReferenceSupply::Kind::bridge ? 2 : 1;
  constexpr double tableStep = 0.05;
  std::vector<double> table;
  for (int i = 0; i * tableStep < 2.2 * peak; ++i)
    table.push_back(through(s.diode, i * tableStep, source, inSeries));
  const auto current = [&](double drive) {
    if (drive <= 0) return 0.0;
    const double at = drive / tableStep;
    const auto i = std::min(static_cast<std::size_t>(at), table.size() - 2);
    return table[i] + (table[i + 1] - table[i]) * (at - static_cast<double>(i));
  };

  ReferenceAnswer answer;
  std::vector<double> before;
  for (int period = 0; period < 4000; ++period) {
    std::vector<double> sum(n + 1, 0), low(n + 1, 1e9), high(n + 1, -1e9);
    double peakAmps = 0, charge = 0;
    for (int k = 0; k < perPeriod; ++k) {
      const double e = peak * std::sin(2 * M_PI * k / perPeriod);
      const auto drawn = [&](std::size_t at) {
        if (at == n) return s.loadAmps;
        return s.sections[at].henries > 0 ? choke[at] : (volts[at] - volts[at + 1]) / s.sections[at].ohms;
      };
      double into = 0;
      if (doubler) {
        const double up = current(e - upper), down = current(-e - lower), out = drawn(0);
        upper += h * (up - out) / s.farads;
        lower += h * (down - out) / s.farads;
        volts[0] = upper + lower;
        into = up;
      } else if (s.farads > 0) {
        into = current(std::abs(e) - volts[0]);
        volts[0] += h * (into - drawn(0)) / s.farads;
      } else { // into a choke: the rectifier carries its current, both plates sharing where that flows against them
        into = choke[0];
        double a = -peak, b = std::abs(e); // the rectifier's output
        for (int i = 0; i < 50; ++i) {
          const double m = 0.5 * (a + b);
          (current(std::abs(e) - m) + current(-std::abs(e) - m) > choke[0] ? a : b) = m;
        }
        volts[0] = 0.5 * (a + b);
      }
      for (std::size_t i = 0; i < n; ++i) {
        const auto& section = s.sections[i];
        if (section.henries > 0)
          choke[i] = choke[i] + h * (volts[i] - volts[i + 1] - section.ohms * choke[i]) / section.henries;
        if (s.farads == 0 && i == 0) choke[0] = std::max(choke[0], 0.0); // diodes do not conduct backwards
      }
      std::vector<double> flows(n + 1);
      for (std::size_t i = 0; i <= n; ++i)
        flows[i] = drawn(i);
      for (std::size_t i = 0; i < n; ++i)
        volts[i + 1] += h * (flows[i] - flows[i + 1]) / s.sections[i].farads;
      const bool positive = e >= 0;
      const double mine = doubler || positive ? into : 0; // one of the two plates
      peakAmps = std::max(peakAmps, mine);
      charge += mine;
      for (std::size_t i = 0; i <= n; ++i) {
        sum[i] += volts[i];
        low[i] = std::min(low[i], volts[i]);
        high[i] = std::max(high[i], volts[i]);
      }
    }
    for (auto& v : sum)
      v /= perPeriod;
    double moved = 1;
    if (!before.empty()) {
      moved = 0;
      for (std::size_t i = 0; i <= n; ++i)
        moved = std::max(moved, std::abs(sum[i] / before[i] - 1));
    }
    before = sum;
    answer.volts = sum;
    answer.rippleVpp.clear();
    for (std::size_t i = 0; i <= n; ++i)
      answer.rippleVpp.push_back(high[i] - low[i]);
    answer.peakAmps = peakAmps;
    answer.meanAmps = charge / perPeriod;
    if (moved < 1e-6) break;
  }
  return answer;
}

} // namespace vinegar::testing_support
