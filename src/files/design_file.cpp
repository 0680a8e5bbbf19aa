#include "files/design_file.h"

#include "units/json.h"

#include <algorithm>
#include <cerrno>
#include <cstdlib>
#include <cstring>
#include <fcntl.h>
#include <fmt/format.h>
#include <sys/stat.h>
#include <unistd.h>

namespace vinegar::files {
namespace {

using units::Json;
using units::JsonReader;
using namespace amp;

constexpr const char* formatName = "vinegar-design";

/// Fields not in `known`, as JSON text; empty when there are none.
std::string unknownFields(const JsonReader& reader, std::initializer_list<const char*> known) {
  Json extra = Json::object();
  for (const auto& [key, value] : reader.raw().items())
    if (std::find(known.begin(), known.end(), key) == known.end()) extra[key] = value;
  return extra.empty() ? std::string{} : extra.dump();
}

void restoreUnknown(Json& object, const std::string& extra) {
  if (!extra.empty()) object.update(Json::parse(extra));
}

Setting readSetting(const JsonReader& reader, units::Unit unit) {
  if (reader.raw().is_boolean()) return reader.raw().get<bool>();
  if (reader.raw().is_number()) return reader.asNumber();
  if (unit == units::Unit::none) return reader.asText();
  return reader.asValue(unit);
}

/// Values are written as builders write them when that loses nothing, else as the number.
Json settingJson(const Setting& setting, units::Unit unit) {
  if (const auto* flag = std::get_if<bool>(&setting)) return *flag;
  if (const auto* text = std::get_if<std::string>(&setting)) return *text;
  const double number = std::get<double>(setting);
  if (unit == units::Unit::none) return number;
  const auto text = units::schematic(number, unit);
  const auto back = units::parse(text, unit);
  if (back && *back == number) return text;
  return number;
}

units::Unit unitOf(const PartTemplate* part, const std::string& field) {
  return part && field == "value" ? valueUnit(part->kind) : units::Unit::none;
}

SectionUse readUse(const JsonReader& reader, const Library& library) {
  SectionUse use;
  use.id = reader.text("id");
  use.section = reader.text("section");
  use.node = reader.text("node", "");
  const auto section = library.sections.find(use.section);
  if (reader.has("parts"))
    for (const auto& [ref, part] : reader.at("parts").members()) {
      PartUse own;
      own.name = part.text("name", "");
      const auto* known = section == library.sections.end() ? nullptr : section->second.part(ref);
      Json extra = Json::object();
      for (const auto& [field, setting] : part.members()) {
        if (field == "name") continue;
        if (known && known->defaults.contains(field))
          own.settings[field] = readSetting(setting, unitOf(known, field));
        else
          extra[field] = setting.raw();
      }
      if (!extra.empty()) own.extra = extra.dump();
      use.parts[ref] = std::move(own);
    }
  if (reader.has("joins"))
    for (const auto& [port, target] : reader.at("joins").members())
      use.joins[port] = target.asText();
  use.extra = unknownFields(reader, {"id", "section", "node", "parts", "joins"});
  return use;
}

Json useJson(const SectionUse& use, const Library& library) {
  Json json{{"id", use.id}, {"section", use.section}};
  if (!use.node.empty()) json["node"] = use.node;
  for (const auto& [port, target] : use.joins)
    json["joins"][port] = target;
  const auto section = library.sections.find(use.section);
  for (const auto& [ref, part] : use.parts) {
    const auto* known = section == library.sections.end() ? nullptr : section->second.part(ref);
    Json own = Json::object();
    if (!part.name.empty()) own["name"] = part.name;
    for (const auto& [field, setting] : part.settings)
      own[field] = settingJson(setting, unitOf(known, field));
    restoreUnknown(own, part.extra);
    json["parts"][ref] = std::move(own);
  }
  restoreUnknown(json, use.extra);
  return json;
}

/// Changes are kept with plain numbers in SI units, so that they can be read without the section library.
Change readChange(const JsonReader& reader) {
  const auto plain = [&](const char* key) { return readSetting(reader.at(key), units::Unit::none); };
  Change change{reader.text("part"), reader.text("field"), plain("from"), plain("to")};
  if (change.from.index() != change.to.index()) reader.fail("from and to must be of the same type");
  return change;
}

std::vector<Change> readChanges(const JsonReader& reader) {
  std::vector<Change> changes;
  if (reader.has("changes"))
    for (const auto& change : reader.list("changes"))
      changes.push_back(readChange(change));
  return changes;
}

Json changesJson(const std::vector<Change>& changes) {
  Json list = Json::array();
  for (const auto& change : changes)
    list.push_back(Json{{"part", change.part},
                        {"field", change.field},
                        {"from", settingJson(change.from, units::Unit::none)},
                        {"to", settingJson(change.to, units::Unit::none)}});
  return list;
}

LoadedDesign readDocument(const JsonReader& file, const Library& library) {
  LoadedDesign loaded;
  if (!file.raw().is_object() || !file.has("format") || file.text("format") != formatName)
    file.fail("is not a Vinegar design: \"format\" is not \"vinegar-design\"");
  const double version = file.number("version");
  if (version < 1 || version != static_cast<int>(version)) file.at("version").fail("must be a whole number from 1 up");
  if (version > designVersion) {
    loaded.readOnly = true;
    loaded.note = fmt::format("This file was written by a newer version (format {}; this one knows {}). It is opened "
                              "read-only; save a copy under another name to change it.",
                              version, designVersion);
  }
  auto& document = loaded.document;
  document.ink.name = file.text("name");
  for (const auto& section : file.list("line"))
    document.ink.line.push_back(readUse(section, library));
  if (file.has("supply"))
    for (const auto& section : file.list("supply"))
      document.ink.supply.push_back(readUse(section, library));
  if (file.has("lanes"))
    for (const auto& section : file.list("lanes"))
      document.ink.lanes.push_back(readUse(section, library));
  if (file.has("knobs"))
    for (const auto& [knob, rotation] : file.at("knobs").members())
      document.ink.knobs[knob] = rotation.asNumber();
  if (file.has("sheets")) {
    document.sheets.clear();
    for (const auto& sheet : file.list("sheets"))
      document.sheets.push_back({sheet.text("name"), readChanges(sheet), unknownFields(sheet, {"name", "changes"})});
    if (document.sheets.empty()) document.sheets.push_back({"Sheet 1", {}, {}});
  }
  if (file.has("activeSheet")) {
    const double active = file.number("activeSheet");
    if (!(active >= 0 && active < static_cast<double>(document.sheets.size())))
      file.at("activeSheet").fail("there is no sheet of that number");
    document.activeSheet = static_cast<std::size_t>(active);
  }
  if (file.has("log")) {
    int last = 0;
    for (const auto& entry : file.list("log")) {
      const double number = entry.number("number");
      if (!(number > last && number < 1e6)) entry.at("number").fail("revision numbers must rise");
      last = static_cast<int>(number);
      document.log.push_back({last, entry.text("date"), entry.text("reason"), readChanges(entry),
                              unknownFields(entry, {"number", "date", "reason", "changes"})});
    }
  }
  document.extra = unknownFields(
      file, {"format", "version", "name", "line", "supply", "lanes", "knobs", "sheets", "activeSheet", "log"});
  return loaded;
}

std::string systemMessage(int code) {
  if (code == ENOSPC || code == EDQUOT) return "the disk is full; free some space or save elsewhere";
  if (code == EACCES || code == EPERM || code == EROFS) return "may not be written; save elsewhere";
  if (code == ENOENT) return "the folder does not exist";
  return std::strerror(code);
}

} // namespace

tl::expected<LoadedDesign, Problem> readDesignText(const std::string& text, const std::string& name,
                                                   const Library& library) {
  const auto json = units::parseJson(text, name);
  if (!json) return tl::unexpected(json.error());
  try {
    auto loaded = readDocument(JsonReader(*json, name), library);
    nameParts(loaded.document.ink, library);
    return loaded;
  } catch (const units::JsonMistake& mistake) {
    return tl::unexpected(mistake.problem);
  }
}

tl::expected<LoadedDesign, Problem> readDesign(const std::filesystem::path& path, const Library& library) {
  const auto text = units::readFile(path);
  if (!text) return tl::unexpected(text.error());
  return readDesignText(*text, path.string(), library);
}

std::string writeDesignText(const Document& document, const Library& library) {
  Json json{{"format", formatName}, {"version", designVersion}, {"name", document.ink.name}};
  for (const auto& [key, list] :
       {std::pair{"line", &document.ink.line}, {"supply", &document.ink.supply}, {"lanes", &document.ink.lanes}}) {
    json[key] = Json::array();
    for (const auto& use : *list)
      json[key].push_back(useJson(use, library));
  }
  json["knobs"] = Json::object();
  for (const auto& [knob, rotation] : document.ink.knobs)
    json["knobs"][knob] = rotation;
  json["sheets"] = Json::array();
  for (const auto& sheet : document.sheets) {
    Json own{{"name", sheet.name}, {"changes", changesJson(sheet.changes)}};
    restoreUnknown(own, sheet.extra);
    json["sheets"].push_back(std::move(own));
  }
  json["activeSheet"] = document.activeSheet;
  json["log"] = Json::array();
  for (const auto& revision : document.log) {
    Json own{{"number", revision.number},
             {"date", revision.date},
             {"reason", revision.reason},
             {"changes", changesJson(revision.changes)}};
    restoreUnknown(own, revision.extra);
    json["log"].push_back(std::move(own));
  }
  restoreUnknown(json, document.extra);
  return json.dump(1) + "\n";
}

std::optional<Problem> saveAtomically(const std::filesystem::path& path, const std::string& text) {
  // A link is followed, so that saving does not cut it.
  std::error_code ignored;
  const auto target = std::filesystem::is_symlink(path, ignored) ? std::filesystem::canonical(path, ignored) : path;
  std::string beside = target.string() + ".XXXXXX";
  const int file = mkstemp(beside.data());
  if (file < 0) return Problem{path.string(), "cannot be saved: " + systemMessage(errno)};
  const auto giveUp = [&](int code) {
    close(file);
    unlink(beside.c_str());
    return Problem{path.string(), "was not saved and is as it was: " + systemMessage(code)};
  };
  std::size_t written = 0;
  while (written < text.size()) {
    const auto count = write(file, text.data() + written, text.size() - written);
    if (count < 0 && errno == EINTR) continue;
    if (count < 0) return giveUp(errno);
    written += static_cast<std::size_t>(count);
  }
  const auto status = std::filesystem::status(target, ignored);
  const auto mode = std::filesystem::exists(status) ? static_cast<mode_t>(status.permissions()) : mode_t{0644};
  if (fchmod(file, mode) != 0 || fsync(file) != 0) return giveUp(errno);
  if (rename(beside.c_str(), target.c_str()) != 0) return giveUp(errno);
  close(file);
  return std::nullopt;
}

std::optional<Problem> saveDesign(const std::filesystem::path& path, const Document& document, const Library& library) {
  return saveAtomically(path, writeDesignText(document, library));
}

std::filesystem::path dataFolder() {
  if (const char* chosen = std::getenv("VINEGAR_DATA")) return chosen;
  std::error_code error;
  const auto program = std::filesystem::read_symlink("/proc/self/exe", error);
  if (!error) {
    const auto installed = program.parent_path().parent_path() / VINEGAR_INSTALL_DATA;
    if (std::filesystem::exists(installed / "sections", error)) return installed;
  }
  return VINEGAR_SOURCE_DATA;
}

} // namespace vinegar::files
