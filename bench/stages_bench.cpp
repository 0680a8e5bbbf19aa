// Stages, Levels and Voice: what a page waits for. Ratios to ac300PlainDense of bench/engine_bench.cpp in the same run.
#include "circuit/ac.h"
#include "predict/choices/swap.h"
#include "predict/levels/clip_order.h"
#include "predict/levels/levels.h"
#include "predict/quiet/hiss.h"
#include "predict/stages/stage_spread.h"
#include "predict/stages/stages.h"
#include "predict/voice/fit.h"
#include "predict/voice/rank.h"
#include "predict/voice/readouts.h"
#include "predict/voice/tolerance.h"
#include "predict/voice/travel.h"
#include "support/samples.h"

#include <benchmark/benchmark.h>

namespace {

using namespace vinegar;
using testing_support::library;

const predict::Idle& idle(bool largest) {
  static const auto make = [](const char* name) {
    return *predict::predictIdle(testing_support::sample(name).ink, library());
  };
  static const predict::Idle slipway = make("slipway"), chandlery = make("chandlery");
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

// The Voice page.

void readouts(benchmark::State& state) {
  const auto& one = idle(state.range(0) != 0);
  for (auto _ : state)
    benchmark::DoNotOptimize(predict::predictReadouts(one, library(), {}));
}
BENCHMARK(readouts)->ArgName("largest")->Arg(0)->Arg(1)->Unit(benchmark::kMillisecond);

void ranking(benchmark::State& state) {
  const auto& one = idle(state.range(0) != 0);
  for (auto _ : state)
    benchmark::DoNotOptimize(predict::predictRanking(one, library(), {}));
}
BENCHMARK(ranking)->ArgName("largest")->Arg(0)->Arg(1)->Unit(benchmark::kMillisecond);

void envelope11x11x11(benchmark::State& state) {
  const auto& one = idle(state.range(0) != 0);
  for (auto _ : state)
    benchmark::DoNotOptimize(predict::predictEnvelope(one, library(), {{"Treble", "Bass", "Middle"}}));
}
BENCHMARK(envelope11x11x11)->ArgName("largest")->Arg(0)->Arg(1)->Unit(benchmark::kMillisecond)->UseRealTime();

void tolerance500(benchmark::State& state) {
  const auto& one = idle(state.range(0) != 0);
  for (auto _ : state)
    benchmark::DoNotOptimize(predict::predictTolerance(one, library(), {}));
}
BENCHMARK(tolerance500)->ArgName("largest")->Arg(0)->Arg(1)->Unit(benchmark::kMillisecond)->UseRealTime();

/// Four parts of the stack; with `moving` two of them carry direct current.
void fit(benchmark::State& state) {
  const auto& one = idle(false);
  predict::FitQuestion question;
  question.target = {{60, 0}, {120, 3}, {400, -6}, {1000, -2}, {4000, 4}, {8000, 2}};
  question.parts = state.range(0) ? std::vector<std::string>{"C4", "R5", "R4", "R7"}
                                  : std::vector<std::string>{"C4", "R5", "C5", "C6"};
  for (auto _ : state)
    benchmark::DoNotOptimize(predict::predictFit(one, library(), question));
}
BENCHMARK(fit)->ArgName("moving")->Arg(0)->Arg(1)->Unit(benchmark::kMillisecond)->UseRealTime();

void hiss(benchmark::State& state) {
  const auto& one = idle(state.range(0) != 0);
  for (auto _ : state)
    benchmark::DoNotOptimize(predict::predictHiss(one, library(), {true}));
}
BENCHMARK(hiss)->ArgName("largest")->Arg(0)->Arg(1)->Unit(benchmark::kMillisecond);

void spread500(benchmark::State& state) {
  const auto& one = idle(state.range(0) != 0);
  for (auto _ : state)
    benchmark::DoNotOptimize(predict::predictSpread(one, library(), {"V2a", {}, 1000, 500}));
}
BENCHMARK(spread500)->ArgName("largest")->Arg(0)->Arg(1)->Unit(benchmark::kMillisecond)->UseRealTime();

} // namespace
