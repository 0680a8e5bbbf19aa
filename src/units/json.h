// Reading JSON with the place of every mistake. Used for every file the program reads.
#pragma once

#include "units/file.h"
#include "units/value.h"

#include <filesystem>
#include <functional>
#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <vector>

namespace vinegar::units {

using Json = nlohmann::ordered_json;

/// Thrown by JsonReader inside a reading function, caught at its border and returned as a Problem.
struct JsonMistake {
  Problem problem;
};

/// Parses text into JSON. Refuses more than 64 levels, more than 32 MB, a field that stands twice and invalid UTF-8; a
/// syntax error and a number beyond range name line and column. Never throws. n log n in the text's length.
tl::expected<Json, Problem> parseJson(const std::string& text, const std::string& fileName);

/// Adds a field that is known not to be there yet, without looking for it among the others.
void append(Json& object, const std::string& name, Json value);

/// Reads every *.json of a folder in name order, handing each to `read`; the first mistake is returned.
class JsonReader;
std::optional<Problem> readJsonFolder(const std::filesystem::path& folder,
                                      const std::function<void(const JsonReader&)>& read);
/// The same of a folder that may be absent and hold faulty files: those are returned and the others read.
std::vector<Problem> readJsonFolderAsFarAsItGoes(const std::filesystem::path& folder,
                                                 const std::function<void(const JsonReader&)>& read);

/// A JSON value with the path that leads to it. Every getter throws JsonMistake naming that path.
class JsonReader {
public:
  JsonReader(const Json& value, std::string place) : value_(&value), place_(std::move(place)) {}

  [[noreturn]] void fail(const std::string& message) const { throw JsonMistake{{place_, message}}; }
  [[nodiscard]] const std::string& place() const { return place_; }
  [[nodiscard]] const Json& raw() const { return *value_; }

  [[nodiscard]] bool has(const std::string& key) const { return value_->is_object() && value_->contains(key); }
  [[nodiscard]] JsonReader at(const std::string& key) const;
  [[nodiscard]] JsonReader object(const std::string& key) const;
  [[nodiscard]] std::vector<JsonReader> list(const std::string& key) const;
  [[nodiscard]] std::vector<std::pair<std::string, JsonReader>> members() const;
  [[nodiscard]] std::vector<JsonReader> elements() const;

  [[nodiscard]] std::string text(const std::string& key) const { return at(key).asText(); }
  [[nodiscard]] std::string text(const std::string& key, const std::string& otherwise) const {
    return has(key) ? text(key) : otherwise;
  }
  [[nodiscard]] double number(const std::string& key) const { return at(key).asNumber(); }
  [[nodiscard]] double number(const std::string& key, double otherwise) const {
    return has(key) ? number(key) : otherwise;
  }
  [[nodiscard]] std::optional<double> optionalNumber(const std::string& key) const;
  [[nodiscard]] bool flag(const std::string& key, bool otherwise) const;

  [[nodiscard]] std::string asText() const;
  [[nodiscard]] double asNumber() const;
  /// A number in SI, or text such as "4k7" in `unit`.
  [[nodiscard]] double asValue(Unit unit) const;

private:
  [[nodiscard]] JsonReader child(const Json& value, const std::string& key) const {
    return {value, place_ + "/" + key};
  }
  const Json* value_;
  std::string place_;
};

} // namespace vinegar::units
