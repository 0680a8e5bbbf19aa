#include "files/own_copies.h"

#include <algorithm>
#include <fmt/format.h>
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

} // namespace

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
  std::vector<std::string> others; // that the library has otherwise
  const auto take = [&](const char* kind, const char* field, const auto& ownTextOf) {
    if (!copies.has(kind)) return;
    for (const auto& copy : copies.list(kind)) {
      const auto name = copy.has(field) && copy.raw()[field].is_string() ? copy.text(field) : std::string();
      if (const auto known = ownTextOf(name); !known)
        lacked[kind].push_back(copy.raw());
      else if (*known != copy.raw().dump())
        others.push_back(name);
    }
  };
  take("sections", "id", [&](const std::string& id) {
    const auto found = library.sections.find(id);
    return found == library.sections.end() ? std::nullopt : std::optional(found->second.ownText);
  });
  take("tubes", "type", [&](const std::string& name) {
    const auto* found = library.tubes.find(name);
    return found ? std::optional(found->ownText) : std::nullopt;
  });
  if (copies.has("roles"))
    for (const auto& [id, role] : copies.object("roles").members())
      if (!library.roles.contains(id)) lacked["roles"][id] = role.raw();
  for (const auto& name : others)
    loaded.note += fmt::format("{}The design was made with another {} than the one here, which is used.",
                               loaded.note.empty() ? "" : " ", name);
  if (lacked.empty()) return;
  loaded.copies = lacked.dump();
  auto extra = loaded.document.extra.empty() ? Json(Json::object()) : *units::parseJson(loaded.document.extra, {});
  extra[copiesName] = std::move(lacked);
  loaded.document.extra = extra.dump();
}

} // namespace vinegar::files
