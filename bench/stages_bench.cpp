// Stages and Levels: what a page waits for. Ratios to ac300PlainDense of bench/engine_bench.cpp in the same run.
#include "circuit/ac.h"
#include "predict/levels.h"
#include "predict/stage_spread.h"
#include "predict/stages.h"
#include "predict/swap.h"
#include "support/samples.h"

#include <benchmark/benchmark.h>

namespace {

using namespace vinegar;
using testing_support::library;

const predict::Idle& idle(bool largest) {
  static const auto make = [](const char* name) {
    return *predict::predictIdle(testing_support::sample(name).ink, library());
  };
  static const predict::Idle slipway = make("slipway-18"), chandlery = make("chandlery-22");
  return largest ? chandlery : slipway;
}

void dense(benchmark::State& state) {
  const auto& one = idle(false);
  const auto hertz = circuit::logSpaced(20, 20000, 300);
  for (auto _ : state)
    benchmark::DoNotOptimize(circuit::solveAcDense(*one.point.system, one.point.dc.x, hertz));
}
BENCHMARK(dense)->Name("ac300PlainDense")->Unit(benchmark::kMillisecond);

/// Curves, lines and readings of one tube: what a value step draws anew.
void stageCurvesAndReadings(benchmark::State& state) {
  const auto& one = idle(state.range(0) != 0);
  for (auto _ : state) {
    benchmark::DoNotOptimize(predict::predictStageCurves(one, library(), {"V2a", 1000, false}));
    benchmark::DoNotOptimize(predict::predictStages(one, library()));
  }
}
BENCHMARK(stageCurvesAndReadings)->ArgName("largest")->Arg(0)->Arg(1)->Unit(benchmark::kMillisecond);

void swapTable(benchmark::State& state) {
  const auto& one = idle(state.range(0) != 0);
  std::size_t rows = 0;
  for (auto _ : state)
    rows = predict::predictSwaps(one, library(), {"V2a", 1000})->rows.size();
  state.counters["types"] = static_cast<double>(rows);
}
BENCHMARK(swapTable)->ArgName("largest")->Arg(0)->Arg(1)->Unit(benchmark::kMillisecond);

void levelPicture(benchmark::State& state) {
  const auto& one = idle(state.range(0) != 0);
  for (auto _ : state)
    benchmark::DoNotOptimize(predict::predictLevels(one, library(), {1000, 0.1, false}));
}
BENCHMARK(levelPicture)->ArgName("largest")->Arg(0)->Arg(1)->Unit(benchmark::kMillisecond);

void firstClipping(benchmark::State& state) {
  const auto& one = idle(state.range(0) != 0);
  for (auto _ : state)
    benchmark::DoNotOptimize(predict::predictClipping(one, library(), {1000, predict::ClippingQuestion::Which::first}));
}
BENCHMARK(firstClipping)->ArgName("largest")->Arg(0)->Arg(1)->Unit(benchmark::kMillisecond);

void levelMap(benchmark::State& state) {
  const auto& one = idle(state.range(0) != 0);
  for (auto _ : state)
    benchmark::DoNotOptimize(predict::predictLevelMap(one, library(), {"Volume", 1000, 40, state.range(1) != 0}));
}
BENCHMARK(levelMap)
    ->ArgNames({"largest", "exact"})
    ->ArgsProduct({{0, 1}, {0, 1}})
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime();

void spread500(benchmark::State& state) {
  const auto& one = idle(state.range(0) != 0);
  for (auto _ : state)
    benchmark::DoNotOptimize(predict::predictSpread(one, library(), {"V2a", {}, 1000, 500}));
}
BENCHMARK(spread500)->ArgName("largest")->Arg(0)->Arg(1)->Unit(benchmark::kMillisecond)->UseRealTime();

} // namespace
