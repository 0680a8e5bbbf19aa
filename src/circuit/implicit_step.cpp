#include "circuit/implicit_step.h"

#include "circuit/lanes.h"
#include "circuit/port_bank.h"
#include "tubes/width.h"

#include <Eigen/LU>
#include <algorithm>
#include <cmath>
#include <limits>

namespace vinegar::circuit {
namespace {

constexpr int mostStepIterations = 40;
using tubes::padded;
using tubes::widest;

/// y = m x, m by columns, its rows a multiple of the widest vector.
VINEGAR_WIDE void multiply(const double* m, int rows, int columns, const double* x, double* y) {
  using Wide = tubes::Lanes<widest>;
  for (int row = 0; row < rows; row += widest) {
    Wide::V even{}, odd{}, third{}, fourth{}; // so many that none waits for itself
    const double* column = m + row;
    const auto next = static_cast<std::ptrdiff_t>(rows);
    int j = 0;
    for (; j + 4 <= columns; j += 4, column += 4 * next) {
      even += Wide::load(column) * x[j];
      odd += Wide::load(column + next) * x[j + 1];
      third += Wide::load(column + 2 * next) * x[j + 2];
      fourth += Wide::load(column + 3 * next) * x[j + 3];
    }
    for (; j < columns; ++j, column += next)
      even += Wide::load(column) * x[j];
    Wide::put(y + row, (even + odd) + (third + fourth));
  }
}
/// The same with a vector that is made as long as the matrix is high.
void multiply(const Eigen::MatrixXd& m, const Eigen::VectorXd& x, Eigen::VectorXd& y) {
  y.resize(m.rows());
  multiply(m.data(), static_cast<int>(m.rows()), static_cast<int>(m.cols()), x.data(), y.data());
}
Eigen::MatrixXd heightened(const Eigen::MatrixXd& m) {
  Eigen::MatrixXd high = Eigen::MatrixXd::Zero(padded(static_cast<int>(m.rows())), m.cols());
  high.topRows(m.rows()) = m;
  return high;
}

/// Factors in place by elimination without exchange: the matrix is the identity plus a passive network times slopes
/// that are mostly positive. False when a pivot is poor; the caller then takes the slow road.
bool factorUnpivoted(Eigen::MatrixXd& m) {
  const Eigen::Index n = m.rows();
  for (Eigen::Index k = 0; k < n; ++k) {
    const double pivot = m(k, k);
    if (!(std::abs(pivot) > 1e-3)) return false;
    const double inverse = 1 / pivot;
    for (Eigen::Index i = k + 1; i < n; ++i)
      m(i, k) *= inverse;
    for (Eigen::Index j = k + 1; j < n; ++j) {
      const double f = m(k, j);
      if (f == 0) continue;
      for (Eigen::Index i = k + 1; i < n; ++i)
        m(i, j) -= m(i, k) * f;
    }
  }
  return true;
}

void solveFactored(const Eigen::MatrixXd& m, Eigen::VectorXd& b) {
  const Eigen::Index n = b.size();
  for (Eigen::Index k = 0; k < n; ++k) {
    const double f = b[k];
    for (Eigen::Index i = k + 1; i < n; ++i)
      b[i] -= m(i, k) * f;
  }
  for (Eigen::Index k = n - 1; k >= 0; --k) {
    b[k] /= m(k, k);
    const double f = b[k];
    for (Eigen::Index i = 0; i < k; ++i)
      b[i] -= m(i, k) * f;
  }
}

} // namespace

Ports::Ports(const System& system) {
  for (const int index : system.nonlinearDevices()) {
    const auto& device = system.netlist().devices()[static_cast<std::size_t>(index)];
    const int pins = static_cast<int>(device.nodes.size()) - 1;
    devices_.push_back({&device.law, count_, pins});
    for (int p = 0; p < pins; ++p)
      rows_.emplace_back(System::row(device.nodes[static_cast<std::size_t>(p)]), System::row(device.nodes.back()));
    count_ += pins;
  }
}

Eigen::VectorXd Ports::volts(const Eigen::VectorXd& x) const {
  Eigen::VectorXd v(count_);
  for (int p = 0; p < count_; ++p) {
    const auto [a, b] = rows_[static_cast<std::size_t>(p)];
    v[p] = (a >= 0 ? x[a] : 0) - (b >= 0 ? x[b] : 0);
  }
  return v;
}

void Ports::evaluate(const double* volts, double* currents, std::vector<std::array<double, 9>>& slopes) const {
  slopes.resize(devices_.size());
  for (std::size_t d = 0; d < devices_.size(); ++d) {
    const auto& device = devices_[d];
    std::array<double, 4> pinVolts{};
    for (int p = 0; p < device.count; ++p)
      pinVolts[static_cast<std::size_t>(p)] = volts[device.first + p];
    const Pins pins = pinsOf(*device.law, pinVolts);
    for (int i = 0; i < device.count; ++i) {
      currents[device.first + i] = pins.current[static_cast<std::size_t>(i)];
      for (int j = 0; j < device.count; ++j)
        slopes[d][static_cast<std::size_t>(3 * i + j)] =
            pins.slopes[static_cast<std::size_t>(i)][static_cast<std::size_t>(j)];
    }
  }
}

void Ports::limit(const double* from, double* to) const {
  for (const auto& device : devices_) {
    const auto* diode = std::get_if<circuit::Diode>(device.law);
    if (!diode && std::holds_alternative<Zener>(*device.law)) diode = &zenerForward;
    if (!diode) continue;
    const double scale = diode->emission * thermalVolts;
    const double critical = scale * std::log(scale / (1.4142 * diode->saturationAmps));
    const double old = from[device.first];
    double& now = to[device.first];
    if (now <= critical || std::abs(now - old) <= 2 * scale) continue;
    if (old > 0) {
      const double grown = 1 + (now - old) / scale;
      now = grown > 0 ? old + scale * std::log(grown) : critical;
    } else {
      now = scale * std::log(now / scale);
    }
  }
}

ImplicitStep::ImplicitStep(const System& system, const Ports& ports, double alpha)
    : system_(system), ports_(ports), alpha_(alpha), conductance_(system.size(), system.size()),
      storage_(system.size(), system.size()) {
  const int n = system.size();
  conductance_.setFromTriplets(system.conductance().begin(), system.conductance().end());
  storage_.setFromTriplets(system.storage().begin(), system.storage().end());
  Eigen::MatrixXd matrix = Eigen::MatrixXd(conductance_) + alpha * Eigen::MatrixXd(storage_);
  // A node that only a cut-off tube holds still needs a place to be.
  for (int i = 0; i + 1 < system.netlist().nodeCount(); ++i)
    matrix(i, i) += 1e-12;
  inverse_ = matrix.partialPivLu().inverse();
  byPorts_.setZero(n, ports.count());
  for (int p = 0; p < ports.count(); ++p) {
    const auto [a, b] = ports.rows()[static_cast<std::size_t>(p)];
    if (a >= 0) byPorts_.col(p) += inverse_.col(a);
    if (b >= 0) byPorts_.col(p) -= inverse_.col(b);
  }
  impedance_.resize(ports.count(), ports.count());
  for (int p = 0; p < ports.count(); ++p)
    impedance_.col(p) = ports.volts(byPorts_.col(p));
  bank_ = std::make_shared<const PortBank>(ports, tubes::usualWidth());
  highInverse_ = heightened(inverse_);
  highByPorts_ = heightened(byPorts_);
  highImpedance_ = heightened(impedance_);
}

void ImplicitStep::newtonMatrix(const std::vector<std::array<double, 9>>& slopes, Eigen::MatrixXd& matrix) const {
  matrix.setIdentity(ports_.count(), ports_.count());
  for (std::size_t d = 0; d < slopes.size(); ++d) {
    const auto& device = ports_.devices()[d];
    for (int j = 0; j < device.count; ++j)
      for (int i = 0; i < device.count; ++i)
        if (const double slope = slopes[d][static_cast<std::size_t>(3 * i + j)]; slope != 0)
          matrix.col(device.first + j) += slope * impedance_.col(device.first + i);
  }
}

bool ImplicitStep::solve(const Eigen::VectorXd& start, const Eigen::VectorXd& ahead,
                         const std::vector<std::pair<int, double>>& input, double tolerance, State& state,
                         Kept& kept) const {
  thread_local Eigen::VectorXd right, wide, increment, base, residual, step, trial, trialAmps;
  thread_local std::vector<std::array<double, 9>> slopes;
  if (kept.of != this) {
    kept.holds = false;
    kept.of = this;
    kept.scratch = bank_->scratch();
  }
  slopes.resize(ports_.devices().size());
  const auto evaluate = [&](const Eigen::VectorXd& volts, Eigen::VectorXd& currents) {
    bank_->evaluate(volts.data(), currents.data(), slopes.front().data(), kept.scratch);
  };
  right = system_.dcExcitation();
  right.noalias() -= conductance_ * start;
  for (const auto& [row, value] : input)
    right[row] += value;
  if (ahead.size()) right += alpha_ * ahead;
  multiply(highInverse_, right, wide);
  increment = wide.head(right.size());
  base = ports_.volts(start) + ports_.volts(increment);

  const int ports = ports_.count();
  state.iterations = 0;
  auto& v = state.portVolts;
  auto& amps = state.portAmps;
  const bool known = amps.size() == ports;
  amps.resize(ports);
  trialAmps.resize(ports);
  const auto misfit = [&](const Eigen::VectorXd& volts, const Eigen::VectorXd& currents) {
    multiply(highImpedance_, currents, wide);
    residual = wide.head(ports) + volts - base;
    return residual.lpNorm<Eigen::Infinity>();
  };
  // Factors of an earlier step of this length serve as long as they bring the misfit down fast.
  bool converged = ports == 0;
  if (!converged) {
    bool sloped = false; // the slopes are those at v
    if (!known || !kept.holds) {
      evaluate(v, amps);
      sloped = true;
    }
    double norm = misfit(v, amps);
    const auto tryAt = [&](double scale) {
      trial = v - scale * step;
      ports_.limit(v.data(), trial.data());
      evaluate(trial, trialAmps);
      return misfit(trial, trialAmps);
    };
    const auto take = [&](double next) {
      v.swap(trial);
      amps.swap(trialAmps);
      norm = next;
      sloped = true;
    };
    const auto last = [&] { // what is left is of second order: currents follow along their slopes
      v -= step;
      for (std::size_t d = 0; d < slopes.size(); ++d) {
        const auto& device = ports_.devices()[d];
        for (int i = 0; i < device.count; ++i)
          for (int j = 0; j < device.count; ++j)
            amps[device.first + i] -= slopes[d][static_cast<std::size_t>(3 * i + j)] * step[device.first + j];
      }
      converged = true;
    };
    for (; state.iterations < mostStepIterations; ++state.iterations) {
      if (kept.holds) {
        constexpr double fast = 0.1;
        step = residual;
        solveFactored(kept.factors, step);
        const double size = step.lpNorm<Eigen::Infinity>();
        if (sloped && size < tolerance) {
          last();
          break;
        }
        const double next = std::isfinite(size) ? tryAt(1) : HUGE_VAL;
        if (next < norm || next < tolerance) {
          // Slopes of another step are good for one move, those of this one as long as they bring it down fast.
          kept.holds = !kept.isOfBefore && next < fast * norm;
          take(next);
          if (kept.holds) continue;
        } else {
          kept.holds = false;
          evaluate(v, amps);
          sloped = true;
          norm = misfit(v, amps);
        }
      }
      newtonMatrix(slopes, kept.factors);
      kept.isOfBefore = false;
      kept.holds = factorUnpivoted(kept.factors);
      step = residual;
      if (kept.holds) {
        solveFactored(kept.factors, step);
      } else {
        newtonMatrix(slopes, kept.factors);
        step = kept.factors.partialPivLu().solve(residual);
      }
      if (!step.allFinite()) {
        kept.holds = false;
        return false;
      }
      if (step.lpNorm<Eigen::Infinity>() < tolerance) {
        last();
        break;
      }
      double scale = 1, next = 0;
      for (int halving = 0; halving < 10; ++halving, scale /= 2) {
        next = tryAt(scale);
        if (next < norm || next < tolerance) break;
      }
      take(next);
    }
  }
  if (!converged) {
    kept.holds = false;
    return false;
  }
  multiply(highByPorts_, amps, wide);
  increment -= wide.head(increment.size());
  state.charge.noalias() = storage_ * increment;
  state.x = start + increment;
  return true;
}

Eigen::MatrixXd ImplicitStep::byCharge(const State& state) const {
  std::vector<std::array<double, 9>> slopes;
  Eigen::VectorXd amps(ports_.count());
  ports_.evaluate(state.portVolts.data(), amps.data(), slopes);
  Eigen::MatrixXd matrix;
  newtonMatrix(slopes, matrix);
  // dv = (I + Z S)^-1 dv_linear, di = S dv, dx = dx_linear - byPorts di
  Eigen::MatrixXd linear(ports_.count(), inverse_.cols());
  for (int p = 0; p < ports_.count(); ++p) {
    const auto [a, b] = ports_.rows()[static_cast<std::size_t>(p)];
    linear.row(p).setZero();
    if (a >= 0) linear.row(p) += inverse_.row(a);
    if (b >= 0) linear.row(p) -= inverse_.row(b);
  }
  const Eigen::MatrixXd dv = matrix.partialPivLu().solve(linear);
  Eigen::MatrixXd di = Eigen::MatrixXd::Zero(ports_.count(), inverse_.cols());
  for (std::size_t d = 0; d < slopes.size(); ++d) {
    const auto& device = ports_.devices()[d];
    for (int i = 0; i < device.count; ++i)
      for (int j = 0; j < device.count; ++j)
        di.row(device.first + i) += slopes[d][static_cast<std::size_t>(3 * i + j)] * dv.row(device.first + j);
  }
  return alpha_ * (inverse_ - byPorts_ * di);
}

namespace {

/// Alexander's third-order method: weights of the stages.
namespace sdirk3 {
constexpr double gamma = 0.43586652150845899942;
constexpr double c2 = (1 + gamma) / 2;
constexpr double a21 = (1 - gamma) / 2;
constexpr double b1 = -(6 * gamma * gamma - 16 * gamma + 1) / 4;
constexpr double b2 = (6 * gamma * gamma - 20 * gamma + 5) / 4;
// Second order from the first two stages, for the error estimate.
constexpr double d2 = (0.5 - gamma) / (c2 - gamma);
constexpr double d1 = 1 - d2;
} // namespace sdirk3

} // namespace

bool holdsTime(const std::vector<double>& times, double t, double resolution) {
  const auto next = std::lower_bound(times.begin(), times.end(), t - resolution);
  return next != times.end() && *next <= t + resolution;
}

Dynamics::Dynamics(const System& system, const std::map<int, Waveform>& drive, double resolution)
    : system_(system), ports_(system_), pasts_(system.delayed().size()), storage_(system.size(), system.size()),
      remembers_(static_cast<std::size_t>(system.size())), resolution_(resolution) {
  for (const auto& t : system.storage())
    if (t.value() != 0) remembers_[static_cast<std::size_t>(t.col())] = true;
  for (const auto& [index, waveform] : drive) {
    driven_.push_back(&waveform);
    const auto& device = system.netlist().devices()[static_cast<std::size_t>(index)];
    if (std::holds_alternative<VoltageSource>(device.law)) {
      inputs_.push_back({system.branch(index), 1.0, driven_.size() - 1});
    } else {
      for (const auto& [node, sign] : {std::pair{device.nodes[0], -1.0}, {device.nodes[1], 1.0}})
        if (node != 0) inputs_.push_back({System::row(node), sign, driven_.size() - 1});
    }
    corners_.insert(corners_.end(), waveform.corners.begin(), waveform.corners.end());
  }
  std::sort(corners_.begin(), corners_.end());
  storage_.setFromTriplets(system_.storage().begin(), system_.storage().end());
}

ImplicitStep::State Dynamics::stateAt(const Eigen::VectorXd& x) const { return {x, {}, ports_.volts(x), {}, 0}; }

void Dynamics::setLaws(const std::vector<std::pair<int, Law>>& laws) {
  system_.setLaws(laws);
  storage_.setFromTriplets(system_.storage().begin(), system_.storage().end());
  cache_.clear();
  kept_ = {};
}

double Dynamics::seenFrom(double t, double from, double to) const {
  // A corner may be off by a digit from the time it is meant for: look from well inside.
  if (!holdsTime(corners_, t, resolution_)) return t;
  const double margin = std::min(2 * resolution_, (to - from) / 4);
  return std::clamp(t, from + margin, to - margin);
}

std::vector<double> Dynamics::drivenAt(double t, double from, double to) const {
  const double seen = seenFrom(t, from, to);
  std::vector<double> values;
  for (const auto* waveform : driven_)
    values.push_back(waveform->value(seen));
  return values;
}

std::vector<std::pair<int, double>> Dynamics::inputAt(double t, double from, double to) const {
  const double seen = seenFrom(t, from, to);
  std::vector<std::pair<int, double>> u;
  u.reserve(inputs_.size());
  for (const auto& input : inputs_)
    u.emplace_back(input.row, input.sign * driven_[input.driven]->value(seen));
  for (std::size_t i = 0; i < pasts_.size(); ++i) {
    const auto& entry = system_.delayed()[i];
    u.emplace_back(entry.row, -entry.gain * pasts_[i].at(t - entry.seconds));
  }
  return u;
}

/// The cubic through the two points on either side.
double Dynamics::Past::at(double t) const {
  const auto after = std::lower_bound(points.begin(), points.end(), t,
                                      [](const auto& point, double time) { return point.first < time; });
  if (after == points.begin()) return points.front().second;
  if (after == points.end()) return points.back().second;
  const auto count = static_cast<std::ptrdiff_t>(points.size());
  const auto first = std::clamp<std::ptrdiff_t>(after - points.begin() - 2, 0, std::max<std::ptrdiff_t>(count - 4, 0));
  const auto last = std::min(first + 4, count);
  double sum = 0;
  for (auto i = first; i < last; ++i) {
    double weight = 1;
    for (auto j = first; j < last; ++j)
      if (j != i) weight *= (t - points[j].first) / (points[i].first - points[j].first);
    sum += weight * points[i].second;
  }
  return sum;
}

void Dynamics::remember(double t, const Eigen::VectorXd& x) {
  for (std::size_t i = 0; i < pasts_.size(); ++i) {
    auto& points = pasts_[i].points;
    points.emplace_back(t, x[system_.delayed()[i].column]);
    const double oldest = t - 2 * system_.delayed()[i].seconds;
    while (points.size() > 4 && points[3].first < oldest)
      points.pop_front();
  }
}

double Dynamics::shortestDelay() const {
  double shortest = std::numeric_limits<double>::infinity();
  for (const auto& entry : system_.delayed())
    shortest = std::min(shortest, entry.seconds);
  return shortest;
}

const ImplicitStep& Dynamics::stepFor(double gammaH) {
  // Steps of a run are a sample divided by powers of two, and the odd piece up to a corner.
  const auto found = std::find_if(cache_.begin(), cache_.end(),
                                  [&](const auto& entry) { return std::abs(entry.first / gammaH - 1) < 1e-12; });
  if (found != cache_.end()) return *found->second;
  if (cache_.size() > 64) {
    cache_.clear();
    kept_ = {}; // its step is no more
  }
  cache_.emplace_back(gammaH, std::make_unique<ImplicitStep>(system_, ports_, 1 / gammaH));
  return *cache_.back().second;
}

bool Dynamics::advance(const ImplicitStep::State& now, double t, double h, double tolerance,
                       std::array<ImplicitStep::State, 3>& stages) {
  using namespace sdirk3;
  const double gh = gamma * h;
  const auto& step = stepFor(gh);
  auto& [s1, s2, s3] = stages;
  kept_.isOfBefore = true;
  // In terms of charges gained since `now`: q_i = h sum(a_ij F_j), F_j = (q_j - what came before) / (gamma h).
  s1.portVolts = now.portVolts;
  s1.portAmps = now.portAmps;
  if (!step.solve(now.x, {}, inputAt(t + gh, t, t + h), tolerance, s1, kept_)) return false;
  const Eigen::VectorXd f1 = s1.charge / gh;
  const Eigen::VectorXd ahead2 = h * a21 * f1;
  s2.portVolts = s1.portVolts;
  s2.portAmps = s1.portAmps;
  if (!step.solve(now.x, ahead2, inputAt(t + c2 * h, t, t + h), tolerance, s2, kept_)) return false;
  const Eigen::VectorXd f2 = (s2.charge - ahead2) / gh;
  s3.portVolts = s2.portVolts;
  s3.portAmps = s2.portAmps;
  return step.solve(now.x, h * (b1 * f1 + b2 * f2), inputAt(t + h, t, t + h), tolerance, s3, kept_);
}

Eigen::VectorXd Dynamics::errorOf(double h, const std::array<ImplicitStep::State, 3>& stages) {
  using namespace sdirk3;
  const double gh = gamma * h;
  const Eigen::VectorXd f1 = stages[0].charge / gh;
  const Eigen::VectorXd f2 = (stages[1].charge - h * a21 * f1) / gh;
  return stepFor(gh).filtered(stages[2].charge - h * (d1 * f1 + d2 * f2));
}

Eigen::MatrixXd Dynamics::xByX(double h, const std::array<ImplicitStep::State, 3>& stages) {
  using namespace sdirk3;
  const double gh = gamma * h;
  const auto& step = stepFor(gh);
  // Only the charge of the old x matters: each stage's x by the charge it starts from.
  const Eigen::MatrixXd storage(storage_);
  const Eigen::MatrixXd x1 = step.byCharge(stages[0]) * storage;
  const Eigen::MatrixXd f1 = (storage * x1 - storage) / gh;
  const Eigen::MatrixXd h2 = storage + h * a21 * f1;
  const Eigen::MatrixXd f2 = (storage * (step.byCharge(stages[1]) * h2) - h2) / gh;
  return step.byCharge(stages[2]) * (storage + h * (b1 * f1 + b2 * f2));
}

} // namespace vinegar::circuit
