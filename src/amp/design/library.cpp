#include "amp/design/part_kinds.h"
#include "units/json.h"

#include <algorithm>
#include <array>
#include <fmt/format.h>
#include <iterator>
#include <set>
#include <utility>

namespace vinegar::amp {

using units::JsonReader;
using units::Unit;

namespace {

/// A place on a section's grid; nobody draws a section larger than that.
double readStep(const JsonReader& reader) {
  constexpr double largest = 500;
  const double step = reader.asNumber();
  if (!(std::abs(step) <= largest)) reader.fail(fmt::format("lies outside the grid, which ends at {:.0f}", largest));
  return step;
}

Point readPoint(const JsonReader& reader) {
  const auto values = reader.elements();
  if (values.size() != 2) reader.fail("must be [x, y]");
  return {readStep(values[0]), readStep(values[1])};
}

Direction readDirection(const JsonReader& place) {
  const auto text = place.text("dir", "down");
  constexpr std::array<std::string_view, 4> names{"right", "down", "left", "up"};
  const auto found = std::find(names.begin(), names.end(), text);
  if (found == names.end()) place.fail("dir must be right, down, left or up, not \"" + text + "\"");
  return static_cast<Direction>(found - names.begin());
}

Carries readCarries(const JsonReader& file, const std::string& key) {
  const auto text = file.text(key, "nothing");
  constexpr std::array<std::string_view, 4> names{"nothing", "single", "balanced", "speaker"};
  const auto found = std::find(names.begin(), names.end(), text);
  if (found == names.end()) file.fail(key + " must be single, balanced or speaker, not \"" + text + "\"");
  return static_cast<Carries>(found - names.begin());
}

/// "positions": [{"title": "off"}, {"title": "bright", "to": "b"}], `to` one of the throws.
std::vector<PartTemplate::Position> readPositions(const JsonReader& part, const std::vector<std::string>& nodes) {
  std::vector<PartTemplate::Position> positions;
  for (const auto& reader : part.list("positions")) {
    const auto to = reader.text("to", "");
    const auto found = std::find(nodes.begin() + 1, nodes.end(), to);
    if (!to.empty() && found == nodes.end()) reader.fail("\"" + to + "\" is not one of the switch's throws");
    positions.push_back({reader.text("title"), to.empty() ? 0 : static_cast<int>(found - nodes.begin())});
  }
  if (positions.size() < 2 || positions.size() > 6) part.at("positions").fail("a switch has two to six positions");
  return positions;
}

/// "windings": [{"name": "ht", "taps": [0, 6, 12], "volts": 275, "amps": "150mA", "ohms": 90}, ...]
void readWindings(const JsonReader& reader, PartTemplate& part) {
  std::size_t pins = 2;
  for (const auto& winding : reader.list("windings")) {
    PartTemplate::Winding read{winding.text("name"), {}};
    for (const auto& y : winding.list("taps"))
      read.taps.push_back(readStep(y));
    if (read.taps.size() != 2 && read.taps.size() != 3) winding.at("taps").fail("a winding has two or three taps");
    pins += read.taps.size();
    for (const auto& [key, suffix, unit] :
         {std::tuple{"volts", "Volts", Unit::volt}, {"amps", "Amps", Unit::ampere}, {"ohms", "Ohms", Unit::ohm}})
      part.defaults[read.name + suffix] = winding.at(key).asValue(unit);
    part.windings.push_back(std::move(read));
  }
  if (pins != part.nodes.size()) reader.at("nodes").fail("must be the primary's two and every tap of the windings");
  part.defaults["given"] = reader.text("given", transformerGivens[0]);
}

PartTemplate readPart(const JsonReader& reader, const JsonReader& places) {
  PartTemplate part;
  part.ref = reader.text("ref");
  const auto kindText = reader.text("kind");
  const auto kind =
      std::find_if(kinds().begin(), kinds().end(), [&](const KindFacts& k) { return k.name == kindText; });
  if (kind == kinds().end()) reader.fail("kind \"" + kindText + "\" is not known");
  part.kind = kind->kind;
  for (const auto& node : reader.list("nodes"))
    part.nodes.push_back(node.asText());
  const bool oddTransformer = part.kind == PartKind::outputTransformer &&
                              (part.nodes.size() == 6 || (part.nodes.size() == 4 && reader.has("tapShare")));
  if (part.nodes.size() < kind->fewestNodes || part.nodes.size() > kind->mostNodes || oddTransformer)
    reader.at("nodes").fail("a " + kindText + " cannot have this many nodes");
  part.role = reader.text("role");
  part.name = reader.text("name", "");
  part.optional = reader.flag("optional", false);
  part.linkWhenAbsent = reader.text("absent", "open") == "link";
  part.defaults["fitted"] = reader.flag("fitted", true);
  if (hasType(part.kind)) {
    part.defaults["tube"] = reader.text("tube");
  } else if (hasValue(part.kind)) {
    part.defaults["value"] = reader.at("value").asValue(kind->unit);
    for (const auto& [name, unit, usual] : kind->parameters)
      part.defaults[name] = usual && !reader.has(name) ? *usual : reader.at(name).asValue(unit);
  }
  part.gang = reader.text("gang", "");
  if (reader.has("stands")) part.stands = reader.number("stands");
  if (!(part.stands >= 0 && part.stands <= 1)) reader.at("stands").fail("is a rotation from 0 to 1");
  if (part.kind == PartKind::selector) part.positions = readPositions(reader, part.nodes);
  if (part.kind == PartKind::outputTransformer && (part.nodes.size() == 7 || reader.has("tapShare")))
    part.defaults["tapShare"] = reader.at("tapShare").asValue(Unit::none);
  if (part.kind == PartKind::outputTransformer) part.defaults["reversed"] = reader.flag("reversed", false);
  if (part.kind == PartKind::powerTransformer) readWindings(reader, part);
  if (part.kind == PartKind::pot) {
    part.defaults["taper"] = reader.text("taper");
    if (!taperNamed(reader.text("taper")))
      reader.at("taper").fail("is not a taper; write linear, log15, reverse-log10 ...");
  }
  const auto place = places.object(part.ref);
  part.place = {readPoint(place.at("at")),
                readDirection(place),
                place.text("label", "") == "left",
                place.flag("mirrored", false),
                {}};
  if (part.kind == PartKind::powerTransformer) {
    for (const auto& y : place.list("primary"))
      part.place.taps.push_back(readStep(y));
    if (part.place.taps.size() != 2) place.at("primary").fail("a primary has two ends");
    for (const auto& winding : part.windings)
      part.place.taps.insert(part.place.taps.end(), winding.taps.begin(), winding.taps.end());
  }
  return part;
}

SectionTemplate readSection(const JsonReader& file) {
  SectionTemplate section;
  section.id = file.text("id");
  section.title = file.text("title");
  section.use = file.text("use");
  section.group = file.text("group", sectionGroups.front());
  if (std::find(sectionGroups.begin(), sectionGroups.end(), section.group) == sectionGroups.end())
    file.at("group").fail("is no group of the shelf");
  section.deck = file.text("deck", "line");
  section.refusal = file.text("refused", "");
  section.in = readCarries(file, "in");
  section.out = readCarries(file, "out");
  const auto drawing = file.object("drawing");
  section.width = readStep(drawing.at("width"));
  if (section.width <= 0) drawing.at("width").fail("must be more than nothing");
  constexpr std::size_t mostParts = 200;
  if (file.list("parts").size() > mostParts)
    file.at("parts").fail(fmt::format("has more than {} parts; make several sections of it", mostParts));
  std::set<std::string> nodes{"ground"};
  for (const auto& reader : file.list("parts")) {
    section.parts.push_back(readPart(reader, drawing.object("places")));
    nodes.insert(section.parts.back().nodes.begin(), section.parts.back().nodes.end());
  }
  for (const auto& part : section.parts) {
    if (part.gang.empty()) continue;
    const auto* leader = section.part(part.gang);
    if (!leader || leader->kind != part.kind || leader->positions.size() != part.positions.size())
      file.fail(part.ref + " is ganged to \"" + part.gang + "\", which is no such control");
  }
  const auto knownNode = [&](const JsonReader& reader, const std::string& node) {
    if (!nodes.contains(node)) reader.fail("node \"" + node + "\" has no part on it");
    return node;
  };
  for (const auto& [name, reader] : file.at("ports").members()) {
    section.ports.push_back({name,
                             knownNode(reader, reader.text("node")),
                             readPoint(reader.at("at")),
                             reader.flag("flag", false),
                             reader.flag("seeks", false),
                             reader.flag("feeds", false),
                             reader.text("join", ""),
                             {}});
    if (const auto& join = section.ports.back().join; !join.empty() && join != "ground" && join != "open")
      reader.at("join").fail("must be \"ground\" or \"open\"; where else a port goes is the design's to say");
    if (reader.has("stub"))
      for (const auto& point : reader.list("stub"))
        section.ports.back().stub.push_back(readPoint(point));
  }
  if (file.has("rails"))
    for (const auto& rail : file.list("rails")) {
      section.railPorts.push_back(rail.asText());
      if (!section.port(section.railPorts.back())) rail.fail("is not one of the ports");
    }
  if (file.has("probes"))
    for (const auto& [name, node] : file.at("probes").members())
      section.probes[name] = knownNode(node, node.asText());
  for (const auto& reader : drawing.list("wires")) {
    const auto items = reader.elements();
    if (items.size() < 3) reader.fail("a wire is a node name and at least two points");
    Wire wire{knownNode(items[0], items[0].asText()), {}};
    for (std::size_t i = 1; i < items.size(); ++i)
      wire.points.push_back(readPoint(items[i]));
    section.wires.push_back(std::move(wire));
  }
  if (drawing.has("grounds"))
    for (const auto& ground : drawing.list("grounds"))
      section.grounds.push_back(readPoint(ground));
  if (drawing.has("volts"))
    for (const auto& [node, at] : drawing.at("volts").members())
      section.voltTags.emplace_back(knownNode(at, node), readPoint(at));
  return section;
}

Role readRole(const JsonReader& reader) {
  Role role{reader.text("title"),
            reader.text("does"),
            reader.text("more", ""),
            reader.text("less", ""),
            {},
            {},
            true,
            false,
            0,
            false,
            {}};
  if (reader.has("series")) {
    role.series = units::seriesNamed(reader.text("series"));
    if (!role.series) reader.at("series").fail("must be E6, E12, E24 or E96");
  }
  role.played = reader.flag("played", true);
  role.biases = reader.flag("biases", false);
  role.oscillates = reader.flag("oscillates", false);
  if (reader.has("gives")) role.givesVolts = reader.at("gives").asValue(units::Unit::volt);
  if (reader.has("stock"))
    for (const auto& value : reader.list("stock"))
      role.stock.push_back(value.asNumber());
  return role;
}

/// A section that every part of has its role and its tube.
SectionTemplate readSectionOf(const Library& library, const JsonReader& file) {
  auto section = readSection(file);
  for (const auto& part : section.parts) {
    if (!library.roles.contains(part.role)) file.fail(part.ref + " has the unknown role \"" + part.role + "\"");
    if (hasType(part.kind)) {
      const auto* tube = library.tubes.find(std::get<std::string>(part.defaults.at("tube")));
      if (!tube || !fits(part.kind, *tube))
        file.fail(part.ref + " names a tube that is not in the catalogue or of another kind");
    }
  }
  return section;
}

} // namespace

tl::expected<Library, Problem> Library::load(const std::filesystem::path& data) {
  Library library;
  auto catalogue = tubes::Catalogue::load(data / "tubes");
  if (!catalogue) return tl::unexpected(catalogue.error());
  library.tubes = std::move(*catalogue);
  auto problem = units::readJsonFolder(data / "roles", [&](const JsonReader& file) {
    for (const auto& [id, reader] : file.members())
      library.roles[id] = readRole(reader);
  });
  if (!problem)
    problem = units::readJsonFolder(data / "sections", [&](const JsonReader& file) {
      auto section = readSectionOf(library, file);
      library.sections[section.id] = std::move(section);
    });
  if (problem) return tl::unexpected(*problem);
  return library;
}

void Library::takeRole(const std::string& id, const JsonReader& reader) {
  auto role = readRole(reader);
  role.ownText = reader.raw().dump();
  if (const auto known = roles.find(id); known != roles.end()) {
    if (known->second.ownText.empty()) reader.fail("there is a role of this name already; give yours another");
    if (ofDesigns_.contains("role " + id) && known->second.ownText != role.ownText)
      reader.fail("a design that was opened brought another role of this name; give yours another");
  }
  roles[id] = std::move(role);
}

void Library::takeSection(const JsonReader& file) {
  auto section = readSectionOf(*this, file);
  section.ownText = file.raw().dump();
  auto& place = sections[section.id];
  if (!place.id.empty() && place.ownText.empty())
    file.at("id").fail("there is a section of this id already; give yours another");
  if (ofDesigns_.contains(section.id) && place.ownText != section.ownText)
    file.at("id").fail("a design that was opened brought another section of this id; give yours another");
  if (!place.id.empty()) former_.push_back(std::move(place));
  place = std::move(section);
}

std::vector<Problem> Library::addOwn(const std::filesystem::path& folder) {
  std::set<std::string> seen;
  const auto once = [&](const JsonReader& reader, const std::string& id) {
    if (!seen.insert(id).second) reader.fail("you have two of this name; give one another");
  };
  const auto formerTubes = std::exchange(readTubes_, {}), formerSections = std::exchange(readSections_, {});
  std::vector<Problem> problems;
  const auto read = [&](const char* name, const std::function<void(const JsonReader&)>& take) {
    seen.clear();
    auto more = units::readJsonFolderAsFarAsItGoes(folder / name, take);
    std::move(more.begin(), more.end(), std::back_inserter(problems));
  };
  read("tubes", [&](const JsonReader& file) {
    once(file.at("type"), file.text("type"));
    if (const auto* known = tubes.find(file.text("type"));
        known && ofDesigns_.contains("tube " + known->name) && known->ownText != file.raw().dump())
      file.at("type").fail("a design that was opened brought another tube of this name; give yours another");
    tubes.addOwn(file);
    readTubes_.insert(file.text("type"));
  });
  read("roles", [&](const JsonReader& file) {
    for (const auto& [id, reader] : file.members()) {
      once(reader, id);
      takeRole(id, reader);
    }
  });
  read("sections", [&](const JsonReader& file) {
    once(file.at("id"), file.text("id"));
    takeSection(file);
    readSections_.insert(file.text("id"));
  });
  for (const auto& name : formerTubes)
    if (!readTubes_.contains(name)) tubes.withdraw(name);
  for (const auto& id : formerSections)
    if (!readSections_.contains(id)) sections.at(id).offered = false;
  return problems;
}

tl::expected<std::filesystem::path, Problem> Library::placeForOwn(const std::string& text,
                                                                  const std::string& place) const {
  const auto json = units::parseJson(text, place);
  if (!json) return tl::unexpected(json.error());
  const JsonReader file(*json, place);
  Library trial = *this;
  const auto named = [&](const char* folder, const std::string& id) {
    std::string name;
    for (const char c : id)
      name += std::isalnum(static_cast<unsigned char>(c)) || c == '-' || c == '_' || c == '.' ? c : '-';
    return std::filesystem::path(folder) / (name + ".json");
  };
  try {
    if (file.has("parts")) {
      trial.takeSection(file);
      return named("sections", file.text("id"));
    }
    if (file.has("type")) {
      trial.tubes.addOwn(file);
      return named("tubes", file.text("type"));
    }
    const auto roles = file.members();
    for (const auto& [id, reader] : roles)
      trial.takeRole(id, reader);
    if (roles.empty()) file.fail("is neither a section nor a tube nor roles");
    return named("roles", std::filesystem::path(place).stem().string());
  } catch (const units::JsonMistake& mistake) {
    return tl::unexpected(mistake.problem);
  }
}

std::vector<Problem> Library::addCopies(const std::string& copies, const std::string& place) {
  std::vector<Problem> problems;
  const auto tried = [&](const auto& take) {
    try {
      take();
    } catch (const units::JsonMistake& mistake) {
      problems.push_back(mistake.problem);
    }
  };
  const auto json = units::parseJson(copies, place);
  if (!json) return {json.error()};
  const JsonReader all(*json, place);
  tried([&] {
    if (all.has("tubes"))
      for (const auto& tube : all.list("tubes"))
        tried([&] {
          if (tubes.find(tube.text("type"))) return;
          tubes.addOwn(tube);
          ofDesigns_.insert("tube " + tube.text("type"));
        });
  });
  tried([&] {
    if (all.has("roles"))
      for (const auto& [id, reader] : all.at("roles").members())
        if (!roles.contains(id))
          tried([&, &id = id, &reader = reader] {
            takeRole(id, reader);
            ofDesigns_.insert("role " + id);
          });
  });
  tried([&] {
    if (all.has("sections"))
      for (const auto& section : all.list("sections"))
        tried([&] {
          if (sections.contains(section.text("id"))) return;
          takeSection(section);
          ofDesigns_.insert(section.text("id"));
        });
  });
  return problems;
}

const Role& Library::role(const std::string& id) const {
  static const Role none;
  const auto found = roles.find(id);
  return found == roles.end() ? none : found->second;
}

} // namespace vinegar::amp
