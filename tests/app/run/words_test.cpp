// No text of the schematic lies on anything, whatever is built; pages of it on paper.
#include "run/run_files.h"
#include "run/run_readings.h"
#include "run/section_sheet.h"
#include "support/paths.h"
#include "support/random_builder.h"
#include "support/samples.h"
#include "theme/theme.h"

#include <QFile>
#include <QFileInfo>
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
RunContent runOf(const amp::Document& document, amp::Form form) {
  const auto now = amp::pencilled(document, library());
  const auto& marks = document.sheet().marks;
  RunContent content{amp::drawRun(now, library(), form), {}, {}, {}};
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
    for (const auto form : {amp::Form::screen, amp::Form::spread, amp::Form::paper})
      for (const auto& collision : collisions(runOf(document, form), ResistorStyle::zigzag))
        ADD_FAILURE() << name << ": " << collision;
  }
  for (const auto& entry : std::filesystem::directory_iterator(testing_support::folder("data") + "/skeletons")) {
    const auto document = files::readDesign(entry.path(), library())->document;
    for (const auto& collision : collisions(runOf(document, amp::Form::paper), ResistorStyle::zigzag))
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
    const auto content = runOf(document, static_cast<amp::Form>(sequence % 3));
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

/// Papers of all sizes: every part stands whole in one row; what is cut is found again.
TEST(Sheets, ShowEveryPartOnceAndWhole) {
  std::vector<amp::Document> documents;
  for (const char* sample : {"slipway", "net-loft", "harbour-office", "chandlery"})
    documents.push_back(testing_support::sample(sample));
  for (const auto& entry : std::filesystem::directory_iterator(testing_support::folder("data") + "/skeletons"))
    documents.push_back(files::readDesign(entry.path(), library())->document);
  for (const auto& document : documents)
    for (const QSizeF paper : {QSizeF(277, 190), QSizeF(259, 196), QSizeF(400, 277)}) {
      const RunPainter run(runOf(document, amp::Form::paper), ResistorStyle::box);
      const RunSheets sheets(run, paper);
      const double step = sheets.step();
      // A ruler on a capital letter finds what type of that size has: some seven tenths, by any text face.
      QPainterPath letter;
      letter.addText(0, 0, pixelFont(textFont(9), 1.5 * step * 100), QStringLiteral("H"));
      EXPECT_NEAR(letter.boundingRect().height() / 100, 0.71 * sheets.letters(), 0.06 * sheets.letters());
      EXPECT_GE(sheets.letters(), 1.999);
      std::vector<QRectF> areas;
      for (const auto& sheet : sheets.sheets()) {
        double bottom = 0;
        for (const auto& row : sheet) {
          EXPECT_GE(row.at.y(), bottom) << document.ink.name; // rows lie on no other
          bottom = row.at.y() + row.area.height();
          EXPECT_LE((row.at.x() + row.area.width()) * step, paper.width());
          areas.push_back(row.area);
        }
        EXPECT_LE(bottom * step, paper.height() + 1e-9) << document.ink.name;
      }
      for (const auto& part : run.content().drawing.parts) {
        const auto body = glyphFor(part, ResistorStyle::box).body;
        const auto whole = std::count_if(areas.begin(), areas.end(), [&](const QRectF& a) { return a.contains(body); });
        EXPECT_EQ(whole, 1) << document.ink.name << ": " << part.name << " on " << paper.width() << " mm";
      }
      for (const auto& text : run.textAreas()) {
        const auto whole = std::count_if(areas.begin(), areas.end(), [&](const QRectF& a) {
          return a.adjusted(-0.2, -0.4, 0.2, 0.4).contains(text.area);
        }); // what is painted of it
        EXPECT_GE(whole, 1) << document.ink.name << ": the words of " << text.owner;
      }
      for (const auto& area : areas) // no wire runs along an edge, half in one row and half in the next
        for (const auto& line : run.content().drawing.lines)
          for (std::size_t k = 0; k + 1 < line.points.size(); ++k)
            if (const auto& from = line.points[k], &to = line.points[k + 1]; from.x == to.x && from.y != to.y)
              for (const double edge : {area.left(), area.right()}) {
                const bool beside = std::min(from.y, to.y) < area.bottom() && std::max(from.y, to.y) > area.top();
                const auto neighbours = std::count_if(areas.begin(), areas.end(), [&](const QRectF& other) {
                  return std::abs(other.left() - edge) < 0.01 || std::abs(other.right() - edge) < 0.01;
                });
                EXPECT_FALSE(neighbours > 1 && beside && std::abs(from.x - edge) < 0.3)
                    << document.ink.name << ": " << line.node;
              }
      for (const auto& join : sheets.joins()) {
        const auto ends = std::count_if(areas.begin(), areas.end(), [&](const QRectF& a) {
          return a.adjusted(-0.01, -0.01, 0.01, 0.01).contains(join.at);
        });
        EXPECT_EQ(ends, 2) << document.ink.name << ": " << join.letter.toStdString();
      }
    }
}

/// As few sheets as can be read, and as large as those hold.
TEST(Sheets, AreAsFewAndAsLargeAsThePaperAllows) {
  const auto fold = [](const char* sample, QSizeF paper) {
    const RunPainter run(runOf(testing_support::sample(sample), amp::Form::paper), ResistorStyle::box);
    const RunSheets sheets(run, paper);
    return std::pair{sheets.count(), sheets.letters()};
  };
  const auto small = fold("net-loft", {277, 190}), large = fold("net-loft", {400, 277});
  EXPECT_LE(large.first, small.first);
  EXPECT_GT(large.second, small.second);
  EXPECT_EQ(fold("slipway", {400, 277}).first, 1);
  EXPECT_GT(fold("chandlery", {277, 190}).first, 1);
}

/// Half-built, broken and far too large ones come on paper as far as they go.
TEST(Sheets, HoldWhateverIsBuilt) {
  const auto fold = [](const amp::Design& design) {
    PaperRun paper{{amp::drawRun(design, library(), amp::Form::paper), {}, {}, {}}, ResistorStyle::box, {}};
    return FoldedRun(paper, QPageSize::A4, false);
  };
  EXPECT_EQ(fold({}).sheets().count(), 1);
  EXPECT_FALSE(fold({}).picture(0, 2).isNull());
  auto design = testing_support::sample("slipway").ink;
  design.line[1].section = "nobody-has-this";
  EXPECT_GE(fold(design).sheets().count(), 1);
  auto only = design;
  only.line.clear();
  EXPECT_EQ(fold(only).sheets().count(), 1); // a supply alone
  only = design;
  only.supply.clear();
  EXPECT_GE(fold(only).sheets().count(), 1);
  for (int i = 0; i < 500; ++i)
    design.line.insert(design.line.begin() + 1,
                       {"more" + std::to_string(i), "triode-common-cathode", {}, {{"rail", "D"}}, {}, {}});
  const auto large = fold(design);
  EXPECT_GT(large.sheets().count(), 20);
  QTemporaryDir folder;
  EXPECT_TRUE(
      large.save(folder.filePath(QStringLiteral("run.png"))).contains(QStringLiteral(".pdf"))); // says what does
  testing_support::RandomBuilder builder(7);
  auto document = testing_support::sample("chandlery");
  for (int step = 0; step < 15; ++step)
    if (const auto next = builder.act(document)) {
      amp::pencil(document, library(), *next);
      const RunPainter run(runOf(document, amp::Form::paper), ResistorStyle::zigzag);
      const RunSheets sheets(run, {277, 190});
      std::vector<QRectF> areas;
      for (const auto& sheet : sheets.sheets())
        for (const auto& row : sheet)
          areas.push_back(row.area);
      for (const auto& join : sheets.joins())
        EXPECT_EQ(
            std::count_if(areas.begin(), areas.end(),
                          [&](const QRectF& a) { return a.adjusted(-0.01, -0.01, 0.01, 0.01).contains(join.at); }),
            2)
            << step << ": " << join.letter.toStdString();
    }
}

TEST(Sheets, AreWrittenAndSayWhenTheyCannotBe) {
  const PaperRun paper{runOf(testing_support::sample("chandlery"), amp::Form::paper), ResistorStyle::box, {}};
  const FoldedRun folded(paper, QPageSize::A4, false);
  QTemporaryDir folder;
  for (const char* name : {"run.pdf", "run.svg", "run.png"}) {
    const auto path = folder.filePath(QString::fromLatin1(name));
    EXPECT_EQ(folded.save(path), QString());
    EXPECT_GT(QFileInfo(path).size(), 10000);
  }
  QFile pdf(folder.filePath(QStringLiteral("run.pdf")));
  ASSERT_TRUE(pdf.open(QIODevice::ReadOnly));
  EXPECT_EQ(pdf.readAll().count("/MediaBox"), folded.sheets().count());
  EXPECT_TRUE(folded.save(QStringLiteral("/no/such/folder/run.pdf")).contains(QStringLiteral("/no/such/folder")));
  EXPECT_TRUE(folded.save(folder.filePath(QStringLiteral("run.doc"))).contains(QStringLiteral(".pdf")));
}

} // namespace
} // namespace vinegar::app
