#include "files/design_file.h"

#include "files/extra_fields.h"
#include "files/own_copies.h"
#include "files/wishes.h"
#include "units/json.h"

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <fmt/format.h>
#include <iterator>
#include <unordered_map>
#include <unordered_set>

namespace vinegar::files {
namespace {

using units::Json;
using units::JsonReader;
using namespace amp;

constexpr const char* formatName = "vinegar-design";
constexpr std::size_t smallText = std::size_t{1} << 20U; ///< grows to 24 MB in no way

/// As the part's kind has it: text where a type or taper is meant, a number with or without its unit elsewhere. What is
/// of another type altogether is read as it is, for `check` to report.
Setting readSetting(const JsonReader& reader, const PartTemplate* part, const std::string& field) {
  if (reader.raw().is_boolean()) return reader.raw().get<bool>();
  if (reader.raw().is_number()) return reader.asNumber();
  const auto shipped = part ? part->defaults.find(field) : decltype(part->defaults.end()){};
  if (part && shipped != part->defaults.end() && std::holds_alternative<double>(shipped->second))
    return reader.asValue(settingUnit(part->kind, field));
  return reader.asText();
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

/// Only values are written with a prefix; parameters stay plain numbers, which every reader knows.
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
        if (const auto shipped = known ? known->defaults.find(field) : decltype(known->defaults.end()){};
            known && shipped != known->defaults.end()) {
          // Only what differs from the section's own is kept, so that equal designs are equal.
          if (auto read_ = readSetting(setting, known, field); read_ != shipped->second)
            own.settings[field] = std::move(read_);
        } else
          units::append(extra, field, setting.raw());
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
    units::append(json["joins"], port, target);
  const auto section = library.sections.find(use.section);
  for (const auto& [ref, part] : use.parts) {
    const auto* known = section == library.sections.end() ? nullptr : section->second.part(ref);
    Json own = Json::object();
    if (!part.name.empty()) own["name"] = part.name;
    for (const auto& [field, setting] : part.settings)
      own[field] = settingJson(setting, unitOf(known, field));
    restoreUnknown(own, part.extra);
    units::append(json["parts"], ref, std::move(own));
  }
  restoreUnknown(json, use.extra);
  return json;
}

/// Parts of the ink by name, for the units of what is said of them elsewhere.
using PartKinds = std::unordered_map<std::string, const PartTemplate*>;

Spot readSpot(const JsonReader& reader, const char* field) {
  const auto spot = reader.at(field);
  return {spot.text("chain"), spot.text("after", "")};
}

Chain readChain(const JsonReader& reader, const Library& library) {
  Chain chain{reader.text("id"),
              {},
              reader.text("from", ""),
              reader.text("to", ""),
              unknownFields(reader, {"id", "from", "to", "sections"})};
  for (const auto& section : reader.list("sections"))
    chain.sections.push_back(readUse(section, library));
  return chain;
}

/// Fields are kept with plain numbers in SI units, so that they can be read without the section library; a value
/// written with its unit is read where the part is known. `extra`: what is not known here.
Change readChange(const JsonReader& reader, const PartKinds& parts, const Library& library, std::string& extra) {
  const auto act = reader.text("do", "set");
  const auto rest = [&](std::initializer_list<const char*> known) { extra = unknownFields(reader, known); };
  if (act == "set") {
    SetField change{reader.text("part"), reader.text("field"), {}, {}};
    const auto part = parts.find(change.part);
    const auto* known = part == parts.end() ? nullptr : part->second;
    change.from = readSetting(reader.at("from"), known, change.field);
    change.to = readSetting(reader.at("to"), known, change.field);
    if (change.from.index() != change.to.index()) reader.fail("from and to must be of the same type");
    rest({"do", "part", "field", "from", "to"});
    return change;
  }
  if (act == "add" || act == "remove") {
    rest({"do", "at", "use"});
    auto spot = readSpot(reader, "at");
    auto use = readUse(reader.at("use"), library);
    if (act == "add") return AddSection{std::move(spot), std::move(use)};
    return RemoveSection{std::move(spot), std::move(use)};
  }
  if (act == "move") {
    rest({"do", "id", "from", "to"});
    return MoveSection{reader.text("id"), readSpot(reader, "from"), readSpot(reader, "to")};
  }
  if (act == "replace") {
    rest({"do", "from", "to"});
    ReplaceSection change{readUse(reader.at("from"), library), readUse(reader.at("to"), library)};
    if (change.from.id != change.to.id) reader.fail("from and to must have the same id");
    return change;
  }
  if (act == "join") {
    rest({"do", "section", "port", "from", "to"});
    return JoinPort{reader.text("section"), reader.text("port"), reader.text("from", ""), reader.text("to", "")};
  }
  if (act == "join-end") {
    rest({"do", "chain", "end", "from", "to"});
    JoinEnd change{reader.text("chain"), reader.text("end"), reader.text("from", ""), reader.text("to", "")};
    if (change.end != "from" && change.end != "to") reader.at("end").fail("must be from or to");
    return change;
  }
  if (act == "add-chain" || act == "remove-chain") {
    rest({"do", "after", "chain"});
    auto after = reader.text("after", "");
    auto chain = readChain(reader.at("chain"), library);
    if (act == "add-chain") return AddChain{std::move(after), std::move(chain)};
    return RemoveChain{std::move(after), std::move(chain)};
  }
  if (act == "renumber") {
    rest({"do", "from", "to"});
    Renumber change;
    for (const auto& [key, names] : {std::pair{"from", &change.from}, {"to", &change.to}})
      for (const auto& name : reader.list(key))
        names->push_back(name.asText());
    if (change.from.size() != change.to.size()) reader.fail("from and to must be of the same length");
    return change;
  }
  reader.at("do").fail("is no change that this version knows");
}

/// Version 2: "marks", each a list of changes. Version 1: "changes", each a mark of its own but for a bottle's types.
std::vector<Mark> readMarks(const JsonReader& reader, const PartKinds& parts, const Library& library) {
  std::vector<Mark> marks;
  const auto add = [&](Mark& mark, const JsonReader& change) {
    std::string extra;
    mark.changes.push_back(readChange(change, parts, library, extra));
    if (!extra.empty()) mark.extra[mark.changes.size() - 1] = std::move(extra);
  };
  if (reader.has("marks"))
    for (const auto& list : reader.list("marks")) {
      Mark mark;
      for (const auto& change : list.elements())
        add(mark, change);
      if (!mark.changes.empty()) marks.push_back(std::move(mark));
    }
  std::unordered_map<std::string, std::size_t> bottles;
  if (reader.has("changes"))
    for (const auto& change : reader.list("changes")) {
      Mark mark;
      add(mark, change);
      const auto* field = mark.field();
      if (field && field->field == "tube")
        if (const auto [bottle, isNew] = bottles.try_emplace(bottleOf(field->part), marks.size()); !isNew) {
          auto& whole = marks[bottle->second];
          const bool twice = std::any_of(whole.changes.begin(), whole.changes.end(), [&](const Change& other) {
            return std::get<SetField>(other).part == field->part;
          });
          if (!twice) {
            if (!mark.extra.empty()) whole.extra[whole.changes.size()] = mark.extra.begin()->second;
            whole.changes.push_back(std::move(mark.changes.front()));
            continue;
          }
        }
      marks.push_back(std::move(mark));
    }
  return marks;
}

Json chainJson(const Chain& chain, const Library& library) {
  Json json{{"id", chain.id}};
  if (!chain.from.empty()) json["from"] = chain.from;
  if (!chain.to.empty()) json["to"] = chain.to;
  json["sections"] = Json::array();
  for (const auto& use : chain.sections)
    json["sections"].push_back(useJson(use, library));
  restoreUnknown(json, chain.extra);
  return json;
}

Json changeJson(const Change& change, const Library& library) {
  struct Writer {
    const Library& library;
    static Json spot(const Spot& s) { return {{"chain", s.chain}, {"after", s.after}}; }
    Json operator()(const SetField& c) const {
      return {{"part", c.part},
              {"field", c.field},
              {"from", settingJson(c.from, units::Unit::none)},
              {"to", settingJson(c.to, units::Unit::none)}};
    }
    Json operator()(const AddSection& c) const {
      return {{"do", "add"}, {"at", spot(c.spot)}, {"use", useJson(c.use, library)}};
    }
    Json operator()(const RemoveSection& c) const {
      return {{"do", "remove"}, {"at", spot(c.spot)}, {"use", useJson(c.use, library)}};
    }
    Json operator()(const MoveSection& c) const {
      return {{"do", "move"}, {"id", c.id}, {"from", spot(c.from)}, {"to", spot(c.to)}};
    }
    Json operator()(const ReplaceSection& c) const {
      return {{"do", "replace"}, {"from", useJson(c.from, library)}, {"to", useJson(c.to, library)}};
    }
    Json operator()(const JoinPort& c) const {
      return {{"do", "join"}, {"section", c.section}, {"port", c.port}, {"from", c.from}, {"to", c.to}};
    }
    Json operator()(const JoinEnd& c) const {
      return {{"do", "join-end"}, {"chain", c.chain}, {"end", c.end}, {"from", c.from}, {"to", c.to}};
    }
    Json operator()(const AddChain& c) const {
      return {{"do", "add-chain"}, {"after", c.after}, {"chain", chainJson(c.chain, library)}};
    }
    Json operator()(const RemoveChain& c) const {
      return {{"do", "remove-chain"}, {"after", c.after}, {"chain", chainJson(c.chain, library)}};
    }
    Json operator()(const Renumber& c) const { return {{"do", "renumber"}, {"from", c.from}, {"to", c.to}}; }
  };
  return std::visit(Writer{library}, change);
}

Json marksJson(const std::vector<Mark>& marks, const Library& library) {
  Json list = Json::array();
  for (const auto& mark : marks) {
    Json own = Json::array();
    for (std::size_t i = 0; i < mark.changes.size(); ++i) {
      own.push_back(changeJson(mark.changes[i], library));
      if (const auto extra = mark.extra.find(i); extra != mark.extra.end()) restoreUnknown(own.back(), extra->second);
    }
    list.push_back(std::move(own));
  }
  return list;
}

/// Version 1 had single sections beside the line, each joined by its own ports: one that stands on another's `out`
/// goes on with its chain.
std::vector<Chain> chainsFromLanes(std::vector<SectionUse> lanes, Design& design, const Library& library) {
  std::vector<Chain> chains;
  const auto portOf = [&](const SectionUse& use, auto which) -> std::string {
    const auto section = library.sections.find(use.section);
    const auto* port = section == library.sections.end() ? nullptr : which(section->second);
    return port ? port->name : std::string();
  };
  const auto takeJoin = [](SectionUse& use, const std::string& port) {
    const auto join = use.joins.find(port);
    if (port.empty() || join == use.joins.end()) return std::string();
    auto target = join->second;
    use.joins.erase(join);
    return target;
  };
  std::unordered_map<std::string, std::size_t> ends; // "section.port" where a chain ends
  for (auto& use : lanes) {
    auto from = takeJoin(use, portOf(use, headOf));
    const auto tail = portOf(use, tailOf);
    const auto end = ends.find(from);
    const bool goesOn = !from.empty() && end != ends.end() && from.ends_with(".out");
    const auto number = goesOn ? end->second : chains.size();
    if (goesOn)
      ends.erase(end);
    else
      chains.push_back(
          {use.id == "line" || use.id == "supply" ? use.id + "-side" : use.id, {}, std::move(from), {}, {}});
    if (!tail.empty()) ends[use.id + "." + tail] = number;
    chains[number].sections.push_back(std::move(use));
  }
  for (auto& chain : chains)
    chain.to = takeJoin(chain.sections.back(), portOf(chain.sections.back(), tailOf));
  // The end may be joined from the other side.
  for (auto& chain : chains) {
    const auto tail = portOf(chain.sections.back(), tailOf);
    if (tail.empty() || !chain.to.empty()) continue;
    const auto end = chain.sections.back().id + "." + tail;
    const auto takeFrom = [&](SectionUse& use) {
      for (const auto& [port, target] : use.joins)
        if (target == end) {
          chain.to = use.id + "." + port;
          use.joins.erase(port);
          return true;
        }
      return false;
    };
    bool found = false;
    for (auto& use : design.line)
      if (!found) found = takeFrom(use);
    for (auto& other : chains)
      for (auto& use : other.sections)
        if (!found) found = takeFrom(use);
  }
  return chains;
}

/// Sections and chains are known by their ids, so each has one of its own: where a file gives one twice, or none, the
/// later one gets another and the note says so. Joins mean the first.
void giveIds(Design& design, std::string& note) {
  const auto give = [&](std::string& id, const std::string& wish, std::unordered_set<std::string>& taken,
                        const char* what) {
    const bool usable = !id.empty() && id.find('.') == std::string::npos;
    if (usable && taken.insert(id).second) return;
    const auto stem = usable ? id : wish;
    std::string other = stem;
    for (int n = 2; !taken.insert(other).second; ++n)
      other = fmt::format("{}-{}", stem, n);
    note += fmt::format("{}The {} \"{}\" is called \"{}\" now, since {}.", note.empty() ? "" : " ", what, id, other,
                        usable ? "its name was taken" : "it had none to use");
    id = other;
  };
  std::unordered_set<std::string> sections, chains{"line", "supply"};
  for (auto* use : design.sections())
    give(use->id, "section", sections, "section");
  for (auto& side : design.sides)
    give(side.id, "side", chains, "side chain");
}

LoadedDesign readDocument(const JsonReader& file, const Library& library) {
  LoadedDesign loaded;
  if (!file.raw().is_object() || !file.has("format") || file.text("format") != formatName)
    file.fail("is not a Vinegar design: \"format\" is not \"vinegar-design\"");
  const double version = file.number("version");
  if (!(version >= 1 && version <= 1e6) || version != std::floor(version))
    file.at("version").fail("must be a whole number from 1 to a million");
  if (version > designVersion) {
    loaded.readOnly = true;
    loaded.note = fmt::format("This file was written by a newer version (format {}; this one knows {}). It is opened "
                              "read-only; save a copy under another name to change it.",
                              version, designVersion);
  }
  auto& document = loaded.document;
  document.ink.name = file.text("name");
  document.about = file.text("about", "");
  for (const auto& section : file.list("line"))
    document.ink.line.push_back(readUse(section, library));
  if (file.has("supply"))
    for (const auto& section : file.list("supply"))
      document.ink.supply.push_back(readUse(section, library));
  std::vector<SectionUse> lanes;
  if (file.has("sides"))
    for (const auto& chain : file.list("sides"))
      document.ink.sides.push_back(readChain(chain, library));
  if (file.has("lanes"))
    for (const auto& section : file.list("lanes"))
      lanes.push_back(readUse(section, library));
  if (file.has("knobs"))
    for (const auto& [knob, rotation] : file.at("knobs").members())
      document.ink.knobs[knob] = rotation.asValue(units::Unit::none);
  auto chains = chainsFromLanes(std::move(lanes), document.ink, library);
  std::move(chains.begin(), chains.end(), std::back_inserter(document.ink.sides));
  giveIds(document.ink, loaded.note);
  nameParts(document.ink, library);
  PartKinds parts;
  for (const auto& part : resolveParts(document.ink, library))
    parts.try_emplace(part.name, part.part);
  if (file.has("sheets")) {
    document.sheets.clear();
    for (const auto& sheet : file.list("sheets"))
      document.sheets.push_back(
          {sheet.text("name"), readMarks(sheet, parts, library), unknownFields(sheet, {"name", "marks", "changes"})});
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
      document.log.push_back({last, entry.text("date"), entry.text("reason"), readMarks(entry, parts, library),
                              unknownFields(entry, {"number", "date", "reason", "marks", "changes"})});
    }
  }
  if (file.has("measured"))
    for (const auto& [part, electrodes] : file.at("measured").members())
      for (const auto& [electrode, volts] : electrodes.members())
        document.measured[part][electrode] = volts.asValue(units::Unit::volt);
  readWishes(file, document);
  document.extra =
      unknownFields(file, {"format", "version", "name", "about", "line", "supply", "sides", "lanes", "knobs", "sheets",
                           "activeSheet", "log", "measured", "targets", "bands", "sound", copiesName});
  if (file.has(copiesName)) keepCopies(file.object(copiesName), library, loaded);
  return loaded;
}

} // namespace

tl::expected<LoadedDesign, Problem> readDesignText(const std::string& text, const std::string& name,
                                                   const Library& library) {
  auto json = units::parseJson(text, name);
  if (!json) return tl::unexpected(json.error());
  try {
    std::string kept;
    keepApart(*json, library, kept);
    auto loaded = readDocument(JsonReader(*json, name), library);
    if (!kept.empty()) loaded.note += (loaded.note.empty() ? "" : " ") + kept;
    loaded.state = FileState::of(text);
    // Every part is written with its name, so a short file can grow past what is ever read again.
    if (text.size() > smallText && writeDesignText(loaded.document, library).size() > units::largestFile / 4 * 3)
      return tl::unexpected(Problem{name, "would grow past 24 MB when saved, more than any amplifier needs"});
    return loaded;
  } catch (const units::JsonMistake& mistake) {
    return tl::unexpected(mistake.problem);
  }
}

tl::expected<LoadedDesign, Problem> readDesign(const std::filesystem::path& path, const Library& library,
                                               const std::function<std::unique_lock<std::mutex>()>& hold) {
  const auto text = units::readFile(path);
  if (!text) return tl::unexpected(text.error());
  const auto held = hold ? hold() : std::unique_lock<std::mutex>{};
  if (hold && !held) return tl::unexpected(Problem::stopped());
  auto loaded = readDesignText(*text, path.string(), library);
  if (const auto former = formerContent(path); !former.empty()) {
    const auto told = fmt::format("A save of this file was cut short; what it held before is in {}.", former.string());
    if (loaded)
      loaded->note += (loaded->note.empty() ? "" : " ") + told;
    else
      loaded.error().message += ". " + told;
  }
  return loaded;
}

std::string writeDesignText(const Document& document, const Library& library) {
  Json json{{"format", formatName}, {"version", designVersion}, {"name", document.ink.name}};
  if (!document.about.empty()) json["about"] = document.about;
  for (const auto& [key, list] : {std::pair{"line", &document.ink.line}, {"supply", &document.ink.supply}}) {
    json[key] = Json::array();
    for (const auto& use : *list)
      json[key].push_back(useJson(use, library));
  }
  json["sides"] = Json::array();
  for (const auto& side : document.ink.sides)
    json["sides"].push_back(chainJson(side, library));
  json["knobs"] = Json::object();
  for (const auto& [knob, rotation] : document.ink.knobs)
    units::append(json["knobs"], knob, rotation);
  json["sheets"] = Json::array();
  for (const auto& sheet : document.sheets) {
    Json own{{"name", sheet.name}, {"marks", marksJson(sheet.marks, library)}};
    restoreUnknown(own, sheet.extra);
    json["sheets"].push_back(std::move(own));
  }
  json["activeSheet"] = document.activeSheet;
  json["log"] = Json::array();
  for (const auto& revision : document.log) {
    Json own{{"number", revision.number},
             {"date", revision.date},
             {"reason", revision.reason},
             {"marks", marksJson(revision.marks, library)}};
    restoreUnknown(own, revision.extra);
    json["log"].push_back(std::move(own));
  }
  if (!document.measured.empty()) json["measured"] = document.measured;
  writeWishes(document, json);
  const auto own = ownOf(json, document.extra, library);
  restoreUnknown(json, document.extra);
  if (!own.empty()) json[copiesName] = own;
  // Readable as long as that costs little.
  auto text = json.dump(1) + "\n";
  return text.size() <= units::largestFile / 4 ? text : json.dump() + "\n";
}

std::optional<Problem> saveDesign(const std::filesystem::path& path, const Document& document, const Library& library,
                                  FileState* state) {
  const auto text = writeDesignText(document, library);
  if (text.size() > units::largestFile)
    return Problem{path.string(), "was not saved: it would be larger than 32 MB and could not be opened again"};
  if (auto problem = saveAtomically(path, text)) return problem;
  if (state) *state = FileState::of(text);
  return std::nullopt;
}

} // namespace vinegar::files
