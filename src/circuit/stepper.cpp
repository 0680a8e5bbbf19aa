#include "circuit/stepper_state.h"

#include <algorithm>
#include <cmath>

namespace vinegar::circuit {
namespace {

using tubes::Lanes;
using tubes::TubeBank;

constexpr double lastStepVolts = 1e-2; ///< a Newton step this small is the last; what is left is of second order
constexpr double chordVolts = 3e-3;    ///< so small a misfit is put right with the slopes at hand
constexpr double idlePin = 1e-4;       ///< a pin whose current would change by less than this share: no unknown
constexpr int mostNewtonSteps = 40;

double* in(Numbers& numbers, int at = 0) { return numbers.data() + at; }
const double* in(const Numbers& numbers, int at = 0) { return numbers.data() + at; }

/// y = start + sum of f_j column_j, over `rows`, a multiple of N; columns are `stride` apart. `start` may be y or null.
template <int N> struct Kernel : Lanes<N> {
  using typename Lanes<N>::V;
  using Lanes<N>::load;
  using Lanes<N>::put;
  using Lanes<N>::all;

  template <int Block>
  static VINEGAR_INLINE void block(const double* columns, int stride, int count, const double* factors, double sign,
                                   const double* start, double* y) {
    V sums[Block];
    for (std::ptrdiff_t i = 0; i < Block; ++i)
      sums[i] = start ? load(start + i * N) : V{};
    for (int j = 0; j < count; ++j) {
      const V f = all(sign * factors[j]);
      const double* column = columns + static_cast<std::ptrdiff_t>(j) * stride;
      for (std::ptrdiff_t i = 0; i < Block; ++i)
        sums[i] += load(column + i * N) * f;
    }
    for (std::ptrdiff_t i = 0; i < Block; ++i)
      put(y + i * N, sums[i]);
  }
  static VINEGAR_INLINE void add(const double* columns, int stride, int count, const double* factors, double sign,
                                 const double* start, double* y, int rows) {
    int row = 0;
    for (; row + 8 * N <= rows; row += 8 * N)
      block<8>(columns + row, stride, count, factors, sign, start ? start + row : nullptr, y + row);
    for (; row + 2 * N <= rows; row += 2 * N)
      block<2>(columns + row, stride, count, factors, sign, start ? start + row : nullptr, y + row);
    for (; row < rows; row += N)
      block<1>(columns + row, stride, count, factors, sign, start ? start + row : nullptr, y + row);
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
  using Kernel<N>::largest;
  using Kernel<N>::mix;
  using typename Lanes<N>::V;

  const Plan& plan;
  State& s;

  /// Pins' currents above rest and their slopes at `volts`.
  VINEGAR_INLINE void evaluate(const double* volts, double* amps) const {
    ++s.work.evaluations;
    const std::ptrdiff_t lanes = plan.bank.lanes();
    for (const int d : plan.banked) {
      const auto& device = plan.devices[static_cast<std::size_t>(d)];
      const double* own = volts + device.first;
      s.plate[static_cast<std::size_t>(device.lane)] = own[0];
      if (device.count == 3) s.screen[static_cast<std::size_t>(device.lane)] = own[1];
      s.grid[static_cast<std::size_t>(device.lane)] = own[device.count - 1];
    }
    if (lanes > 0) plan.bank.evaluate(in(s.plate), in(s.screen), in(s.grid), in(s.laws));
    for (const int d : plan.banked) {
      const auto& device = plan.devices[static_cast<std::size_t>(d)];
      const double* law = in(s.laws, device.lane);
      double* slopes = in(s.slopes, 9 * d);
      double* own = amps + device.first;
      const double* rest = in(plan.restAmps, device.first);
      const auto row = [&](TubeBank::Row which) { return law[which * lanes]; };
      own[0] = row(TubeBank::plate) - rest[0];
      slopes[0] = row(TubeBank::plateByPlate);
      if (device.count == 3) {
        own[1] = row(TubeBank::screen) - rest[1];
        own[2] = row(TubeBank::grid) - rest[2];
        slopes[1] = row(TubeBank::plateByScreen);
        slopes[2] = row(TubeBank::plateByGrid);
        slopes[3] = row(TubeBank::screenByPlate);
        slopes[4] = row(TubeBank::screenByScreen);
        slopes[5] = row(TubeBank::screenByGrid);
        slopes[8] = row(TubeBank::gridByGrid);
      } else {
        own[1] = row(TubeBank::grid) - rest[1];
        slopes[1] = row(TubeBank::plateByGrid);
        slopes[4] = row(TubeBank::gridByGrid);
      }
    }
    for (const int d : plan.single) {
      const auto& device = plan.devices[static_cast<std::size_t>(d)];
      std::array<double, 4> own{};
      std::copy_n(volts + device.first, device.count, own.begin());
      const auto pins = pinsOf(*plan.ports.devices()[static_cast<std::size_t>(d)].law, own);
      for (int i = 0; i < device.count; ++i) {
        amps[device.first + i] =
            pins.current[static_cast<std::size_t>(i)] - plan.restAmps[static_cast<std::size_t>(device.first + i)];
        for (int j = 0; j < device.count; ++j)
          s.slopes[static_cast<std::size_t>(9 * d + 3 * i + j)] =
              pins.slopes[static_cast<std::size_t>(i)][static_cast<std::size_t>(j)];
      }
    }
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
    const int rows = plan.pinRows;
    s.active.clear();
    for (std::size_t d = 0; d < plan.devices.size(); ++d) {
      const auto& device = plan.devices[d];
      for (int i = 0; i < device.count; ++i) {
        const double* slopes = in(s.slopes, 9 * static_cast<int>(d) + 3 * i);
        double size = 0;
        for (int j = 0; j < device.count; ++j)
          size += std::abs(slopes[j] * plan.impedance[static_cast<std::size_t>((device.first + j) * (rows + 1))]);
        const int pin = device.first + i;
        if (!(size > idlePin)) continue;
        s.active.push_back(pin);
        double* row = in(s.factors, pin * rows);
        add(in(plan.impedanceRows, device.first * rows), rows, device.count, slopes, 1, nullptr, row, rows);
        row[pin] += 1;
      }
    }
    // Elimination, rows exchanged where a pivot is poor.
    s.order.assign(s.active.begin(), s.active.end());
    const auto stride = static_cast<std::size_t>(rows);
    for (std::size_t k = 0; k < s.active.size(); ++k) {
      const int column = s.active[k];
      const auto at = [&](std::size_t row) {
        return std::abs(s.factors[static_cast<std::size_t>(s.order[row] * rows + column)]);
      };
      if (constexpr double poor = 1e-3; !(at(k) > poor)) {
        std::size_t best = k;
        for (std::size_t row = k + 1; row < s.order.size(); ++row)
          if (at(row) > at(best)) best = row;
        std::swap(s.order[k], s.order[best]);
        std::swap_ranges(s.lower.begin() + static_cast<std::ptrdiff_t>(k * stride),
                         s.lower.begin() + static_cast<std::ptrdiff_t>(k * stride + k),
                         s.lower.begin() + static_cast<std::ptrdiff_t>(best * stride));
      }
      const double* own = in(s.factors, s.order[k] * rows);
      const double inverse = s.inverses[k] = 1 / own[column];
      const int from = column / N * N;
      for (std::size_t later = k + 1; later < s.active.size(); ++later) {
        double* row = in(s.factors, s.order[later] * rows);
        const double f = row[column] * inverse;
        for (int c = from; c < rows; c += N)
          put(row + c, load(row + c) - all(f) * load(own + c));
        s.lower[later * stride + k] = f;
      }
    }
  }

  /// `step`: what Newton's method takes off the volts for the misfit; its largest.
  VINEGAR_INLINE double newton() const {
    std::fill(s.right.begin(), s.right.end(), 0.0);
    std::fill(s.change.begin(), s.change.end(), 0.0);
    std::size_t k = 0;
    for (std::size_t d = 0; d < plan.devices.size() && k < s.active.size(); ++d) {
      const auto& device = plan.devices[d];
      for (int i = 0; i < device.count; ++i) {
        const int pin = device.first + i;
        if (k >= s.active.size() || s.active[k] != pin) continue;
        double sum = 0;
        for (int j = 0; j < device.count; ++j)
          sum += s.slopes[9 * d + static_cast<std::size_t>(3 * i + j)] *
                 s.misfit[static_cast<std::size_t>(device.first + j)];
        s.right[static_cast<std::size_t>(pin)] = sum;
        ++k;
      }
    }
    const int rows = plan.pinRows;
    const auto count = static_cast<int>(s.active.size());
    for (int a = 0; a < count; ++a) {
      const double* lower = in(s.lower, a * rows);
      double sum = s.right[static_cast<std::size_t>(s.order[static_cast<std::size_t>(a)])];
      for (int b = 0; b < a; ++b)
        sum -= lower[b] * s.reduced[static_cast<std::size_t>(b)];
      s.reduced[static_cast<std::size_t>(a)] = sum;
    }
    for (int a = count - 1; a >= 0; --a) {
      const double* row = in(s.factors, s.order[static_cast<std::size_t>(a)] * rows);
      double sum = s.reduced[static_cast<std::size_t>(a)];
      for (int b = a + 1; b < count; ++b) {
        const int pin = s.active[static_cast<std::size_t>(b)];
        sum -= row[pin] * s.change[static_cast<std::size_t>(pin)];
      }
      s.change[static_cast<std::size_t>(s.active[static_cast<std::size_t>(a)])] =
          sum * s.inverses[static_cast<std::size_t>(a)];
    }
    add(in(plan.impedance), plan.pinRows, plan.pins, in(s.change), -1, in(s.misfit), in(s.step), plan.pinRows);
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
    if (s.isFactored && miss < chordVolts && newton() < lastStepVolts) {
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
