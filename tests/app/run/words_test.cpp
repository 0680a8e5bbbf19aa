// No text of the schematic lies on anything, whatever is built; pages of it on paper.
#include "run/run_pages.h"
#include "run/run_readings.h"
#include "run/section_sheet.h"
#include "support/paths.h"
#include "support/random_builder.h"
#include "support/samples.h"

#include <QFile>
#include <QPdfWriter>
#include <QTemporaryDir>
#include <cmath>
#include <filesystem>
#include <gtest/gtest.h>

namespace vinegar::app {
namespace {

using testing_support::library;

QRectF wireArea(const amp::Point& a, const amp::Point& b) {
  return QRectF(QPointF(a.x, a.y), QPointF(b.x, b.y)).normalized().adjusted(-0.05, -0.05, 0.05, 0.05);
}

/// Everything that a text of `content` lies on and should not.
std::vector<std::string> collisions(const RunContent& content, ResistorStyle style) {
  const RunPainter painter(content, style);
  std::vector<std::string> found;
  const auto texts = painter.textAreas();
  const auto report = [&](const RunPainter::TextArea& text, const std::string& other) {
    found.push_back(text.owner + " on " + other + " at " + std::to_string(std::lround(text.area.center().x())) + ", " +
                    std::to_string(std::lround(text.area.center().y())));
  };
  for (std::size_t i = 0; i < texts.size(); ++i) {
    const auto area = texts[i].area.adjusted(0.1, 0, -0.1, 0);
    for (std::size_t j = 0; j < i; ++j)
      if (texts[j].owner != texts[i].owner && texts[j].area.intersects(area)) report(texts[i], texts[j].owner);
    for (const auto& part : painter.content().drawing.parts)
      if ((part.fitted || !part.linkWhenAbsent) && glyphFor(part, style).body.intersects(area))
        report(texts[i], "the symbol of " + part.name);
    for (const auto& line : painter.content().drawing.lines)
      for (std::size_t k = 0; k + 1 < line.points.size(); ++k)
        if (wireArea(line.points[k], line.points[k + 1]).intersects(area)) report(texts[i], "a wire of " + line.node);
    for (const auto& ground : painter.content().drawing.grounds)
      if (groundGlyph(ground).boundingRect().intersects(area)) report(texts[i], "a ground");
  }
  return found;
}

/// R1 becomes R81, as wide as a name gets in an amplifier of some size.
RunContent withWideNames(RunContent content) {
  for (auto& part : content.drawing.parts) {
    const auto figures = part.name.find_first_of("0123456789");
    if (figures == std::string::npos || amp::isControl(part.kind)) continue;
    auto label = content.labels.extract(part.name);
    if (part.name.size() < 3) part.name.insert(figures, "8");
    if (label) content.labels[part.name] = label.mapped();
  }
  return content;
}

TEST(SectionPictures, NoTextLiesOnAnything) {
  for (const auto style : {ResistorStyle::box, ResistorStyle::zigzag})
    for (const auto& [id, section] : library().sections)
      for (const auto& collision : collisions(withWideNames(sectionContent(section, library())), style))
        ADD_FAILURE() << id << ": " << collision;
}

/// Whatever may follow what: the last part of one section leaves room for the first of the next.
TEST(SectionPictures, NeighboursLeaveEachOtherRoom) {
  VINEGAR_LONG_TEST(both);
  for (const auto& [firstId, first] : library().sections)
    for (const auto& [nextId, next] : library().sections) {
      if (first.deck != "line" || next.deck != "line" || first.out != next.in || next.in == amp::Carries::nothing)
        continue;
      amp::Design design;
      design.supply = {{"b", "supply-fixed-reservoir", {}, {}, "A", {}}};
      design.line = {{"one", firstId, {}, {}, {}, {}}, {"two", nextId, {}, {}, {}, {}}};
      for (auto& use : design.line)
        for (const auto& rail : library().sections.at(use.section).railPorts)
          use.joins[rail] = "A";
      amp::nameParts(design, library());
      RunContent content;
      content.drawing = amp::drawRun(design, library());
      std::map<std::string, std::string> section;
      for (const auto& part : amp::resolveParts(design, library())) {
        content.labels[part.name].ink = QString::fromStdString(part.label());
        section[part.name] = part.section;
      }
      // Texts of one section against texts and symbols of the other; within one they have a test of their own.
      const RunPainter painter(content, ResistorStyle::zigzag);
      const auto texts = painter.textAreas();
      for (const auto& text : texts) {
        const auto own = section.find(text.owner);
        if (own == section.end() || own->second == "b") continue;
        const auto area = text.area.adjusted(0.1, 0, -0.1, 0);
        for (const auto& other : texts)
          if (const auto theirs = section.find(other.owner); theirs != section.end() && theirs->second != own->second &&
                                                             theirs->second != "b" && other.area.intersects(area))
            ADD_FAILURE() << firstId << " before " << nextId << ": " << text.owner << " on " << other.owner;
        for (const auto& part : content.drawing.parts)
          if (part.section != own->second && part.section != "b" &&
              glyphFor(part, ResistorStyle::zigzag).body.intersects(area))
            ADD_FAILURE() << firstId << " before " << nextId << ": " << text.owner << " on the symbol of " << part.name;
      }
    }
}

/// The run of a document as the window shows it, every reading as wide as it gets.
RunContent runOf(const amp::Document& document, bool spread) {
  const auto now = amp::pencilled(document, library());
  const auto& marks = document.sheet().marks;
  RunContent content{amp::drawRun(now, library(), spread), {}, {}, {}};
  content.gone = whatIsGone(marks, content.drawing, library());
  content.putIn = whatIsPutIn(marks);
  for (const auto& part : amp::resolveParts(document.ink, library()))
    if (part.fitted()) content.labels[part.name].ink = QString::fromStdString(part.label());
  for (const auto& part : amp::resolveParts(now, library()))
    content.labels[part.name].pencil = part.fitted() ? QString::fromStdString(part.label()) : QStringLiteral("\u2014");
  for (const auto& tag : content.drawing.tags)
    content.volts[tag.node].ink = QStringLiteral("-18.8 V");
  for (const auto& flag : content.drawing.flags)
    content.volts[flag.node].ink = QStringLiteral("388 V");
  return content;
}

/// Wires that run through a symbol, and symbols that lie on each other.
std::vector<std::string> crossings(const amp::Drawing& drawing) {
  std::vector<std::string> found;
  for (const auto& part : drawing.parts) {
    if (!part.fitted && part.linkWhenAbsent) continue;
    const auto body = glyphFor(part, ResistorStyle::zigzag).body.adjusted(0.2, 0.2, -0.2, -0.2);
    for (const auto& line : drawing.lines)
      for (std::size_t k = 0; k + 1 < line.points.size(); ++k)
        if (wireArea(line.points[k], line.points[k + 1]).intersects(body))
          found.push_back("a wire of " + line.node + " crosses " + part.name + " at " +
                          std::to_string(std::lround(body.center().x())));
    for (const auto& other : drawing.parts)
      if (&other < &part && (other.fitted || !other.linkWhenAbsent) &&
          glyphFor(other, ResistorStyle::zigzag).body.intersects(body))
        found.push_back(other.name + " lies on " + part.name);
  }
  return found;
}

TEST(Room, TellsWhatLiesOnWhatHoweverLargeItIs) {
  for (const double size : {10.0, 1e4, 1e9}) {
    Room room({-size, -5, 2 * size, 40});
    const QRectF in(size / 2, 3, 6, 2), far(size + 100, 3, 6, 2);
    EXPECT_EQ(room.overlap(in), 0);
    room.take(in, Room::Kind::mayMove);
    room.take(far);
    EXPECT_GE(room.overlap(in.adjusted(1, 1, 1, 1)), 1);
    EXPECT_GE(room.overlap(far), 1);
    EXPECT_EQ(room.overlap(in.translated(0, 2.5)), 0);
    room.giveBack(in);
    EXPECT_EQ(room.overlap(in), 0);
  }
}

/// The second makes way for a text that cannot, and all take their own places where those are free.
TEST(Words, MakeWayForThoseThatCannot) {
  Room room({0, 0, 40, 40});
  room.take({0, 0, 4, 4});
  const std::vector<std::vector<QRectF>> places{
      {{2, 2, 4, 2}, {10, 10, 4, 2}}, {{10, 10, 4, 2}, {20, 10, 4, 2}}, {{30, 30, 4, 2}, {0, 30, 4, 2}}};
  const auto chosen = placeWords(
      {places[0][0], places[1][0], places[2][0]},
      [&](std::size_t i) -> const std::vector<QRectF>& { return places[i]; }, room);
  EXPECT_EQ(chosen, (std::vector<std::size_t>{1, 1, 0}));
  EXPECT_EQ(room.overlap({10, 10, 14, 2}), 0); // as it was
}

TEST(Run, NoTextLiesOnAnything) {
  for (const char* name : {"slipway", "net-loft", "harbour-office", "chandlery"}) {
    const auto document = testing_support::sample(name);
    for (const bool spread : {false, true})
      for (const auto& collision : collisions(runOf(document, spread), ResistorStyle::zigzag))
        ADD_FAILURE() << name << ": " << collision;
  }
  for (const auto& entry : std::filesystem::directory_iterator(testing_support::folder("data") + "/skeletons")) {
    const auto document = files::readDesign(entry.path(), library())->document;
    for (const auto& collision : collisions(runOf(document, false), ResistorStyle::zigzag))
      ADD_FAILURE() << entry.path().filename() << ": " << collision;
  }
}

TEST(Run, NoTextLiesOnAnythingWhateverIsBuiltInPencil) {
  VINEGAR_LONG_TEST(both);
  const char* samples[] = {"slipway", "net-loft", "harbour-office", "chandlery"};
  for (int sequence = 0; sequence < testing_support::trials(500); ++sequence) {
    testing_support::RandomBuilder builder(static_cast<unsigned>(sequence));
    auto document = testing_support::sample(samples[sequence % 4]);
    for (int step = 0; step < 12; ++step)
      if (const auto next = builder.act(document)) amp::pencil(document, library(), *next);
    const auto content = runOf(document, sequence % 2);
    for (const auto& collision : collisions(content, ResistorStyle::zigzag))
      ADD_FAILURE() << sequence << ": " << collision;
    for (const auto& crossing : crossings(content.drawing))
      ADD_FAILURE() << sequence << ": " << crossing;
  }
}

TEST(SectionPictures, WiresCrossNoSymbol) {
  for (const auto& [id, section] : library().sections) {
    const auto drawing = amp::drawSection(section, library());
    for (const auto& part : drawing.parts) {
      const auto body = glyphFor(part, ResistorStyle::zigzag).body.adjusted(0.2, 0.2, -0.2, -0.2);
      for (const auto& line : drawing.lines)
        for (std::size_t k = 0; k + 1 < line.points.size(); ++k)
          EXPECT_FALSE(wireArea(line.points[k], line.points[k + 1]).intersects(body))
              << id << ": a wire of " << line.node << " crosses " << part.name;
      for (const auto& other : drawing.parts)
        if (&other != &part) {
          EXPECT_FALSE(glyphFor(other, ResistorStyle::zigzag).body.intersects(body))
              << id << ": " << other.name << " lies on " << part.name;
        }
    }
  }
}

/// Every part is whole on one page, whatever the paper, unless its section alone is larger than that.
TEST(Pages, ShowEveryPartOnceAndWhole) {
  for (const char* sample : {"slipway", "net-loft", "harbour-office", "chandlery"})
    for (const QSizeF page : {QSizeF(130, 90), QSizeF(75, 90), QSizeF(75, 30), QSizeF(5000, 5000)}) {
      const auto drawing = amp::drawRun(testing_support::sample(sample).ink, library());
      const auto areas = pageAreas(
          drawing, {drawing.left, drawing.top, drawing.right - drawing.left, drawing.bottom - drawing.top}, page);
      if (page.width() > 1000) {
        EXPECT_EQ(areas.size(), 1U);
      }
      for (const auto& area : areas) {
        EXPECT_LE(area.width(), page.width() + 1e-9);
        EXPECT_LE(area.height(), page.height() + 1e-9);
      }
      for (const auto& part : drawing.parts) {
        const auto body = glyphFor(part, ResistorStyle::box).body;
        const auto whole = std::count_if(areas.begin(), areas.end(), [&](const QRectF& a) { return a.contains(body); });
        const auto touched =
            std::count_if(areas.begin(), areas.end(), [&](const QRectF& a) { return a.intersects(body); });
        EXPECT_GE(touched, 1) << sample << " " << part.name;
        if (page.width() > 100) {
          EXPECT_EQ(whole, 1) << sample << " " << part.name << " on " << page.width();
        }
      }
    }
}

TEST(Pages, ArePaintedAndSayWhenTheyCannotBe) {
  const RunPainter run({amp::drawRun(testing_support::sample("slipway").ink, library()), {}, {}, {}},
                       ResistorStyle::box);
  QTemporaryDir folder;
  const auto pagesIn = [](const QString& path) {
    QFile file(path);
    EXPECT_TRUE(file.open(QIODevice::ReadOnly));
    return file.readAll().count("/MediaBox");
  };
  for (const auto& [how, fewest, most] : {std::tuple{Pages::one, 1, 1}, {Pages::several, 2, 12}}) {
    const QString path = folder.filePath(QStringLiteral("run.pdf"));
    {
      QPdfWriter pdf(path);
      EXPECT_TRUE(paintPages(pdf, run, QStringLiteral("Slipway"), how));
    }
    EXPECT_GE(pagesIn(path), fewest);
    EXPECT_LE(pagesIn(path), most);
  }
  QPdfWriter nowhere(QStringLiteral("/no/such/folder/run.pdf"));
  EXPECT_FALSE(paintPages(nowhere, run, QStringLiteral("x"), Pages::one));
}

} // namespace
} // namespace vinegar::app
