// From a value step to every visible number and curve on screen, on the largest sample, offscreen, on one core. All
// threads' CPU time counts; the dense solve of the same run is the yardstick.
#include "amp/acts/acts.h"
#include "circuit/ac.h"
#include "support/paths.h"
#include "support/samples.h"
#include "theme/theme.h"
#include "window/main_window.h"

#include <QApplication>
#include <QElapsedTimer>
#include <QLabel>
#include <QTemporaryDir>
#include <benchmark/benchmark.h>
#include <chrono>
#include <ctime>
#include <sched.h>

namespace {

using namespace vinegar;
using testing_support::library;

double processSeconds() {
  timespec time{};
  clock_gettime(CLOCK_PROCESS_CPUTIME_ID, &time);
  return static_cast<double>(time.tv_sec) + 1e-9 * static_cast<double>(time.tv_nsec);
}

double clockSeconds() {
  return std::chrono::duration<double>(std::chrono::steady_clock::now().time_since_epoch()).count();
}

QString dataFolder() { return QString::fromStdString(testing_support::folder("data")); }

void ac300PlainDense(benchmark::State& state) {
  static const auto solved = testing_support::solve(testing_support::sample("slipway").ink);
  static const auto band = circuit::logSpaced(10, 100000, 300);
  for (auto _ : state)
    benchmark::DoNotOptimize(circuit::solveAcDense(*solved.point.system, solved.point.dc.x, band));
}
BENCHMARK(ac300PlainDense)->Unit(benchmark::kMillisecond)->MeasureProcessCPUTime();

class OpenWindow {
public:
  explicit OpenWindow(const char* page) : window(library(), dataFolder(), QString()) {
    window.resize(1280, 800);
    window.openSample(QStringLiteral("slipway"));
    window.showPage(QLatin1String(page));
    window.show();
    rest();
  }
  /// What was asked last is on screen.
  void settle() {
    while (!window.answered())
      QApplication::processEvents(QEventLoop::WaitForMoreEvents);
    QApplication::processEvents(); // the paint events that the answer caused
  }
  /// The same of findings and slower views.
  void rest() {
    while (!window.idle())
      QApplication::processEvents(QEventLoop::WaitForMoreEvents);
    QApplication::processEvents();
  }
  void pencil(const char* part, double value) {
    window.session().edit(
        QStringLiteral("step"), [&](amp::Document& d) { amp::pencil(d, library(), part, "value", value); },
        QStringLiteral("step"));
  }
  app::MainWindow window;
};

struct Stepped {
  const char* part;
  double from;
};
struct Sample {
  const char* name;
  Stepped parts[4]; ///< a cathode bypass, a plate load, the output stage's bias, the reservoir
};
constexpr Sample samples[] = {{"slipway", {{"C2", 330e-9}, {"R3", 100e3}, {"R28", 270}, {"C15", 32e-6}}},
                              {"chandlery", {{"C8", 22e-6}, {"R13", 150e3}, {"R34", 15e3}, {"C3", 32e-6}}}};

constexpr const char* pages[] = {"Voice", "Supply", "Stages", "Levels", "Arrange", "Log"};

void useCores(int count) {
  cpu_set_t cores;
  CPU_ZERO(&cores);
  for (int core = 0; core < count; ++core)
    CPU_SET(core, &cores);
  sched_setaffinity(0, sizeof cores, &cores);
}

/// One value after another, none of which was asked before: what it costs all threads together, or by the clock on two
/// cores.
void valueStepToScreen(benchmark::State& state) {
  const auto& sample = samples[state.range(0)];
  const char* page = pages[state.range(1)];
  const auto& stepped = sample.parts[state.range(2)];
  const bool byClock = state.range(3) != 0;
  if (byClock) useCores(2);
  OpenWindow open(page);
  open.window.openSample(QLatin1String(sample.name));
  open.rest();
  open.window.selectPart(stepped.part);
  open.pencil(stepped.part, stepped.from);
  open.rest();
  int step = 0;
  for (auto _ : state) {
    ++step;
    const double before = byClock ? clockSeconds() : processSeconds();
    open.pencil(stepped.part, stepped.from * (step % 2 ? 1.2 : 1.0) * (1 + 1e-4 * step));
    open.settle();
    state.SetIterationTime((byClock ? clockSeconds() : processSeconds()) - before);
    // Turned on at once: step effects and findings follow when the builder rests.
  }
  state.SetLabel(std::string(sample.name) + ' ' + page + ' ' + stepped.part +
                 (byClock ? ", by the clock on two cores" : ""));
  if (byClock) useCores(1);
}
BENCHMARK(valueStepToScreen)
    ->ArgNames({"sample", "page", "part", "clock"})
    ->ArgsProduct({{0, 1}, {0, 1, 2, 3, 4, 5}, {0, 1, 2, 3}, {0}})
    ->ArgsProduct({{0, 1}, {0, 1, 2, 3, 4, 5}, {1}, {1}})
    ->Unit(benchmark::kMillisecond)
    ->UseManualTime();

/// A stage put in or taken out, with all that stands on screen, on the largest sample: what it costs all threads
/// together, or by the clock on two cores.
void structuralMarkToScreen(benchmark::State& state) {
  const bool byClock = state.range(1) != 0;
  if (byClock) useCores(2);
  OpenWindow open(state.range(0) ? "Arrange" : "Voice");
  open.window.openSample("chandlery");
  open.rest();
  auto& session = open.window.session();
  int step = 0;
  for (auto _ : state) {
    const double before = byClock ? clockSeconds() : processSeconds();
    const auto& library = session.library();
    const auto next = ++step % 2 ? amp::insertSection(session.pencilled(), library, amp::NameBook(session.document()),
                                                      {"line", "normal"}, "triode-common-cathode")
                                 : amp::removeSection(session.pencilled(), library, session.pencilled().line[3].id);
    session.edit("step", [&](amp::Document& d) { amp::pencil(d, library, *next); });
    open.settle();
    state.SetIterationTime((byClock ? clockSeconds() : processSeconds()) - before);
    if (byClock) open.rest();
  }
  state.SetLabel(std::string(state.range(0) ? "Arrange" : "Voice") + (byClock ? ", by the clock on two cores" : ""));
  if (byClock) useCores(1);
}
BENCHMARK(structuralMarkToScreen)
    ->ArgNames({"page", "clock"})
    ->ArgsProduct({{0, 1}, {0, 1}})
    ->Unit(benchmark::kMillisecond)
    ->UseManualTime();

/// From a value step to what the Feel page shows of it, by the clock, on two cores: its beginning, coarse, and all of
/// it, fine, after which nothing more is asked. The first is with nothing known, ink and pencil both.
void burstToScreen(benchmark::State& state) {
  useCores(2);
  OpenWindow open("Feel");
  auto* answer = open.window.findChild<QLabel*>(QStringLiteral("burstAnswer"));
  const bool whole = state.range(0) != 0;
  int step = 0;
  for (auto _ : state) {
    const auto before = answer->text();
    const auto start = std::chrono::steady_clock::now();
    open.pencil("C15", 32e-6 * (1 + 0.05 * ++step));
    while (answer->text() == before || (whole && !open.window.idle()))
      QApplication::processEvents(QEventLoop::WaitForMoreEvents);
    QApplication::processEvents();
    state.SetIterationTime(std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count());
    open.rest();
  }
  state.SetLabel(whole ? "all of it" : "its beginning");
  useCores(1);
}
BENCHMARK(burstToScreen)->ArgName("whole")->Arg(0)->Arg(1)->Unit(benchmark::kMillisecond)->UseManualTime();

QElapsedTimer started() {
  QElapsedTimer timer;
  timer.start();
  return timer;
}

/// Findings of what stands, after a rest, with nothing known.
void findingsAfterARest(benchmark::State& state) {
  OpenWindow open("Voice");
  int step = 0;
  for (auto _ : state) {
    open.pencil("C2", 330e-9 * (1 + 1e-4 * ++step));
    open.settle();
    // First the page's own readings, which follow a frame after the turning; findings wait for longer.
    for (QElapsedTimer timer = started(); timer.elapsed() < 50;)
      QCoreApplication::processEvents();
    const double before = processSeconds();
    while (!open.window.findings().quiet()) // what the vitals ask after them is another question
      QCoreApplication::processEvents(QEventLoop::WaitForMoreEvents);
    state.SetIterationTime(processSeconds() - before);
    open.rest();
  }
}
BENCHMARK(findingsAfterARest)->Unit(benchmark::kMillisecond)->UseManualTime();

/// A window made, the sample opened and its first complete picture painted; without the toolkit's own start.
void firstPicture(benchmark::State& state) {
  for (auto _ : state) {
    const double before = processSeconds();
    OpenWindow open("Voice");
    open.window.grab();
    state.SetIterationTime(processSeconds() - before);
  }
}
BENCHMARK(firstPicture)->Unit(benchmark::kMillisecond)->UseManualTime();

} // namespace

int main(int argc, char** argv) {
  // One core, as promised; the workers and the window share it.
  useCores(1);
  static QTemporaryDir home;
  for (const char* variable : {"HOME", "XDG_CONFIG_HOME", "XDG_DATA_HOME", "XDG_RUNTIME_DIR"})
    qputenv(variable, home.path().toUtf8());
  if (qEnvironmentVariableIsEmpty("QT_QPA_PLATFORM")) qputenv("QT_QPA_PLATFORM", "offscreen");
  QApplication application(argc, argv);
  app::loadFonts(dataFolder());
  benchmark::Initialize(&argc, argv);
  benchmark::RunSpecifiedBenchmarks();
}
