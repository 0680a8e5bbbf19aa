#include "circuit/reduced.h"

#include <Eigen/Dense>
#include <algorithm>
#include <array>
#include <cmath>
#include <limits>

namespace vinegar::circuit {
namespace {

const double gamma = 1 - std::sqrt(0.5);
constexpr double newtonVolts = 1e-7;
constexpr double mostRounding = 1e-4; ///< V; what rounds more coarsely has no answer worth the name
constexpr double leastSlope = 1e-13;  ///< S; less conducts nothing
constexpr int mostIterations = 150, patience = 30, settled = 12;

/// C as a sum of products, one for each thing that remembers: a capacitor by its volts, an inductor by its current, a
/// transformer by as many mixtures of its currents as its matrix has directions.
void factorStorage(const System& system, Eigen::MatrixXd& charge, Eigen::MatrixXd& memory) {
  std::vector<Eigen::VectorXd> left, right;
  const auto add = [&](Eigen::VectorXd l, Eigen::VectorXd r) {
    left.push_back(std::move(l));
    right.push_back(std::move(r));
  };
  const auto& devices = system.netlist().devices();
  for (std::size_t i = 0; i < devices.size(); ++i) {
    const auto& law = devices[i].law;
    const int branch = system.branch(static_cast<int>(i));
    Eigen::VectorXd unit = Eigen::VectorXd::Zero(system.size());
    if (const auto* capacitor = std::get_if<Capacitor>(&law)) {
      for (const auto& [node, sign] : {std::pair{devices[i].nodes[0], 1.0}, {devices[i].nodes[1], -1.0}})
        if (node != 0) unit[System::row(node)] += sign;
      add(capacitor->farads * unit, unit);
    } else if (const auto* inductor = std::get_if<Inductor>(&law)) {
      unit[branch] = 1;
      add(-inductor->henries * unit, unit);
    } else if (const auto* transformer = std::get_if<Transformer>(&law)) {
      const Eigen::SelfAdjointEigenSolver<Eigen::MatrixXd> parts(transformer->henries);
      const double largest = parts.eigenvalues().maxCoeff();
      for (Eigen::Index k = 0; k < parts.eigenvalues().size(); ++k) {
        if (parts.eigenvalues()[k] < 1e-12 * largest) continue;
        unit.setZero();
        unit.segment(branch, parts.eigenvectors().rows()) = parts.eigenvectors().col(k);
        add(-parts.eigenvalues()[k] * unit, unit);
      }
    }
  }
  charge.resize(system.size(), static_cast<Eigen::Index>(left.size()));
  memory.resize(system.size(), static_cast<Eigen::Index>(left.size()));
  for (std::size_t k = 0; k < left.size(); ++k) {
    charge.col(static_cast<Eigen::Index>(k)) = left[k];
    memory.col(static_cast<Eigen::Index>(k)) = right[k];
  }
}

} // namespace

Reduced::Reduced(const System& system, const std::vector<Driven>& driven, double stepSeconds)
    : system_(system), ports_(system_), driven_(driven), h_(stepSeconds),
      emission_(system.nonlinearDevices().size(), 1.0) {
  prepare();
}

void Reduced::setLaws(const std::vector<std::pair<int, Law>>& laws) {
  system_.setLaws(laws);
  prepare();
}

void Reduced::prepare() {
  factorStorage(system_, charge_, memory_);
  const int n = system_.size();
  const double alpha = 1 / (gamma * h_);
  Eigen::MatrixXd matrix = Eigen::MatrixXd::Zero(n, n);
  for (const auto& t : system_.conductance())
    matrix(t.row(), t.col()) += t.value();
  for (const auto& t : system_.storage())
    matrix(t.row(), t.col()) += alpha * t.value();
  for (int i = 0; i + 1 < system_.netlist().nodeCount(); ++i)
    matrix(i, i) += 1e-12;
  const Eigen::PartialPivLU<Eigen::MatrixXd> lu(matrix);
  Eigen::VectorXd pattern = Eigen::VectorXd::Zero(n);
  for (const auto& [device, share] : driven_) {
    const auto& source = system_.netlist().devices()[static_cast<std::size_t>(device)];
    if (std::holds_alternative<VoltageSource>(source.law)) {
      pattern[system_.branch(device)] += share;
    } else {
      for (const auto& [node, sign] : {std::pair{source.nodes[0], -1.0}, {source.nodes[1], 1.0}})
        if (node != 0) pattern[System::row(node)] += sign * share;
    }
  }
  Eigen::MatrixXd ports = Eigen::MatrixXd::Zero(n, ports_.count());
  for (int p = 0; p < ports_.count(); ++p) {
    const auto [a, b] = ports_.rows()[static_cast<std::size_t>(p)];
    if (a >= 0) ports(a, p) += 1;
    if (b >= 0) ports(b, p) -= 1;
  }
  slopes_.resize(ports_.devices().size());
  fewDiodes_ = ports_.count() <= mostDiodes && std::all_of(ports_.devices().begin(), ports_.devices().end(),
                                                           [](const auto& d) { return isTwoPin(*d.law); });
  constant_ = lu.solve(system_.dcExcitation());
  byDrive_ = lu.solve(pattern);
  byMemory_ = lu.solve(alpha * charge_);
  byAmps_ = lu.solve(ports);
  memoryConstant_ = memory_.transpose() * constant_;
  memoryByDrive_ = memory_.transpose() * byDrive_;
  memoryByMemory_ = memory_.transpose() * byMemory_;
  memoryByAmps_ = memory_.transpose() * byAmps_;
  portConstant_ = ports.transpose() * constant_;
  portByDrive_ = ports.transpose() * byDrive_;
  portByMemory_ = ports.transpose() * byMemory_;
  portByAmps_ = ports.transpose() * byAmps_;
}

Reduced::State Reduced::rest() const {
  return {Eigen::VectorXd::Zero(memories()), Eigen::VectorXd::Zero(ports_.count())};
}

Reduced::State Reduced::at(const Eigen::VectorXd& x) const { return {memory_.transpose() * x, ports_.volts(x)}; }

void Reduced::evaluate(const Eigen::VectorXd& volts) {
  ports_.evaluate(volts.data(), amps_.data(), slopes_);
  for (std::size_t d = 0; d < emission_.size(); ++d) {
    if (emission_[d] == 1) continue;
    const auto& device = ports_.devices()[d];
    amps_.segment(device.first, device.count) *= emission_[d];
    for (auto& slope : slopes_[d])
      slope *= emission_[d];
  }
}

/// How far rounding alone moves the ports: behind insulation the currents of one loop are volts in another.
double Reduced::roundingVolts() const {
  const Eigen::VectorXd terms = base_.cwiseAbs() + portByAmps_.cwiseAbs() * amps_.cwiseAbs();
  return std::min(8 * std::numeric_limits<double>::epsilon() * terms.lpNorm<Eigen::Infinity>(), mostRounding);
}

/// Newton's method on few diodes with plain loops: no matrices of unknown size, nothing eliminated where nothing
/// conducts, and no pivoting, for a passive network behind diodes has its large numbers on the diagonal. Where it does
/// not end soon the general way takes over from the same start.
bool Reduced::solveDiodes(Eigen::VectorXd& volts) {
  constexpr int mostQuick = 24;
  const int count = ports_.count();
  std::array<double, mostDiodes> v{}, amps{}, slope{}, misfit{}, next{};
  for (int i = 0; i < count; ++i)
    v[static_cast<std::size_t>(i)] = volts[i];
  const auto n = static_cast<std::size_t>(count);
  const auto byAmps = [this](std::size_t i, std::size_t j) {
    return portByAmps_.data()[j * static_cast<std::size_t>(portByAmps_.rows()) + i];
  };
  for (int iteration = 0; iteration < mostQuick; ++iteration) {
    bool conducts = false;
    for (std::size_t i = 0; i < n; ++i) {
      const auto two = twoPin(*ports_.devices()[i].law, v[i]);
      amps[i] = two.current * emission_[i];
      slope[i] = two.slope * emission_[i];
      conducts = conducts || slope[i] > leastSlope;
    }
    for (std::size_t i = 0; i < n; ++i) {
      misfit[i] = v[i] - base_[static_cast<Eigen::Index>(i)];
      for (std::size_t j = 0; j < n; ++j)
        misfit[i] += byAmps(i, j) * amps[j];
    }
    if (conducts) {
      std::array<std::array<double, mostDiodes>, mostDiodes> a{};
      for (std::size_t i = 0; i < n; ++i)
        for (std::size_t j = 0; j < n; ++j)
          a[i][j] = (i == j ? 1.0 : 0.0) + byAmps(i, j) * slope[j];
      for (std::size_t k = 0; k < n; ++k)
        for (std::size_t i = k + 1; i < n; ++i) {
          const double factor = a[i][k] / a[k][k];
          for (std::size_t j = k + 1; j < n; ++j)
            a[i][j] -= factor * a[k][j];
          misfit[i] -= factor * misfit[k];
        }
      for (std::size_t k = n; k-- > 0;) {
        for (std::size_t j = k + 1; j < n; ++j)
          misfit[k] -= a[k][j] * misfit[j];
        misfit[k] /= a[k][k];
      }
    }
    double full = 0;
    for (std::size_t i = 0; i < n; ++i) {
      next[i] = v[i] - misfit[i];
      full = std::max(full, std::abs(misfit[i]));
      if (!std::isfinite(next[i])) return false;
    }
    if (full < newtonVolts) {
      for (std::size_t i = 0; i < n; ++i) { // what is left is of second order
        amps_[static_cast<Eigen::Index>(i)] = amps[i] + slope[i] * (next[i] - v[i]);
        slopes_[i][0] = slope[i];
        volts[static_cast<Eigen::Index>(i)] = next[i];
      }
      return true;
    }
    ports_.limit(v.data(), next.data());
    v = next;
  }
  return false;
}

bool Reduced::stage(const Eigen::VectorXd& before, double drive, Eigen::VectorXd& volts, Eigen::VectorXd& z) {
  const int count = ports_.count();
  base_ = portConstant_;
  base_ += drive * portByDrive_;
  base_.noalias() += portByMemory_ * before;
  amps_.resize(count);
  bool found = count == 0 || (fewDiodes_ && solveDiodes(volts));
  for (int iteration = 0; !found && iteration < mostIterations; ++iteration) {
    evaluate(volts);
    misfit_ = volts - base_;
    misfit_.noalias() += portByAmps_ * amps_;
    // Where nothing conducts the ports are where the linear part puts them.
    if (fillNewton()) {
      lu_.compute(newton_);
      trial_ = lu_.solve(misfit_);
      trial_ = volts - trial_;
    } else {
      trial_ = volts - misfit_;
    }
    if (!trial_.allFinite()) return false;
    const double full = (trial_ - volts).lpNorm<Eigen::Infinity>();
    if (full < newtonVolts || (iteration > settled && full < roundingVolts())) {
      // What is left is of second order: currents follow along their slopes.
      for (std::size_t d = 0; d < slopes_.size(); ++d) {
        const auto& device = ports_.devices()[d];
        for (int i = 0; i < device.count; ++i)
          for (int j = 0; j < device.count; ++j)
            amps_[device.first + i] +=
                slopes_[d][static_cast<std::size_t>(3 * i + j)] * (trial_[device.first + j] - volts[device.first + j]);
      }
      found = true;
    } else {
      ports_.limit(volts.data(), trial_.data());
      // Late, where full moves chase each other around a bend, half of one ends between them.
      if (iteration > patience) trial_ = 0.5 * (trial_ + volts);
    }
    volts.swap(trial_);
  }
  if (!found) return false;
  z = memoryConstant_;
  z += drive * memoryByDrive_;
  z.noalias() += memoryByMemory_ * before;
  z.noalias() -= memoryByAmps_ * amps_;
  before_ = before;
  drive_ = drive;
  return true;
}

/// The identity plus what the ports' slopes make of each other; false when that is nothing.
bool Reduced::fillNewton() {
  newton_.setIdentity(ports_.count(), ports_.count());
  bool conducts = false;
  for (std::size_t d = 0; d < slopes_.size(); ++d) {
    const auto& device = ports_.devices()[d];
    for (int i = 0; i < device.count; ++i)
      for (int j = 0; j < device.count; ++j)
        if (const double slope = slopes_[d][static_cast<std::size_t>(3 * i + j)]; std::abs(slope) > leastSlope) {
          newton_.col(device.first + j) += slope * portByAmps_.col(device.first + i);
          conducts = true;
        }
  }
  return conducts;
}

/// `byBefore` holds d(what the stage started from); leaves d(memory after it).
void Reduced::carry(Eigen::MatrixXd& byBefore) {
  auto &volts = carriedVolts_, &amps = carriedAmps_;
  if (!fillNewton()) {
    volts.noalias() = memoryByMemory_ * byBefore;
    byBefore.swap(volts);
    return;
  }
  lu_.compute(newton_);
  volts.noalias() = portByMemory_ * byBefore;
  volts = lu_.solve(volts).eval();
  amps.setZero(volts.rows(), volts.cols());
  for (std::size_t d = 0; d < slopes_.size(); ++d) {
    const auto& device = ports_.devices()[d];
    for (int i = 0; i < device.count; ++i)
      for (int j = 0; j < device.count; ++j)
        amps.row(device.first + i) += slopes_[d][static_cast<std::size_t>(3 * i + j)] * volts.row(device.first + j);
  }
  volts.noalias() = memoryByMemory_ * byBefore;
  volts.noalias() -= memoryByAmps_ * amps;
  byBefore.swap(volts);
}

bool Reduced::step(State& state, double t, const std::function<double(double)>& drive, Eigen::MatrixXd* byStart,
                   Mean* mean) {
  const double ahead = (1 - gamma) / gamma;
  const auto count = [&](double weight) {
    if (!mean) return;
    if (mean->memory.size() == 0) {
      mean->memory.setZero(memories());
      mean->amps.setZero(ports_.count());
    }
    mean->memory += weight * before_;
    mean->amps += weight * amps_;
    mean->drive += weight * drive_;
    mean->weight += weight;
  };
  if (!stage(state.z, drive(t + gamma * h_), state.volts, z1_)) return false;
  count(1 - gamma);
  if (byStart) {
    byFirst_ = *byStart;
    carry(byFirst_);
  }
  w2_ = state.z + ahead * (z1_ - state.z);
  if (!stage(w2_, drive(t + h_), state.volts, z2_)) return false;
  count(gamma);
  if (byStart) {
    *byStart += ahead * (byFirst_ - *byStart);
    carry(*byStart);
  }
  state.z.swap(z2_);
  return true;
}

Eigen::VectorXd Reduced::x() const { return constant_ + drive_ * byDrive_ + byMemory_ * before_ - byAmps_ * amps_; }

double Reduced::x(int row) const {
  return constant_[row] + drive_ * byDrive_[row] + byMemory_.row(row).dot(before_) - byAmps_.row(row).dot(amps_);
}

void Reduced::Trace::resize(Eigen::Index memories, Eigen::Index ports, Eigen::Index steps) {
  memory.resize(memories, steps);
  amps.resize(ports, steps);
  drive.resize(steps);
}

void Reduced::note(Trace& trace, Eigen::Index step) const {
  trace.memory.col(step) = before_;
  trace.amps.col(step) = amps_;
  trace.drive[step] = drive_;
}

Eigen::MatrixXd Reduced::x(const Trace& trace) const {
  Eigen::MatrixXd all = constant_.replicate(1, trace.drive.size());
  all.noalias() += byDrive_ * trace.drive.transpose();
  all.noalias() += byMemory_ * trace.memory;
  all.noalias() -= byAmps_ * trace.amps;
  return all;
}

Eigen::VectorXd Reduced::x(const Mean& mean) const {
  return constant_ + (mean.drive * byDrive_ + byMemory_ * mean.memory - byAmps_ * mean.amps) / mean.weight;
}

namespace {

constexpr double rest = 1e-5;
constexpr int firstPeriods = 6, mostPeriods = 160;

} // namespace

tl::expected<Cycle, Problem> steadyCycle(Reduced& circuit, const std::function<double(double)>& drive, double period,
                                         int steps, const Cycle* like) {
  const Problem none{"the supply",
                     "no state was found that repeats with the mains; look for a part value far from what "
                     "its place wants"};
  Cycle cycle;
  cycle.period = period;
  const auto n = static_cast<Eigen::Index>(steps);
  const double h = circuit.stepSeconds();
  const bool warm = like && like->start.z.size() == circuit.memories();
  Reduced::State start = warm ? like->start : circuit.rest();
  Reduced::Trace trace;
  const auto shoot = [&](Reduced::State& state, Eigen::MatrixXd* byStart, bool keep) {
    ++cycle.periods;
    Reduced::Mean mean;
    if (byStart) byStart->setIdentity(circuit.memories(), circuit.memories());
    if (keep) trace.resize(circuit.memories(), circuit.ports().count(), n);
    for (Eigen::Index k = 0; k < n; ++k) {
      if (!circuit.step(state, static_cast<double>(k) * h, drive, byStart, keep ? &mean : nullptr)) return false;
      if (!keep) continue;
      circuit.note(trace, k);
    }
    if (keep) {
      cycle.meanX = circuit.x(mean);
      cycle.meanAmps = circuit.ampsOf(mean);
    }
    return true;
  };
  if (!warm)
    for (int k = 0; k < firstPeriods; ++k)
      if (!shoot(start, nullptr, false)) return tl::unexpected(none);
  if (warm) cycle.byStart = like->byStart;
  Reduced::State end = start;
  const auto shootFrom = [&](const Reduced::State& from, bool fresh) {
    end = from;
    return shoot(end, fresh ? &cycle.byStart : nullptr, true);
  };
  const auto count = circuit.memories();
  if (!shootFrom(start, cycle.byStart.rows() != count)) return tl::unexpected(none);
  while (cycle.periods < mostPeriods) {
    const Eigen::PartialPivLU<Eigen::MatrixXd> lu(Eigen::MatrixXd::Identity(count, count) - cycle.byStart);
    const auto correction = [&](const Reduced::State& from) { return Eigen::VectorXd(lu.solve(end.z - from.z)); };
    // What is left to go, not what a period moves: a slow memory moves little however far off it is.
    const Eigen::VectorXd jump = correction(start);
    const double far = count ? jump.lpNorm<Eigen::Infinity>() : 0;
    if (far < rest) {
      cycle.start = start;
      cycle.x = circuit.x(trace);
      return cycle;
    }
    if (!std::isfinite(far)) break;
    // A jump that does not come nearer is halved; in the end waiting is what remains.
    const Reduced::State before = start, after = end;
    double left = far;
    bool nearer = false;
    for (double share = 1; !nearer && share > 0.05 && cycle.periods < mostPeriods; share /= 2) {
      start = {before.z + share * jump, after.volts};
      if (!shootFrom(start, false)) continue;
      left = correction(start).lpNorm<Eigen::Infinity>();
      nearer = left < (1 - 0.25 * share) * far;
    }
    if (!nearer) {
      start = after;
      for (int k = 0; k < 3; ++k)
        if (!shoot(start, nullptr, false)) return tl::unexpected(none);
    }
    // The slopes serve as long as they bring it down well.
    if ((!nearer || left > 0.1 * far) && left > rest && !shootFrom(start, true)) break;
  }
  return tl::unexpected(none);
}

} // namespace vinegar::circuit
