#include "files/target_file.h"

#include "units/json.h"

#include <algorithm>
#include <cmath>
#include <sstream>

namespace vinegar::files {
namespace {

using predict::FitQuestion;
constexpr std::size_t mostPoints = 10'000;

FitQuestion readJson(const units::JsonReader& file) {
  if (file.text("format", "") != "vinegar-target") file.fail("is no target; its \"format\" is \"vinegar-target\"");
  FitQuestion question;
  question.from = file.text("from", question.from);
  question.to = file.text("to", question.to);
  question.level = file.flag("level", false);
  for (const auto& point : file.list("target")) {
    const auto pair = point.elements();
    if (pair.size() != 2) point.fail("a point is a frequency and a level");
    question.target.push_back({pair[0].asValue(units::Unit::hertz), pair[1].asValue(units::Unit::decibel)});
    if (question.target.size() > mostPoints) point.fail("more points than a curve needs; 10000 are enough");
  }
  if (file.has("parts"))
    for (const auto& part : file.list("parts"))
      question.parts.push_back(part.asText());
  if (file.has("series")) {
    using units::Series;
    const auto name = file.text("series");
    for (const auto& [word, series] :
         {std::pair{"E6", Series::e6}, {"E12", Series::e12}, {"E24", Series::e24}, {"E96", Series::e96}})
      if (name == word) question.series = series;
    if (!question.series) file.at("series").fail("is no series; must be E6, E12, E24 or E96");
  }
  if (file.has("atHand"))
    for (const auto& [part, values] : file.at("atHand").members())
      for (const auto& value : values.elements())
        question.atHand[part].push_back(value.asValue(units::Unit::none));
  return question;
}

tl::expected<FitQuestion, Problem> readCsv(const std::string& text, const std::string& place) {
  FitQuestion question;
  std::istringstream lines(text);
  std::string line;
  for (int number = 1; std::getline(lines, line); ++number) {
    std::replace_if(
        line.begin(), line.end(), [](char c) { return c == ',' || c == ';' || c == '\t' || c == '\r'; }, ' ');
    std::istringstream cells(line);
    std::string first, second;
    if (!(cells >> first) || first.front() == '#' || first.front() == '*') continue;
    cells >> second;
    const auto hertz = units::parse(first, units::Unit::hertz), level = units::parse(second, units::Unit::decibel);
    if (!hertz || !level) {
      if (question.target.empty()) continue; // its head
      return tl::unexpected(Problem{place + ":" + std::to_string(number), "needs a frequency and a level in dB"});
    }
    question.target.push_back({*hertz, *level});
    if (question.target.size() > mostPoints)
      return tl::unexpected(Problem{place, "more points than a curve needs; 10000 are enough"});
  }
  if (question.target.empty())
    return tl::unexpected(Problem{place, "holds no curve: two columns are wanted, frequency and level in dB"});
  return question;
}

} // namespace

tl::expected<FitQuestion, Problem> parseTarget(const std::string& text, const std::string& place) {
  const auto start = text.find_first_not_of(" \t\r\n\xef\xbb\xbf");
  const auto own = start == std::string::npos ? std::string() : text.substr(start);
  if (!own.starts_with('{')) return readCsv(own, place);
  const auto json = units::parseJson(own, place);
  if (!json) return tl::unexpected(json.error());
  try {
    return readJson({*json, place});
  } catch (const units::JsonMistake& mistake) {
    return tl::unexpected(mistake.problem);
  }
}

tl::expected<FitQuestion, Problem> readTarget(const std::filesystem::path& path) {
  const auto text = units::readFile(path);
  if (!text) return tl::unexpected(text.error());
  return parseTarget(*text, path.string());
}

} // namespace vinegar::files
