#include "files/likenesses.h"

#include "units/json.h"

namespace vinegar::files {
namespace {

/// The unit of a field, whatever kind of part has it.
units::Unit unitOf(const std::string& field, const std::string& role) {
  if (field == "value")
    return role == "pickup-coil" ? units::Unit::henry : role == "cable" ? units::Unit::farad : units::Unit::ohm;
  if (field == "ohms" || field == "eddyOhms") return units::Unit::ohm;
  if (field == "voiceCoilInductance") return units::Unit::henry;
  if (field == "resonanceHertz") return units::Unit::hertz;
  return units::Unit::none;
}

} // namespace

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
          likeness.roles[role][field] = value.asValue(unitOf(field, role));
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
    for (const auto& [field, value] : role->second) {
      const auto own = part.settings.find(field);
      if (own == part.settings.end() || !std::holds_alternative<double>(own->second)) continue;
      if (std::get<double>(own->second) != value && !amp::checkSetting(part, field, amp::Setting{value}, library))
        changes.push_back({part.name, field, own->second, value});
    }
  }
  return changes;
}

} // namespace vinegar::files
