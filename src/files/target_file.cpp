#include "files/target_file.h"

#include "files/columns.h"

namespace vinegar::files {
namespace {

using predict::FitQuestion;
constexpr std::size_t mostTargetPoints = 10'000;

constexpr const char* targetFormat = "vinegar-target";
} // namespace

amp::Target targetFields(const units::JsonReader& file) {
  amp::Target target;
  target.from = file.text("from", target.from);
  target.to = file.text("to", target.to);
  target.level = file.flag("level", false);
  for (const auto& point : file.list("target")) {
    const auto pair = point.elements();
    if (pair.size() != 2) point.fail("a point is a frequency and a level");
    target.target.push_back({pair[0].asValue(units::Unit::hertz), pair[1].asValue(units::Unit::decibel)});
    if (target.target.size() > mostTargetPoints) point.fail("more points than a curve needs; 10000 are enough");
  }
  if (file.has("parts"))
    for (const auto& part : file.list("parts"))
      target.parts.push_back(part.asText());
  if (file.has("series")) {
    target.series = units::seriesNamed(file.text("series"));
    if (!target.series) file.at("series").fail("is no series; must be E6, E12, E24 or E96");
  }
  if (file.has("atHand"))
    for (const auto& [part, values] : file.at("atHand").members())
      for (const auto& value : values.elements())
        target.atHand[part].push_back(value.asValue(units::Unit::none));
  return target;
}

units::Json targetJson(const amp::Target& target) {
  units::Json json{{"from", target.from}, {"to", target.to}, {"level", target.level}};
  json["target"] = units::Json::array();
  for (const auto& point : target.target)
    json["target"].push_back({point.hertz, point.decibels});
  if (!target.parts.empty()) json["parts"] = target.parts;
  if (target.series) json["series"] = std::string(units::nameOf(*target.series));
  if (!target.atHand.empty()) json["atHand"] = target.atHand;
  return json;
}

std::string writeTargetText(const amp::Target& target) {
  auto json = targetJson(target);
  json["format"] = targetFormat;
  return json.dump(1) + "\n";
}

tl::expected<FitQuestion, Problem> parseTarget(const std::string& text, const std::string& place) {
  const auto start = text.find_first_not_of(" \t\r\n\xef\xbb\xbf");
  const auto own = start == std::string::npos ? std::string() : text.substr(start);
  if (!own.starts_with('{')) {
    auto points = parseColumns(own, place, "level in dB");
    if (!points) return tl::unexpected(points.error());
    FitQuestion question;
    question.target = std::move(*points);
    return question;
  }
  const auto json = units::parseJson(own, place);
  if (!json) return tl::unexpected(json.error());
  try {
    const units::JsonReader file{*json, place};
    if (file.text("format", "") != targetFormat) file.fail("is no target; its \"format\" is \"vinegar-target\"");
    return targetFields(file);
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
