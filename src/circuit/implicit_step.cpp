#include "circuit/implicit_step.h"

#include <algorithm>
#include <cmath>

namespace vinegar::circuit {
namespace {

constexpr int mostIterations = 40;

/// Solves in place by elimination without exchange: the matrix is the identity plus a passive network times slopes that
/// are mostly positive. False when a pivot is poor; the caller then takes the slow road.
bool solveUnpivoted(Eigen::MatrixXd& m, Eigen::VectorXd& b) {
  const Eigen::Index n = b.size();
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
  return true;
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

ImplicitStep::ImplicitStep(const System& system, const Ports& ports, const std::vector<int>& storageRows,
                           const std::vector<int>& inputs, const std::vector<Node>& outputs, double alpha)
    : ports_(ports), alpha_(alpha), portCount_(ports.count()), chargeCount_(static_cast<int>(storageRows.size())),
      outputCount_(static_cast<int>(outputs.size())) {
  const int n = system.size();
  Eigen::MatrixXd matrix = Eigen::MatrixXd::Zero(n, n);
  Eigen::MatrixXd storage = Eigen::MatrixXd::Zero(n, n);
  for (const auto& t : system.conductance())
    matrix(t.row(), t.col()) += t.value();
  for (const auto& t : system.storage())
    storage(t.row(), t.col()) += t.value();
  matrix += alpha * storage;
  // A node that only a cut-off tube holds still needs a place to be.
  for (int i = 0; i + 1 < system.netlist().nodeCount(); ++i)
    matrix(i, i) += 1e-12;

  Eigen::MatrixXd right = Eigen::MatrixXd::Zero(n, chargeCount_ + static_cast<int>(inputs.size()) + portCount_ + 1);
  int column = 0;
  for (const int row : storageRows)
    right(row, column++) = alpha;
  for (const int row : inputs)
    right(row, column++) = 1;
  for (const auto& [a, b] : ports.rows()) {
    if (a >= 0) right(a, column) += 1;
    if (b >= 0) right(b, column) -= 1;
    ++column;
  }
  right.col(column) = system.dcExcitation();
  const Eigen::MatrixXd x = matrix.partialPivLu().solve(right);

  Eigen::MatrixXd rows(portCount_ + chargeCount_ + outputCount_, x.cols());
  for (int p = 0; p < portCount_; ++p) {
    const auto [a, b] = ports.rows()[static_cast<std::size_t>(p)];
    rows.row(p).setZero();
    if (a >= 0) rows.row(p) += x.row(a);
    if (b >= 0) rows.row(p) -= x.row(b);
  }
  for (int c = 0; c < chargeCount_; ++c)
    rows.row(portCount_ + c) = storage.row(storageRows[static_cast<std::size_t>(c)]) * x;
  for (int o = 0; o < outputCount_; ++o) {
    const int row = System::row(outputs[static_cast<std::size_t>(o)]);
    if (row >= 0)
      rows.row(portCount_ + chargeCount_ + o) = x.row(row);
    else
      rows.row(portCount_ + chargeCount_ + o).setZero();
  }
  byHistory_ = rows.leftCols(chargeCount_);
  byInput_ = rows.middleCols(chargeCount_, static_cast<int>(inputs.size()));
  byPorts_ = rows.middleCols(chargeCount_ + static_cast<int>(inputs.size()), portCount_);
  constant_ = rows.rightCols(1);
}

void ImplicitStep::newtonMatrix(const std::vector<std::array<double, 9>>& slopes, Eigen::MatrixXd& matrix) const {
  matrix.setIdentity(portCount_, portCount_);
  for (std::size_t d = 0; d < slopes.size(); ++d) {
    const auto& device = ports_.devices()[d];
    for (int j = 0; j < device.count; ++j)
      for (int i = 0; i < device.count; ++i)
        if (const double slope = slopes[d][static_cast<std::size_t>(3 * i + j)]; slope != 0)
          matrix.col(device.first + j) += slope * byPorts_.col(device.first + i).head(portCount_);
  }
}

bool ImplicitStep::solve(const Eigen::VectorXd& history, const Eigen::VectorXd& input, double tolerance,
                         State& state) const {
  thread_local Eigen::VectorXd base, residual, step, trial, trialAmps;
  thread_local Eigen::MatrixXd matrix;
  thread_local std::vector<std::array<double, 9>> slopes;
  base.noalias() = byHistory_ * history;
  base.noalias() += byInput_ * input;
  base += constant_;
  state.iterations = 0;
  auto& v = state.portVolts;
  auto& amps = state.portAmps;
  amps.resize(portCount_);
  trialAmps.resize(portCount_);
  const auto misfit = [&](const Eigen::VectorXd& volts, const Eigen::VectorXd& currents) {
    residual.noalias() = byPorts_.topRows(portCount_) * currents;
    residual += volts - base.head(portCount_);
    return residual.size() ? residual.lpNorm<Eigen::Infinity>() : 0.0;
  };
  bool converged = portCount_ == 0;
  if (!converged) {
    ports_.evaluate(v.data(), amps.data(), slopes);
    double norm = misfit(v, amps);
    for (; state.iterations < mostIterations && !converged; ++state.iterations) {
      newtonMatrix(slopes, matrix);
      step = residual;
      const Eigen::VectorXd before = residual;
      if (!solveUnpivoted(matrix, step)) {
        newtonMatrix(slopes, matrix);
        step = matrix.partialPivLu().solve(before);
      }
      if (!step.allFinite()) return false;
      if (step.lpNorm<Eigen::Infinity>() < tolerance) {
        // The rest is of second order: currents follow along their slopes.
        v -= step;
        for (std::size_t d = 0; d < slopes.size(); ++d) {
          const auto& device = ports_.devices()[d];
          for (int i = 0; i < device.count; ++i)
            for (int j = 0; j < device.count; ++j)
              amps[device.first + i] -= slopes[d][static_cast<std::size_t>(3 * i + j)] * step[device.first + j];
        }
        converged = true;
        break;
      }
      double scale = 1;
      double next = 0;
      for (int halving = 0; halving < 10; ++halving, scale /= 2) {
        trial = v - scale * step;
        ports_.evaluate(trial.data(), trialAmps.data(), slopes);
        next = misfit(trial, trialAmps);
        if (next < 2 * norm || next < tolerance) break;
      }
      v = trial;
      amps = trialAmps;
      norm = next;
    }
  }
  if (!converged) return false;
  base.noalias() -= byPorts_ * amps;
  state.charge = base.segment(portCount_, chargeCount_);
  state.outputs = base.tail(outputCount_);
  return true;
}

Eigen::MatrixXd ImplicitStep::chargeByHistory(const State& state) const {
  std::vector<std::array<double, 9>> slopes;
  Eigen::VectorXd amps(portCount_);
  ports_.evaluate(state.portVolts.data(), amps.data(), slopes);
  Eigen::MatrixXd matrix;
  newtonMatrix(slopes, matrix);
  // dv = (I + Z S)^-1 dv_linear; di = S dv; dq = dq_linear - byPorts di
  Eigen::MatrixXd dv = matrix.partialPivLu().solve(byHistory_.topRows(portCount_));
  Eigen::MatrixXd di = Eigen::MatrixXd::Zero(portCount_, chargeCount_);
  for (std::size_t d = 0; d < slopes.size(); ++d) {
    const auto& device = ports_.devices()[d];
    for (int i = 0; i < device.count; ++i)
      for (int j = 0; j < device.count; ++j)
        di.row(device.first + i) += slopes[d][static_cast<std::size_t>(3 * i + j)] * dv.row(device.first + j);
  }
  return byHistory_.middleRows(portCount_, chargeCount_) - byPorts_.middleRows(portCount_, chargeCount_) * di;
}

Eigen::VectorXd ImplicitStep::voltsOf(const Eigen::VectorXd& charge) const {
  const Eigen::VectorXd all = byHistory_ * charge;
  Eigen::VectorXd volts(portCount_ + outputCount_);
  volts << all.head(portCount_), all.tail(outputCount_);
  return volts;
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

Dynamics::Dynamics(const System& system, const std::map<int, Waveform>& drive, const std::vector<Node>& outputs)
    : system_(system), ports_(system_), outputs_(outputs) {
  std::vector<bool> stores(static_cast<std::size_t>(system.size()));
  for (const auto& t : system.storage())
    stores[static_cast<std::size_t>(t.row())] = true;
  for (int i = 0; i < system.size(); ++i)
    if (stores[static_cast<std::size_t>(i)]) storageRows_.push_back(i);
  Eigen::VectorXd sums = Eigen::VectorXd::Zero(system.size());
  for (const auto& t : system.storage())
    sums[t.row()] += std::abs(t.value());
  chargePerUnit_.resize(memory());
  for (int i = 0; i < memory(); ++i)
    chargePerUnit_[i] = sums[storageRows_[static_cast<std::size_t>(i)]];
  for (const auto& [index, waveform] : drive) {
    const auto& device = system.netlist().devices()[static_cast<std::size_t>(index)];
    if (std::holds_alternative<VoltageSource>(device.law)) {
      inputs_.push_back({system.branch(index), 1.0, &waveform});
    } else {
      for (const auto& [node, sign] : {std::pair{device.nodes[0], -1.0}, {device.nodes[1], 1.0}})
        if (node != 0) inputs_.push_back({System::row(node), sign, &waveform});
    }
    corners_.insert(corners_.end(), waveform.corners.begin(), waveform.corners.end());
  }
  std::sort(corners_.begin(), corners_.end());
}

ImplicitStep::State Dynamics::stateAt(const Eigen::VectorXd& x) const {
  ImplicitStep::State state;
  Eigen::VectorXd all = Eigen::VectorXd::Zero(system_.size());
  for (const auto& t : system_.storage())
    all[t.row()] += t.value() * x[t.col()];
  state.charge.resize(memory());
  for (int i = 0; i < memory(); ++i)
    state.charge[i] = all[storageRows_[static_cast<std::size_t>(i)]];
  state.portVolts = ports_.volts(x);
  state.outputs.resize(static_cast<Eigen::Index>(outputs_.size()));
  for (std::size_t o = 0; o < outputs_.size(); ++o)
    state.outputs[static_cast<Eigen::Index>(o)] = System::volts(x, outputs_[o]);
  return state;
}

void Dynamics::setLaws(const std::vector<std::pair<int, Law>>& laws) {
  system_.setLaws(laws);
  cache_.clear();
}

Eigen::VectorXd Dynamics::inputAt(double t, double from, double to) const {
  const bool atCorner = std::binary_search(corners_.begin(), corners_.end(), t);
  const double inside = std::min(std::max(t, from), to - 1e-9 * (to - from));
  Eigen::VectorXd u(static_cast<Eigen::Index>(inputs_.size()));
  for (std::size_t i = 0; i < inputs_.size(); ++i)
    u[static_cast<Eigen::Index>(i)] = inputs_[i].sign * inputs_[i].waveform->value(atCorner ? inside : t);
  return u;
}

const ImplicitStep& Dynamics::stepFor(double gammaH) {
  // Steps of a run are a sample divided by powers of two, and the odd piece up to a corner.
  const auto found = std::find_if(cache_.begin(), cache_.end(),
                                  [&](const auto& entry) { return std::abs(entry.first / gammaH - 1) < 1e-12; });
  if (found != cache_.end()) return *found->second;
  if (cache_.size() > 64) cache_.clear();
  std::vector<int> rows;
  for (const auto& input : inputs_)
    rows.push_back(input.row);
  cache_.emplace_back(gammaH,
                      std::make_unique<ImplicitStep>(system_, ports_, storageRows_, rows, outputs_, 1 / gammaH));
  return *cache_.back().second;
}

bool Dynamics::advance(const ImplicitStep::State& now, double t, double h, double tolerance,
                       std::array<ImplicitStep::State, 3>& stages) {
  using namespace sdirk3;
  const double gh = gamma * h;
  const auto& step = stepFor(gh);
  auto& [s1, s2, s3] = stages;
  s1.portVolts = now.portVolts;
  if (!step.solve(now.charge, inputAt(t + gh, t, t + h), tolerance, s1)) return false;
  const Eigen::VectorXd f1 = (s1.charge - now.charge) / gh;
  const Eigen::VectorXd h2 = now.charge + h * a21 * f1;
  s2.portVolts = s1.portVolts;
  if (!step.solve(h2, inputAt(t + c2 * h, t, t + h), tolerance, s2)) return false;
  const Eigen::VectorXd f2 = (s2.charge - h2) / gh;
  const Eigen::VectorXd h3 = now.charge + h * (b1 * f1 + b2 * f2);
  s3.portVolts = s2.portVolts;
  return step.solve(h3, inputAt(t + h, t, t + h), tolerance, s3);
}

Eigen::VectorXd Dynamics::errorOf(const ImplicitStep::State& now, double h,
                                  const std::array<ImplicitStep::State, 3>& stages) {
  using namespace sdirk3;
  const double gh = gamma * h;
  const Eigen::VectorXd f1 = (stages[0].charge - now.charge) / gh;
  const Eigen::VectorXd f2 = (stages[1].charge - now.charge - h * a21 * f1) / gh;
  return stepFor(gh).voltsOf(stages[2].charge - now.charge - h * (d1 * f1 + d2 * f2));
}

Eigen::MatrixXd Dynamics::chargeByCharge(double h, const std::array<ImplicitStep::State, 3>& stages) {
  using namespace sdirk3;
  const double gh = gamma * h;
  const auto& step = stepFor(gh);
  const auto unit = Eigen::MatrixXd::Identity(memory(), memory());
  const Eigen::MatrixXd f1 = (step.chargeByHistory(stages[0]) - unit) / gh;
  const Eigen::MatrixXd h2 = unit + h * a21 * f1;
  const Eigen::MatrixXd f2 = (step.chargeByHistory(stages[1]) * h2 - h2) / gh;
  return step.chargeByHistory(stages[2]) * (unit + h * (b1 * f1 + b2 * f2));
}

} // namespace vinegar::circuit
