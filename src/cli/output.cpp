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

std::string endOf(const amp::Circuit& circuit) {
  if (circuit.probe("speaker") > 0) return "speaker";
  const auto& line = circuit.design->line;
  for (auto use = line.rbegin(); use != line.rend(); ++use)
    if (circuit.probe(use->id + ".out") > 0) return use->id + ".out";
  return {};
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

} // namespace vinegar::cli
