#include "cli/output.h"

#include "units/json.h"
#include "units/printable.h"

#include <algorithm>
#include <cstdio>
#include <fmt/format.h>

namespace vinegar::cli {

int complain(const Problem& problem, int code, const std::string& format) {
  fmt::print(stderr, "vinegar-cli: {}\n", units::printable(problem.line()));
  if (format == "json")
    fmt::print("{}\n", units::Json{{"problem", {{"place", problem.place}, {"message", problem.message}}}}.dump(1));
  return code;
}

tl::expected<amp::Design, Problem> sheetOf(const amp::Document& document, const amp::Library& library,
                                           const std::string& wanted, const std::string& file) {
  const auto& sheets = document.sheets;
  const bool pencilled = std::any_of(sheets.begin(), sheets.end(), [](const auto& s) { return !s.marks.empty(); });
  const auto say = [&](const std::string& what) {
    if (pencilled)
      fmt::print(stderr, "vinegar-cli: {}: answers for {}\n", units::printable(file), units::printable(what));
  };
  if (wanted == "ink") {
    say("the ink");
    return document.ink;
  }
  auto sheet = &document.sheet();
  if (!wanted.empty() && wanted != "active") {
    const auto found = std::find_if(sheets.begin(), sheets.end(), [&](const auto& s) { return s.name == wanted; });
    if (found == sheets.end()) {
      std::string known = "ink";
      for (const auto& one : sheets)
        known += ", " + one.name;
      return tl::unexpected(Problem{"--sheet", fmt::format("there is no \"{}\"; the file has {}", wanted, known)});
    }
    sheet = &*found;
  }
  say(sheet->marks.empty() ? "the ink" : fmt::format("sheet \"{}\"", sheet->name));
  return amp::settle(document.ink, library, sheet->marks).design;
}

std::optional<Problem> turnKnobs(amp::Design& design, const amp::Library& library,
                                 const std::vector<std::string>& knobs) {
  const auto parts = amp::resolveParts(design, library);
  for (const auto& text : knobs) {
    const auto equals = text.rfind('=');
    if (equals == std::string::npos) return Problem{text, "write --knob NAME=SETTING"};
    const auto name = text.substr(0, equals), setting = text.substr(equals + 1);
    const auto found = std::find_if(parts.begin(), parts.end(), [&](const auto& part) {
      return amp::isControl(part.part->kind) && part.knob == name;
    });
    if (found == parts.end()) return Problem{name, "is no control of this design"};
    const auto number = units::parse(setting);
    const auto& positions = found->part->positions;
    if (found->part->kind == amp::PartKind::pot) {
      if (!number || !(*number >= 0 && *number <= 1)) return Problem{name, "is turned from 0 to 1"};
      design.knobs[name] = *number;
      continue;
    }
    std::size_t position = 0;
    for (std::size_t p = 0; p < positions.size(); ++p)
      if (positions[p].title == setting || (number && *number == static_cast<double>(p + 1))) position = p + 1;
    if (position == 0) return Problem{name, fmt::format("has positions 1 to {}", positions.size())};
    design.knobs[name] = static_cast<double>(position);
  }
  return std::nullopt;
}

} // namespace vinegar::cli
