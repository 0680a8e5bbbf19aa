// Every page by itself: what it shows of a good, an empty and a broken design, and what it costs while nobody looks.
#include "amp/acts/acts.h"
#include "app/page_fixture.h"
#include "pages/supply/supply_page.h"
#include "plots/curve_plot.h"
#include "widgets/figure_sheet.h"
#include "widgets/figure_table.h"

#include <QApplication>
#include <QClipboard>
#include <QLabel>
#include <QMenu>
#include <QPushButton>
#include <QTextBrowser>
#include <QThread>
#include <QToolButton>
#include <atomic>

namespace vinegar::app {
namespace {

class EveryPage : public PageFixture, public testing::WithParamInterface<std::size_t> {
protected:
  [[nodiscard]] QString id() const { return QLatin1String(pageList()[GetParam()]->id); }
  /// Everything is played there.
  [[nodiscard]] bool takesLong() const { return id() == QStringLiteral("Feel"); }
};

TEST_P(EveryPage, HasATitleAQuestionAndAnIdOfItsOwn) {
  const auto& facts = *pageList()[GetParam()];
  EXPECT_FALSE(facts.titleText().isEmpty());
  EXPECT_FALSE(facts.questionText().isEmpty());
  int same = 0;
  for (const auto* other : pageList())
    same += QLatin1String(other->id) == id();
  EXPECT_EQ(same, 1);
}

TEST_P(EveryPage, SaysWhatToDoWithAnEmptyDesign) {
  openPage(id());
  session_.startEmpty();
  settle();
  if (id() == QStringLiteral("Arrange")) { // it has what one can start from
    EXPECT_GE(child<FigureSheet>("skeletons")->rowCount(), 9);
    EXPECT_TRUE(child<FigureSheet>("skeletons")->isVisible());
    return;
  }
  EXPECT_FALSE(said().isEmpty());
  EXPECT_FALSE(said().startsWith(QStringLiteral("\u26a0"))) << said().toStdString();
  if (auto* act = child<QPushButton>("saidAct"); act->isVisible()) {
    act->click();
    EXPECT_EQ(acted_, QStringList{QStringLiteral("open")});
  }
}

TEST_P(EveryPage, SaysWhereADesignHasNoAnswerAndLeadsThere) {
  if (takesLong()) {
    VINEGAR_LONG_TEST(window);
  }
  openPage(id());
  openSample("slipway");
  session_.edit(QStringLiteral("broken"), [](amp::Document& d) {
    d.log.clear();
    amp::pencil(d, testing_support::library(), "R9", "fitted", false);
    amp::ink(d, testing_support::library(), "why not", "2026-11-26T12:00:00+00:00");
  });
  settle();
  if (id() == QStringLiteral("Log")) { // its own answer is of the revision
    EXPECT_TRUE(child<QLabel>("revisionDetail")->text().contains(QStringLiteral("No answer")));
    return;
  }
  if (id() == QStringLiteral("Arrange")) { // where it can be mended; it says so beside the shelf
    EXPECT_TRUE(child<QLabel>("whyNot")->text().contains(QStringLiteral("DC path")));
    session_.undo();
    settle();
    EXPECT_FALSE(child<QLabel>("whyNot")->isVisible());
    return;
  }
  EXPECT_TRUE(said().contains(QStringLiteral("DC path"))) << said().toStdString();
  EXPECT_TRUE(said().startsWith(QStringLiteral("\u26a0")));
  session_.undo();
  settle();
  EXPECT_TRUE(said().isEmpty()) << said().toStdString(); // and is there again
}

/// Hidden, a page asks nothing and draws nothing, however much is turned; shown again it has caught up.
TEST_P(EveryPage, CostsNothingWhileItIsHidden) {
  if (takesLong()) {
    VINEGAR_LONG_TEST(window);
  }
  openPage(id());
  openSample("slipway");
  settle();
  const auto before = page_->grab().toImage();
  page_->hide();
  const auto plots = page_->findChildren<CurvePlot*>();
  std::vector<std::vector<CurvePlot::Curve>> curves;
  for (auto* plot : plots)
    curves.push_back(plot->picture().curves);
  for (double ohms = 330; ohms < 700; ohms += 180) {
    pencil("R28", ohms);
    settle();
  }
  for (int i = 0; i < plots.size(); ++i)
    EXPECT_EQ(plots[i]->picture().curves, curves[static_cast<std::size_t>(i)]);
  page_->show();
  settle();
  if (id() != QStringLiteral("Log")) {
    EXPECT_NE(page_->grab().toImage(), before);
  }
}

/// In the middle of any work another document opens, is turned, and goes.
TEST_P(EveryPage, SurvivesAnythingInTheMiddleOfWork) {
  if (takesLong()) {
    VINEGAR_LONG_TEST(window);
  }
  openPage(id());
  for (int round = 0; round < 12; ++round) {
    for (const char* name : {"slipway", "net-loft", "harbour-office"}) {
      ASSERT_FALSE(session_.open(QString::fromStdString(testing_support::samplePath(name).string()), true));
      QTest::qWait(round);
      pencil("R3", 47e3 + round);
      if (round % 3 == 0) session_.undo();
      if (round % 4 == 0) page_->hide();
      if (round % 4 == 2) page_->show();
    }
    if (round % 5 == 0) session_.startEmpty();
  }
  page_->show();
  openSample("slipway");
  EXPECT_TRUE(said().isEmpty() || id() == QStringLiteral("Log")) << said().toStdString();
  page_.reset(); // with work under way
  pencil("R3", 33e3);
  settle();
}

/// No view reads what a broken pencil or a broken ink has not got, none shows the other side's answer as what stands,
/// and every row of every table has a cell for each head.
TEST_P(EveryPage, HasViewsThatStandWithOneSideBroken) {
  if (takesLong()) {
    VINEGAR_LONG_TEST(window);
  }
  openPage(id());
  QByteArrayList views;
  for (auto* button : page_->findChildren<QPushButton*>())
    if (button->objectName().startsWith(QStringLiteral("view "))) views << button->objectName().mid(5).toUtf8();
  if (views.isEmpty()) views << page_->saveView();
  const auto& all = testing_support::library();
  const auto fit = [&](const char* part, bool fitted, bool inked) {
    session_.edit(QStringLiteral("f"), [&](amp::Document& d) {
      amp::pencil(d, all, part, "fitted", fitted);
      if (inked) amp::ink(d, all, "tried", "2026-11-26T12:00:00+00:00");
    });
  };
  const bool tells = id() != QStringLiteral("Log") && id() != QStringLiteral("Arrange"); // these show what is broken
  const auto look = [&](bool whole) {
    for (const auto& view : views) {
      SCOPED_TRACE(view.toStdString());
      page_->restoreView(view);
      settle();
      page_->grab();
      if (tells) {
        EXPECT_EQ(said().startsWith(QStringLiteral("\u26a0")), !whole) << said().toStdString();
      }
      if (!whole) continue;
      for (auto* sheet : page_->findChildren<FigureSheet*>())
        EXPECT_TRUE(sheet->isWhole()) << sheet->objectName().toStdString();
    }
  };
  for (const auto& [sample, part] : {std::pair{"net-loft", "R8"}, {"slipway", "R9"}}) {
    if (takesLong() && sample == std::string_view("slipway")) break;
    SCOPED_TRACE(sample);
    openSample(sample);
    look(true);
    fit(part, false, false);
    {
      SCOPED_TRACE("ink answers, pencil does not");
      look(false);
    }
    session_.undo();
    fit(part, false, true);
    {
      SCOPED_TRACE("neither answers");
      look(false);
    }
    fit(part, true, false);
    {
      SCOPED_TRACE("pencil answers, ink does not");
      look(true);
    }
  }
  // The whole output stage out, while its views are on screen.
  openSample("slipway");
  session_.edit(QStringLiteral("out"), [&](amp::Document& d) {
    const auto stage = std::find_if(d.ink.line.begin(), d.ink.line.end(),
                                    [](const auto& use) { return use.section.starts_with("push-pull"); });
    ASSERT_NE(stage, d.ink.line.end());
    amp::pencil(d, all, *amp::removeSection(d.ink, all, stage->id));
  });
  for (const auto& view : views) { // there are questions left for some views
    page_->restoreView(view);
    settle();
    page_->grab();
  }
}

/// Of a design that has all the answers no view is empty: tables have rows, no column of theirs stands blank, and every
/// plot has something drawn.
TEST_P(EveryPage, HasNoEmptyViewWhereThereAreAnswers) {
  if (takesLong()) {
    VINEGAR_LONG_TEST(window);
  }
  openPage(id());
  openSample("slipway");
  selection_.select("V3");
  pencil("R28", 330.0);
  QByteArrayList views;
  for (auto* button : page_->findChildren<QPushButton*>())
    if (button->objectName().startsWith(QStringLiteral("view "))) views << button->objectName().mid(5).toUtf8();
  if (views.isEmpty()) views << page_->saveView();
  for (const auto& view : views) {
    SCOPED_TRACE(view.toStdString());
    page_->restoreView(view);
    settle();
    for (auto* sheet : page_->findChildren<FigureSheet*>()) {
      if (!sheet->isVisible()) continue;
      EXPECT_GT(sheet->rowCount(), 0) << sheet->objectName().toStdString();
      const auto* head = sheet->model();
      for (int c = 0; c < sheet->columnCount(); ++c) {
        // Buttons; what a meter has read; what speaks against a row, as nothing may.
        const QStringList mayBeBlank{QString(), tr("read"), tr("off"), tr("against")};
        if (mayBeBlank.contains(head->headerData(c, Qt::Horizontal).toString())) continue;
        bool any = false;
        for (int r = 0; r < sheet->rowCount(); ++r)
          any = any || !sheet->text(r, c).isEmpty();
        EXPECT_TRUE(any) << sheet->objectName().toStdString() << ": "
                         << head->headerData(c, Qt::Horizontal).toString().toStdString();
      }
    }
    for (auto* plot : page_->findChildren<CurvePlot*>()) {
      if (!plot->isVisible()) continue;
      const auto& picture = plot->picture();
      EXPECT_FALSE(picture.curves.empty() && picture.paths.empty() && picture.dots.empty())
          << plot->objectName().toStdString();
    }
  }
}

INSTANTIATE_TEST_SUITE_P(All, EveryPage, testing::Range<std::size_t>(0, pageList().size()),
                         [](const auto& info) { return std::string(pageList()[info.param]->id); });

class SupplyAlone : public PageFixture {};

TEST_F(SupplyAlone, EveryViewComesBackAsItWasLeftAndSaysItsFigures) {
  openPage(QStringLiteral("Supply"));
  openSample("slipway");
  auto* page = static_cast<SupplyPage*>(page_.get());
  page->restoreView("Choices");
  settle();
  EXPECT_EQ(page->saveView(), "Choices");
  auto* sheet = child<FigureSheet>("choices");
  EXPECT_GE(sheet->rowCount(), 7);
  // Shown again it is known, so that nothing is worked out.
  page->restoreView("Cycles");
  settle();
  page->restoreView("Choices");
  EXPECT_TRUE(QTest::qWaitFor([&] { return asker_.pagesAnswered(); }, 3000));
  EXPECT_GE(sheet->rowCount(), 7);
  for (const char* view : {"Cycles", "Switch-on", "Discharge", "Regulation", "Choices", "Budgets", "Findings"}) {
    page->restoreView(view);
    settle();
    auto* menu = child<QToolButton>("export")->menu();
    ASSERT_GE(menu->actions().size(), 2) << view;
    if (view == std::string_view("Findings")) settleAll();
    QApplication::clipboard()->clear();
    menu->actions().front()->trigger(); // what can be copied says something
    EXPECT_GT(QApplication::clipboard()->text().size(), 20) << view;
  }
  page->restoreView("Choices");
  page->restoreView("Nonsense"); // from a newer version's settings
  EXPECT_EQ(page->saveView(), "Choices");
}

struct Wait {
  bool operator==(const Wait&) const = default;
};
std::atomic<bool> waits;
tl::expected<int, Problem> waitFor(const predict::Idle&, const amp::Library&, const Wait&, const predict::GoOn& goOn) {
  while (waits) {
    QThread::msleep(2);
    if (!goOn(0.25)) return tl::unexpected(Problem::stopped());
  }
  return 1;
}

/// Work of which the test says how long it takes: the frame is silent at first, then tells how far it is and stops it.
TEST_F(SupplyAlone, LongWorkShowsItsProgressAndCanBeCancelled) {
  openPage(QStringLiteral("Supply"));
  openSample("slipway");
  Asking<Wait, int> slow(asker_, waitFor, Weight::heavy, Of::now);
  page_->frame().watch(slow);
  bool cancelled = false;
  slow.answered = [&](const Answers<int>& answers) { cancelled = answers.problem() && answers.problem()->cancelled; };
  auto *cancel = child<QPushButton>("pageCancel"), *other = child<QPushButton>("view Cycles");
  auto* progress = child<QLabel>("pageProgress");
  waits = true;
  slow.ask({});
  QTest::qWait(50);
  EXPECT_FALSE(cancel->isVisible());
  ASSERT_TRUE(QTest::qWaitFor([&] { return cancel->isVisible(); }, 20000));
  EXPECT_TRUE(progress->text().contains(QStringLiteral("25 %"))) << progress->text().toStdString();
  EXPECT_TRUE(other->isEnabled()); // nothing else waits for it
  QTest::mouseClick(cancel, Qt::LeftButton);
  ASSERT_TRUE(QTest::qWaitFor([&] { return cancelled; }, 20000));
  EXPECT_TRUE(QTest::qWaitFor([&] { return !cancel->isVisible() && !progress->isVisible(); }, 20000));
  waits = false;
  page_.reset(); // before the question that its frame watches
}

TEST_F(SupplyAlone, ADesignWithoutMainsIsToldOnEveryView) {
  openPage(QStringLiteral("Supply"));
  openSample("net-loft");
  session_.edit(QStringLiteral("bench"), [](amp::Document& d) {
    d.ink.supply.erase(d.ink.supply.begin(), d.ink.supply.begin() + 2);
    d.ink.supply.insert(d.ink.supply.begin(), {"b", "supply-fixed-reservoir", {}, {}, "A", {}});
  });
  settle();
  for (const char* view : {"Cycles", "Switch-on", "Discharge", "Regulation", "Choices", "Budgets", "Findings"}) {
    child<QPushButton>((std::string("view ") + view).c_str())->click();
    settle();
    QString words;
    for (auto* label : page_->findChildren<QLabel*>(QStringLiteral("said")))
      if (label->isVisible()) words += label->text();
    for (auto* text : page_->findChildren<QTextBrowser*>())
      if (text->isVisible()) words += text->toPlainText();
    EXPECT_TRUE(words.contains(QStringLiteral("no mains"))) << view << ": " << words.toStdString();
  }
}

} // namespace
} // namespace vinegar::app
