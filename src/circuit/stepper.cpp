#include "circuit/four_pivots.h"
#include "circuit/stepper_state.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <type_traits>

namespace vinegar::circuit {
namespace {

using tubes::Lanes;

constexpr double lastStepVolts = 3e-2;  ///< a Newton step this small is the last; what is left is of second order
constexpr double chordStepVolts = 1e-2; ///< with slopes of a step before, whose remainder is of first order
constexpr double chordVolts = 3e-3;     ///< so small a misfit is put right with the slopes at hand
constexpr double idlePin = 1e-4;        ///< a pin whose current would change by less than this share: no unknown
constexpr int mostNewtonSteps = 40;

double* in(Numbers& numbers, std::ptrdiff_t at = 0) { return numbers.data() + at; }
const double* in(const Numbers& numbers, std::ptrdiff_t at = 0) { return numbers.data() + at; }

/// y = start + sum of f_j column_j, over `rows`, a multiple of N; columns are `stride` apart. `start` may be y or null.
template <int N> struct Kernel : Lanes<N> {
  using typename Lanes<N>::V;
  using Lanes<N>::load;
  using Lanes<N>::put;
  using Lanes<N>::all;

  /// `which(j)` names the column that belongs to factor j.
  template <int Block>
  static VINEGAR_INLINE void block(const double* columns, int stride, int count, const auto& which,
                                   const double* factors, double sign, const double* start, double* y) {
    V sums[Block];
    for (std::ptrdiff_t i = 0; i < Block; ++i)
      sums[i] = start ? load(start + i * N) : V{};
    for (int j = 0; j < count; ++j) {
      const V f = all(sign * factors[j]);
      const double* column = columns + static_cast<std::ptrdiff_t>(which(j)) * stride;
      for (std::ptrdiff_t i = 0; i < Block; ++i)
        sums[i] += load(column + i * N) * f;
    }
    for (std::ptrdiff_t i = 0; i < Block; ++i)
      put(y + i * N, sums[i]);
  }
  /// Sums held in registers as many at once as there are, so that none waits for itself.
  static VINEGAR_INLINE void addOf(const double* columns, int stride, int count, const auto& which,
                                   const double* factors, double sign, const double* start, double* y, int rows) {
    const auto next = [&]<int Block>(std::integral_constant<int, Block>, int row) __attribute__((always_inline)) {
      block<Block>(columns + row, stride, count, which, factors, sign, start ? start + row : nullptr, y + row);
      return row + Block * N;
    };
    int row = 0;
    while (row + 8 * N <= rows)
      row = next(std::integral_constant<int, 8>{}, row);
    if (row + 6 * N <= rows) row = next(std::integral_constant<int, 6>{}, row);
    if (row + 4 * N <= rows) row = next(std::integral_constant<int, 4>{}, row);
    if (row + 2 * N <= rows) row = next(std::integral_constant<int, 2>{}, row);
    if (row < rows) next(std::integral_constant<int, 1>{}, row);
  }
  static VINEGAR_INLINE void add(const double* columns, int stride, int count, const double* factors, double sign,
                                 const double* start, double* y, int rows) {
    const auto everyOne = [](int j) { return j; };
    addOf(columns, stride, count, everyOne, factors, sign, start, y, rows);
  }
  static VINEGAR_INLINE double largest(const double* y, const double* weights, int rows) {
    V most{}, poison{}; // comparisons pass over what is no number; the difference to itself does not
    for (int row = 0; row < rows; row += N) {
      const V a = load(y + row) * load(weights + row), b = -a;
      const V size = a > b ? a : b;
      most = size > most ? size : most;
      poison += a - a;
    }
    double one = 0, none = 0;
    for (int i = 0; i < N; ++i) {
      one = most[i] > one ? most[i] : one;
      none += poison[i];
    }
    return one + none;
  }
  /// to = a x + b y
  static VINEGAR_INLINE void mix(double a, const double* x, double b, const double* y, double* to, int rows) {
    for (int row = 0; row < rows; row += N)
      put(to + row, all(a) * load(x + row) + all(b) * load(y + row));
  }
};

/// One step of a circuit, for one width.
template <int N, class Plan, class State> struct Stepping : Kernel<N> {
  using Kernel<N>::load;
  using Kernel<N>::put;
  using Kernel<N>::all;
  using Kernel<N>::add;
  using Kernel<N>::addOf;
  using Kernel<N>::largest;
  using Kernel<N>::mix;
  using typename Lanes<N>::V;

  const Plan& plan;
  State& s;

  /// Pins' currents above rest and their slopes at `volts`.
  VINEGAR_INLINE void evaluate(const double* volts, double* amps) const {
    ++s.work.evaluations;
    plan.bank.evaluate(volts, amps, in(s.slopes), s.scratch);
    mix(1, amps, -1, in(plan.restAmps), amps, plan.pinRows);
  }

  /// How far volts + Z amps are from what the rest of the circuit asks; the largest.
  VINEGAR_INLINE double missed(const double* volts, const double* amps) const {
    mix(1, volts, -1, in(s.newBase), in(s.misfit), plan.pinRows);
    add(in(plan.impedance), plan.pinRows, plan.pins, amps, 1, in(s.misfit), in(s.misfit), plan.pinRows);
    return largest(in(s.misfit), in(plan.weights), plan.pinRows);
  }

  /// 1 + S Z, S the slopes and Z the impedance, on the pins whose currents move enough to matter; factored.
  VINEGAR_INLINE void factor() const {
    ++s.work.factorizations;
    s.isFactored = true;
    pickActive();
    const auto factors = this->factors();
    const std::ptrdiff_t rows = plan.pinRows;
    using Lanes = typename FourPivots<N>::Lanes;
    for (int k = 0; k < factors.count; ++k) {
      const auto pin = s.active[static_cast<std::size_t>(k)];
      double* row = factors.matrix + k * rows;
      const double *slopes = in(s.slopes, pin.slopes), *z = in(s.someImpedance, pin.first * rows);
      const auto s0 = Lanes::all(slopes[0]), s1 = Lanes::all(slopes[1]), s2 = Lanes::all(slopes[2]);
      for (int i = 0; i < factors.blocked(factors.count); i += factors.across)
        Lanes::put(row + i,
                   s0 * Lanes::load(z + i) + s1 * Lanes::load(z + rows + i) + s2 * Lanes::load(z + 2 * rows + i));
      row[k] += 1;
    }
    factors.eliminate();
  }
  VINEGAR_INLINE FourPivots<N> factors() const {
    return {in(s.factors), plan.pinRows, static_cast<int>(s.active.size()), in(s.inverses), s.order.data()};
  }

  /// The pins whose currents move enough to matter at these slopes, and their columns of the impedance, which are
  /// mostly those of the last time.
  VINEGAR_INLINE void pickActive() const {
    std::size_t count = 0;
    bool isSame = true;
    for (std::size_t d = 0; d < plan.devices.size(); ++d) {
      const auto& device = plan.devices[d];
      const int slopesAt = 9 * static_cast<int>(d);
      const double *slopes = in(s.slopes, slopesAt), *own = in(plan.ownImpedance, device.first);
      for (int i = 0; i < device.count; ++i, slopes += 3) {
        const double size = std::abs(slopes[0]) * own[0] + std::abs(slopes[1]) * own[1] + std::abs(slopes[2]) * own[2];
        if (!(size > idlePin)) continue;
        const int pin = device.first + i;
        if (isSame && !(count < s.active.size() && s.active[count].pin == pin)) {
          isSame = false;
          s.active.resize(count);
        }
        if (!isSame) s.active.push_back({pin, slopesAt + 3 * i, device.first});
        ++count;
      }
    }
    if (isSame && count == s.active.size()) return;
    s.active.resize(count);
    const std::ptrdiff_t rows = plan.pinRows;
    const int wide = FourPivots<N>::blocked(static_cast<int>(count));
    for (int row = 0; row < plan.pins; ++row) {
      const double* whole = in(plan.impedanceRows, row * rows);
      double* some = in(s.someImpedance, row * rows);
      for (std::size_t k = 0; k < count; ++k)
        some[k] = whole[s.active[k].pin];
      std::fill(some + count, some + wide, 0.0);
    }
  }

  /// `step`: what Newton's method takes off the volts for the misfit; its largest.
  VINEGAR_INLINE double newton() const {
    const auto factors = this->factors();
    for (int k = 0; k < factors.count; ++k) {
      const auto& pin = s.active[static_cast<std::size_t>(k)];
      const double *slopes = in(s.slopes, pin.slopes), *miss = in(s.misfit, pin.first);
      s.right[static_cast<std::size_t>(k)] = slopes[0] * miss[0] + slopes[1] * miss[1] + slopes[2] * miss[2];
    }
    factors.solve(in(s.right), in(s.change));
    const auto column = [&](int k) { return s.active[static_cast<std::size_t>(k)].pin; };
    addOf(in(plan.impedance), plan.pinRows, factors.count, column, in(s.change), -1, in(s.misfit), in(s.step),
          plan.pinRows);
    return largest(in(s.step), in(plan.weights), plan.pinRows);
  }

  /// Takes the step off volts and currents, these along their slopes.
  VINEGAR_INLINE void finish() const {
    mix(1, in(s.trial), -1, in(s.step), in(s.trial), plan.pinRows);
    for (std::size_t d = 0; d < plan.devices.size(); ++d) {
      const auto& device = plan.devices[d];
      for (int i = 0; i < device.count; ++i)
        for (int j = 0; j < device.count; ++j)
          s.trialAmps[static_cast<std::size_t>(device.first + i)] -=
              s.slopes[9 * d + static_cast<std::size_t>(3 * i + j)] *
              s.step[static_cast<std::size_t>(device.first + j)];
    }
  }

  /// The pins' volts and currents for the new base, from `trial` on.
  VINEGAR_INLINE bool solve() const {
    evaluate(in(s.trial), in(s.trialAmps));
    double miss = missed(in(s.trial), in(s.trialAmps));
    if (s.isFactored && miss < chordVolts && newton() < chordStepVolts) {
      finish();
      return true;
    }
    for (int i = 0; i < mostNewtonSteps; ++i) {
      factor();
      const double size = newton();
      if (!std::isfinite(size)) return false;
      if (size < lastStepVolts) {
        finish();
        return true;
      }
      // A move is good where what is missed falls, or what Newton's method would take off next with the slopes at hand
      // (P. Deuflhard, Newton Methods for Nonlinear Problems, 2004, ch. 3): volts behind large resistances tell little.
      s.from.swap(s.trial);
      s.way.swap(s.step);
      double scale = 1, next = 0;
      for (int halving = 0; halving < 10; ++halving, scale /= 2) {
        mix(1, in(s.from), -scale, in(s.way), in(s.trial), plan.pinRows);
        plan.ports.limit(in(s.from), in(s.trial));
        s.kept.swap(s.slopes);
        evaluate(in(s.trial), in(s.trialAmps));
        next = missed(in(s.trial), in(s.trialAmps));
        s.kept.swap(s.slopes);
        const bool good = next < miss || next < lastStepVolts || newton() < (1 - scale / 4) * size;
        if (good || halving == 9) break;
      }
      s.kept.swap(s.slopes);
      miss = next;
    }
    return false;
  }

  VINEGAR_INLINE bool go(const double* inputs) const {
    std::copy(s.memory.begin(), s.memory.end(), s.newColumn.begin());
    double* column = in(s.newColumn, plan.memories);
    const int given = plan.sources - plan.echoes;
    std::copy_n(inputs, given, column);
    column += given;
    for (int e = 0; e < plan.echoes; ++e) {
      const auto& echo = plan.echo[static_cast<std::size_t>(e)];
      double sum = 0;
      for (int i = 0; i < 4; ++i) {
        // The last sample stands at `at`, one step back from the end of this one.
        const int index = (s.at - (echo.back - 1 + i) + 2 * plan.pastLength) % plan.pastLength;
        sum +=
            echo.weights[static_cast<std::size_t>(i)] * s.past[static_cast<std::size_t>(e * plan.pastLength + index)];
      }
      *column++ = echo.gain * sum;
    }
    *column = 1;
    add(in(plan.transition), plan.rows, plan.columns, in(s.newColumn), 1, in(plan.rest), in(s.newBase), plan.pinRows);
    add(in(plan.transition, plan.pinRows), plan.rows, plan.columns, in(s.newColumn), 1, nullptr, in(s.newAnswer),
        plan.answerRows);
    const long before = s.work.evaluations;
    bool found = true;
    if (plan.pins > 0) {
      // The slopes of the last step say where the pins come to.
      if (s.isFactored) {
        mix(1, in(s.base), -1, in(s.newBase), in(s.misfit), plan.pinRows);
        newton();
        mix(1, in(s.volts), -1, in(s.step), in(s.trial), plan.pinRows);
        plan.ports.limit(in(s.volts), in(s.trial));
        found = std::isfinite(largest(in(s.trial), in(plan.weights), plan.pinRows)) && solve();
      }
      if (!s.isFactored || !found) {
        std::copy(s.volts.begin(), s.volts.end(), s.trial.begin());
        s.isFactored = false;
        found = solve();
      }
      if (!found) {
        s.isFactored = false;
        return false;
      }
      s.volts.swap(s.trial);
      s.amps.swap(s.trialAmps);
      s.base.swap(s.newBase);
      add(in(plan.byPins), plan.answerRows, plan.pins, in(s.amps), -1, in(s.newAnswer), in(s.newAnswer),
          plan.answerRows);
    }
    s.column.swap(s.newColumn);
    s.answer.swap(s.newAnswer);
    ++s.work.steps;
    s.work.most = std::max(s.work.most, s.work.evaluations - before);
    // What flows in a memory is (w - w before)/(theta h) less what the start weighs; both go on to the next step.
    for (int m = 0; m < plan.memories; ++m) {
      const auto k = static_cast<std::size_t>(m);
      const double gained = plan.perStep * s.answer[k];
      s.flow[k] = gained - s.memory[k];
      s.memory[k] = gained + plan.old * s.flow[k];
    }
    if (plan.pastLength > 0) {
      s.at = (s.at + 1) % plan.pastLength;
      for (int e = 0; e < plan.echoes; ++e)
        s.past[static_cast<std::size_t>(e * plan.pastLength + s.at)] =
            plan.x0[plan.system.delayed()[static_cast<std::size_t>(e)].column] +
            s.answer[static_cast<std::size_t>(plan.memories) + plan.setup.outputs.size() + static_cast<std::size_t>(e)];
    }
    return true;
  }
};

template <class Plan, class State> bool goTwo(const Plan& plan, State& state, const double* inputs) {
  return Stepping<2, Plan, State>{{}, plan, state}.go(inputs);
}
template <class Plan, class State> VINEGAR_FOUR bool goFour(const Plan& plan, State& state, const double* inputs) {
  return Stepping<4, Plan, State>{{}, plan, state}.go(inputs);
}
template <class Plan, class State> VINEGAR_EIGHT bool goEight(const Plan& plan, State& state, const double* inputs) {
  return Stepping<8, Plan, State>{{}, plan, state}.go(inputs);
}

} // namespace

Stepper::Stepper(const System& system, const Eigen::VectorXd& x, const StepperSetup& setup, const Numbers& now)
    : plan_(std::make_shared<const Plan>(system, x, setup, now)), state_(std::make_unique<State>(*plan_)) {}
Stepper::~Stepper() = default;
Stepper::Stepper(const Stepper& other) : plan_(other.plan_), state_(std::make_unique<State>(*other.state_)) {}
Stepper::Stepper(Stepper&&) noexcept = default;
Stepper& Stepper::operator=(Stepper&&) noexcept = default;

bool Stepper::step(const double* inputs) {
  switch (plan_->setup.width) {
  case tubes::Width::eight:
    return goEight(*plan_, *state_, inputs);
  case tubes::Width::four:
    return goFour(*plan_, *state_, inputs);
  default:
    return goTwo(*plan_, *state_, inputs);
  }
}

double Stepper::output(std::size_t index) const {
  return System::volts(plan_->x0, plan_->setup.outputs[index]) +
         state_->answer[static_cast<std::size_t>(plan_->memories) + index];
}

double Stepper::amps(std::size_t device, int pin) const {
  const auto port = static_cast<std::size_t>(plan_->devices[device].first + pin);
  return plan_->restAmps[port] + state_->amps[port];
}

Eigen::VectorXd Stepper::unknowns() const {
  if (state_->work.steps == 0 && !state_->moved) return plan_->x0;
  const Eigen::Map<const Eigen::VectorXd> column(state_->column.data(), plan_->columns);
  const Eigen::Map<const Eigen::VectorXd> amps(state_->amps.data(), plan_->pins);
  return plan_->x0 + plan_->inverse * (plan_->drive * column - plan_->toPins * amps);
}

double Stepper::past(int entry, double secondsAgo) const {
  const int length = plan_->pastLength;
  const double samples = secondsAgo * plan_->setup.samplesPerSecond;
  // The cubic through two samples on either side, or the outermost four.
  const int first = std::clamp(static_cast<int>(std::floor(samples)) - 1, 0, length - 4);
  double sum = 0;
  for (int i = first; i < first + 4; ++i) {
    double weight = 1;
    for (int j = first; j < first + 4; ++j)
      if (j != i) weight *= (samples - j) / (i - j);
    sum += weight * state_->past[static_cast<std::size_t>(entry * length + (state_->at - i + length) % length)];
  }
  return samples > length - 1 ? state_->past[static_cast<std::size_t>(entry * length + (state_->at + 1) % length)]
                              : sum;
}

void Stepper::resume(const Stepper& other) {
  const auto& from = *other.state_;
  auto& s = *state_;
  const auto& plan = *plan_;
  const bool moved = from.work.steps > 0 || from.moved;
  if (plan_ == other.plan_) {
    const auto work = s.work;
    s = from;
    s.work = work;
    s.moved = moved;
    return;
  }
  std::copy(from.answer.begin(), from.answer.end(), s.answer.begin());
  std::copy(from.volts.begin(), from.volts.end(), s.volts.begin());
  std::copy(from.amps.begin(), from.amps.end(), s.amps.begin());
  std::copy(from.column.begin(), from.column.end(), s.column.begin());
  std::copy(from.flow.begin(), from.flow.end(), s.flow.begin());
  for (std::size_t m = 0; m < static_cast<std::size_t>(plan.memories); ++m) {
    // As the equations of this step length's last step would have had it.
    s.memory[m] = plan.perStep * s.answer[m] + plan.old * from.flow[m];
    s.column[m] = plan.perStep * s.answer[m] - from.flow[m];
  }
  const Eigen::Map<const Eigen::MatrixXd> impedance(plan.impedance.data(), plan.pinRows, plan.pins);
  Eigen::Map<Eigen::VectorXd> base(s.base.data(), plan.pinRows);
  base = Eigen::Map<const Eigen::VectorXd>(s.volts.data(), plan.pinRows);
  base.noalias() += impedance * Eigen::Map<const Eigen::VectorXd>(s.amps.data(), plan.pins);
  s.isFactored = false;
  s.at = 0;
  for (int e = 0; e < plan.echoes; ++e)
    for (int k = 0; k < plan.pastLength; ++k)
      s.past[static_cast<std::size_t>(e * plan.pastLength + (plan.pastLength - k) % plan.pastLength)] =
          other.past(e, k / plan.setup.samplesPerSecond);
  s.moved = moved;
}

void Stepper::restart() { *state_ = State(*plan_); }
const Stepper::Work& Stepper::work() const { return state_->work; }

bool Stepper::stepFiner(const std::function<const std::vector<double>&(double share)>& inputsAt) {
  constexpr std::array<std::pair<int, double>, 2> ways{{{8, 0.51}, {128, 1.0}}}; // steps, and what their ends weigh
  for (const auto& [parts, weight] : ways) {
    auto small = plan_->setup;
    small.samplesPerSecond *= parts;
    small.theta = weight;
    Stepper way(plan_->system, plan_->x0, small);
    way.resume(*this);
    bool found = true;
    for (int part = 1; found && part <= parts; ++part)
      found = way.step(inputsAt(static_cast<double>(part) / parts).data());
    if (!found) continue;
    resume(way);
    return true;
  }
  return false;
}

} // namespace vinegar::circuit
