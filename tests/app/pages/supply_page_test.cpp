// The Supply page in the real window, by mouse and keyboard, its numbers against a fresh solve.
#include "pages/supply/supply_page.h"

#include "amp/acts/acts.h"
#include "app/window_fixture.h"
#include "predict/supply/regulation.h"
#include "predict/supply/supply_events.h"
#include "widgets/figure_sheet.h"
#include "widgets/figure_table.h"

#include <QComboBox>
#include <QDialogButtonBox>
#include <QFile>
#include <QTextBrowser>

namespace vinegar::app {
namespace {

using testing_support::library;

class SupplyWindow : public Window {
protected:
  void SetUp() override {
    Window::SetUp();
    QTest::mouseClick(child<QPushButton>("page Supply"), Qt::LeftButton);
    settle();
  }
  SupplyPage* page() { return window_->findChild<SupplyPage*>(); }
  void open(const char* view) {
    QTest::mouseClick(child<QPushButton>((std::string("view ") + view).c_str()), Qt::LeftButton);
    settle();
  }
  void pencil(const char* part, const amp::Setting& to, const char* field = "value") {
    window_->session().edit(QStringLiteral("test"),
                            [&](amp::Document& d) { amp::pencil(d, library(), part, field, to); });
    settle();
  }
  QString summary() { return child<FigureTable>("supplySummary")->text(); }
  double shownIn(const QString& text, const QString& after) {
    const auto at = text.indexOf(after);
    EXPECT_GE(at, 0) << after.toStdString() << " in " << text.toStdString();
    return text.mid(at + after.size()).trimmed().section(QLatin1Char(' '), 0, 0).toDouble();
  }
};

/// A rail that is put in between moves no other's reading to another name.
TEST_F(SupplyWindow, RailsOfAnotherShapeArePairedByTheirNames) {
  const auto before = testing_support::solve(document().ink);
  const auto& session = window_->session();
  const auto next = amp::insertSection(session.pencilled(), library(), amp::NameBook(session.document()),
                                       {"supply", "reservoir"}, "supply-rc-node");
  ASSERT_TRUE(next);
  window_->session().edit(QStringLiteral("test"), [&](amp::Document& d) { amp::pencil(d, library(), *next); });
  settle();
  const auto text = summary();
  for (const char* rail : {"B", "C", "D"})
    EXPECT_NEAR(shownIn(text, QStringLiteral("; %1 ").arg(QLatin1String(rail))),
                before.point.volts(before.circuit.probe(rail)), 0.6)
        << rail;
  const auto after = testing_support::solve(session.pencilled());
  EXPECT_NEAR(shownIn(text, QStringLiteral("; E \u2013")), after.point.volts(after.circuit.probe("E")), 0.6);
}

TEST_F(SupplyWindow, RailsAreThoseOfAFreshSolveInInkAndPencil) {
  pencil("C15", 47e-6);
  const auto ink = testing_support::solve(document().ink);
  const auto now = testing_support::solve(window_->session().pencilled());
  for (const char* rail : {"B", "C", "D"}) {
    const auto text = summary();
    EXPECT_NEAR(shownIn(text, QStringLiteral("; %1 ").arg(QLatin1String(rail))),
                ink.point.volts(ink.circuit.probe(rail)), 0.6)
        << rail;
  }
  const auto& curves = page()->plot()->picture().curves;
  ASSERT_EQ(curves.size(), 4U); // volts and plate current, ink and pencil
  const auto ripple = [](const CurvePlot::Curve& c) {
    const auto [low, high] = std::minmax_element(c.y.begin(), c.y.end());
    return *high - *low;
  };
  const auto expected = [](const testing_support::Solved& s) {
    return predict::readSupply(s.circuit, library(), s.point);
  };
  EXPECT_NEAR(ripple(curves[0]), expected(ink).rails[1].rippleVpp, 1e-3);
  EXPECT_NEAR(ripple(curves[2]), expected(now).rails[1].rippleVpp, 1e-3);
  EXPECT_NEAR(*std::max_element(curves[1].y.begin(), curves[1].y.end()), 1000 * expected(ink).rectifiers[0].peakAmps,
              0.01);
  EXPECT_LT(ripple(curves[2]), 0.5 * ripple(curves[0]));
}

TEST_F(SupplyWindow, ATooLargeReservoirIsFoundWhereItIs) {
  settleAll();
  EXPECT_TRUE(window_->findings().findings().empty());
  pencil("C15", 100e-6);
  settleAll();
  const auto& findings = window_->findings().findings();
  EXPECT_EQ(std::count_if(findings.begin(), findings.end(), [](const auto& one) { return one.part == "C15"; }), 1);
  clickPart("C15");
  EXPECT_TRUE(child<QLabel>("partFindings")->isVisible());
  EXPECT_TRUE(child<QLabel>("partFindings")->text().contains(QStringLiteral("degrees")));
  clickPart("C16");
  EXPECT_FALSE(child<QLabel>("partFindings")->isVisible());
  open("Findings");
  EXPECT_TRUE(child<QTextBrowser>("supplyFindings")->toPlainText().contains(QStringLiteral("C15")));
  EXPECT_TRUE(child<QPushButton>("view Findings")->text().endsWith(QStringLiteral("2")));
}

TEST_F(SupplyWindow, ARowOfChoicesIsPencilledInByOneClick) {
  open("Choices");
  auto* table = child<FigureSheet>("choices");
  ASSERT_GE(table->rowCount(), 7);
  int row = -1;
  for (int r = 0; r < table->rowCount(); ++r)
    if (table->text(r, 1) == QStringLiteral("5AR4")) row = r;
  ASSERT_GE(row, 0);
  const double promised = table->text(row, 2).section(QLatin1Char(' '), 0, 0).toDouble();
  EXPECT_TRUE(table->text(row, table->columnCount() - 1).contains(QStringLiteral("V3")));
  auto* button = child<QPushButton>("pencil 5AR4");
  ASSERT_NE(button, nullptr);
  table->scrollTo(table->model()->index(row, 1));
  QTest::mouseClick(button, Qt::LeftButton);
  settle();
  ASSERT_EQ(document().sheet().marks.size(), 1U);
  EXPECT_EQ(document().sheet().marks[0].field()->part, "V5");
  EXPECT_EQ(std::get<std::string>(document().sheet().marks[0].field()->to), "5AR4");
  const auto now = testing_support::solve(window_->session().pencilled());
  EXPECT_NEAR(promised, now.point.volts(now.circuit.probe("A")), 0.6);
  QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier);
  settle();
  EXPECT_TRUE(document().sheet().marks.empty());
}

TEST_F(SupplyWindow, OtherPartsCanBeChosenToo) {
  VINEGAR_LONG_TEST(window);
  open("Choices");
  auto* subject = child<QComboBox>("choiceOf");
  subject->setFocus();
  for (int i = 0; i < subject->count() && !subject->currentText().contains(QStringLiteral("C15")); ++i) {
    QTest::keyClick(subject, Qt::Key_Down);
    settle();
  }
  auto* table = child<FigureSheet>("choices");
  bool found = false;
  for (int r = 0; r < table->rowCount(); ++r)
    found = found || table->text(r, 1).contains(QStringLiteral("22"));
  EXPECT_TRUE(found);
}

TEST_F(SupplyWindow, TheSeriesResistorHelperFindsAndPencils) {
  VINEGAR_LONG_TEST(window);
  pencil("V5", std::string("1N4007"), "tube");
  open("Choices");
  auto* drop = child<QLineEdit>("wantedDrop");
  drop->clear();
  QTest::keyClicks(drop, "twenty");
  QTest::mouseClick(child<QPushButton>("findResistor"), Qt::LeftButton);
  EXPECT_TRUE(child<QLabel>("foundResistor")->property("danger").toBool());
  EXPECT_FALSE(child<QPushButton>("pencilResistor")->isVisible());
  drop->clear();
  QTest::keyClicks(drop, "25V");
  auto* full = child<QLineEdit>("fullAmps");
  full->clear();
  QTest::keyClicks(full, "200mA");
  QTest::keyClick(full, Qt::Key_Return);
  settle();
  const auto answer = predict::seriesResistorOf(window_->session().pencilled(), library(), {25, 0.2});
  ASSERT_TRUE(answer);
  EXPECT_TRUE(child<QLabel>("foundResistor")
                  ->text()
                  .startsWith(QString::fromStdString(units::reading(answer->ohms, units::Unit::ohm, 0))));
  QTest::mouseClick(child<QPushButton>("pencilResistor"), Qt::LeftButton);
  settle();
  const auto part = amp::findPart(window_->session().pencilled(), library(), "R33");
  EXPECT_TRUE(part->fitted());
  EXPECT_DOUBLE_EQ(part->value(), answer->ohms);
}

TEST_F(SupplyWindow, SwitchOnDischargeAndRegulationAreDrawn) {
  VINEGAR_LONG_TEST(window);
  open("Switch-on");
  const auto circuit = amp::compile(document().ink, library());
  const auto on = predict::switchOnOf(*circuit, library());
  ASSERT_TRUE(on);
  auto curves = page()->plot()->picture().curves;
  ASSERT_EQ(curves.size(), 4U);
  EXPECT_NEAR(*std::max_element(curves[0].y.begin(), curves[0].y.end()),
              *std::max_element(on->rails[1].mean.begin(), on->rails[1].mean.end()), 1e-6);
  auto* from = child<QComboBox>("switchOnFrom");
  from->setFocus();
  QTest::keyClick(from, Qt::Key_Down);
  settle();
  EXPECT_LT(
      *std::max_element(page()->plot()->picture().curves[0].y.begin(), page()->plot()->picture().curves[0].y.end()),
      400);
  open("Discharge");
  curves = page()->plot()->picture().curves;
  EXPECT_GT(curves[0].y.front(), 290);
  EXPECT_LT(curves[0].y.back(), 60);
  EXPECT_TRUE(page()->plot()->picture().marks[0].danger);
  open("Regulation");
  curves = page()->plot()->picture().curves;
  EXPECT_GE(curves.size(), 7U);
  for (const auto& curve : curves)
    EXPECT_GT(curve.y.front(), curve.y.back()) << curve.name.toStdString();
  open("Budgets");
  const auto budgets = child<QTextBrowser>("budgets")->toPlainText();
  for (const char* must : {"T2", "heater", "253 V", "tubes cold or out", "100 Hz", "cathode over heater"})
    EXPECT_TRUE(budgets.contains(QString::fromUtf8(must))) << must;
  const auto bare = predict::predictSupplyIdle(*circuit, nullptr, {0, 0, 0});
  ASSERT_TRUE(bare);
  EXPECT_TRUE(budgets.contains(
      QString::fromStdString(units::reading(bare->meanVolts(predict::mainRails(*circuit).fed), units::Unit::volt))));
}

TEST_F(SupplyWindow, SafetyIsOneClickAway) {
  open("Findings");
  auto* browser = child<QTextBrowser>("supplyFindings");
  Q_EMIT browser->anchorClicked(QUrl(QStringLiteral("safety:")));
  auto* dialog = child<QDialog>("safety");
  EXPECT_TRUE(dialog->isVisible());
  QString all;
  for (auto* label : dialog->findChildren<QLabel*>())
    all += label->text();
  EXPECT_TRUE(all.contains(QStringLiteral("licensed")));
  QTest::mouseClick(dialog->findChild<QDialogButtonBox*>()->button(QDialogButtonBox::Close), Qt::LeftButton);
}

TEST_F(SupplyWindow, ABrokenAndABenchDesignSayWhatIsWrong) {
  VINEGAR_LONG_TEST(window);
  for (const char* view : {"Discharge", "Choices", "Budgets", "Findings"}) {
    open(view);
    window_->session().startEmpty();
    settle();
    ASSERT_TRUE(window_->openSample(QStringLiteral("slipway")));
    settle();
  }
  open("Cycles");
  window_->session().startEmpty();
  settle();
  EXPECT_TRUE(page()->frame().state().said().contains(QStringLiteral("empty")));
  // A refused supply is never told to be free of findings.
  window_->session().edit(QStringLiteral("test"), [](amp::Document& d) {
    d.ink = testing_support::sample("slipway").ink;
    d.ink.supply.front() = {"mains", "supply-direct-mains", {}, {}, "K", {}};
  });
  settleAll();
  open("Findings");
  const auto text = child<QTextBrowser>("supplyFindings")->toPlainText();
  EXPECT_TRUE(text.contains(QStringLiteral("isolation"))) << text.toStdString();
  EXPECT_FALSE(text.contains(QStringLiteral("Nothing found"))) << text.toStdString();
}

TEST_F(SupplyWindow, PicturesAreExported) {
  for (const char* ending : {"svg", "pdf", "png", "csv"}) {
    const QString path = folder_.filePath(QStringLiteral("supply.") + QLatin1String(ending));
    EXPECT_EQ(page()->plot()->exportTo(path), QString()) << ending;
    EXPECT_GT(QFile(path).size(), 500) << ending;
  }
  EXPECT_FALSE(page()->plot()->exportTo(QStringLiteral("/no/such/folder/x.csv")).isEmpty());
  auto* plot = page()->plot()->findChild<QCustomPlot*>();
  plot->setFocus();
  const auto before = page()->plot()->readout();
  QTest::keyClick(plot, Qt::Key_Right, Qt::ShiftModifier);
  EXPECT_NE(page()->plot()->readout(), before);
}

} // namespace
} // namespace vinegar::app
