// The engine's hot paths on the largest sample, and the same answers from a plain dense Eigen solve in the same run, so
// that the ratio holds on any machine.
#include "circuit/stepper.h"
#include "circuit/transient.h"
#include "files/phrases.h"
#include "predict/choices/consequences.h"
#include "predict/feel/feel_choices.h"
#include "predict/overview/steps.h"
#include "predict/rest/variation.h"
#include "predict/supply/rectifier.h"
#include "predict/supply/supply_events.h"
#include "support/paths.h"
#include "support/samples.h"

#include <benchmark/benchmark.h>
#include <cmath>

namespace {

using namespace vinegar;
using testing_support::library;

const amp::Design& slipway() {
  static const amp::Design design = testing_support::sample("slipway").ink;
  return design;
}
const testing_support::Solved& solved() {
  static const auto all = testing_support::solve(slipway());
  return all;
}
const std::vector<double>& band() {
  static const auto hertz = circuit::logSpaced(10, 100000, 300);
  return hertz;
}

void compile(benchmark::State& state) {
  for (auto _ : state)
    benchmark::DoNotOptimize(amp::compile(slipway(), library()));
}
BENCHMARK(compile)->Unit(benchmark::kMicrosecond);

void dcCold(benchmark::State& state) {
  for (auto _ : state)
    benchmark::DoNotOptimize(circuit::solveDc(*solved().point.system));
}
BENCHMARK(dcCold)->Unit(benchmark::kMicrosecond);

void dcWarmAfterOneStep(benchmark::State& state) {
  const auto stepped = testing_support::solve(amp::withChanges(slipway(), library(), {{"R3", "value", 120e3, 150e3}}));
  for (auto _ : state)
    benchmark::DoNotOptimize(circuit::solveDc(*stepped.point.system, &solved().point.dc.x));
}
BENCHMARK(dcWarmAfterOneStep)->Unit(benchmark::kMicrosecond);

void acPlanMade(benchmark::State& state) {
  for (auto _ : state)
    benchmark::DoNotOptimize(circuit::solveAc(*solved().point.system, solved().point.dc.x, {1000}));
}
BENCHMARK(acPlanMade)->Unit(benchmark::kMicrosecond);

void ac300PlannedAllProbes(benchmark::State& state) {
  circuit::AcPlan plan;
  for (auto _ : state)
    benchmark::DoNotOptimize(circuit::solveAc(*solved().point.system, solved().point.dc.x, band(), &plan));
}
BENCHMARK(ac300PlannedAllProbes)->Unit(benchmark::kMicrosecond);

void ac300PlainDense(benchmark::State& state) {
  for (auto _ : state)
    benchmark::DoNotOptimize(circuit::solveAcDense(*solved().point.system, solved().point.dc.x, band()));
}
BENCHMARK(ac300PlainDense)->Unit(benchmark::kMicrosecond);

/// All that a value step asks of the core: compile, DC, 300 points, and the effect of one step up and down.
void idleAfterOneStep(benchmark::State& state) {
  predict::Warmth warmth;
  bool up = false;
  for (auto _ : state) {
    up = !up;
    const auto design = amp::withChanges(slipway(), library(), {{"C2", "value", 22e-6, up ? 330e-9 : 470e-9}});
    const auto idle = predict::predictIdle(design, library(), &warmth);
    benchmark::DoNotOptimize(predict::predictResponse(*idle, library(), {"jack", "speaker", band()}));
    benchmark::DoNotOptimize(predict::predictSteps(*idle, library(), {"C2"}));
  }
}
BENCHMARK(idleAfterOneStep)->Unit(benchmark::kMicrosecond);

/// The supply's periodic state with the amplifier on it: from nothing, and after a value step in the supply or the amp.
void supplyIdleCold(benchmark::State& state) {
  for (auto _ : state)
    state.counters["periods"] = predict::predictSupplyIdle(solved().circuit)->periods;
}
BENCHMARK(supplyIdleCold)->Unit(benchmark::kMillisecond);

void supplyIdleAfterStep(benchmark::State& state) {
  const auto stepped = testing_support::solve(amp::withChanges(
      slipway(), library(),
      {state.range(0) ? amp::SetField{"C15", "value", 32e-6, 47e-6} : amp::SetField{"R28", "value", 270.0, 300.0}}));
  for (auto _ : state)
    state.counters["periods"] = predict::predictSupplyIdle(stepped.circuit, solved().point.supply.get())->periods;
}
BENCHMARK(supplyIdleAfterStep)->ArgName("reservoir")->Arg(0)->Arg(1)->Unit(benchmark::kMillisecond);

/// What the Supply page asks: every rectifier tried in the whole amplifier, and thirty seconds from cold.
void consequencesSevenRows(benchmark::State& state) {
  auto choices = predict::rectifierChoices(slipway(), library());
  choices.resize(7);
  for (auto _ : state)
    benchmark::DoNotOptimize(predict::consequencesOf(slipway(), library(), choices));
}
BENCHMARK(consequencesSevenRows)->Unit(benchmark::kMillisecond);

void switchOn30s(benchmark::State& state) {
  for (auto _ : state)
    benchmark::DoNotOptimize(predict::switchOnOf(solved().circuit, library()));
}
BENCHMARK(switchOn30s)->Unit(benchmark::kMillisecond);

void sensitivities300EveryPart(benchmark::State& state) {
  const auto parameters = predict::parametersOf(predict::partVariations(solved().circuit, library()));
  circuit::AcPlan plan;
  for (auto _ : state)
    benchmark::DoNotOptimize(circuit::responseSensitivities(*solved().point.system, solved().point.dc.x, band(),
                                                            solved().circuit.probe("jack"),
                                                            solved().circuit.probe("speaker"), parameters, &plan));
  state.counters["parts"] = static_cast<double>(parameters.size());
}
BENCHMARK(sensitivities300EveryPart)->Unit(benchmark::kMicrosecond);

void noise100(benchmark::State& state) {
  circuit::AcPlan plan;
  const auto hertz = circuit::logSpaced(20, 20000, 100);
  for (auto _ : state)
    benchmark::DoNotOptimize(circuit::solveNoise(*solved().point.system, solved().point.dc.x, hertz,
                                                 solved().circuit.probe("speaker"), solved().circuit.probe("jack"),
                                                 &plan));
}
BENCHMARK(noise100)->Unit(benchmark::kMicrosecond);

void monteCarlo1000(benchmark::State& state) {
  circuit::MonteCarloQuestion question;
  question.builds = 1000;
  question.threads = static_cast<int>(state.range(0));
  question.hertz = circuit::logSpaced(20, 20000, 100);
  question.from = solved().circuit.probe("jack");
  question.to = solved().circuit.probe("speaker");
  question.spreads = predict::partSpreads(solved().circuit, 0.1);
  for (auto _ : state) {
    const auto answer = circuit::solveMonteCarlo(*solved().point.system, question);
    state.counters["failures"] = answer->failures;
  }
}
BENCHMARK(monteCarlo1000)->Arg(1)->Arg(2)->Unit(benchmark::kMillisecond)->UseRealTime();

/// A tenth of a second of two notes at the jack. Real-time share, and the error against a tight run as the root mean
/// square of the difference over that of the signal at the speaker, both at 96 kHz.
void transient(benchmark::State& state) {
  const bool accurate = state.range(0) != 0;
  const double volts = state.range(1) != 0 ? 0.5 : 0.002;
  circuit::TransientQuestion question;
  question.duration = 0.1;
  question.outputs = {solved().circuit.probe("speaker")};
  const auto notes = [volts](double t) {
    const double rise = std::min(1.0, t / 0.005);
    return volts * rise * (std::sin(2 * M_PI * 196 * t) + 0.6 * std::sin(2 * M_PI * 293.7 * t));
  };
  question.drive[solved().circuit.part("Pickup")->devices.front()] = {notes, {0.005}};
  const auto tightRun = [&] {
    auto tight = question;
    tight.mode = circuit::TransientQuestion::Mode::accurate;
    tight.relativeTolerance = tight.absoluteVolts = 1e-7;
    return *circuit::solveTransient(*solved().point.system, solved().point.dc.x, tight);
  }();
  question.mode = accurate ? circuit::TransientQuestion::Mode::accurate : circuit::TransientQuestion::Mode::preview;
  circuit::TransientAnswer answer;
  for (auto _ : state)
    answer = *circuit::solveTransient(*solved().point.system, solved().point.dc.x, question);
  state.counters["x real time"] =
      benchmark::Counter(question.duration * static_cast<double>(state.iterations()), benchmark::Counter::kIsRate);
  const double error = (answer.volts - tightRun.volts).norm() / tightRun.volts.norm();
  state.counters["error dB"] = 20 * std::log10(error);
  state.counters["steps"] = static_cast<double>(answer.steps);
  state.counters["Newton per step"] = static_cast<double>(answer.iterations) / static_cast<double>(answer.steps);
}
BENCHMARK(transient)
    ->ArgNames({"accurate", "clipped"})
    ->Args({0, 0})
    ->Args({0, 1})
    ->Args({1, 0})
    ->Args({1, 1})
    ->Unit(benchmark::kMillisecond);

/// The same two notes through a Stepper, by the width of the processor's vector unit: the share of real time.
void stepper(benchmark::State& state) {
  const auto width = static_cast<tubes::Width>(state.range(0));
  const auto widths = tubes::widthsHere();
  if (std::find(widths.begin(), widths.end(), width) == widths.end()) {
    state.SkipWithError("this processor has no such unit");
    return;
  }
  const double volts = state.range(1) != 0 ? 0.5 : 0.002;
  circuit::StepperSetup setup;
  setup.samplesPerSecond = static_cast<double>(state.range(2));
  setup.inputs = {solved().circuit.part("Pickup")->devices.front()};
  setup.outputs = {solved().circuit.probe("speaker")};
  setup.width = width;
  circuit::Stepper played(*solved().point.system, solved().point.dc.x, setup);
  const auto samples = static_cast<int>(0.1 * setup.samplesPerSecond);
  for (auto _ : state) {
    played.restart();
    for (int k = 1; k <= samples; ++k) {
      const double t = k / setup.samplesPerSecond;
      const double note =
          volts * std::min(1.0, t / 0.005) * (std::sin(2 * M_PI * 196 * t) + 0.6 * std::sin(2 * M_PI * 293.7 * t));
      if (!played.step(&note)) state.SkipWithError("a step without a state");
    }
  }
  state.counters["x real time"] =
      benchmark::Counter(0.1 * static_cast<double>(state.iterations()), benchmark::Counter::kIsRate);
  state.counters["evaluations"] =
      static_cast<double>(played.work().evaluations) / static_cast<double>(played.work().steps);
}
BENCHMARK(stepper)
    ->ArgNames({"width", "clipped", "rate"})
    ->ArgsProduct({{2, 4, 8}, {0, 1}, {48000, 96000}})
    ->Unit(benchmark::kMillisecond);

std::shared_ptr<const predict::Sound> phrase(const std::string& id) {
  const auto all = files::readPhrases(testing_support::folder("data"));
  for (const auto& one : all->phrases)
    if (one.id == id) return std::make_shared<const predict::Sound>(one, all->instruments.front());
  return nullptr;
}
predict::Idle idleOf(const char* sample) {
  return *predict::predictIdle(testing_support::sample(sample).ink, library());
}

/// A held drone, which clips all the time, with the supply cycle by cycle.
void burst(benchmark::State& state) {
  static const auto slipwayIdle = idleOf("slipway"), chandleryIdle = idleOf("chandlery");
  static const auto drone = phrase("drone");
  predict::BurstQuestion question{drone, 0.5, static_cast<double>(state.range(1))};
  question.width = static_cast<tubes::Width>(state.range(0));
  const auto widths = tubes::widthsHere();
  if (std::find(widths.begin(), widths.end(), question.width) == widths.end()) {
    state.SkipWithError("this processor has no such unit");
    return;
  }
  const auto& idle = state.range(2) == 0 ? slipwayIdle : chandleryIdle;
  state.SetLabel(state.range(2) == 0 ? "Slipway" : "Chandlery");
  long evaluations = 0;
  double played = 0;
  for (auto _ : state) {
    const auto answer = predict::playBurst(idle, library(), question);
    if (!answer) state.SkipWithError("no answer");
    evaluations = answer->evaluations;
    played = static_cast<double>(answer->output.size()) / question.samplesPerSecond;
  }
  state.counters["x real time"] =
      benchmark::Counter(played * static_cast<double>(state.iterations()), benchmark::Counter::kIsRate);
  state.counters["evaluations"] = static_cast<double>(evaluations) / (played * question.samplesPerSecond);
}
BENCHMARK(burst)
    ->ArgNames({"width", "rate", "chandlery"})
    ->ArgsProduct({{2, 4, 8}, {48000, 96000}, {0}})
    ->ArgsProduct({{4}, {6000, 48000}, {0, 1}})
    ->Unit(benchmark::kMillisecond);

void feelRows(benchmark::State& state) {
  static const auto slipwayIdle = idleOf("slipway");
  static const auto chord = phrase("chord");
  const auto subject = static_cast<predict::FeelSubject>(state.range(0));
  std::size_t rows = 0;
  for (auto _ : state)
    rows = predict::predictFeelRows(slipwayIdle, library(), {subject, {chord, 0.14, 6000}})->rows.size();
  state.counters["rows"] = static_cast<double>(rows);
}
BENCHMARK(feelRows)->ArgName("subject")->DenseRange(0, 4)->Unit(benchmark::kMillisecond)->UseRealTime();

} // namespace
