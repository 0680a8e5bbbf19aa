#include "circuit/reduced.h"

#include <cmath>

namespace vinegar::circuit {
namespace {

const double gamma = 1 - std::sqrt(0.5);
constexpr double newtonVolts = 1e-7;
constexpr int mostIterations = 150, patience = 30;

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

bool Reduced::stage(const Eigen::VectorXd& before, double drive, Eigen::VectorXd& volts, Eigen::VectorXd& z) {
  const int count = ports_.count();
  base_ = portConstant_ + drive * portByDrive_;
  base_.noalias() += portByMemory_ * before;
  amps_.resize(count);
  bool found = count == 0;
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
    if (full < newtonVolts) {
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
  z = memoryConstant_ + drive * memoryByDrive_;
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
        if (const double slope = slopes_[d][static_cast<std::size_t>(3 * i + j)]; std::abs(slope) > 1e-13) {
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
  const auto shoot = [&](Reduced::State& state, Eigen::MatrixXd* byStart, bool keep) {
    ++cycle.periods;
    Reduced::Mean mean;
    if (byStart) byStart->setIdentity(circuit.memories(), circuit.memories());
    if (keep) {
      cycle.x.resize(circuit.system().size(), n);
      cycle.amps.resize(circuit.ports().count(), n);
    }
    for (Eigen::Index k = 0; k < n; ++k) {
      if (!circuit.step(state, static_cast<double>(k) * h, drive, byStart, keep ? &mean : nullptr)) return false;
      if (!keep) continue;
      cycle.x.col(k) = circuit.x();
      cycle.amps.col(k) = circuit.amps();
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
