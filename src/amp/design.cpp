#include "amp/design.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <set>

namespace vinegar::amp {
namespace {

struct Range {
  double low, high;
};

/// What a part of that kind can have and still be that part. Wider than any shop stocks; keeps typing slips out.
Range legalRange(PartKind kind, const std::string& field) {
  if (field == "value") switch (kind) {
    case PartKind::resistor:
      return {1e-3, 1e9};
    case PartKind::capacitor:
      return {1e-13, 1};
    case PartKind::inductor:
      return {1e-9, 1e4};
    case PartKind::pot:
      return {10, 1e8};
    case PartKind::outputTransformer:
      return {10, 1e6};
    case PartKind::speaker:
      return {0.1, 1e4};
    case PartKind::signalSource:
      return {0, 1e3};
    case PartKind::voltageSource:
      return {0, 2000};
    case PartKind::biasSource:
      return {0, 500};
    case PartKind::zener:
      return {1, 500};
    case PartKind::transformer:
      return {1e-3, 1e3};
    case PartKind::mains:
    case PartKind::powerTransformer:
      return {1, 1000};
    case PartKind::fuse:
      return {1e-3, 100};
    case PartKind::heaters:
      return {1, 100};
    case PartKind::springTank:
      return {1, 1e4};
    default:
      break;
    }
  if (field == "mechanicalQ" || field == "electricalQ") return {1e-2, 100};
  if (field == "voiceCoilShare") return {0.1, 1};
  if (field == "tapShare") return {0.05, 0.95};
  if (field == "bendFlux") return {0, 1e3};
  if (field == "delayMilliseconds") return {1, 1000};
  if (field == "decaySeconds") return {0.01, 100};
  if (field == "resonanceHertz") return {1, 1e4};
  if (field == "hertz") return {10, 1000};
  if (field == "ratedVolts") return {0, 5000};
  if (field == "ratedWatts") return {0, 1000};
  if (field == "regulation") return {0.001, 0.5};
  if (kind == PartKind::powerTransformer && field.ends_with("Volts")) return {0.1, 5000};
  return {1e-15, 1e9};
}

bool samePlace(const Change& a, const Change& b) { return a.part == b.part && a.field == b.field; }

SectionUse* findUse(Design& design, const Library& library, const std::string& partName, std::string& ref) {
  for (auto* use : design.sections()) {
    const auto section = library.sections.find(use->section);
    if (section == library.sections.end()) continue;
    for (const auto& [key, part] : use->parts)
      if (part.name == partName && section->second.part(key)) {
        ref = key;
        return use;
      }
  }
  return nullptr;
}

} // namespace

std::string bottleOf(const std::string& name) {
  return !name.empty() && std::islower(static_cast<unsigned char>(name.back())) ? name.substr(0, name.size() - 1)
                                                                                : name;
}

double knobOf(const Design& design, const ResolvedPart& control) {
  const auto set = design.knobs.find(control.knob);
  if (control.part->kind != PartKind::selector) return set == design.knobs.end() ? 0.5 : set->second;
  // A position that the switch does not have is `check`'s to report.
  const auto positions = static_cast<double>(control.part->positions.size());
  return set == design.knobs.end() ? 1 : std::clamp(std::round(set->second), 1.0, positions);
}

ResolvedPart resolvePart(const SectionUse& use, const PartTemplate& part) {
  ResolvedPart resolved{part.name, use.id, use.section, {}, &part, part.defaults};
  if (const auto own = use.parts.find(part.ref); own != use.parts.end()) {
    resolved.name = own->second.name;
    for (const auto& [field, setting] : own->second.settings)
      // A setting of the wrong type is `check`'s to report; here the section's own stands.
      if (const auto known = resolved.settings.find(field);
          known != resolved.settings.end() && known->second.index() == setting.index())
        known->second = setting;
  }
  const auto leader = use.parts.find(part.gang);
  resolved.knob = leader != use.parts.end() ? leader->second.name : resolved.name;
  return resolved;
}

namespace {

void checkPorts(const Design& design, const Library& library, std::vector<Problem>& problems) {
  std::set<std::string> rails;
  for (const auto& use : design.supply)
    if (use.node.empty() || !rails.insert(use.node).second)
      problems.push_back({use.id, "a supply section needs a node name of its own"});
  for (const auto* use : design.sections()) {
    const auto found = library.sections.find(use->section);
    if (found == library.sections.end()) continue;
    const auto& section = found->second;
    for (const auto& [port, target] : use->joins) {
      if (!section.port(port)) {
        problems.push_back({use->id, fmt::format("has no port \"{}\" to join", port)});
      } else if (const auto dot = target.find('.'); dot != std::string::npos) {
        const auto all = design.sections();
        const auto other = std::find_if(all.begin(), all.end(),
                                        [id = target.substr(0, dot)](const SectionUse* s) { return s->id == id; });
        const SectionTemplate* otherSection = other != all.end() && library.sections.contains((*other)->section)
                                                  ? &library.sections.at((*other)->section)
                                                  : nullptr;
        if (!otherSection || !otherSection->port(target.substr(dot + 1)))
          problems.push_back({use->id, fmt::format("joins {} to \"{}\", which is not there", port, target)});
      } else if (target != "ground" && target != "open" && !rails.contains(target)) {
        problems.push_back(
            {use->id, fmt::format("joins {} to the supply node \"{}\", which is not there", port, target)});
      }
    }
    for (const auto& rail : section.railPorts)
      if (!use->joins.contains(rail))
        problems.push_back({use->id, fmt::format("needs a supply node at its port \"{}\"", rail)});
  }
}

void checkKnobs(const Design& design, const Library& library, std::vector<Problem>& problems) {
  std::map<std::string, std::size_t> positions;
  for (const auto& part : resolveParts(design, library))
    if (part.part->kind == PartKind::selector) positions[part.name] = part.part->positions.size();
  for (const auto& [knob, setting] : design.knobs) {
    const auto selector = positions.find(knob);
    if (selector == positions.end()) {
      if (!(setting >= 0 && setting <= 1)) problems.push_back({knob, "a knob stands between 0 and 1"});
    } else if (!(setting >= 1 && setting <= static_cast<double>(selector->second) && setting == std::round(setting))) {
      problems.push_back({knob, fmt::format("stands in one of its positions, 1 to {}", selector->second)});
    }
  }
}

void checkLine(const Design& design, const Library& library, std::vector<Problem>& problems) {
  const SectionTemplate* before = nullptr;
  for (const auto& use : design.line) {
    const auto found = library.sections.find(use.section);
    if (found == library.sections.end()) return;
    const auto& section = found->second;
    const Carries offered = before ? before->out : Carries::nothing;
    if (section.in != offered)
      problems.push_back(
          {use.id, before ? fmt::format("a {} cannot follow a {}", section.title, before->title)
                          : fmt::format("a {} cannot come first; the line starts with a source", section.title)});
    before = &section;
  }
  if (before && before->out != Carries::nothing)
    problems.push_back({design.line.back().id, "the line ends here with nothing to drive; end it with a speaker load"});
}

} // namespace

std::vector<const SectionUse*> Design::sections() const {
  std::vector<const SectionUse*> all;
  for (const auto* list : {&line, &supply, &lanes})
    for (const auto& use : *list)
      all.push_back(&use);
  return all;
}

std::vector<SectionUse*> Design::sections() {
  std::vector<SectionUse*> all;
  for (auto* list : {&line, &supply, &lanes})
    for (auto& use : *list)
      all.push_back(&use);
  return all;
}

std::string ResolvedPart::label() const {
  if (!fitted()) return "not fitted";
  if (hasType(part->kind)) return text("tube");
  if (!hasValue(part->kind)) return {};
  if (part->kind == PartKind::fuse) return units::reading(value(), units::Unit::ampere, 0);
  auto label = units::schematic(value(), valueUnit(part->kind));
  if (part->kind == PartKind::pot) label += text("taper") == "linear" ? " lin" : " log";
  if (part->kind == PartKind::inductor) label += "H";
  if (part->kind == PartKind::transformer) label += ":1";
  if (part->kind == PartKind::speaker || part->kind == PartKind::springTank) label += " \u03a9";
  return label;
}

std::vector<ResolvedPart> resolveParts(const Design& design, const Library& library) {
  std::vector<ResolvedPart> parts;
  for (const auto* use : design.sections()) {
    const auto section = library.sections.find(use->section);
    if (section == library.sections.end()) continue;
    for (const auto& part : section->second.parts)
      parts.push_back(resolvePart(*use, part));
  }
  return parts;
}

std::optional<ResolvedPart> findPart(const Design& design, const Library& library, const std::string& name) {
  for (const auto* use : design.sections()) {
    const auto section = library.sections.find(use->section);
    if (section == library.sections.end()) continue;
    for (const auto& part : section->second.parts) {
      const auto own = use->parts.find(part.ref);
      if (own != use->parts.end() && own->second.name == name) return resolvePart(*use, part);
    }
  }
  return std::nullopt;
}

bool takenByOther(const Design& design, const SectionUse& use, const std::string& port) {
  const std::string target = use.id + "." + port;
  const auto sections = design.sections();
  return std::any_of(sections.begin(), sections.end(), [&](const SectionUse* other) {
    return std::any_of(other->joins.begin(), other->joins.end(), [&](const auto& j) { return j.second == target; });
  });
}

void nameParts(Design& design, const Library& library) {
  std::set<std::string> taken;
  for (const auto* use : design.sections())
    for (const auto& [ref, part] : use->parts)
      if (!part.name.empty()) taken.insert(part.name);
  const auto claim = [&](const std::string& name) { return taken.insert(name).second; };
  const auto nextFree = [&](const std::string& prefix, const std::string& suffix) {
    for (int n = 1;; ++n)
      if (const auto name = fmt::format("{}{}{}", prefix, n, suffix); claim(name)) return name;
  };
  // The second half of a two-unit bottle goes to the next unit of the same type.
  std::map<std::string, std::string> spareHalf;
  for (auto* use : design.sections()) {
    const auto section = library.sections.find(use->section);
    if (section == library.sections.end()) continue;
    for (const auto& part : section->second.parts) {
      auto& own = use->parts[part.ref];
      if (!own.name.empty()) continue;
      if (isTube(part.kind) || part.kind == PartKind::rectifier) {
        const auto type = resolvePart(*use, part).text("tube");
        const auto* tube = library.tubes.find(type);
        const auto* other = tube ? library.tubes.otherHalf(*tube) : nullptr;
        if (!other) {
          do
            own.name = nextFree("V", "");
          while (taken.contains(own.name + "a"));
        } else if (const auto spare = spareHalf.find(tube->name);
                   spare != spareHalf.end() && claim(spare->second + "b")) {
          own.name = spare->second + "b";
          spareHalf.erase(spare);
        } else {
          do
            own.name = nextFree("V", "a");
          while (taken.contains(bottleOf(own.name)));
          spareHalf[other->name] = bottleOf(own.name);
        }
      } else if (!part.name.empty()) {
        own.name = part.name;
        for (int n = 2; !claim(own.name); ++n)
          own.name = fmt::format("{} {}", part.name, n);
      } else {
        own.name = nextFree(std::string(namePrefix(part.kind)), "");
      }
    }
  }
}

std::vector<SpareHalf> spareHalves(const Design& design, const Library& library) {
  std::vector<SpareHalf> spares;
  const auto parts = resolveParts(design, library);
  const auto taken = [&](const std::string& name) {
    return std::any_of(parts.begin(), parts.end(), [&](const auto& p) { return p.name == name; });
  };
  for (const auto& part : parts) {
    const auto bottle = bottleOf(part.name);
    if (!isTube(part.part->kind) || bottle == part.name) continue;
    const auto* tube = library.tubes.find(part.text("tube"));
    const auto* other = tube ? library.tubes.otherHalf(*tube) : nullptr;
    const auto name = bottle + (part.name.back() == 'a' ? "b" : "a");
    if (other && !taken(name)) spares.push_back({name, other->name, part.name});
  }
  return spares;
}

std::optional<Problem> checkSetting(const ResolvedPart& part, const std::string& field, const Setting& to,
                                    const Library& library) {
  const auto current = part.settings.find(field);
  if (current == part.settings.end()) return Problem{part.name, fmt::format("has no setting \"{}\"", field)};
  if (current->second.index() != to.index()) return Problem{part.name, fmt::format("{} is of the wrong type", field)};
  if (const auto* number = std::get_if<double>(&to)) {
    const auto [low, high] = legalRange(part.part->kind, field);
    const auto unit = settingUnit(part.part->kind, field);
    if (!std::isfinite(*number) || *number < low || *number > high)
      return Problem{part.name, fmt::format("{} must lie between {} and {}", field, units::reading(low, unit),
                                            units::reading(high, unit))};
  } else if (field == "tube") {
    const auto* tube = library.tubes.find(std::get<std::string>(to));
    if (!tube)
      return Problem{part.name, fmt::format("tube type \"{}\" is not in the catalogue", std::get<std::string>(to))};
    if (!fits(part.part->kind, *tube))
      return Problem{part.name, fmt::format("{} is a {}, which does not fit here", tube->name, tube->family)};
  } else if (field == "given") {
    const auto& given = std::get<std::string>(to);
    if (std::find(transformerGivens.begin(), transformerGivens.end(), given) == transformerGivens.end())
      return Problem{part.name, fmt::format("its volts are given as measured, unloaded or loaded, not \"{}\"", given)};
  } else if (field == "taper" && !taperNamed(std::get<std::string>(to))) {
    return Problem{part.name, fmt::format("\"{}\" is not a taper; write linear, log15, reverse-log10 ...",
                                          std::get<std::string>(to))};
  } else if (field == "fitted" && !std::get<bool>(to) && !part.part->optional) {
    return Problem{part.name, "cannot be left out: the section does not work without it"};
  }
  return std::nullopt;
}

std::vector<Problem> check(const Design& design, const Library& library) {
  std::vector<Problem> problems;
  if (design.line.empty()) problems.push_back({"line", "the design has no sections yet"});
  std::set<std::string> ids, names;
  for (const auto* use : design.sections()) {
    if (use->id.empty() || use->id.find('.') != std::string::npos)
      problems.push_back({use->section, "a section's id must be there and hold no dot"});
    else if (!ids.insert(use->id).second)
      problems.push_back({use->id, "two sections have this id"});
    const auto section = library.sections.find(use->section);
    if (section == library.sections.end()) {
      problems.push_back({use->id, fmt::format("section \"{}\" is not in the library", use->section)});
      continue;
    }
    if (!section->second.refusal.empty())
      problems.push_back({use->id, fmt::format("{} is refused: {}", section->second.title, section->second.refusal)});
    for (const auto& [ref, part] : use->parts)
      if (const auto* known = section->second.part(ref); !known) {
        problems.push_back({use->id, fmt::format("a {} has no part \"{}\"", section->second.title, ref)});
      } else {
        if (!names.insert(part.name).second) problems.push_back({part.name, "two parts have this name"});
        const auto resolved = resolvePart(*use, *known);
        for (const auto& [field, setting] : part.settings) {
          // Judge against the section's own type of the field, not against the value under test.
          auto asShipped = resolved;
          if (const auto shipped = known->defaults.find(field); shipped != known->defaults.end())
            asShipped.settings[field] = shipped->second;
          if (auto problem = checkSetting(asShipped, field, setting, library)) problems.push_back(*problem);
        }
      }
  }
  for (const auto& [deck, list] :
       {std::pair{"line", &design.line}, {"supply", &design.supply}, {"lane", &design.lanes}})
    for (const auto& use : *list)
      if (const auto section = library.sections.find(use.section);
          section != library.sections.end() && section->second.deck != deck &&
          !(list == &design.lanes && (section->second.deck == "line" || section->second.deck == "supply-lane")))
        problems.push_back({use.id, fmt::format("a {} does not belong in the {}", section->second.title, deck)});
  checkKnobs(design, library, problems);
  checkLine(design, library, problems);
  checkPorts(design, library, problems);
  return problems;
}

std::vector<Change> changesFor(const Design& design, const Library& library, const std::string& partName,
                               const std::string& field, const Setting& to) {
  std::vector<Change> changes;
  for (const auto& part : resolveParts(design, library)) {
    const bool sameBottle = field == "tube" && isTube(part.part->kind) && bottleOf(part.name) == bottleOf(partName);
    if (part.name != partName && !sameBottle) continue;
    const auto current = part.settings.find(field);
    if (current != part.settings.end() && current->second != to)
      changes.push_back({part.name, field, current->second, to});
  }
  return changes;
}

Design withChanges(Design design, const Library& library, const std::vector<Change>& changes) {
  for (const auto& change : changes) {
    std::string ref;
    auto* use = findUse(design, library, change.part, ref);
    if (!use) continue;
    const auto& defaults = library.sections.at(use->section).part(ref)->defaults;
    const auto shipped = defaults.find(change.field);
    if (shipped == defaults.end() || shipped->second.index() != change.to.index()) continue;
    auto& settings = use->parts[ref].settings;
    if (shipped->second == change.to)
      settings.erase(change.field);
    else
      settings[change.field] = change.to;
  }
  return design;
}

std::vector<Change> reversed(std::vector<Change> changes) {
  std::reverse(changes.begin(), changes.end());
  for (auto& change : changes)
    std::swap(change.from, change.to);
  return changes;
}

std::vector<Change> difference(const Design& from, const Design& to, const Library& library) {
  std::vector<Change> changes;
  for (const auto& before : resolveParts(from, library))
    if (const auto after = findPart(to, library, before.name))
      for (const auto& [field, setting] : before.settings)
        if (const auto now = after->settings.find(field); now != after->settings.end() && now->second != setting)
          changes.push_back({before.name, field, setting, now->second});
  return changes;
}

Design pencilled(const Document& document, const Library& library) {
  return withChanges(document.ink, library, document.sheet().changes);
}

void pencil(Document& document, const Library& library, const std::string& part, const std::string& field,
            const Setting& to) {
  auto& marks = document.sheets[document.activeSheet].changes;
  for (const auto& change : changesFor(pencilled(document, library), library, part, field, to)) {
    const auto mark = std::find_if(marks.begin(), marks.end(), [&](const Change& m) { return samePlace(m, change); });
    if (mark == marks.end())
      marks.push_back(change);
    else if (mark->from == change.to)
      marks.erase(mark);
    else
      mark->to = change.to;
  }
}

void rubOut(Document& document, const std::string& part) {
  auto& marks = document.sheets[document.activeSheet].changes;
  const bool tubeMark =
      std::any_of(marks.begin(), marks.end(), [&](const Change& m) { return m.part == part && m.field == "tube"; });
  std::erase_if(marks, [&](const Change& m) {
    return part.empty() || m.part == part || (tubeMark && m.field == "tube" && bottleOf(m.part) == bottleOf(part));
  });
}

void ink(Document& document, const Library& library, const std::string& reason, const std::string& date) {
  auto& sheet = document.sheets[document.activeSheet];
  document.log.push_back({document.revision() + 1, date, reason, sheet.changes, {}});
  document.ink = withChanges(document.ink, library, sheet.changes);
  sheet.changes.clear();
  for (auto& other : document.sheets) {
    for (auto& mark : other.changes)
      if (const auto part = findPart(document.ink, library, mark.part); part && part->settings.contains(mark.field))
        mark.from = part->settings.at(mark.field);
    std::erase_if(other.changes, [](const Change& mark) { return mark.from == mark.to; });
  }
}

Design atRevision(const Document& document, const Library& library, int number) {
  Design design = document.ink;
  for (auto revision = document.log.rbegin(); revision != document.log.rend() && revision->number > number; ++revision)
    design = withChanges(std::move(design), library, reversed(revision->changes));
  return design;
}

std::string settingText(const Setting& setting, units::Unit unit) {
  if (const auto* number = std::get_if<double>(&setting)) return units::schematic(*number, unit);
  if (const auto* flag = std::get_if<bool>(&setting)) return *flag ? "fitted" : "not fitted";
  return std::get<std::string>(setting);
}

std::string describe(const Change& change, const Design& design, const Library& library) {
  const auto part = findPart(design, library, change.part);
  const auto unit = part && change.field == "value" ? valueUnit(part->part->kind) : units::Unit::none;
  const std::string field = change.field == "value" || change.field == "tube" || change.field == "fitted"
                                ? std::string{}
                                : " " + change.field;
  return fmt::format("{}{} {} \u2192 {}", change.part, field, settingText(change.from, unit),
                     settingText(change.to, unit));
}

} // namespace vinegar::amp
