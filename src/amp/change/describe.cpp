// Changes in a builder's words: describe, describePort and describeSection of change.h.
#include "amp/change/change.h"
#include "amp/design/overloaded.h"

#include <cctype>
#include <fmt/format.h>
#include <utility>

namespace vinegar::amp {
namespace {

std::string lowered(std::string words) {
  // Within a line words start small; "HT" stays.
  if (words.size() > 1 && std::islower(static_cast<unsigned char>(words[1])))
    words[0] = static_cast<char>(std::tolower(static_cast<unsigned char>(words[0])));
  return words;
}

std::string describeField(const SetField& change, const Design& design, const Library& library) {
  const auto part = findPart(design, library, change.part);
  const auto unit = part ? settingUnit(part->part->kind, change.field) : units::Unit::none;
  const bool plain = change.field == "value" || change.field == "tube" || change.field == "fitted";
  const auto words = lowered(fieldWords(change.field));
  const auto text = [&](const Setting& setting) {
    if (const auto* number = std::get_if<double>(&setting))
      return plain ? units::schematic(*number, unit) : units::reading(*number, unit, 0);
    if (const auto* flag = std::get_if<bool>(&setting))
      return std::string(change.field == "fitted" ? (*flag ? "fitted" : "not fitted") : (*flag ? "yes" : "no"));
    const auto& word = std::get<std::string>(setting);
    return change.field == "taper" && word.starts_with(measuredTaper) ? "as measured" : word;
  };
  return fmt::format("{}{} {} \u2192 {}", change.part, plain ? std::string{} : " " + words, text(change.from),
                     text(change.to));
}

} // namespace

std::string describeSection(const SectionUse& use, const Library& library) {
  const auto section = library.sections.find(use.section);
  if (section == library.sections.end()) return use.id;
  auto words = lowered(section->second.title);
  // The tube tells which one it is, and in a supply the rail does.
  if (!use.node.empty()) return fmt::format("{} {}", words, use.node);
  for (const auto& part : section->second.parts)
    if (const auto own = use.parts.find(part.ref); hasType(part.kind) && own != use.parts.end())
      return fmt::format("{} {}", words, own->second.name);
  return words;
}

std::string describePort(const std::string& target, const Design& design, const Library& library) {
  if (target.empty()) return "its usual place";
  if (target == "ground") return "ground";
  if (target == "open") return "nothing";
  const auto dot = target.find('.');
  if (dot == std::string::npos) return "rail " + target;
  const auto* use = design.section(target.substr(0, dot));
  const auto port = portWords(target.substr(dot + 1));
  return use ? fmt::format("{} of {}", port, describeSection(*use, library)) : target;
}

std::string describe(const Mark& mark, const Design& before, const Design& after, const Library& library) {
  const auto where = [&](const Spot& spot, const Design& design) {
    const auto* use = spot.after.empty() ? nullptr : design.section(spot.after);
    if (use) return fmt::format("after {}", describeSection(*use, library));
    return spot.chain == "line"     ? std::string("at the start of the line")
           : spot.chain == "supply" ? std::string("at the start of the supply")
                                    : fmt::format("at the start of {}", spot.chain);
  };
  const auto one = [&](const Change& change) {
    return std::visit(
        Overloaded{[&](const SetField& c) { return describeField(c, before, library); },
                   [&](const AddSection& c) {
                     std::string fed;
                     if (const auto rail = c.use.joins.find("rail"); rail != c.use.joins.end())
                       fed = fmt::format(", fed from {}", rail->second);
                     return fmt::format("{} put in {}{}", describeSection(c.use, library), where(c.spot, after), fed);
                   },
                   [&](const RemoveSection& c) { return fmt::format("{} taken out", describeSection(c.use, library)); },
                   [&](const MoveSection& c) {
                     const auto* use = after.section(c.id);
                     return fmt::format("{} moved {}", use ? describeSection(*use, library) : c.id, where(c.to, after));
                   },
                   [&](const ReplaceSection& c) {
                     return fmt::format("{} in the place of {}", describeSection(c.to, library),
                                        describeSection(c.from, library));
                   },
                   [&](const JoinPort& c) {
                     if (c.port == "node") return fmt::format("rail {} called {}", c.from, c.to);
                     return fmt::format("{} joined to {}", describePort(c.section + "." + c.port, after, library),
                                        describePort(c.to, after, library));
                   },
                   [&](const JoinEnd& c) {
                     return fmt::format("{} {} {}", c.chain, c.end == "from" ? "taken from" : "brought to",
                                        describePort(c.to, after, library));
                   },
                   [&](const AddChain& c) {
                     std::string sections;
                     for (const auto& use : c.chain.sections)
                       sections += (sections.empty() ? "" : ", ") + describeSection(use, library);
                     return fmt::format("{} put in beside the line: {}", c.chain.id, sections);
                   },
                   [&](const RemoveChain& c) { return fmt::format("{} taken out", c.chain.id); },
                   [&](const Renumber& c) {
                     constexpr std::size_t most = 8;
                     std::string names;
                     const auto count = std::min(c.from.size(), c.to.size());
                     for (std::size_t i = 0; i < std::min(count, most); ++i)
                       names += fmt::format("{}{} is now {}", i ? ", " : "", c.from[i], c.to[i]);
                     return count > most ? fmt::format("{} parts renumbered: {} ...", count, names)
                                         : fmt::format("parts renumbered: {}", names);
                   }},
        change);
  };
  if (mark.changes.empty()) return {};
  // What the act is; the joins it brings are told by their number.
  const auto isJoin = [](const Change& change) {
    return std::holds_alternative<JoinPort>(change) || std::holds_alternative<JoinEnd>(change);
  };
  std::string text;
  std::size_t joins = 0;
  const auto* renamed = std::get_if<JoinPort>(&mark.changes.front());
  if (renamed && renamed->port != "node") renamed = nullptr;
  for (const auto& change : mark.changes) {
    // What hangs on a rail follows its name, which goes without saying.
    if (const auto* join = std::get_if<JoinPort>(&change);
        renamed && join && join != renamed && join->to == renamed->to)
      continue;
    if (isJoin(change) && !isJoin(mark.changes.front())) {
      ++joins;
      continue;
    }
    // The other half of a bottle goes without saying.
    if (!text.empty() && mark.field()) continue;
    text += (text.empty() ? "" : "; ") + one(change);
  }
  if (joins) text += joins == 1 ? ", with a join" : fmt::format(", with {} joins", joins);
  return text;
}

} // namespace vinegar::amp
