#include "files/target_file.h"

#include "files/columns.h"
#include "files/wishes.h"

namespace vinegar::files {
namespace {

using predict::FitQuestion;

constexpr const char* targetFormat = "vinegar-target";
} // namespace

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
