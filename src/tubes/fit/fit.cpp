#include "tubes/fit/fit.h"

#include <ceres/ceres.h>
#include <cmath>

namespace vinegar::tubes {
namespace {

/// Expected value and spread of a parameter where the points say nothing.
struct Prior {
  double value, spread;
};

struct Priors {
  Prior X, VCT, KPperMU, MUPperMU, S, M;
};

Priors priorsFor(const TubeType& type, double mu) {
  if (type.family == "triode")
    return {{1.5, 0.06}, {0.5, 0.3}, mu < 10 ? Prior{9, 0.4} : Prior{6, 0.5}, {1, 1}, {1, 1}, {1, 1}};
  if (type.family == "beam") return {{1.5, 0.06}, {0.7, 0.4}, {6, 0.4}, {25, 0.6}, {0.08, 0.7}, {1.7, 0.5}};
  return {{1.5, 0.06}, {0.7, 0.4}, {6, 0.4}, {20, 1.0}, {0.15, 0.7}, {0.6, 0.7}};
}

/// Knee and sharpness follow from the tube's build, not from points above the knee.
void setKnee(TriodeModel& m) { m.LAM = 0.25, m.N = 2.5; }
void setKnee(PentodeModel& m, bool beam) {
  m.LAM = beam ? 0.105 : 0.125;
  m.N = beam ? 3.6 : 2.3;
}

// Parameters of the search: logarithms but for X and VCT.
enum Index { logK, logMU, X, VCT, logKP, logMUP, logS, logM };

void take(const double* p, TriodeModel& m) {
  m.K = std::exp(p[logK]), m.MU = std::exp(p[logMU]), m.X = p[X], m.VCT = p[VCT], m.KP = std::exp(p[logKP]);
}
void take(const double* p, PentodeModel& m) {
  m.K = std::exp(p[logK]), m.MU = std::exp(p[logMU]), m.X = p[X], m.VCT = p[VCT], m.KP = std::exp(p[logKP]);
  m.MUP = std::exp(p[logMUP]), m.S = std::exp(p[logS]), m.M = std::exp(p[logM]);
}

class Misfit {
public:
  Misfit(TubeType type, const Priors& priors, bool screenKnown)
      : type_(std::move(type)), priors_(priors), screenKnown_(screenKnown) {}

  bool operator()(double const* const* parameters, double* residuals) const {
    for (const double r : terms(parameters[0])) {
      if (!std::isfinite(r)) return false;
      *residuals++ = r;
    }
    return true;
  }

  [[nodiscard]] std::vector<double> terms(const double* p) const {
    TubeType type = type_;
    if (auto* triode = std::get_if<TriodeModel>(&type.model))
      take(p, *triode);
    else
      take(p, std::get<PentodeModel>(type.model));
    std::vector<double> out;
    for (const auto& deviation : compareWithPublished(type)) {
      const auto& q = deviation.quantity;
      double sigma = q == "ip" ? 0.03 : q == "ig2" || q == "mu_g1g2" ? 0.06 : q == "rp" ? 0.08 : 0.05;
      if (q == "rp" && !type.isTriode() && !deviation.point.triodeConnected) sigma = 0.15;
      if (deviation.point.triodeConnected) sigma *= 1.5;
      if (!deviation.point.exception.empty()) sigma *= 5; // known to be doubtful: hardly heard
      out.push_back(std::log(std::max(deviation.modelled, 1e-12) / deviation.published) / sigma);
    }
    const double mu = std::exp(p[logMU]);
    const auto logTo = [](double value, const Prior& prior) { return std::log(value / prior.value) / prior.spread; };
    out.push_back((p[X] - priors_.X.value) / priors_.X.spread);
    out.push_back((p[VCT] - priors_.VCT.value) / priors_.VCT.spread);
    out.push_back(logTo(std::exp(p[logKP]) / mu, priors_.KPperMU));
    if (!type.isTriode()) {
      out.push_back(logTo(std::exp(p[logMUP]) / mu, priors_.MUPperMU));
      out.push_back(logTo(std::exp(p[logM]), priors_.M));
      if (!screenKnown_) out.push_back(logTo(std::exp(p[logS]), priors_.S));
    }
    return out;
  }

private:
  TubeType type_;
  Priors priors_;
  bool screenKnown_;
};

double roundedTo6(double value) {
  const double scale = std::pow(10, 5 - std::floor(std::log10(std::abs(value))));
  return std::round(value * scale) / scale;
}

} // namespace

tl::expected<Model, Problem> fitModel(const TubeType& given) {
  if (given.published.empty()) return tl::unexpected(Problem{given.name, "has no published points to fit to"});
  TubeType type = given;
  const bool triode = type.family == "triode";
  double mu = 20;
  bool screenKnown = false;
  for (const auto& point : type.published) {
    if (triode && point.mu) mu = *point.mu;
    if (!triode && point.screenMu) mu = *point.screenMu;
    if (!triode && !point.screenMu && point.triodeConnected && point.mu) mu = *point.mu;
    screenKnown = screenKnown || point.screenAmps.has_value();
  }
  if (triode) {
    type.model = TriodeModel{};
    setKnee(std::get<TriodeModel>(type.model));
  } else {
    type.model = PentodeModel{};
    setKnee(std::get<PentodeModel>(type.model), type.family == "beam");
  }
  const auto priors = priorsFor(type, mu);
  const Misfit misfit(type, priors, screenKnown);
  const std::size_t count = triode ? 5 : 8;
  double best = INFINITY;
  std::vector<double> found;
  // A few starts, since a far one can end in a corner.
  for (const double muGuess : {mu, 0.5 * mu, 2 * mu})
    for (const double K : {0.5, 2.0, 8.0}) {
      std::vector<double> p{std::log(K), std::log(muGuess), 1.5, priors.VCT.value,
                            std::log(priors.KPperMU.value * muGuess)};
      if (!triode)
        p.insert(p.end(),
                 {std::log(priors.MUPperMU.value * muGuess), std::log(priors.S.value), std::log(priors.M.value)});
      auto* cost = new ceres::DynamicNumericDiffCostFunction<Misfit, ceres::CENTRAL>(new Misfit(misfit));
      cost->AddParameterBlock(static_cast<int>(count));
      cost->SetNumResiduals(static_cast<int>(misfit.terms(p.data()).size()));
      ceres::Problem problem;
      problem.AddResidualBlock(cost, nullptr, p.data());
      problem.SetParameterLowerBound(p.data(), X, 1.1);
      problem.SetParameterUpperBound(p.data(), X, 2.2);
      if (!triode) problem.SetParameterUpperBound(p.data(), logS, std::log(0.45));
      ceres::Solver::Options options;
      options.linear_solver_type = ceres::DENSE_QR;
      options.max_num_iterations = 400;
      options.function_tolerance = options.gradient_tolerance = options.parameter_tolerance = 1e-12;
      options.logging_type = ceres::SILENT;
      options.num_threads = 1;
      ceres::Solver::Summary summary;
      ceres::Solve(options, &problem, &summary);
      if (summary.IsSolutionUsable() && summary.final_cost < best * (1 - 1e-6)) {
        best = summary.final_cost;
        found = p;
      }
    }
  if (found.empty()) return tl::unexpected(Problem{given.name, "the published points could not be fitted"});
  const auto rounded = [&](auto m) {
    take(found.data(), m);
    for (double* value : {&m.K, &m.MU, &m.X, &m.VCT, &m.KP})
      *value = roundedTo6(*value);
    if constexpr (std::is_same_v<decltype(m), PentodeModel>)
      for (double* value : {&m.MUP, &m.S, &m.M})
        *value = roundedTo6(*value);
    return Model(m);
  };
  return triode ? rounded(std::get<TriodeModel>(type.model)) : rounded(std::get<PentodeModel>(type.model));
}

} // namespace vinegar::tubes
