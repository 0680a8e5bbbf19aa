#include "amp/change/document.h"

#include "amp/design/part_index.h"

#include <nlohmann/json.hpp>

#include <algorithm>
#include <fmt/format.h>
#include <utility>

namespace vinegar::amp {
namespace {

/// What a change is about, whatever it makes of it.
std::string targetOf(const Change& change) {
  struct Target {
    std::string operator()(const SetField& c) const { return c.part + "\n" + c.field; }
    std::string operator()(const AddSection& c) const { return c.use.id; }
    std::string operator()(const RemoveSection& c) const { return c.use.id; }
    std::string operator()(const MoveSection& c) const { return c.id; }
    std::string operator()(const ReplaceSection& c) const { return c.from.id; }
    std::string operator()(const JoinPort& c) const { return c.section + "\n" + c.port; }
    std::string operator()(const JoinEnd& c) const { return c.chain + "\n" + c.end; }
    std::string operator()(const AddChain& c) const { return c.chain.id; }
    std::string operator()(const RemoveChain& c) const { return c.chain.id; }
    std::string operator()(const Renumber&) const { return {}; }
  };
  return fmt::format("{}\n{}", change.index(), std::visit(Target{}, change));
}

/// New marks for the sheet; what a file says of changes that stay, and this program does not know, stays with them.
void setMarks(PencilSheet& sheet, std::vector<Mark> marks) {
  std::map<std::string, std::string> known;
  for (const auto& mark : sheet.marks)
    for (const auto& [number, extra] : mark.extra)
      known[targetOf(mark.changes[number])] = extra;
  if (!known.empty())
    for (auto& mark : marks)
      for (std::size_t i = 0; i < mark.changes.size(); ++i)
        if (const auto found = known.find(targetOf(mark.changes[i])); found != known.end())
          mark.extra[i] = found->second;
  sheet.marks = std::move(marks);
}

/// Marks from the ink to `design`, and those that wait for a place.
void remark(PencilSheet& sheet, const Design& ink, const Design& design, const Library& library,
            const std::vector<std::optional<Problem>>& fallen) {
  auto marks = difference(ink, design, library);
  for (std::size_t i = 0; i < sheet.marks.size(); ++i)
    if (fallen[i]) marks.push_back(sheet.marks[i]);
  setMarks(sheet, std::move(marks));
}

} // namespace

NameBook::NameBook(const Document& document) {
  const auto take = [this](const SectionUse& use) {
    ids.insert(use.id);
    if (!use.node.empty()) rails.insert(use.node);
    for (const auto& [ref, part] : use.parts)
      if (!part.name.empty()) parts.insert(part.name);
  };
  const auto takeChain = [&](const Chain& chain) {
    chains.insert(chain.id);
    for (const auto& use : chain.sections)
      take(use);
  };
  const auto takeMarks = [&](const std::vector<Mark>& marks) {
    for (const auto& mark : marks)
      for (const auto& change : mark.changes) {
        if (const auto* add = std::get_if<AddSection>(&change)) take(add->use);
        if (const auto* gone = std::get_if<RemoveSection>(&change)) take(gone->use);
        if (const auto* chain = std::get_if<AddChain>(&change)) takeChain(chain->chain);
        if (const auto* chain = std::get_if<RemoveChain>(&change)) takeChain(chain->chain);
        if (const auto* join = std::get_if<JoinPort>(&change); join && join->port == "node")
          rails.insert({join->from, join->to});
        if (const auto* other = std::get_if<ReplaceSection>(&change)) {
          take(other->from);
          take(other->to);
        }
        if (const auto* other = std::get_if<Renumber>(&change))
          for (const auto* names : {&other->from, &other->to})
            parts.insert(names->begin(), names->end());
      }
  };
  for (const auto* use : document.ink.sections())
    take(*use);
  for (const auto& side : document.ink.sides)
    chains.insert(side.id);
  for (const auto& sheet : document.sheets)
    takeMarks(sheet.marks);
  for (const auto& revision : document.log)
    takeMarks(revision.marks);
}

Design pencilled(const Document& document, const Library& library) {
  return settle(document.ink, library, document.sheet().marks).design;
}

void pencil(Document& document, const Library& library, const Design& design) {
  auto& sheet = document.sheets[document.activeSheet];
  remark(sheet, document.ink, design, library, settle(document.ink, library, sheet.marks).fallen);
}

void pencil(Document& document, const Library& library, const std::string& part, const std::string& field,
            const Setting& to) {
  auto& sheet = document.sheets[document.activeSheet];
  auto settled = settle(document.ink, library, sheet.marks);
  const auto changes = changesFor(settled.design, library, part, field, to);
  remark(sheet, document.ink, withChanges(std::move(settled.design), library, changes), library, settled.fallen);
}

void rubOut(Document& document, const Library& library, std::size_t mark) {
  auto& sheet = document.sheets[document.activeSheet];
  const auto gone = leaningOn(document.ink, library, sheet.marks, mark);
  std::vector<Mark> rest;
  for (std::size_t i = 0; i < sheet.marks.size(); ++i)
    if (std::find(gone.begin(), gone.end(), i) == gone.end()) rest.push_back(sheet.marks[i]);
  sheet.marks = std::move(rest);
  const auto settled = settle(document.ink, library, sheet.marks);
  remark(sheet, document.ink, settled.design, library, settled.fallen);
}

void rubOut(Document& document, const Library& library, const std::string& part) {
  auto& sheet = document.sheets[document.activeSheet];
  std::erase_if(sheet.marks, [&](const Mark& mark) { return mark.field() && partsOf(mark).contains(part); });
  // A part that is itself pencilled in goes back to what it was put in as: its section's own.
  auto settled = settle(document.ink, library, sheet.marks);
  if (!PartIndex<const SectionUse>(document.ink, library).find(part)) {
    const PartIndex<SectionUse> parts(settled.design, library);
    if (const auto* entry = parts.find(part)) entry->use->parts.at(entry->part->ref).settings.clear();
  }
  remark(sheet, document.ink, settled.design, library, settled.fallen);
}

void rubOutAll(Document& document) { document.sheets[document.activeSheet].marks.clear(); }

void ink(Document& document, const Library& library, const std::string& reason, const std::string& date) {
  auto& sheet = document.sheets[document.activeSheet];
  auto settled = settle(document.ink, library, sheet.marks);
  std::vector<Mark> inked, waiting;
  for (std::size_t i = 0; i < sheet.marks.size(); ++i)
    (settled.fallen[i] ? waiting : inked).push_back(sheet.marks[i]);
  // As they lead from the ink as it is now, so that they lead back.
  PencilSheet exact{{}, inked, {}};
  setMarks(exact, difference(document.ink, settled.design, library));
  document.log.push_back({document.revision() + 1, date, reason, std::move(exact.marks), {}});
  sheet.marks = std::move(waiting);
  document.ink = std::move(settled.design);
  for (auto& other : document.sheets)
    if (&other != &sheet) {
      const auto rest = settle(document.ink, library, other.marks);
      remark(other, document.ink, rest.design, library, rest.fallen);
    }
}

tl::expected<Design, Problem> atRevision(const Document& document, const Library& library, int number) {
  Design design = document.ink;
  for (auto revision = document.log.rbegin(); revision != document.log.rend() && revision->number > number;
       ++revision) {
    auto settled = settle(design, library, inverse(revision->marks));
    for (const auto& problem : settled.fallen)
      if (problem)
        return tl::unexpected(Problem{fmt::format("revision {}", revision->number),
                                      "does not fit the ink, so what was before it is not known: " + problem->line()});
    design = std::move(settled.design);
  }
  return design;
}

namespace {

std::vector<std::string> fieldsOf(const std::string& extra) {
  std::vector<std::string> names;
  if (extra.empty()) return names;
  const auto fields = nlohmann::json::parse(extra);
  for (const auto& [name, value] : fields.items())
    names.push_back(name);
  return names;
}

} // namespace

std::vector<Problem> remarks(const Document& document, const Library& library) {
  std::vector<Problem> found;
  const auto unknown = [&](const std::string& place, const std::string& extra) {
    for (const auto& field : fieldsOf(extra))
      if (field == "own" && &extra == &document.extra)
        found.push_back({place, "brings sections, roles or tubes that could not be taken in here; they are kept"});
      else
        found.push_back({place, fmt::format("the field \"{}\" is not known here; it is kept and does nothing", field)});
  };
  unknown("the file", document.extra);
  std::unordered_set<std::string> knobs;
  const auto takeKnobs = [&](const Design& design) {
    for (const auto& part : resolveParts(design, library))
      if (isControl(part.part->kind)) knobs.insert(part.knob);
  };
  takeKnobs(document.ink);
  for (const auto& sheet : document.sheets)
    if (std::any_of(sheet.marks.begin(), sheet.marks.end(), [](const Mark& mark) { return !mark.field(); }))
      takeKnobs(settle(document.ink, library, sheet.marks).design);
  for (const auto* use : document.ink.sections()) {
    unknown(use->id, use->extra);
    for (const auto& [ref, part] : use->parts)
      unknown(part.name.empty() ? use->id + "." + ref : part.name, part.extra);
  }
  for (const auto& side : document.ink.sides)
    unknown(side.id, side.extra);
  const auto& line = document.ink.line;
  const auto carries = [&](const SectionUse& use, bool out) {
    const auto section = library.sections.find(use.section);
    return section == library.sections.end() ? Carries::nothing : out ? section->second.out : section->second.in;
  };
  if (!line.empty() && carries(line.front(), false) != Carries::nothing)
    found.push_back({line.front().id, "nothing drives it; a line that starts with a jack or an input has a response"});
  if (!line.empty() && carries(line.back(), true) == Carries::speaker)
    found.push_back({line.back().id, "has no load; an output transformer must never be driven without one"});
  std::size_t others = 0;
  for (const auto& [knob, setting] : document.ink.knobs)
    if (!knobs.contains(knob) && others++ == 0) found.push_back({knob, "is the name of no knob of this amplifier"});
  if (others > 1) found.back().message += fmt::format(", nor are {} more", others - 1);
  const PartIndex<const SectionUse> parts(document.ink, library);
  for (const auto& sheet : document.sheets) {
    unknown(sheet.name, sheet.extra);
    const auto settled = settle(document.ink, library, sheet.marks);
    std::set<std::pair<std::string, std::string>> places;
    for (std::size_t i = 0; i < sheet.marks.size(); ++i) {
      const auto& mark = sheet.marks[i];
      const auto* field = mark.field();
      const auto place =
          sheet.name + ": " + (field ? field->part : describe(mark, document.ink, settled.design, library));
      const auto add = [&](const std::string& what) { found.push_back({place, what}); };
      for (const auto& [number, extra] : mark.extra)
        unknown(place, extra);
      const auto part = field ? parts.resolved(field->part) : std::nullopt;
      if (settled.fallen[i]) {
        add(settled.fallen[i]->message + ", so the mark does nothing");
      } else if (!field || !part) {
        continue;
      } else if (const auto problem = checkSetting(*part, field->field, field->to, library)) {
        add(problem->message);
      } else if (!places.emplace(field->part, field->field).second) {
        add(fmt::format("is marked twice, {}", fieldWords(field->field)));
      } else if (part->settings.at(field->field) == field->to) {
        add("is marked with what it already is");
      } else if (part->settings.at(field->field) != field->from) {
        add("was another value in ink when this mark was made");
      }
    }
  }
  for (const auto& revision : document.log) {
    unknown(fmt::format("revision {}", revision.number), revision.extra);
    for (const auto& mark : revision.marks)
      for (const auto& [number, extra] : mark.extra)
        unknown(fmt::format("revision {}", revision.number), extra);
  }
  return found;
}

} // namespace vinegar::amp
