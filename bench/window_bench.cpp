// From a value step to every visible number and curve on screen, on the largest sample, offscreen, on one core.
#include "predict/overview.h"
#include "support/samples.h"
#include "theme/theme.h"
#include "window/main_window.h"

#include <QApplication>
#include <QTemporaryDir>
#include <benchmark/benchmark.h>
#include <sched.h>

namespace {

using namespace vinegar;

void valueStepToScreen(benchmark::State& state) {
  app::MainWindow window(testing_support::library(), QStringLiteral(VINEGAR_SOURCE_DATA), QString());
  window.resize(1280, 800);
  window.openSample(QStringLiteral("slipway-18"));
  window.showPage(QStringLiteral("Voice"));
  window.show();
  window.selectPart("C2");
  const auto settle = [&] {
    while (!window.answered())
      QApplication::processEvents();
    QApplication::processEvents(); // the paint events that the answer caused
  };
  settle();
  bool up = false;
  for (auto _ : state) {
    up = !up;
    window.session().edit(
        QStringLiteral("step"),
        [&](amp::Document& d) { amp::pencil(d, testing_support::library(), "C2", "value", up ? 330e-9 : 470e-9); },
        QStringLiteral("step"));
    settle();
  }
}
BENCHMARK(valueStepToScreen)->Unit(benchmark::kMillisecond)->Repetitions(9)->ReportAggregatesOnly();

} // namespace

int main(int argc, char** argv) {
  // One core, as promised; the worker and the window share it.
  cpu_set_t one;
  CPU_ZERO(&one);
  CPU_SET(0, &one);
  sched_setaffinity(0, sizeof one, &one);
  static QTemporaryDir home;
  for (const char* variable : {"HOME", "XDG_CONFIG_HOME", "XDG_DATA_HOME", "XDG_RUNTIME_DIR"})
    qputenv(variable, home.path().toUtf8());
  if (qEnvironmentVariableIsEmpty("QT_QPA_PLATFORM")) qputenv("QT_QPA_PLATFORM", "offscreen");
  QApplication application(argc, argv);
  app::loadFonts(QStringLiteral(VINEGAR_SOURCE_DATA));
  benchmark::Initialize(&argc, argv);
  benchmark::RunSpecifiedBenchmarks();
}
