#include "predict/voice/tolerance.h"

#include "predict/rest/variation.h"

#include <algorithm>
#include <atomic>
#include <cmath>
#include <numbers>

namespace vinegar::predict {
namespace {

constexpr int spreadPoints = 120;
constexpr double voicedFrom = 40, voicedTo = 1e4;

/// How far apart two builds are: mean, and root mean square about it.
std::pair<double, double> apart(const Eigen::VectorXd& a, const Eigen::VectorXd& b) {
  const Eigen::VectorXd difference = a - b;
  const double mean = difference.mean();
  return {std::abs(mean), std::sqrt((difference.array() - mean).square().mean())};
}

/// A tube's emission a little up and down, as its spread is.
circuit::Parameter emissionSpread(const circuit::System& system, int device) {
  constexpr double step = 1e-4;
  const auto& law = system.netlist().devices()[static_cast<std::size_t>(device)].law;
  return {{{device, circuit::varied(law, 1 + step)}}, {{device, circuit::varied(law, 1 - step)}}, step};
}

/// Variance of each part's own by its tolerance, spread evenly, times the square of what it does.
std::vector<Tolerance::Culprit> culpritsOf(const Idle& idle, const amp::Library& library,
                                           const ToleranceQuestion& question, const std::vector<double>& hertz) {
  std::vector<std::string> names;
  std::vector<circuit::Parameter> parameters;
  std::vector<double> scales; // what one whole tolerance is in the parameter's unit
  for (auto& variation : partVariations(*idle.circuit, library)) {
    const double tolerance = toleranceOf(*idle.circuit->part(variation.name), question.tolerances);
    if (tolerance <= 0) continue;
    names.push_back(variation.name);
    parameters.push_back(std::move(variation.parameter));
    scales.push_back(tolerance * variation.value);
  }
  for (const auto& part : idle.circuit->parts)
    if (amp::isTube(part.resolved.part->kind) && !part.devices.empty() && question.tolerances.tubes > 0) {
      names.push_back(part.resolved.name);
      parameters.push_back(emissionSpread(*idle.point.system, part.devices.front()));
      scales.push_back(question.tolerances.tubes);
    }
  auto plan = idle.plan ? idle.plan->plan() : nullptr;
  const auto effects =
      circuit::responseSensitivities(*idle.point.system, idle.point.dc.x, hertz, idle.circuit->probe(question.from),
                                     idle.circuit->probe(question.to), parameters, &plan);
  if (!effects) return {};
  std::vector<Tolerance::Culprit> culprits;
  double sum = 0;
  for (std::size_t p = 0; p < names.size(); ++p) {
    const double variance = effects->row(static_cast<Eigen::Index>(p)).real().squaredNorm() * scales[p] * scales[p] / 3;
    culprits.push_back({names[p], variance});
    sum += variance;
  }
  std::stable_sort(culprits.begin(), culprits.end(), [](const auto& a, const auto& b) { return a.share > b.share; });
  if (culprits.size() > 5) culprits.resize(5);
  for (auto& culprit : culprits)
    culprit.share = sum > 0 ? culprit.share / sum : 0;
  return culprits;
}

} // namespace

tl::expected<Tolerance, Problem> predictTolerance(const Idle& whole, const amp::Library& library,
                                                  const ToleranceQuestion& question, const GoOn& goOn) {
  const Idle idle = withoutEchoes(whole);
  const auto nominal = predictResponse(idle, library, {question.from, question.to, {1000}});
  if (!nominal) return tl::unexpected(nominal.error());
  Tolerance tolerance;
  tolerance.hertz = circuit::logSpaced(10, 1e5, spreadPoints);
  tolerance.builds = question.builds;
  circuit::MonteCarloQuestion builds;
  builds.builds = question.builds;
  builds.spreads = spreadsWithin(*idle.circuit, question.tolerances);
  builds.hertz = tolerance.hertz;
  builds.from = idle.circuit->probe(question.from);
  builds.to = idle.circuit->probe(question.to);
  std::atomic<int> begun = 0;
  if (goOn) builds.goOn = [&] { return goOn(static_cast<double>(begun++) / std::max(1, question.builds)); };
  const auto answer = circuit::solveMonteCarlo(*idle.point.system, builds);
  if (!answer) return tl::unexpected(goOn && !goOn(1) ? Problem::stopped() : answer.error());
  tolerance.failures = answer->failures;
  std::vector<Eigen::Index> good;
  for (Eigen::Index b = 0; b < answer->decibels.cols(); ++b)
    if (answer->decibels.col(b).allFinite()) good.push_back(b);
  if (good.empty()) return tl::unexpected(Problem{question.to, "no build of these tolerances has an answer"});
  std::vector<Eigen::Index> voiced;
  for (Eigen::Index f = 0; f < answer->decibels.rows(); ++f) {
    std::vector<double> levels;
    levels.reserve(good.size());
    for (const auto b : good)
      levels.push_back(answer->decibels(f, b));
    const auto band = bandOf(std::move(levels));
    tolerance.low.push_back(band.low);
    tolerance.middle.push_back(band.middle);
    tolerance.high.push_back(band.high);
    const double hertz = tolerance.hertz[static_cast<std::size_t>(f)];
    if (hertz >= voicedFrom && hertz <= voicedTo) voiced.push_back(f);
  }
  std::vector<double> levels, voices;
  const Eigen::MatrixXd heard = answer->decibels(voiced, good);
  for (Eigen::Index b = 1; b < heard.cols(); b += 2) {
    const auto [level, voice] = apart(heard.col(b), heard.col(b - 1));
    levels.push_back(level);
    voices.push_back(voice);
  }
  tolerance.level = bandOf(std::move(levels));
  tolerance.voice = bandOf(std::move(voices));
  std::vector<double> few;
  few.reserve(voiced.size());
  for (const auto f : voiced)
    few.push_back(tolerance.hertz[static_cast<std::size_t>(f)]);
  tolerance.culprits = culpritsOf(idle, library, question, few);
  return tolerance;
}

} // namespace vinegar::predict
