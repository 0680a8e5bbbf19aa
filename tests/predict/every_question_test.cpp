// Every question under every misfortune: whatever is missing, an answer or a Problem that says what; told to stop at
// whatever moment, it stops.
#include "amp/acts/acts.h"
#include "audit/supply_rules.h"
#include "predict/choices/consequences.h"
#include "predict/choices/swap.h"
#include "predict/feel/compression.h"
#include "predict/feel/feel_choices.h"
#include "predict/levels/clip_order.h"
#include "predict/levels/headroom.h"
#include "predict/levels/levels.h"
#include "predict/overview/steps.h"
#include "predict/overview/trial.h"
#include "predict/quiet/hiss.h"
#include "predict/stages/explain.h"
#include "predict/stages/power_stage.h"
#include "predict/stages/propose.h"
#include "predict/stages/splitter.h"
#include "predict/stages/stage_spread.h"
#include "predict/supply/regulation.h"
#include "predict/supply/supply_budget.h"
#include "predict/supply/supply_events.h"
#include "predict/voice/rank.h"
#include "predict/voice/readouts.h"
#include "predict/voice/section_gains.h"
#include "predict/voice/tolerance.h"
#include "predict/voice/travel.h"
#include "predict/voice/variants.h"
#include "predict/wave/power.h"
#include "support/bench_design.h"
#include "support/phrases.h"
#include "support/samples.h"

#include <atomic>
#include <gtest/gtest.h>

namespace vinegar::predict {
namespace {

using testing_support::library;

/// Why there was no answer; nothing where there was one.
using Outcome = std::optional<Problem>;
struct Asked {
  const char* name;
  std::function<Outcome(const Idle& idle, const std::string& tube, const std::string& control, const GoOn& goOn)> ask;
};
template <class A> Outcome of(const tl::expected<A, Problem>& answer) {
  return answer ? std::nullopt : Outcome(answer.error());
}

BurstQuestion burst() {
  BurstQuestion question{testing_support::sound("chord"), 0.1, 6000};
  question.averaged = true;
  question.mostSeconds = 0.3;
  return question;
}

const std::vector<Asked>& questions() {
#define VINEGAR_ASKED(name, ...)                                                                                       \
  Asked {                                                                                                              \
    name, [](const Idle& i, [[maybe_unused]] const std::string& tube, [[maybe_unused]] const std::string& control,     \
             const GoOn& g) { return of(__VA_ARGS__); }                                                                \
  }
  static const std::vector<Asked> all{
      VINEGAR_ASKED("response", predictResponse(i, library(), {"jack", "speaker", {100, 1000}}, g)),
      VINEGAR_ASKED("readouts", predictReadouts(i, library(), {}, g)),
      VINEGAR_ASKED("ranking", predictRanking(i, library(), {}, g)),
      VINEGAR_ASKED("travel", predictTravel(i, library(), {control}, g)),
      VINEGAR_ASKED("gains", predictSectionGains(i, library(), {}, g)),
      VINEGAR_ASKED("tolerance", predictTolerance(i, library(), {"jack", "speaker", {}, 20}, g)),
      VINEGAR_ASKED("variants", predictVariants(i, library(), {}, g)),
      VINEGAR_ASKED("hiss", predictHiss(i, library(), {true}, g)),
      VINEGAR_ASKED("levels", predictLevels(i, library(), {1000, 0.1, true}, g)),
      VINEGAR_ASKED("worst levels", predictLevels(i, library(), {0, 0.1, false}, g)),
      VINEGAR_ASKED("map", predictLevelMap(i, library(), {control, 1000, 5, false}, g)),
      VINEGAR_ASKED("clipping", predictClipping(i, library(), {}, g)),
      VINEGAR_ASKED("headroom", predictHeadroom(i, library(), {tube}, g)),
      VINEGAR_ASKED("clean power", predictCleanPower(i, library(), {}, g)),
      VINEGAR_ASKED("stages", predictStages(i, library(), {}, g)),
      VINEGAR_ASKED("curves", predictStageCurves(i, library(), {tube}, g)),
      VINEGAR_ASKED("path", predictStagePath(i, library(), {tube}, g)),
      VINEGAR_ASKED("splitters", predictSplitters(i, library(), {true}, g)),
      VINEGAR_ASKED("power stages", predictPowerStages(i, library(), {}, g)),
      VINEGAR_ASKED("spread", predictSpread(i, library(), {tube, {}, 1000, 20}, g)),
      VINEGAR_ASKED("pair", predictPair(i, library(), {tube, 0.03, 0.035}, g)),
      VINEGAR_ASKED("explanation", explainReadings(i, library(), {tube, {{"plate", 100}}}, g)),
      VINEGAR_ASKED("proposals",
                    predictProposals(i, library(), {tube, ProposeQuestion::Wanted::plateVolts, 150, 1000}, g)),
      VINEGAR_ASKED("swaps", predictSwaps(i, library(), {tube}, g)),
      VINEGAR_ASKED("supply", predictSupplyReport(i, library(), {}, g)),
      VINEGAR_ASKED("budget", predictBudget(i, library(), {}, g)),
      VINEGAR_ASKED("regulation", predictRegulation(i, library(), {false}, g)),
      VINEGAR_ASKED("consequences", predictConsequences(i, library(), {"V5", true}, g)),
      VINEGAR_ASKED("series resistor", predictSeriesResistor(i, library(), {20, 0.15}, g)),
      VINEGAR_ASKED("switch-on", predictSwitchOn(i, library(), {}, g)),
      VINEGAR_ASKED("discharge", predictDischarge(i, library(), {}, g)),
      VINEGAR_ASKED("steps", predictSteps(i, library(), {"R3"}, g)),
      VINEGAR_ASKED("trial", predictTrial(i, library(), {}, g)),
      VINEGAR_ASKED("vitals", predictVitals(i, library(), {}, g)),
      VINEGAR_ASKED("burst", predictFeel(i, library(), burst(), g)),
      VINEGAR_ASKED("blame", predictBlame(i, library(), burst(), g)),
      VINEGAR_ASKED("compression", predictCompression(i, library(), burst(), g)),
      VINEGAR_ASKED("rectifiers played", predictFeelRows(i, library(), {FeelSubject::rectifiers, burst()}, g)),
      VINEGAR_ASKED("findings", audit::auditIdle(i, library(), audit::AuditQuestion{}, g)),
      VINEGAR_ASKED("findings played", audit::auditPlayed(i, library(), {testing_support::sound("chord")}, g))};
#undef VINEGAR_ASKED
  return all;
}

amp::Design without(amp::Design design, const std::string& section) {
  for (const auto& use : design.line)
    if (use.section.starts_with(section)) return *amp::removeSection(design, library(), use.id);
  ADD_FAILURE() << section;
  return design;
}

TEST(EveryQuestion, HasAnAnswerOrAReasonWhateverIsMissing) {
  VINEGAR_LONG_TEST(numbers);
  const auto slipway = testing_support::sample("slipway").ink;
  auto noTube = testing_support::skeleton("9-one-stage").ink;
  std::erase_if(noTube.line, [](const auto& use) { return use.section.starts_with("triode"); });
  auto noMains = slipway;
  noMains.supply.clear();
  amp::Design empty;
  for (const auto& [what, design] :
       {std::pair{"no mains", noMains},
        {"a bench supply", testing_support::skeleton("9-one-stage").ink},
        {"no tube", noTube},
        {"no signal", without(slipway, "instrument")},
        {"an open grid", amp::withChanges(slipway, library(), {{"R9", "fitted", true, false}})},
        {"no output stage", without(slipway, "push-pull")},
        {"no speaker", without(slipway, "speaker")},
        {"nothing", empty}}) {
    const auto idle = predictIdle(design, library());
    if (!idle) { // and so says every question
      EXPECT_FALSE(idle.error().message.empty()) << what;
      continue;
    }
    for (const auto& question : questions()) {
      SCOPED_TRACE(std::string(question.name) + ", " + what);
      for (const char* tube : {"V1a", "V3", "V99", ""})
        if (const auto why = question.ask(*idle, tube, tube[0] ? "Volume" : "", {})) {
          EXPECT_FALSE(why->message.empty());
          EXPECT_FALSE(why->cancelled);
        }
    }
  }
}

/// Told to stop at the k-th call it asks no more than once a thread again, and what comes is that it was stopped,
/// unless it was through.
TEST(EveryQuestion, StopsWhenItIsTold) {
  VINEGAR_LONG_TEST(numbers);
  const auto idle = testing_support::sampleAtRest("slipway");
  for (const auto& question : questions()) {
    SCOPED_TRACE(question.name);
    std::atomic<int> calls = 0;
    question.ask(idle, "V3", "Volume", [&](double) {
      ++calls;
      return true;
    });
    const int all = calls;
    for (const int stop : {1, 2, all / 2, all}) {
      if (stop < 1 || stop > all) continue;
      calls = 0;
      const auto outcome = question.ask(idle, "V3", "Volume", [&](double) { return ++calls < stop; });
      if (calls < stop) continue; // with two threads it may be through before
      EXPECT_TRUE(!outcome ? stop == all : outcome->cancelled)
          << "at " << stop << " of " << all << (outcome ? ": " + outcome->line() : ": an answer");
      EXPECT_LE(calls, stop + 24) << "at " << stop << " of " << all;
    }
  }
}

} // namespace
} // namespace vinegar::predict
