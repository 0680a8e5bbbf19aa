#include "predict/listen/live.h"

#include "circuit/stepper.h"
#include "predict/feel/burst.h"
#include "predict/wave/played.h"
#include "predict/wave/stage_ports.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>
#include <samplerate.h>

namespace vinegar::predict {
namespace {

constexpr double livelyTheta = 0.52; ///< a knob's jump rings a little longer at less
constexpr int quarters = 4;          ///< of a step that erred
constexpr std::size_t watched = 64;  ///< samples that are gone through again together
constexpr double toneHertz = 1000;   ///< at which the level at the jack is told

struct CloseResampler {
  void operator()(SRC_STATE* state) const { src_delete(state); }
};
using Resampler = std::unique_ptr<SRC_STATE, CloseResampler>;

} // namespace

struct Live::State {
  LiveSetup setup;
  std::shared_ptr<const circuit::System> system;
  circuit::StepperSetup stepping;
  std::vector<double> sources, inputs; ///< volts of each for a sample of 1; and what a step is given
  bool mains = false;
  std::function<double(double)> wave;
  double mainsHertz = 0, phase = 0; ///< turns
  Eigen::VectorXd rest;
  std::optional<circuit::Stepper> stepper;
  /// For steps that err: where the samples at hand began, and the same amplifier in quarters of a step.
  std::optional<circuit::Stepper> before, quarter;
  std::array<double, 3> lately{}; ///< the last outputs, the youngest first
  double loudest = 0;
  /// The amplifier before it was turned goes on beside this one while its sound fades into this one's: a resistor that
  /// is another from one sample to the next makes a step in every wave that it divides.
  std::optional<circuit::Stepper> former;
  std::vector<double> formerSources;
  long fading = 0, fadesIn = 0; ///< samples into it, and all
  double last = 0, sample = 0;
  Resampler in, out;
  std::vector<float> inner, given; ///< what the engine takes and gives
  std::vector<float> waiting;      ///< resampled, not yet asked for
  std::size_t ready = 0;

  tl::expected<void, Problem> takeFrom(const Idle& idle) {
    system = idle.point.supply ? std::make_shared<const circuit::System>(idle.circuit->netlist) : idle.point.system;
    stepping = {};
    stepping.samplesPerSecond = setup.engineRate;
    stepping.theta = livelyTheta;
    stepping.width = setup.width;
    const auto drive = driveOf(*system, SmallSignal(idle, toneHertz));
    if (drive.volts.empty())
      return tl::unexpected(Problem{"the amplifier", "has nothing at its jack to be played with"});
    stepping.inputs = drive.devices;
    sources = drive.volts;
    for (auto& volts : sources)
      volts *= setup.inputPeak;
    mains = idle.point.supply != nullptr;
    if (mains) {
      stepping.inputs.push_back(idle.circuit->supply.mains);
      wave = mainsWave(idle.circuit->supply);
      mainsHertz = idle.circuit->supply.hertz;
    }
    const auto node = idle.circuit->probe(setup.output);
    if (node <= 0) return tl::unexpected(Problem{setup.output, "is no place of this amplifier"});
    stepping.outputs = {node};
    inputs.assign(stepping.inputs.size(), 0.0);
    rest = mains ? startOfCycle(idle) : idle.point.dc.x;
    return {};
  }

  void fill(double level, double turns) {
    for (std::size_t i = 0; i < sources.size(); ++i)
      inputs[i] = sources[i] * level;
    if (mains) inputs.back() = wave(turns / mainsHertz);
  }

  double step(double level, Block& block) {
    const double turns = phase + (mains ? mainsHertz / setup.engineRate : 0);
    fill(level, turns);
    const long before = stepper->work().evaluations;
    bool found = stepper->step(inputs.data());
    const long evaluations = stepper->work().evaluations - before;
    block.evaluations += evaluations;
    block.most = std::max(block.most, evaluations);
    ++block.steps;
    if (!found) found = finer(level, turns, block);
    if (found && former) {
      const double share =
          0.5 - 0.5 * std::cos(std::numbers::pi * static_cast<double>(++fading) / static_cast<double>(fadesIn));
      for (std::size_t i = 0; i < sources.size(); ++i)
        inputs[i] = formerSources[i] * level;
      const bool both = former->step(inputs.data());
      const double now = stepper->output(0);
      last = both ? former->output(0) + share * (now - former->output(0)) : now;
      if (!both || fading >= fadesIn) former.reset();
    } else if (found)
      last = stepper->output(0);
    else
      ++block.held;
    sample = level;
    phase = turns - std::floor(turns);
    return last;
  }

  /// The steppers beside the one that plays, which stands at `x` with `inputs`.
  void standBy(const Eigen::VectorXd& x, const std::vector<double>& now) {
    before.reset();
    quarter.reset();
    if (!(setup.mostStepError > 0)) return;
    auto small = stepping;
    small.samplesPerSecond *= quarters;
    small.past = nullptr;
    before.emplace(*stepper);
    quarter.emplace(*system, x, small, now);
  }

  void play(const float* in, float* out, std::size_t count, Block& block) {
    for (std::size_t from = 0; from < count; from += watched)
      playSome(in + from, out + from, std::min(watched, count - from), block);
  }
  void playSome(const float* in, float* out, std::size_t count, Block& block) {
    const auto levelAt = [&](std::size_t k) { return std::isfinite(in[k]) ? static_cast<double>(in[k]) : 0; };
    const bool isWatched = before && !former;
    const double phaseBefore = phase, sampleBefore = sample, lastBefore = last;
    if (isWatched) before->resume(*stepper);
    double error = 0;
    for (std::size_t k = 0; k < count; ++k) {
      const double volts = step(levelAt(k), block);
      out[k] = static_cast<float>(volts);
      loudest = std::max(loudest, std::abs(volts));
      error = std::max(error, circuit::stepError(volts, lately[0], lately[1], lately[2]));
      lately = {volts, lately[0], lately[1]};
    }
    if (!isWatched || error <= setup.mostStepError * loudest) return;
    const double phaseAfter = phase, sampleAfter = sample, lastAfter = last;
    phase = phaseBefore;
    sample = sampleBefore;
    last = lastBefore;
    quarter->resume(*before);
    std::swap(stepper, quarter);
    bool found = true;
    for (std::size_t k = 0; k < count && found; ++k) {
      const double from = sample, to = levelAt(k), turns = mains ? mainsHertz / setup.engineRate : 0;
      double volts = 0;
      const double begun = phase;
      for (int part = 1; part <= quarters && found; ++part) {
        const double share = static_cast<double>(part) / quarters;
        fill(from + share * (to - from), begun + share * turns);
        const long evaluations = stepper->work().evaluations;
        found = stepper->step(inputs.data());
        block.evaluations += stepper->work().evaluations - evaluations;
        volts = stepper->output(0);
      }
      phase = begun + turns - std::floor(begun + turns);
      sample = to;
      last = volts;
      if (found) out[k] = static_cast<float>(volts);
    }
    std::swap(stepper, quarter);
    if (!found) { // what was played first stands
      phase = phaseAfter;
      sample = sampleAfter;
      last = lastAfter;
      return;
    }
    stepper->resume(*quarter);
    block.redone += static_cast<long>(count);
  }

  bool finer(double level, double turns, Block& block) {
    ++block.finer;
    return stepper->stepFiner([&](double share) -> const std::vector<double>& {
      fill(sample + share * (level - sample), phase + share * (turns - phase));
      return inputs;
    });
  }
};

Live::Live(std::unique_ptr<State> state) : state_(std::move(state)) {}
Live::~Live() = default;
Live::Live(Live&&) noexcept = default;
Live& Live::operator=(Live&&) noexcept = default;

tl::expected<Live, Problem> Live::make(const Idle& idle, const LiveSetup& setup) {
  auto state = std::make_unique<State>();
  state->setup = setup;
  if (const auto taken = state->takeFrom(idle); !taken) return tl::unexpected(taken.error());
  if (setup.samplesPerSecond != setup.engineRate) {
    int error = 0;
    state->in.reset(src_new(SRC_SINC_FASTEST, 1, &error));
    state->out.reset(src_new(SRC_SINC_FASTEST, 1, &error));
    if (!state->in || !state->out) return tl::unexpected(Problem{"resampling", src_strerror(error)});
  }
  const double ratio = setup.engineRate / setup.samplesPerSecond;
  constexpr std::size_t slack = 64;
  state->inner.resize(static_cast<std::size_t>(std::ceil(static_cast<double>(mostSamples) * std::max(1.0, ratio))) +
                      slack);
  state->given = state->inner;
  state->waiting.resize(4 * mostSamples);
  Live live(std::move(state));
  live.restart();
  return live;
}

void Live::restart() {
  auto& s = *state_;
  s.phase = s.last = s.sample = 0;
  s.ready = 0;
  s.former.reset();
  if (s.in) src_reset(s.in.get());
  if (s.out) src_reset(s.out.get());
  s.stepper.emplace(*s.system, s.rest, s.stepping);
  s.standBy(s.rest, {});
  s.lately = {};
  s.loudest = 0;
}

Live::Block Live::play(const float* in, float* out, std::size_t count) {
  auto& s = *state_;
  Block block;
  count = std::min(count, mostSamples);
  if (!s.in) {
    s.play(in, out, count, block);
    return block;
  }
  const double ratio = s.setup.engineRate / s.setup.samplesPerSecond;
  std::size_t used = 0;
  while (used < count) {
    SRC_DATA data{};
    data.data_in = in + used;
    data.input_frames = static_cast<long>(count - used);
    data.data_out = s.inner.data();
    data.output_frames = static_cast<long>(s.inner.size());
    data.src_ratio = ratio;
    if (src_process(s.in.get(), &data) != 0 || (data.input_frames_used == 0 && data.output_frames_gen == 0)) break;
    used += static_cast<std::size_t>(data.input_frames_used);
    const auto made = static_cast<std::size_t>(data.output_frames_gen);
    s.play(s.inner.data(), s.given.data(), made, block);
    SRC_DATA back{};
    back.data_in = s.given.data();
    back.input_frames = static_cast<long>(made);
    back.data_out = s.waiting.data() + s.ready;
    back.output_frames = static_cast<long>(s.waiting.size() - s.ready);
    back.src_ratio = 1 / ratio;
    if (src_process(s.out.get(), &back) != 0) break;
    s.ready += static_cast<std::size_t>(back.output_frames_gen);
  }
  // At first there is less than was asked for: silence before it.
  const auto have = std::min(count, s.ready);
  std::fill(out, out + (count - have), 0.0F);
  std::copy_n(s.waiting.begin(), have, out + (count - have));
  std::copy(s.waiting.begin() + static_cast<std::ptrdiff_t>(have),
            s.waiting.begin() + static_cast<std::ptrdiff_t>(s.ready), s.waiting.begin());
  s.ready -= have;
  return block;
}

std::optional<Problem> Live::turn(const Idle& other) {
  auto& s = *state_;
  if (!other.circuit->netlist.sameTopology(s.system->netlist()) &&
      !other.point.system->netlist().sameTopology(s.system->netlist()))
    return Problem{"the amplifier", "is put together otherwise; it has to start anew"};
  const Eigen::VectorXd now = s.stepper->unknowns();
  State next;
  next.setup = s.setup;
  if (const auto taken = next.takeFrom(other); !taken) return taken.error();
  if (next.rest.size() != now.size())
    return Problem{"the amplifier", "is put together otherwise; it has to start anew"};
  s.system = next.system;
  s.stepping = next.stepping;
  s.formerSources = std::move(s.sources);
  s.sources = next.sources;
  s.rest = next.rest;
  s.wave = next.wave;
  s.mainsHertz = next.mainsHertz;
  s.fill(s.sample, s.phase);
  s.former.reset();
  s.former.emplace(std::move(*s.stepper));
  s.stepping.past = [&s](int entry, double ago) { return s.former->past(entry, ago); };
  s.stepper.emplace(*s.system, now, s.stepping, s.inputs);
  s.stepping.past = nullptr;
  s.standBy(now, s.inputs);
  constexpr double fade = 0.005; // s
  s.fading = 0;
  s.fadesIn = std::max(1L, std::lround(fade * s.setup.engineRate));
  return std::nullopt;
}

} // namespace vinegar::predict
