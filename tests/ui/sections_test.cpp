// The section library's pictures: whatever a builder may be shown is legible.
#include "run/section_sheet.h"
#include "support/samples.h"

#include <cmath>
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
      if (glyphFor(part, style).body.intersects(area)) report(texts[i], "the symbol of " + part.name);
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

} // namespace
} // namespace vinegar::app
