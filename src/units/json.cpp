#include "units/json.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <iterator>

namespace vinegar::units {
namespace {
constexpr std::size_t deepest = 64;

/// Line and column of a byte, as an editor counts them.
std::string lineAndColumn(const std::string& fileName, const std::string& text, std::size_t byte) {
  const auto end = text.begin() + static_cast<std::ptrdiff_t>(std::min(byte, text.size()));
  const auto lineStart = std::find(std::make_reverse_iterator(end), text.rend(), '\n').base();
  return fmt::format("{}:{}:{}", fileName, 1 + std::count(text.begin(), end, '\n'), 1 + (end - lineStart));
}

/// Builds the value as the parser goes. The library's own builder looks for every key among those before it, which for
/// an object of many fields takes time by the square.
class Builder : public nlohmann::json_sax<Json> {
public:
  Json value;
  std::size_t mistakeAt = 0;
  std::string mistake; ///< empty: none

  bool null() override { return add(nullptr); }
  bool boolean(bool v) override { return add(v); }
  bool number_integer(number_integer_t v) override { return add(v); }
  bool number_unsigned(number_unsigned_t v) override { return add(v); }
  bool number_float(number_float_t v, const string_t&) override { return add(v); }
  bool string(string_t& v) override { return add(std::move(v)); }
  bool binary(binary_t&) override { return false; }
  bool start_object(std::size_t) override { return open(Json::object()); }
  bool start_array(std::size_t) override { return open(Json::array()); }
  bool key(string_t& name) override {
    key_ = std::move(name);
    return true;
  }
  bool end_object() override {
    const auto& object = stack_.back()->get_ref<Json::object_t&>();
    std::vector<const std::string*> names;
    names.reserve(object.size());
    for (const auto& [name, field] : object)
      names.push_back(&name);
    std::sort(names.begin(), names.end(), [](const auto* l, const auto* r) { return *l < *r; });
    const auto twice =
        std::adjacent_find(names.begin(), names.end(), [](const auto* l, const auto* r) { return *l == *r; });
    if (twice != names.end()) {
      mistake = "\"" + **twice + "\" stands twice in one object";
      return false;
    }
    stack_.pop_back();
    return true;
  }
  bool end_array() override {
    stack_.pop_back();
    return true;
  }
  bool parse_error(std::size_t position, const std::string&, const nlohmann::detail::exception& error) override {
    mistakeAt = position > 0 ? position - 1 : 0;
    mistake = error.id == 406 ? "this number is beyond what any value can be" : "not valid JSON here";
    return false;
  }

private:
  Json* place(Json&& v) {
    if (stack_.empty()) {
      value = std::move(v);
      return &value;
    }
    auto& parent = *stack_.back();
    if (parent.is_array()) {
      auto& list = parent.get_ref<Json::array_t&>();
      list.push_back(std::move(v));
      return &list.back();
    }
    auto& object = parent.get_ref<Json::object_t&>();
    object.push_back({std::move(key_), std::move(v)});
    return &object.back().second;
  }
  template <class T> bool add(T&& v) {
    place(Json(std::forward<T>(v)));
    return true;
  }
  bool open(Json&& v) {
    if (stack_.size() >= deepest) {
      mistake = fmt::format("nested more than {} levels deep", deepest);
      return false;
    }
    stack_.push_back(place(std::move(v)));
    return true;
  }

  std::vector<Json*> stack_; ///< what is open; a parent's list does not grow while a child is
  std::string key_;
};

} // namespace

tl::expected<Json, Problem> parseJson(const std::string& text, const std::string& fileName) {
  if (text.size() > largestFile)
    return tl::unexpected(Problem{fileName, "larger than 32 MB, which no file of this kind is"});
  Builder builder;
  if (Json::sax_parse(text, &builder)) return std::move(builder.value);
  if (builder.mistakeAt == 0 && !text.empty() && builder.mistake.find("JSON") == std::string::npos)
    return tl::unexpected(Problem{fileName, builder.mistake});
  // A number is told by its first digit, not by where the parser found that it goes on too long.
  const auto ofNumber = [&](std::size_t at) {
    return at < text.size() && std::string_view("+-.0123456789eE").find(text[at]) != std::string_view::npos;
  };
  if (builder.mistake.starts_with("this number"))
    while (builder.mistakeAt > 0 && ofNumber(builder.mistakeAt - 1))
      --builder.mistakeAt;
  const bool cut = builder.mistakeAt >= text.size() && builder.mistake == "not valid JSON here";
  return tl::unexpected(Problem{lineAndColumn(fileName, text, builder.mistakeAt),
                                cut ? "the file ends in the middle; it may have been cut short" : builder.mistake});
}

void append(Json& object, const std::string& name, Json value) {
  if (object.is_null()) object = Json::object();
  object.get_ref<Json::object_t&>().push_back({name, std::move(value)});
}

namespace {

/// The *.json files of a folder in the order of their names; nothing where it cannot be listed.
std::optional<std::vector<std::filesystem::path>> jsonFiles(const std::filesystem::path& folder) {
  std::error_code error;
  std::vector<std::filesystem::path> paths;
  for (const auto& entry : std::filesystem::directory_iterator(folder, error))
    if (entry.path().extension() == ".json") paths.push_back(entry.path());
  if (error) return std::nullopt;
  std::sort(paths.begin(), paths.end());
  return paths;
}

std::optional<Problem> readJsonFile(const std::filesystem::path& path,
                                    const std::function<void(const JsonReader&)>& read) {
  const auto text = readFile(path);
  if (!text) return text.error();
  const auto json = parseJson(*text, path.string());
  if (!json) return json.error();
  try {
    read(JsonReader(*json, path.string()));
  } catch (const JsonMistake& mistake) {
    return mistake.problem;
  }
  return std::nullopt;
}

} // namespace

std::optional<Problem> readJsonFolder(const std::filesystem::path& folder,
                                      const std::function<void(const JsonReader&)>& read) {
  const auto paths = jsonFiles(folder);
  if (!paths) return Problem{folder.string(), "cannot be listed; the installation may be incomplete"};
  for (const auto& path : *paths)
    if (auto problem = readJsonFile(path, read)) return problem;
  return std::nullopt;
}

std::vector<Problem> readJsonFolderAsFarAsItGoes(const std::filesystem::path& folder,
                                                 const std::function<void(const JsonReader&)>& read) {
  std::vector<Problem> problems;
  for (const auto& path : jsonFiles(folder).value_or(std::vector<std::filesystem::path>{}))
    if (auto problem = readJsonFile(path, read)) problems.push_back(std::move(*problem));
  return problems;
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
