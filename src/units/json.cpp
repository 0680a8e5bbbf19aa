#include "units/json.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <fstream>
#include <iterator>

namespace vinegar::units {
namespace {
constexpr std::size_t largestFile = 32U << 20U;
constexpr int deepest = 64;
} // namespace

tl::expected<Json, Problem> parseJson(const std::string& text, const std::string& fileName) {
  if (text.size() > largestFile)
    return tl::unexpected(Problem{fileName, "larger than 32 MB, which no file of this kind is"});
  try {
    return Json::parse(text, [](int depth, Json::parse_event_t, Json&) {
      if (depth > deepest) throw JsonMistake{{"", fmt::format("nested more than {} levels deep", deepest)}};
      return true;
    });
  } catch (const Json::parse_error& error) {
    const auto end =
        text.begin() + static_cast<std::ptrdiff_t>(std::min(error.byte > 0 ? error.byte - 1 : 0, text.size()));
    const auto line = 1 + std::count(text.begin(), end, '\n');
    const auto lineStart = std::find(std::make_reverse_iterator(end), text.rend(), '\n').base();
    return tl::unexpected(Problem{fmt::format("{}:{}:{}", fileName, line, 1 + (end - lineStart)),
                                  error.byte > text.size() ? "the file ends in the middle; it may have been cut short"
                                                           : "not valid JSON here"});
  } catch (const JsonMistake& mistake) {
    return tl::unexpected(Problem{fileName, mistake.problem.message});
  } catch (const Json::exception&) {
    return tl::unexpected(Problem{fileName, "not valid JSON"});
  }
}

tl::expected<std::string, Problem> readFile(const std::filesystem::path& path) {
  std::error_code error;
  if (std::filesystem::is_directory(path, error))
    return tl::unexpected(Problem{path.string(), "is a folder, not a file"});
  std::ifstream stream(path, std::ios::binary);
  if (!stream)
    return tl::unexpected(Problem{path.string(), std::filesystem::exists(path, error)
                                                     ? "cannot be read; check its permissions"
                                                     : "there is no such file"});
  if (const auto size = std::filesystem::file_size(path, error); !error && size > largestFile)
    return tl::unexpected(Problem{path.string(), "larger than 32 MB, which no file of this kind is"});
  std::string text{std::istreambuf_iterator<char>(stream), {}};
  if (stream.bad()) return tl::unexpected(Problem{path.string(), "could not be read to its end"});
  return text;
}

std::optional<Problem> readJsonFolder(const std::filesystem::path& folder,
                                      const std::function<void(const JsonReader&)>& read) {
  std::error_code error;
  std::vector<std::filesystem::path> paths;
  for (const auto& entry : std::filesystem::directory_iterator(folder, error))
    if (entry.path().extension() == ".json") paths.push_back(entry.path());
  if (error) return Problem{folder.string(), "cannot be listed; the installation may be incomplete"};
  std::sort(paths.begin(), paths.end());
  for (const auto& path : paths) {
    const auto text = readFile(path);
    if (!text) return text.error();
    const auto json = parseJson(*text, path.string());
    if (!json) return json.error();
    try {
      read(JsonReader(*json, path.string()));
    } catch (const JsonMistake& mistake) {
      return mistake.problem;
    }
  }
  return std::nullopt;
}

JsonReader JsonReader::at(const std::string& key) const {
  if (!value_->is_object()) fail("must be an object");
  const auto found = value_->find(key);
  if (found == value_->end()) fail("\"" + key + "\" is missing");
  return child(*found, key);
}

JsonReader JsonReader::object(const std::string& key) const {
  auto reader = at(key);
  if (!reader.value_->is_object()) reader.fail("must be an object");
  return reader;
}

std::vector<JsonReader> JsonReader::elements() const {
  if (!value_->is_array()) fail("must be a list");
  std::vector<JsonReader> readers;
  std::size_t index = 0;
  for (const auto& element : *value_)
    readers.push_back(child(element, std::to_string(index++)));
  return readers;
}

std::vector<JsonReader> JsonReader::list(const std::string& key) const { return at(key).elements(); }

std::vector<std::pair<std::string, JsonReader>> JsonReader::members() const {
  if (!value_->is_object()) fail("must be an object");
  std::vector<std::pair<std::string, JsonReader>> readers;
  for (const auto& [key, value] : value_->items())
    readers.emplace_back(key, child(value, key));
  return readers;
}

std::optional<double> JsonReader::optionalNumber(const std::string& key) const {
  if (!has(key)) return std::nullopt;
  return number(key);
}

bool JsonReader::flag(const std::string& key, bool otherwise) const {
  if (!has(key)) return otherwise;
  const auto reader = at(key);
  if (!reader.value_->is_boolean()) reader.fail("must be true or false");
  return reader.value_->get<bool>();
}

std::string JsonReader::asText() const {
  if (!value_->is_string()) fail("must be text");
  return value_->get<std::string>();
}

double JsonReader::asNumber() const {
  if (!value_->is_number()) fail("must be a number");
  const double number = value_->get<double>();
  if (!std::isfinite(number)) fail("is out of range");
  return number;
}

double JsonReader::asValue(Unit unit) const {
  if (value_->is_number()) return asNumber();
  const auto parsed = parse(asText(), unit);
  if (!parsed) fail(parsed.error().message);
  return *parsed;
}

} // namespace vinegar::units
