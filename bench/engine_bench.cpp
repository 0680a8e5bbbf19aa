// The engine's hot paths on the largest sample, and the same answers from a plain dense Eigen solve in the same run, so
// that the ratio holds on any machine.
#include "predict/overview.h"
#include "support/samples.h"

#include <benchmark/benchmark.h>

namespace {

using namespace vinegar;
using testing_support::library;

const amp::Design& slipway() {
  static const amp::Design design = testing_support::sample("slipway-18").ink;
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
void overviewAfterOneStep(benchmark::State& state) {
  predict::Warmth warmth;
  const predict::OverviewQuestion question{"jack", "speaker", band(), "C2"};
  bool up = false;
  for (auto _ : state) {
    up = !up;
    const auto design = amp::withChanges(slipway(), library(), {{"C2", "value", 22e-6, up ? 330e-9 : 470e-9}});
    benchmark::DoNotOptimize(predict::predictOverview(design, library(), question, &warmth));
  }
}
BENCHMARK(overviewAfterOneStep)->Unit(benchmark::kMicrosecond);

} // namespace
