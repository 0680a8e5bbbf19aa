// Asking in the background: what is delivered, what is dropped, what is stopped, what is known already.
#include "ask/findings_desk.h"
#include "document/session.h"
#include "predict/overview/vitals.h"
#include "support/samples.h"

#include <QTest>
#include <QThread>
#include <atomic>
#include <gtest/gtest.h>

namespace vinegar::app {
namespace {

using testing_support::library;

/// A question whose answer takes as long as the test wants.
struct Slow {
  int number = 0;
  bool operator==(const Slow&) const = default;
};
struct Said {
  int number = 0;
  double ohms = 0; ///< of R3, so that the test knows which design it was
};
std::atomic<int> ran, stopped;
std::atomic<bool> hold, listens;

tl::expected<Said, Problem> saySlowly(const predict::Idle& idle, const amp::Library&, const Slow& question,
                                      const predict::GoOn& goOn) {
  ++ran;
  while (hold) {
    QThread::msleep(1);
    if (listens && !goOn(0.5)) {
      ++stopped;
      return tl::unexpected(Problem::stopped());
    }
  }
  const auto* part = idle.circuit->part("R3");
  return Said{question.number, part ? part->resolved.value() : 0};
}

class Asks : public testing::Test {
protected:
  void SetUp() override {
    ran = stopped = 0;
    hold = false;
    listens = true;
    QObject::connect(&session_, &Session::replaced, &asker_, &Asker::startAfresh);
    QObject::connect(&session_, &Session::changed, &asker_, [this] { asker_.follow(session_.sides()); });
    open("slipway");
  }
  void TearDown() override { hold = false; }
  void open(const char* name) {
    ASSERT_FALSE(session_.open(QString::fromStdString(testing_support::samplePath(name).string()), true));
  }
  void pencil(double ohms) {
    session_.edit(QStringLiteral("p"), [&](amp::Document& d) { amp::pencil(d, library(), "R3", "value", ohms); });
  }
  bool settles() {
    return QTest::qWaitFor([this] { return asker_.quiet(); }, 60000);
  }
  static bool waitUntil(const std::function<bool()>& is) { return QTest::qWaitFor(is, 20000); }

  Session session_{library(), {}};
  Asker asker_{library()};
};

TEST_F(Asks, EachSideIsAskedOnceAndKnownWhenItComesBack) {
  Asking<Slow, Said> asking(asker_, saySlowly, Weight::quick);
  Answers<Said> last;
  asking.answered = [&](const auto& answers) { last = answers; };
  asking.ask({1});
  ASSERT_TRUE(settles());
  ASSERT_EQ(last.sides.size(), 1U);
  EXPECT_EQ(last.now()->get()->ohms, 120e3);
  pencil(100e3);
  ASSERT_TRUE(settles());
  ASSERT_EQ(last.sides.size(), 2U);
  EXPECT_EQ(last.ink()->get()->ohms, 120e3);
  EXPECT_EQ(last.pencil()->get()->ohms, 100e3);
  EXPECT_EQ(last.now(), last.pencil());
  EXPECT_EQ(ran, 2); // the ink's design is the same, so it was not asked again
  asking.ask({2});
  ASSERT_TRUE(settles());
  EXPECT_EQ(ran, 4);
  asking.ask({1}); // known
  ASSERT_TRUE(settles());
  EXPECT_EQ(ran, 4);
  EXPECT_EQ(last.now()->get()->number, 1);
}

TEST_F(Asks, WhileAValueIsTurnedEveryAnswerThatIsNewerIsShown) {
  Asking<Slow, Said> asking(asker_, saySlowly, Weight::quick, Of::now);
  std::vector<double> shown;
  asking.answered = [&](const auto& answers) { shown.push_back(answers.now()->get()->ohms); };
  ASSERT_TRUE(settles());
  hold = true;
  asking.ask({1});
  ASSERT_TRUE(waitUntil([] { return ran == 1; }));
  for (double ohms = 100e3; ohms > 50e3; ohms -= 10e3) // turned while it works
    pencil(ohms);
  hold = false;
  ASSERT_TRUE(settles());
  // What ran was shown though overtaken; of what waited only the newest was worked out.
  EXPECT_EQ(shown, (std::vector<double>{120e3, 60e3}));
}

TEST_F(Asks, HeavyWorkThatIsOvertakenStopsAndIsNotShown) {
  Asking<Slow, Said> asking(asker_, saySlowly, Weight::heavy, Of::now);
  std::vector<double> shown;
  asking.answered = [&](const auto& answers) { shown.push_back(answers.now()->get()->ohms); };
  ASSERT_TRUE(settles());
  hold = true;
  asking.ask({1});
  ASSERT_TRUE(waitUntil([] { return ran == 1; }));
  pencil(100e3);
  ASSERT_TRUE(waitUntil([] { return stopped >= 1; }));
  hold = false;
  ASSERT_TRUE(settles());
  EXPECT_EQ(shown, std::vector<double>{100e3});
}

/// Asked first, and yet after it; and nobody who looks at a page waits for it.
TEST_F(Asks, APagesHeavyWorkGoesBeforeBackgroundWork) {
  Asking<Slow, Said> runs(asker_, saySlowly, Weight::heavy, Of::now),
      behind(asker_, saySlowly, Weight::background, Of::now), page(asker_, saySlowly, Weight::heavy, Of::now);
  std::vector<int> order;
  for (auto* asking : {&runs, &behind, &page})
    asking->answered = [&](const auto& answers) { order.push_back(answers.now()->get()->number); };
  ASSERT_TRUE(settles());
  hold = true;
  runs.ask({1});
  ASSERT_TRUE(waitUntil([] { return ran == 1; }));
  behind.ask({2});
  page.ask({3});
  EXPECT_FALSE(asker_.pagesAnswered());
  hold = false;
  ASSERT_TRUE(waitUntil([&] { return asker_.pagesAnswered(); }));
  ASSERT_TRUE(settles());
  EXPECT_EQ(order, (std::vector<int>{1, 3, 2}));
}

TEST_F(Asks, TheBuilderCancelsWhatRunsAndWhatWaits) {
  Asking<Slow, Said> asking(asker_, saySlowly, Weight::heavy, Of::now);
  std::vector<bool> cancelled;
  asking.answered = [&](const Answers<Said>& answers) {
    cancelled.push_back(answers.problem() && answers.problem()->cancelled);
  };
  ASSERT_TRUE(settles());
  hold = true;
  asking.ask({1});
  ASSERT_TRUE(waitUntil([] { return ran == 1; }));
  EXPECT_TRUE(asking.busy());
  EXPECT_TRUE(waitUntil([&] { return asking.share() == 0.5; })); // as the work told it
  asking.cancel();
  ASSERT_TRUE(waitUntil([&] { return !asking.busy(); }));
  EXPECT_EQ(cancelled, std::vector<bool>{true});
  hold = false;
  asking.again(); // and is not remembered as an answer
  ASSERT_TRUE(settles());
  EXPECT_EQ(cancelled, (std::vector<bool>{true, false}));
}

/// What was given up was that question: the next is answered, whether the first ran, waited or was dropped meanwhile.
TEST_F(Asks, AQuestionAfterOneThatWasGivenUpIsAnswered) {
  Asking<Slow, Said> first(asker_, saySlowly, Weight::heavy, Of::now),
      second(asker_, saySlowly, Weight::heavy, Of::now);
  std::vector<int> shown;
  second.answered = [&](const Answers<Said>& answers) {
    shown.push_back(answers.nowValue() ? answers.nowValue()->number : -1);
  };
  ASSERT_TRUE(settles());
  listens = false;
  hold = true;
  first.ask({1}); // takes the one heavy thread
  ASSERT_TRUE(waitUntil([] { return ran == 1; }));
  second.ask({2});
  second.cancel(); // while it waits
  second.rest();
  second.ask({3});
  second.cancel();
  second.ask({4});
  hold = false;
  ASSERT_TRUE(settles());
  EXPECT_EQ(shown, std::vector<int>{4});
  // Dropped while it ran, and the next cancelled while the dropped one still runs: that next one answers "cancelled".
  hold = true;
  shown.clear();
  const int before = ran;
  second.ask({5});
  ASSERT_TRUE(waitUntil([&] { return ran > before; }));
  second.drop();
  second.ask({6});
  second.cancel();
  hold = false;
  ASSERT_TRUE(settles());
  EXPECT_EQ(shown, std::vector<int>{-1});
}

/// Whatever runs, waits or is on its way when another document opens is never delivered.
TEST_F(Asks, NothingOfTheFormerDocumentIsDelivered) {
  for (const auto weight : {Weight::quick, Weight::heavy})
    for (const int wait : {0, 1, 5, 20}) {
      Asking<Slow, Said> asking(asker_, saySlowly, weight);
      bool replaced = false;
      std::vector<double> after;
      asking.answered = [&](const auto& answers) {
        if (replaced) after.push_back(answers.ink()->get() ? answers.ink()->get()->ohms : -1);
      };
      asking.ask({wait});
      pencil(90e3 + wait);
      QTest::qWait(wait);
      open("net-loft");
      replaced = true;
      ASSERT_TRUE(settles());
      for (const double ohms : after)
        EXPECT_NE(ohms, 120e3);
      EXPECT_FALSE(after.empty());
      replaced = false;
      open("slipway");
      ASSERT_TRUE(settles());
    }
}

TEST_F(Asks, WhatSleepsAsksNothingAndCatchesUpWhenItWakes) {
  Asking<Slow, Said> asking(asker_, saySlowly, Weight::heavy);
  int answers = 0;
  asking.answered = [&](const auto&) { ++answers; };
  asking.sleep();
  asking.ask({1});
  for (double ohms = 100e3; ohms > 50e3; ohms -= 10e3)
    pencil(ohms);
  ASSERT_TRUE(settles());
  EXPECT_EQ(ran, 0);
  asking.wake();
  ASSERT_TRUE(settles());
  EXPECT_EQ(answers, 1);
  asking.sleep();
  asking.wake(); // nothing is late
  ASSERT_TRUE(settles());
  EXPECT_EQ(ran, 2); // ink and pencil
}

TEST_F(Asks, EndsWithWorkRunningAndWaiting) {
  hold = true;
  {
    Asking<Slow, Said> asking(asker_, saySlowly, Weight::quick);
    asking.answered = [](const auto&) { ADD_FAILURE() << "delivered to something that is gone"; };
    asking.ask({1});
    ASSERT_TRUE(waitUntil([] { return ran == 1; }));
    asking.ask({2});
  }
  hold = false;
  EXPECT_TRUE(settles());
  QTest::qWait(20);
}

/// Sides that share nothing with each other get the answers that a fresh solve gives, in any order of turning.
TEST_F(Asks, AnswersAreThoseOfAFreshSolve) {
  Asking<predict::VitalsQuestion, predict::Vitals> asking(asker_, predict::predictVitals, Weight::quick);
  Answers<predict::Vitals> last;
  asking.answered = [&](const auto& answers) { last = answers; };
  asking.ask({});
  for (const double ohms : {100e3, 47e3, 220e3, 100e3, 120e3}) {
    pencil(ohms);
    QTest::qWait(3);
  }
  session_.edit(QStringLiteral("sheet"), [](amp::Document& d) {
    d.sheets.push_back({"second", {}, {}});
    d.activeSheet = 1;
  });
  pencil(82e3);
  ASSERT_TRUE(settles());
  ASSERT_EQ(last.sides.size(), session_.sides().all.size());
  for (const auto& [side, value] : last.sides) {
    const auto fresh = predict::predictVitals(*predict::predictIdle(*side.design, library()), library());
    EXPECT_NEAR((*value)->gain->at1kHz, fresh->gain->at1kHz, 1e-4);
    EXPECT_NEAR((*value)->reservoirVolts, fresh->reservoirVolts, 1e-3);
  }
}

TEST_F(Asks, ADesignWithoutAnAnswerTakesNothingFromTheOthers) {
  Asking<Slow, Said> asking(asker_, saySlowly, Weight::quick);
  Answers<Said> last;
  asking.answered = [&](const auto& answers) { last = answers; };
  asking.ask({1});
  session_.edit(QStringLiteral("b"), [](amp::Document& d) { amp::pencil(d, library(), "R9", "fitted", false); });
  ASSERT_TRUE(settles());
  EXPECT_TRUE(last.inkValue());
  ASSERT_TRUE(last.problem());
  EXPECT_NE(last.problem()->message.find("DC path"), std::string::npos);
}

TEST_F(Asks, AtMostFourSheetsAreSolvedAndTheActiveOneIsAmongThem) {
  session_.edit(QStringLiteral("many"), [](amp::Document& d) {
    d.sheets.clear();
    for (int i = 0; i < 7; ++i) {
      d.sheets.push_back({"s" + std::to_string(i), {}, {}});
      d.activeSheet = static_cast<std::size_t>(i);
      amp::pencil(d, library(), "R3", "value", 50e3 + 1e3 * i);
    }
    d.activeSheet = 6;
  });
  const auto& all = session_.sides().all;
  EXPECT_EQ(all.size(), 1 + mostSheets);
  EXPECT_EQ(all[1].name, QStringLiteral("s6"));
  EXPECT_EQ(all[1].look, Side::Look::active);
  // A change of one sheet leaves the others their pointers.
  const auto before = all;
  pencil(99e3);
  for (std::size_t i = 0; i < before.size(); ++i)
    EXPECT_EQ(session_.sides().all[i].design == before[i].design, i != 1) << i;
}

TEST_F(Asks, FindingsWaitUntilTheBuilderRestsAndAreOfWhatStands) {
  FindingsDesk desk(asker_, testing_support::hardChord());
  QObject::connect(&session_, &Session::changed, &desk, &FindingsDesk::follow);
  int changes = 0;
  QObject::connect(&desk, &FindingsDesk::changed, &desk, [&] { ++changes; });
  const auto quiet = [&] { return QTest::qWaitFor([&] { return asker_.quiet() && desk.quiet(); }, 60000); };
  const auto turn = [&](double farads) {
    session_.edit(QStringLiteral("c"), [&](amp::Document& d) { amp::pencil(d, library(), "C15", "value", farads); });
  };
  turn(17e-6);
  ASSERT_TRUE(quiet());
  EXPECT_TRUE(desk.findings().empty());
  changes = 0;
  for (double farads = 50e-6; farads < 100e-6; farads += 10e-6) {
    turn(farads);
    QTest::qWait(5);
  }
  ASSERT_TRUE(quiet());
  EXPECT_EQ(changes, 2); // at rest, and then played: the stiffer rail lifts what the screens take
  ASSERT_EQ(desk.findings().size(), 2U);
  EXPECT_EQ(desk.findings()[0].part, "C15");
  session_.edit(QStringLiteral("b"), [](amp::Document& d) { amp::pencil(d, library(), "R9", "fitted", false); });
  ASSERT_TRUE(quiet());
  EXPECT_TRUE(desk.findings().empty());
  EXPECT_TRUE(desk.problem());
}

} // namespace
} // namespace vinegar::app
