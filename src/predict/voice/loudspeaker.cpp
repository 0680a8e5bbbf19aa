#include "predict/voice/loudspeaker.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>
#include <unsupported/Eigen/NonLinearOptimization>

namespace vinegar::predict {
namespace {

constexpr std::size_t fewest = 8;
constexpr int unknowns = 6;
constexpr double lowestMeasured = 10, highestMeasured = 2e4;

/// All are positive, so the search goes over their logarithms.
Loudspeaker speakerOf(const Eigen::VectorXd& logs) {
  const Eigen::VectorXd v = logs.array().min(60).max(-60).exp().matrix();
  return {v[0], v[1], v[2], v[3], v[4], v[5]};
}

struct Misfit {
  using Scalar = double;
  using InputType = Eigen::VectorXd;
  using ValueType = Eigen::VectorXd;
  using JacobianType = Eigen::MatrixXd;
  enum { InputsAtCompileTime = Eigen::Dynamic, ValuesAtCompileTime = Eigen::Dynamic };
  const std::vector<double>&hertz, &logOhms, &weights;
  [[nodiscard]] int inputs() const { return unknowns; }
  [[nodiscard]] int values() const { return static_cast<int>(hertz.size()); }
  int operator()(const Eigen::VectorXd& logs, Eigen::VectorXd& out) const {
    const auto speaker = speakerOf(logs);
    out.resize(values());
    for (std::size_t i = 0; i < hertz.size(); ++i)
      out[static_cast<Eigen::Index>(i)] =
          weights[i] * (std::log(std::abs(impedanceOf(speaker, hertz[i]))) - logOhms[i]);
    return 0;
  }
  int df(const Eigen::VectorXd& logs, Eigen::MatrixXd& slopes) const {
    constexpr double step = 1e-5;
    Eigen::VectorXd up, down;
    slopes.resize(values(), unknowns);
    for (int u = 0; u < unknowns; ++u) {
      Eigen::VectorXd moved = logs;
      moved[u] += step;
      (*this)(moved, up);
      moved[u] -= 2 * step;
      (*this)(moved, down);
      slopes.col(u) = (up - down) / (2 * step);
    }
    return 0;
  }
};

} // namespace

std::complex<double> impedanceOf(const Loudspeaker& speaker, double hertz) {
  const std::complex<double> coil(0, 2 * std::numbers::pi * hertz * speaker.coilHenries);
  const double motional = speaker.coilOhms * speaker.mechanicalQ / speaker.electricalQ;
  const double off = hertz / speaker.resonanceHertz - speaker.resonanceHertz / hertz;
  return speaker.coilOhms + coil * speaker.eddyOhms / (coil + speaker.eddyOhms) +
         motional / std::complex<double>(1, speaker.mechanicalQ * off);
}

tl::expected<LoudspeakerFit, Problem> fitLoudspeaker(const std::vector<amp::CurvePoint>& ohms) {
  std::vector<amp::CurvePoint> measured;
  for (const auto& point : ohms) {
    if (!(point.decibels > 0))
      return tl::unexpected(Problem{"the impedance", "is more than nothing at every frequency; are these decibels?"});
    if (point.hertz >= lowestMeasured && point.hertz <= highestMeasured) measured.push_back(point);
  }
  if (measured.size() < fewest)
    return tl::unexpected(Problem{"the impedance", "needs eight points or more between 10 Hz and 20 kHz"});
  // A point counts as much as it covers of the logarithm of frequency, so that no stretch counts more for having more.
  std::vector<double> hertz, logs, weights;
  for (std::size_t i = 0; i < measured.size(); ++i) {
    hertz.push_back(measured[i].hertz);
    logs.push_back(std::log(measured[i].decibels));
    const auto before = i > 0 ? i - 1 : i, after = std::min(i + 1, measured.size() - 1);
    weights.push_back(std::sqrt(std::log(measured[after].hertz / measured[before].hertz) / 2));
  }
  const auto leastAt = std::min_element(logs.begin(), logs.end()) - logs.begin();
  const double least = std::exp(logs[static_cast<std::size_t>(leastAt)]);
  // The resonance is the hump under the least; from several starts, since a hump may hide in the rise of the coil.
  const auto humpAt =
      std::max_element(logs.begin(), logs.begin() + std::max<std::ptrdiff_t>(leastAt, 1)) - logs.begin();
  const double hump = std::exp(logs[static_cast<std::size_t>(humpAt)]);
  const double top = std::max(std::exp(logs.back()), 1.01 * least);
  std::optional<LoudspeakerFit> best;
  for (const double resonance : {hertz[static_cast<std::size_t>(humpAt)], 60.0, 100.0})
    for (const double mechanicalQ : {3.0, 8.0}) {
      const double ratio = std::max(hump / least - 1, 0.05);
      const std::array start{
          0.95 * least, std::sqrt(top * top - least * least * 0.9) / (2 * std::numbers::pi * hertz.back()),
          4 * top,      resonance,
          mechanicalQ,  mechanicalQ / ratio};
      Eigen::VectorXd unknown(unknowns);
      for (int u = 0; u < unknowns; ++u)
        unknown[u] = std::log(start[static_cast<std::size_t>(u)]);
      Misfit misfit{hertz, logs, weights};
      Eigen::LevenbergMarquardt<Misfit> search(misfit);
      search.minimize(unknown);
      Eigen::VectorXd off;
      misfit(unknown, off);
      if (!off.allFinite()) continue;
      LoudspeakerFit fit{speakerOf(unknown), 0,
                         off.norm() / Eigen::Map<const Eigen::VectorXd>(weights.data(), off.size()).norm(), 0, 0};
      for (Eigen::Index i = 0; i < off.size(); ++i)
        off[i] /= weights[static_cast<std::size_t>(i)];
      Eigen::Index at = 0;
      fit.worst = off.cwiseAbs().maxCoeff(&at);
      fit.worstHertz = hertz[static_cast<std::size_t>(at)];
      if (!best || fit.rms < best->rms) best = fit;
    }
  if (!best) return tl::unexpected(Problem{"the impedance", "is like no loudspeaker's"});
  // The least impedance may be a fifth under the rating (IEC 60268-5).
  constexpr std::array ratings{2.0, 2.67, 4.0, 5.33, 6.0, 8.0, 12.0, 16.0, 32.0};
  best->ratedOhms = ratings.front();
  for (const double rating : ratings)
    if (0.8 * rating <= 1.05 * least) best->ratedOhms = rating;
  return *best;
}

std::vector<amp::SetField> changesTo(const LoudspeakerFit& fit, const amp::Design& design,
                                     const amp::Library& library) {
  std::vector<amp::SetField> changes;
  const auto& speaker = fit.speaker;
  for (const auto& part : amp::resolveParts(design, library)) {
    if (part.part->kind != amp::PartKind::speaker || !part.fitted()) continue;
    const std::pair<const char*, double> wanted[] = {{"value", fit.ratedOhms},
                                                     {"voiceCoilShare", speaker.coilOhms / fit.ratedOhms},
                                                     {"voiceCoilInductance", speaker.coilHenries},
                                                     {"eddyOhms", speaker.eddyOhms},
                                                     {"resonanceHertz", speaker.resonanceHertz},
                                                     {"mechanicalQ", speaker.mechanicalQ},
                                                     {"electricalQ", speaker.electricalQ}};
    for (const auto& [field, value] : wanted)
      if (part.number(field) != value && !amp::checkSetting(part, field, value, library))
        changes.push_back({part.name, field, part.settings.at(field), value});
  }
  return changes;
}

} // namespace vinegar::predict
