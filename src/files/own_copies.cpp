#include "files/own_copies.h"

#include <algorithm>
#include <fmt/format.h>
#include <map>
#include <optional>
#include <set>

namespace vinegar::files {

using amp::Library;
using units::Json;
using units::JsonReader;

namespace {

/// Every text that stands in a field of that name, at any depth.
void collect(const Json& json, const std::string& field, std::set<std::string>& texts) {
  if (json.is_object()) {
    for (const auto& [name, value] : json.items())
      if (name == field && value.is_string())
        texts.insert(value.get<std::string>());
      else
        collect(value, field, texts);
  } else if (json.is_array()) {
    for (const auto& value : json)
      collect(value, field, texts);
  }
}

/// Texts that name a section, tube or role in a design or a section's file.
struct Names {
  std::map<std::string, std::string> sections, tubes, roles; ///< from what a file calls it to what it is called here
  [[nodiscard]] bool empty() const { return sections.empty() && tubes.empty() && roles.empty(); }
};

void rename(Json& json, const Names& names) {
  if (json.is_array())
    for (auto& value : json)
      rename(value, names);
  if (!json.is_object()) return;
  const auto put = [&](const char* field, const std::map<std::string, std::string>& of) {
    const auto found = json.find(field);
    if (found == json.end() || !found->is_string()) return;
    if (const auto name = of.find(found->get<std::string>()); name != of.end()) *found = name->second;
  };
  put("section", names.sections);
  put("role", names.roles);
  put("tube", names.tubes);
  if (json.contains("field") && json["field"] == "tube")
    for (const char* end : {"from", "to"})
      put(end, names.tubes);
  for (auto& [field, value] : json.items())
    if (field != copiesName) rename(value, names);
}

/// What tells one content from another of the same name.
std::string mark(const std::string& text) { return fmt::format("~{:08x}", FileState::of(text).hash & 0xffffffffU); }

} // namespace

void keepApart(Json& design, const Library& library, std::string& note) {
  if (!design.is_object() || !design.contains(copiesName) || !design[copiesName].is_object()) return;
  auto& own = design[copiesName];
  Names names;
  const auto apart = [&](std::map<std::string, std::string>& of, const std::string& name, const std::string& text) {
    of[name] = name + mark(text);
    note += fmt::format("{}The library has another \"{}\" than this design, which keeps its own as \"{}\".",
                        note.empty() ? "" : " ", name, of[name]);
  };
  if (own.contains("roles") && own["roles"].is_object()) {
    Json roles = Json::object();
    for (const auto& [id, role] : own["roles"].items()) {
      if (const auto known = library.roles.find(id);
          known != library.roles.end() && known->second.ownText != role.dump())
        apart(names.roles, id, role.dump());
      roles[names.roles.contains(id) ? names.roles[id] : id] = role;
    }
    own["roles"] = std::move(roles);
  }
  const auto each = [&](const char* kind, const char* field, std::map<std::string, std::string>& of, const auto& has) {
    if (!own.contains(kind) || !own[kind].is_array()) return;
    for (auto& copy : own[kind]) {
      if (!copy.is_object() || !copy.contains(field) || !copy[field].is_string()) continue;
      rename(copy, names);
      const auto name = copy[field].template get<std::string>();
      if (const auto known = has(name); !known || *known == copy.dump()) continue;
      apart(of, name, copy.dump());
      copy[field] = of[name];
    }
  };
  each("tubes", "type", names.tubes, [&](const std::string& name) -> std::optional<std::string> {
    const auto* found = library.tubes.find(name);
    return found ? std::optional(found->ownText) : std::nullopt;
  });
  each("sections", "id", names.sections, [&](const std::string& id) -> std::optional<std::string> {
    const auto found = library.sections.find(id);
    return found == library.sections.end() ? std::nullopt : std::optional(found->second.ownText);
  });
  if (!names.empty()) rename(design, names);
}

Json ownOf(const Json& design, const std::string& extra, const Library& library) {
  Json own = Json::object();
  if (!extra.empty())
    if (const auto kept = *units::parseJson(extra, {}); kept.contains(copiesName)) own = kept[copiesName];
  const auto known = [&](const char* kind, const char* field, const std::string& name) {
    if (!own.contains(kind)) return false;
    return std::any_of(own[kind].begin(), own[kind].end(),
                       [&](const Json& copy) { return copy.is_object() && copy.value(field, Json()) == Json(name); });
  };
  std::set<std::string> sections, types;
  collect(design, "section", sections);
  std::set<std::string> roles;
  for (const auto& id : sections) {
    const auto section = library.sections.find(id);
    if (section == library.sections.end() || section->second.ownText.empty()) continue;
    const auto text = *units::parseJson(section->second.ownText, {});
    collect(text, "tube", types);
    collect(text, "role", roles);
    if (!known("sections", "id", id)) own["sections"].push_back(text);
  }
  for (const auto& id : roles)
    if (const auto& role = library.role(id); !role.ownText.empty())
      own["roles"][id] = *units::parseJson(role.ownText, {});
  // A type may stand in any text field of the design: a part's tube, or what a mark changes it from or to.
  for (const auto* field : {"tube", "from", "to"})
    collect(design, field, types);
  for (const auto& name : types)
    if (const auto* type = library.tubes.find(name);
        type && !type->ownText.empty() && !known("tubes", "type", type->name))
      own["tubes"].push_back(*units::parseJson(type->ownText, {}));
  return own;
}

void keepCopies(const JsonReader& copies, const Library& library, LoadedDesign& loaded) {
  Json lacked = Json::object();
  const auto take = [&](const char* kind, const char* field, const auto& isKnown) {
    if (!copies.has(kind)) return;
    for (const auto& copy : copies.list(kind)) {
      const auto name = copy.has(field) && copy.raw()[field].is_string() ? copy.text(field) : std::string();
      if (!isKnown(name)) lacked[kind].push_back(copy.raw());
    }
  };
  take("sections", "id", [&](const std::string& id) { return library.sections.contains(id); });
  take("tubes", "type", [&](const std::string& name) { return library.tubes.find(name) != nullptr; });
  if (copies.has("roles"))
    for (const auto& [id, role] : copies.object("roles").members())
      if (!library.roles.contains(id)) lacked["roles"][id] = role.raw();
  if (lacked.empty()) return;
  loaded.copies = lacked.dump();
  auto extra = loaded.document.extra.empty() ? Json(Json::object()) : *units::parseJson(loaded.document.extra, {});
  extra[copiesName] = std::move(lacked);
  loaded.document.extra = extra.dump();
}

} // namespace vinegar::files
