#include "files/likenesses.h"

#include "units/json.h"

namespace vinegar::files {
tl::expected<std::vector<Likeness>, Problem> readLikenesses(const std::filesystem::path& data) {
  std::vector<Likeness> likenesses;
  std::error_code error;
  if (!std::filesystem::is_directory(data / "likenesses", error)) return likenesses;
  const auto problem = units::readJsonFolder(data / "likenesses", [&](const units::JsonReader& file) {
    for (const auto& reader : file.list("likenesses")) {
      Likeness likeness{reader.text("title"), reader.text("group"), reader.text("about", ""), {}};
      if (likeness.group != "source" && likeness.group != "speaker")
        reader.at("group").fail("must be source or speaker");
      for (const auto& [role, fields] : reader.object("roles").members())
        for (const auto& [field, value] : fields.members())
          likeness.roles[role][field] = value.asText();
      likenesses.push_back(std::move(likeness));
    }
  });
  if (problem) return tl::unexpected(*problem);
  return likenesses;
}

std::vector<amp::SetField> changesTo(const Likeness& likeness, const amp::Design& design, const amp::Library& library) {
  std::vector<amp::SetField> changes;
  for (const auto& part : amp::resolveParts(design, library)) {
    const auto role = likeness.roles.find(part.part->role);
    if (role == likeness.roles.end() || !part.fitted()) continue;
    for (const auto& [field, text] : role->second)
      if (const auto to = amp::typedSetting(part, field, text, library); to && *to != part.settings.at(field))
        changes.push_back({part.name, field, part.settings.at(field), *to});
  }
  return changes;
}

} // namespace vinegar::files
