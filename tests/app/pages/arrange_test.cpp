// The Arrange page and the run in its arranging form, by mouse and by keyboard.
#include "amp/acts/acts.h"
#include "amp/acts/numbering.h"
#include "app/window_fixture.h"
#include "pages/arrange/values_view.h"
#include "run/arranging.h"

#include "predict/overview/steps.h"
#include "units/file.h"
#include "widgets/figure_sheet.h"

#include <QDropEvent>
#include <QListWidget>
#include <QMimeData>
#include <fstream>
#include <random>

namespace vinegar::app {
namespace {

class Arrange : public Window {
protected:
  void SetUp() override {
    Window::SetUp();
    key(window_.get(), Qt::Key_E, Qt::ControlModifier);
  }
  void key(QWidget* widget, Qt::Key key, Qt::KeyboardModifiers modifiers = {}) {
    QTest::keyClick(widget, key, modifiers);
    settle();
  }
  /// Wherever the focus is.
  void key(Qt::Key k, Qt::KeyboardModifiers modifiers = {}) { key(QApplication::focusWidget(), k, modifiers); }
  void type(const char* text) {
    QTest::keyClicks(QApplication::focusWidget(), QLatin1String(text));
    settle();
  }
  const amp::Design& now() { return window_->session().pencilled(); }
  void click(const Piece& piece) {
    QTest::mouseClick(run()->viewport(), Qt::LeftButton, {}, run()->piecePosition(piece));
    settle();
  }
  /// What is looked at on the shelf.
  QString looked() { return child<QLabel>("lookedAt")->text(); }
  QString effect() { return child<QWidget>("effect")->accessibleDescription(); }
  /// Chooses on the shelf by typing and takes it.
  void take(const char* words) {
    type(words);
    key(Qt::Key_Return);
    QApplication::focusWidget()->setFocus();
    if (auto* line = qobject_cast<QLineEdit*>(QApplication::focusWidget())) line->selectAll();
  }
};

/// While a value is turned nothing is told of the value before; at rest the trial is of what stands then.
TEST_F(Arrange, TheTrialOfTheShelfFollowsAValueWhenThatRests) {
  click({{}, amp::Spot{"line", "first"}});
  child<QLineEdit>("shelfFilter")->setFocus();
  type("grid-leak");
  const auto* shelf = child<QListWidget>("shelf");
  const auto* item = shelf->item(1);
  const auto before = effect();
  for (const double ohms : {150e3, 180e3, 220e3}) {
    window_->session().edit(QStringLiteral("turn"),
                            [&](amp::Document& d) { amp::pencil(d, testing_support::library(), "R3", "value", ohms); });
    EXPECT_NE(effect(), before);
    EXPECT_FALSE(effect().contains(QStringLiteral(" mA"))) << effect().toStdString();
  }
  settle();
  EXPECT_EQ(shelf->item(1), item); // and the shelf was left alone
  const auto trial = amp::insertSection(now(), testing_support::library(), amp::NameBook(document()), {"line", "first"},
                                        "triode-grid-leak-bias");
  const auto solved = testing_support::solve(*trial);
  const double gain = predict::responseOf(solved.circuit, solved.point, {"jack", "speaker", {1000}})->decibels[0];
  EXPECT_TRUE(effect().contains(QStringLiteral(" %1 ").arg(gain, 0, 'f', 1))) << effect().toStdString() << gain;
}

TEST_F(Arrange, WhatIsInHandIsCalledByItsNewNumbers) {
  window_->openSample(QStringLiteral("chandlery")); // its first tube is the rectifier
  settle();
  const auto names = [&] { return amp::describeSection(*now().section("output"), testing_support::library()); };
  const auto inHand = [&] { return child<QLabel>("inHand")->text().toStdString(); };
  const auto before = names();
  click({"output", {}});
  EXPECT_NE(inHand().find(before.substr(1)), std::string::npos) << inHand();
  window_->session().edit(QStringLiteral("numbering"),
                          [&](amp::Document& d) { amp::renumber(d, testing_support::library(), "2026-12-02"); });
  settle();
  ASSERT_NE(names(), before);
  EXPECT_NE(inHand().find(names().substr(1)), std::string::npos) << inHand();
}

TEST_F(Arrange, APlaceBetweenTwoTakesWhatTheShelfOffers) {
  VINEGAR_LONG_TEST(window);
  ASSERT_TRUE(run()->isArranging());
  const auto before = now();
  click({{}, amp::Spot{"line", "first"}});
  auto* shelf = child<QListWidget>("shelf");
  ASSERT_GT(shelf->count(), 20);
  auto* filter = child<QLineEdit>("shelfFilter");
  filter->setFocus();
  type("grid-leak");
  EXPECT_EQ(looked(), QStringLiteral("Stage with grid-leak bias"));
  // What it would do stands there before anything is pencilled, and is what another way of asking gives.
  EXPECT_TRUE(document().sheet().marks.empty());
  const auto trial = amp::insertSection(now(), testing_support::library(), amp::NameBook(document()), {"line", "first"},
                                        "triode-grid-leak-bias");
  const auto solved = testing_support::solve(*trial);
  const double gain = predict::responseOf(solved.circuit, solved.point, {"jack", "speaker", {1000}})->decibels[0];
  EXPECT_TRUE(effect().contains(QStringLiteral(" %1 ").arg(gain, 0, 'f', 1))) << effect().toStdString() << gain;
  key(Qt::Key_Return);
  ASSERT_EQ(document().sheet().marks.size(), 1U);
  EXPECT_EQ(now(), *trial);
  key(window_.get(), Qt::Key_Z, Qt::ControlModifier);
  EXPECT_EQ(now(), before);
}

TEST_F(Arrange, ASectionIsTakenOutMovedDoubledAndReplacedByKeys) {
  VINEGAR_LONG_TEST(window);
  click({"second", {}});
  EXPECT_TRUE(child<QLabel>("inHand")->text().contains(QStringLiteral("V1b")));
  const auto size = now().line.size();
  key(run(), Qt::Key_D, Qt::ControlModifier);
  EXPECT_EQ(now().line.size(), size + 1);
  key(run(), Qt::Key_Delete);
  EXPECT_EQ(now().line.size(), size);
  EXPECT_EQ(now().section("second"), nullptr);
  key(window_.get(), Qt::Key_Backspace, Qt::ControlModifier); // all marks
  ASSERT_NE(now().section("second"), nullptr);
  click({"second", {}});
  key(run(), Qt::Key_Right, Qt::ControlModifier);
  const auto place = [&](const char* id) {
    for (std::size_t i = 0; i < now().line.size(); ++i)
      if (now().line[i].id == id) return i;
    return std::size_t{99};
  };
  EXPECT_EQ(place("second"), place("driver") + 1);
  key(run(), Qt::Key_Left, Qt::ControlModifier);
  EXPECT_EQ(place("second"), place("driver") - 1);
  key(window_.get(), Qt::Key_Backspace, Qt::ControlModifier);
  key(run(), Qt::Key_Return);
  take("mu-follower");
  EXPECT_EQ(now().section("second")->section, "mu-follower");
  EXPECT_EQ(document().sheet().marks.size(), 1U);
}

TEST_F(Arrange, ArrowKeysWalkOverSectionsPlacesAndChains) {
  click({"second", {}});
  key(run(), Qt::Key_Right);
  EXPECT_EQ(window_->findChild<QLabel*>(QStringLiteral("inHand"))->text().left(13), QStringLiteral("A place after"));
  key(run(), Qt::Key_Right);
  EXPECT_TRUE(child<QLabel>("inHand")->text().contains(QStringLiteral("V2a")));
  key(run(), Qt::Key_Down); // the feedback below
  EXPECT_TRUE(child<QLabel>("inHand")->text().contains(QStringLiteral("eedback")));
  key(run(), Qt::Key_Up);
  key(run(), Qt::Key_Up); // a rail above
  EXPECT_TRUE(child<QLabel>("inHand")->text().contains(QStringLiteral("node")))
      << child<QLabel>("inHand")->text().toStdString();
}

/// Words are looked for in titles first, then in what a section is for; the act done, the filter is empty and Ctrl+Z
/// takes the act back.
TEST_F(Arrange, TheShelfSelectsWhatFitsTheWordsBest) {
  auto* filter = child<QLineEdit>("shelfFilter");
  click({{}, amp::Spot{"line", "first"}});
  auto* shelf = child<QListWidget>("shelf");
  for (const auto& [words, title] : {std::pair{"volume", "Volume control"},
                                     {"cathode follower", "Cathode follower"},
                                     {"bias grid-leak", "Stage with grid-leak bias"}}) {
    filter->setFocus();
    type(words);
    int fitting = 0;
    for (int row = 0; row < shelf->count(); ++row)
      fitting += shelf->item(row)->flags() != Qt::NoItemFlags && shelf->item(row)->toolTip().isEmpty();
    EXPECT_GT(fitting, std::string_view(words) == "bias grid-leak" ? 0 : 1) << words; // else the first is no choice
    EXPECT_EQ(looked(), QLatin1String(title)) << words;
    filter->clear();
  }
  const auto before = now();
  filter->setFocus();
  type("volume control");
  key(filter, Qt::Key_Return);
  ASSERT_EQ(document().sheet().marks.size(), 1U);
  EXPECT_TRUE(filter->text().isEmpty());
  filter->setFocus();
  key(filter, Qt::Key_Z, Qt::ControlModifier);
  EXPECT_EQ(now(), before);
}

TEST_F(Arrange, WhatDoesNotFitSaysWhyAndIsNotTaken) {
  click({{}, amp::Spot{"line", "first"}});
  child<QLineEdit>("shelfFilter")->setFocus();
  type("speaker coil");
  child<QLineEdit>("shelfFilter")->setText(QStringLiteral("moving-coil"));
  settle();
  auto* shelf = child<QListWidget>("shelf");
  for (int row = 0; row < shelf->count(); ++row)
    if (shelf->item(row)->text() == QStringLiteral("Speaker")) shelf->setCurrentRow(row);
  settle();
  EXPECT_TRUE(child<QLabel>("whyNot")->isVisible());
  EXPECT_FALSE(child<QPushButton>("putIn")->isEnabled());
  key(shelf, Qt::Key_Return);
  EXPECT_TRUE(document().sheet().marks.empty());
}

TEST_F(Arrange, ASectionInHandShowsItsPartsAndARailIsRenamed) {
  const auto rail = now().supply.back().node;
  click({now().supply.back().id, {}});
  EXPECT_TRUE(child<QLabel>("partName")->text().contains(rail.c_str()));
  EXPECT_TRUE(child<QWidget>("tubes")->accessibleDescription().contains(QStringLiteral("R19 15k dropper")))
      << child<QWidget>("tubes")->accessibleDescription().toStdString();
  const auto rename = [&](const char* name) {
    auto* line = child<QLineEdit>("railName");
    line->setFocus();
    line->selectAll();
    QTest::keyClicks(line, QLatin1String(name));
    key(line, Qt::Key_Return);
  };
  rename("A"); // there is one
  EXPECT_EQ(now().supply.back().node, rail);
  rename("preamp");
  EXPECT_EQ(now().supply.back().node, "preamp");
  EXPECT_TRUE(amp::check(now(), testing_support::library()).empty());
  EXPECT_EQ(now().line[1].joins.at("rail"), "preamp");
  ASSERT_EQ(document().sheet().marks.size(), 1U);
  EXPECT_EQ(amp::describe(document().sheet().marks[0], document().ink, now(), testing_support::library()),
            "rail D called preamp");
  key(window_.get(), Qt::Key_Z, Qt::ControlModifier);
  EXPECT_EQ(now().supply.back().node, rail);
  // Half a name, and the section is gone: it is nobody's name.
  auto* line = child<QLineEdit>("railName");
  line->setFocus();
  QTest::keyClicks(line, QStringLiteral("half"));
  const auto without = amp::removeSection(now(), testing_support::library(), now().supply.back().id);
  ASSERT_TRUE(without) << without.error().line();
  window_->session().edit(QStringLiteral("take out"),
                          [&](amp::Document& d) { amp::pencil(d, testing_support::library(), *without); });
  settle();
  EXPECT_EQ(now(), *without);
  window_->session().startEmpty();
  settle();
  EXPECT_TRUE(now().supply.empty());
}

TEST_F(Arrange, APortIsJoinedElsewhere) {
  click({"first", {}});
  auto* rail = child<QComboBox>("join rail");
  const int to = rail->findText(QStringLiteral("Rail C"));
  ASSERT_GE(to, 0);
  rail->setCurrentIndex(to);
  Q_EMIT rail->activated(to);
  settle();
  EXPECT_EQ(now().section("first")->joins.at("rail"), "C");
  ASSERT_EQ(document().sheet().marks.size(), 1U);
  EXPECT_FALSE(document().sheet().marks[0].field());
}

/// Line, reverb, second splitter: from nothing, without the mouse.
TEST_F(Arrange, AnAmplifierIsBuiltFromNothingByKeyboardAlone) {
  VINEGAR_LONG_TEST(window);
  key(window_.get(), Qt::Key_N, Qt::ControlModifier);
  EXPECT_TRUE(child<QTableView>("skeletons")->isVisible());
  run()->setFocus();
  key(Qt::Key_Insert);
  ASSERT_EQ(QApplication::focusWidget()->objectName(), QStringLiteral("shelfFilter"));
  for (const char* words : {"magnetic pickup", "ordinary voltage", "mixing", "ordinary voltage", "cathodyne",
                            "two power tubes in turn", "moving-coil speaker with"})
    take(words);
  ASSERT_EQ(now().line.size(), 7U);
  EXPECT_TRUE(amp::check(now(), testing_support::library()).empty());
  // Another splitter.
  run()->setFocus();
  for (int i = 0; i < 4; ++i)
    key(Qt::Key_Left); // from the speaker over places to the splitter
  ASSERT_TRUE(child<QLabel>("inHand")->text().startsWith(QStringLiteral("Cathodyne")))
      << child<QLabel>("inHand")->text().toStdString();
  key(Qt::Key_Return);
  take("long-tailed share one tail");
  EXPECT_EQ(now().line[4].section, "long-tailed-pair");
  // A reverb beside the line, from the first stage to the mixing resistors.
  run()->setFocus();
  for (int i = 0; i < 6; ++i)
    key(Qt::Key_Left);
  key(Qt::Key_Insert, Qt::ControlModifier);
  take("spring tank's coil");
  ASSERT_EQ(now().sides.size(), 1U);
  run()->setFocus();
  key(Qt::Key_Insert);
  for (const char* words : {"springs that carry", "ordinary voltage", "divider between"})
    take(words);
  ASSERT_EQ(now().sides[0].sections.size(), 4U);
  auto* out = child<QComboBox>("join out");
  out->setFocus();
  const int to = out->findText(QStringLiteral("Second signal of mixing resistors"));
  ASSERT_GE(to, 0);
  for (int press = 0; press < 100; ++press) { // every press is a choice, and the hand stays on the box
    auto* box = qobject_cast<QComboBox*>(QApplication::focusWidget());
    ASSERT_TRUE(box);
    if (box->currentIndex() == to) break;
    key(box, box->currentIndex() < to ? Qt::Key_Down : Qt::Key_Up);
  }
  EXPECT_EQ(now().sides[0].to, now().line[2].id + ".second");
  EXPECT_TRUE(amp::check(now(), testing_support::library()).empty());
  EXPECT_FALSE(child<QWidget>("effect")->accessibleDescription().isEmpty());
  testing_support::solve(now());
}

/// Every skeleton is an amplifier without a mistake, shown with its own figures, and a start that can be undone.
TEST_F(Arrange, ANewAmplifierStartsFromASkeleton) {
  key(window_.get(), Qt::Key_N, Qt::ControlModifier);
  auto* table = child<FigureSheet>("skeletons");
  ASSERT_GE(table->rowCount(), 9);
  for (int row = 0; row < table->rowCount(); ++row) {
    EXPECT_FALSE(table->text(row, 2).contains(QChar(0x26a0))) << table->text(row, 2).toStdString();
    EXPECT_TRUE(table->text(row, 3).endsWith(QStringLiteral("V"))) << table->text(row, 1).toStdString();
  }
  // Each with its picture and a line on what it is for.
  auto* picture = child<QWidget>("skeletonPicture");
  table->choose(0);
  const auto first = picture->grab().toImage();
  table->choose(4);
  EXPECT_NE(picture->grab().toImage(), first);
  EXPECT_TRUE(child<QLabel>("skeletonAbout")->text().startsWith(table->text(4, 1) + QStringLiteral(". ")));
  EXPECT_GT(child<QLabel>("skeletonAbout")->text().size(), 50);
  auto* start = child<QPushButton>("start Two channels");
  QTest::mouseClick(start, Qt::LeftButton);
  settle();
  EXPECT_EQ(now().name, "Two channels");
  EXPECT_EQ(now().sides.size(), 1U);
  EXPECT_FALSE(table->isVisible());
  EXPECT_TRUE(window_->findings().findings().empty()) << window_->findings().findings().front().what;
  key(window_.get(), Qt::Key_Z, Qt::ControlModifier);
  EXPECT_TRUE(now().sections().empty());
  EXPECT_TRUE(table->isVisible());
}

/// A schematic's values from paper: type, Enter, type; a slip is told beside its cell.
TEST_F(Arrange, ValuesAreTypedOneAfterTheOther) {
  VINEGAR_LONG_TEST(window);
  QTest::mouseClick(child<QPushButton>("view Values"), Qt::LeftButton);
  settle();
  auto* table = child<ValuesView>("valuesTable");
  table->edit("R3");
  const auto typeInto = [&](const char* text) {
    for (const char* letter = text; *letter; ++letter) // the first opens the cell
      QTest::keyClick(QApplication::focusWidget(), *letter);
    QTest::keyClick(QApplication::focusWidget(), Qt::Key_Return);
    settle();
  };
  table->setFocus();
  typeInto("150k"); // R3, then what comes next
  typeInto("2k2");
  EXPECT_EQ(amp::findPart(now(), testing_support::library(), "R3")->value(), 150e3);
  EXPECT_EQ(amp::findPart(now(), testing_support::library(), "R4")->value(), 2200);
  typeInto("plenty");
  EXPECT_EQ(amp::findPart(now(), testing_support::library(), "C2")->value(), 22e-6);
  bool told = false;
  for (int row = 0; row < table->model()->rowCount(); ++row)
    told |= table->model()->index(row, 4).data().toString().contains(QStringLiteral("plenty"));
  EXPECT_TRUE(told);
  table->edit("C2");
  table->setFocus();
  typeInto("-");
  EXPECT_FALSE(amp::findPart(now(), testing_support::library(), "C2")->fitted());
  table->edit("V1a");
  table->setFocus();
  typeInto("12au7");
  EXPECT_EQ(amp::findPart(now(), testing_support::library(), "V1a")->text("tube"), "12AU7");
}

/// A schematic of sixty parts from paper, in fewer than ten strokes a part, whatever value each has.
TEST_F(Arrange, SixtyPartsAreTypedInWithFewKeys) {
  VINEGAR_LONG_TEST(window);
  window_->openSample(QStringLiteral("chandlery"));
  window_->showPage(QStringLiteral("Arrange"));
  settle();
  QTest::mouseClick(child<QPushButton>("view Values"), Qt::LeftButton);
  settle();
  auto* table = child<ValuesView>("valuesTable");
  const auto parts = window_->session().pencilledParts();
  table->edit(std::find_if(parts.begin(), parts.end(), [](const auto& part) {
                return amp::hasValue(part.part->kind) || amp::hasType(part.part->kind);
              })->name);
  table->setFocus();
  int strokes = 0;
  std::map<std::string, std::string> wanted;
  for (const auto& part : parts) {
    if (wanted.size() == 60) break;
    if (!amp::hasValue(part.part->kind) && !amp::hasType(part.part->kind)) continue;
    // A stock value beside its own, written as on a schematic; tubes stay as they are.
    std::string text;
    if (amp::hasValue(part.part->kind) && part.fitted())
      if (const auto next = predict::steppedValue(part, testing_support::library(), true))
        text = units::schematic(*next, amp::valueUnit(part.part->kind));
    if (!text.empty()) wanted[part.name] = text;
    for (const char letter : text)
      QTest::keyClick(QApplication::focusWidget(), letter);
    QTest::keyClick(QApplication::focusWidget(), text.empty() ? Qt::Key_Down : Qt::Key_Return);
    strokes += static_cast<int>(text.size()) + 1;
  }
  settle();
  EXPECT_LT(strokes, 600);
  for (const auto& [name, text] : wanted)
    EXPECT_TRUE(amp::findPart(now(), testing_support::library(), name)->label().starts_with(text)) << name << text;
  EXPECT_EQ(wanted.size(), 60U);
}

/// A section of the builder's own, dropped on the window, is on the shelf and in this amplifier.
TEST_F(Arrange, AnImportedSectionIsOnTheShelfAndGoesAlongWithTheDesign) {
  VINEGAR_LONG_TEST(window);
  auto mine = *amp::Library::load(testing_support::folder("data"));
  window_.reset();
  window_ = std::make_unique<MainWindow>(mine, dataFolder(), folder_.path() + QStringLiteral("/recovery"));
  const auto own = folder_.path().toStdString() + "/own";
  window_->takeOwn(mine, own);
  window_->resize(1280, 800);
  window_->openSample(QStringLiteral("slipway"));
  window_->showPage(QStringLiteral("Arrange"));
  window_->show();
  EXPECT_TRUE(QTest::qWaitForWindowActive(window_.get()));
  settle();
  auto text = *units::readFile(testing_support::folder("data") + "/sections/volume.json");
  const auto replace = [&](const std::string& what, const std::string& instead) {
    text.replace(text.find(what), what.size(), instead);
  };
  replace("\"id\": \"volume\"", "\"id\": \"attic-volume\"");
  replace("\"Volume control\"", "\"Attic volume\"");
  const auto file = folder_.path() + QStringLiteral("/given.json");
  const auto drop = [&] {
    std::ofstream(file.toStdString()) << text;
    QMimeData data;
    data.setUrls({QUrl::fromLocalFile(file)});
    QDragEnterEvent enters({10, 10}, Qt::CopyAction, &data, Qt::LeftButton, {});
    QApplication::sendEvent(window_.get(), &enters);
    QDropEvent event({10, 10}, Qt::CopyAction, &data, Qt::LeftButton, {});
    QApplication::sendEvent(window_.get(), &event);
    settle();
  };
  drop();
  EXPECT_TRUE(std::filesystem::exists(own + "/sections/attic-volume.json"));
  click({{}, amp::Spot{"line", "first"}});
  child<QLineEdit>("shelfFilter")->setFocus();
  take("attic");
  ASSERT_EQ(now().line[2].section, "attic-volume");
  const auto path = folder_.path() + QStringLiteral("/with.vinegar");
  ASSERT_FALSE(window_->session().save(path));
  // A faulty one is refused with its reason and changes nothing.
  const auto whole = text;
  replace("\"pot\"", "\"pit\"");
  drop();
  EXPECT_EQ(*units::readFile(own + "/sections/attic-volume.json"), whole);
  EXPECT_EQ(now().line[2].section, "attic-volume");
  // On another bench nobody has it: the design brings it.
  auto elsewhere = *amp::Library::load(testing_support::folder("data"));
  close();
  window_ = std::make_unique<MainWindow>(elsewhere, dataFolder(), folder_.path() + QStringLiteral("/recovery"));
  window_->takeOwn(elsewhere, folder_.path().toStdString() + "/nothing");
  window_->show();
  ASSERT_TRUE(window_->openFile(path));
  settle();
  ASSERT_EQ(now().line[2].section, "attic-volume");
  EXPECT_TRUE(amp::check(now(), elsewhere).empty());
  EXPECT_TRUE(elsewhere.sections.contains("attic-volume"));
  close();
}

/// Marks one by one; what rests on one goes with it, and is named first.
TEST_F(Arrange, AMarkIsRubbedOutWithThoseThatRestOnIt) {
  VINEGAR_LONG_TEST(window);
  click({{}, amp::Spot{"line", "first"}});
  child<QLineEdit>("shelfFilter")->setFocus();
  take("room for a bright"); // a volume control
  take("grid-leak");         // after it
  QTest::mouseClick(child<QPushButton>("view Marks"), Qt::LeftButton);
  settle();
  auto* table = child<FigureSheet>("marksTable");
  ASSERT_EQ(table->rowCount(), 2);
  EXPECT_TRUE(table->text(0, 2).contains(QStringLiteral("with it goes stage with grid-leak bias")))
      << table->text(0, 2).toStdString();
  QTest::mouseClick(child<QPushButton>("rubOut 1"), Qt::LeftButton);
  settle();
  ASSERT_EQ(document().sheet().marks.size(), 1U);
  key(window_.get(), Qt::Key_Z, Qt::ControlModifier);
  ASSERT_EQ(document().sheet().marks.size(), 2U);
  QTest::mouseClick(child<QPushButton>("rubOut 0"), Qt::LeftButton);
  settle();
  EXPECT_TRUE(document().sheet().marks.empty());
  EXPECT_EQ(table->rowCount(), 0);
}

/// Whatever keys are pressed, in whatever order, on any amplifier, half-built ones too: it stands, and undone to the
/// start it is what it was.
TEST_F(Arrange, AnyKeysInAnyOrderLeaveItStanding) {
  VINEGAR_LONG_TEST(both);
  std::mt19937 random(1926);
  const auto pick = [&](std::size_t n) { return std::uniform_int_distribution<std::size_t>(0, n - 1)(random); };
  constexpr std::pair<Qt::Key, Qt::KeyboardModifier> keys[] = {
      {Qt::Key_Left, Qt::NoModifier},        {Qt::Key_Right, Qt::NoModifier},
      {Qt::Key_Up, Qt::NoModifier},          {Qt::Key_Down, Qt::NoModifier},
      {Qt::Key_Insert, Qt::NoModifier},      {Qt::Key_Insert, Qt::ShiftModifier},
      {Qt::Key_Insert, Qt::ControlModifier}, {Qt::Key_Return, Qt::NoModifier},
      {Qt::Key_Return, Qt::NoModifier},      {Qt::Key_Delete, Qt::NoModifier},
      {Qt::Key_D, Qt::ControlModifier},      {Qt::Key_Left, Qt::ControlModifier},
      {Qt::Key_Right, Qt::ControlModifier},  {Qt::Key_Tab, Qt::NoModifier},
      {Qt::Key_Space, Qt::NoModifier},       {Qt::Key_Z, Qt::ControlModifier},
      {Qt::Key_Y, Qt::ControlModifier},      {Qt::Key_E, Qt::ControlModifier},
      {Qt::Key_2, Qt::AltModifier},          {Qt::Key_1, Qt::AltModifier},
      {Qt::Key_4, Qt::NoModifier},           {Qt::Key_Backspace, Qt::ControlModifier}};
  for (const char* name : {"slipway", "chandlery", "nothing"}) {
    SCOPED_TRACE(name);
    if (std::string(name) == "nothing")
      window_->session().startEmpty();
    else
      window_->openSample(QLatin1String(name));
    settle();
    const auto before = now();
    for (int step = 0; step < testing_support::trials(300); ++step) {
      if (pick(3) == 0) run()->setFocus();
      auto* focus = QApplication::focusWidget();
      if (!focus || !window_->isAncestorOf(focus)) run()->setFocus(), focus = run();
      const auto& [k, modifiers] = keys[pick(std::size(keys))];
      QTest::keyClick(focus, k, modifiers);
      if (auto* popup = QApplication::activePopupWidget()) popup->close();
      if (pick(4) == 0)
        settle();
      else
        QTest::qWait(0);
      ASSERT_LE(now().sections().size(), 400U);
    }
    settle();
    while (window_->session().canUndo())
      window_->session().undo();
    EXPECT_EQ(now(), before);
    settle();
  }
}

TEST_F(Arrange, ItsFormEndsWithThePage) {
  EXPECT_TRUE(run()->isArranging());
  key(window_.get(), Qt::Key_E, Qt::ControlModifier);
  EXPECT_FALSE(run()->isArranging());
  EXPECT_EQ(window_->findChild<QLabel*>(QStringLiteral("inHand"))->isVisible(), false);
}

} // namespace
} // namespace vinegar::app
