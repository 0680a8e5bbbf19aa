#include "amp/acts/numbering.h"

#include <algorithm>
#include <cctype>
#include <cstdlib>
#include <fmt/format.h>
#include <tuple>
#include <utility>

namespace vinegar::amp {
namespace {

std::string sectionNamed(const std::string& port) { return port.substr(0, port.find('.')); }

/// Sections as the signal meets them, the supply last.
std::vector<const SectionUse*> bySignal(const Design& design) {
  std::map<std::string, std::string> joinedFrom; // a port to the section that joins it
  for (const auto* use : design.sections())
    for (const auto& [port, target] : use->joins)
      joinedFrom[target] = use->id;
  std::map<std::string, std::size_t> placeInLine;
  for (std::size_t i = 0; i < design.line.size(); ++i)
    placeInLine.try_emplace(design.line[i].id, i);
  const auto placeOf = [&](const std::string& id) -> std::optional<std::size_t> {
    const auto found = placeInLine.find(id);
    return found == placeInLine.end() ? std::nullopt : std::optional(found->second);
  };
  // Before the section that it returns to; what is fed back from further on, after the one that feeds it.
  std::map<std::size_t, std::vector<const Chain*>> before, after;
  std::vector<const Chain*> rest;
  for (const auto& side : design.sides) {
    if (side.sections.empty()) continue;
    auto to = placeOf(sectionNamed(side.to));
    const auto taker = joinedFrom.find(side.sections.back().id + ".out");
    if (!to && taker != joinedFrom.end()) to = placeOf(taker->second);
    const auto from = placeOf(sectionNamed(side.from));
    if (from && (!to || *from >= *to))
      after[*from].push_back(&side);
    else if (to)
      before[*to].push_back(&side);
    else
      rest.push_back(&side);
  }
  std::vector<const SectionUse*> order;
  const auto take = [&](const std::vector<const Chain*>& chains) {
    for (const auto* chain : chains)
      for (const auto& use : chain->sections)
        order.push_back(&use);
  };
  for (std::size_t i = 0; i < design.line.size(); ++i) {
    take(before[i]);
    order.push_back(&design.line[i]);
    take(after[i]);
  }
  take(rest);
  for (const auto& use : design.supply)
    order.push_back(&use);
  return order;
}

/// "R" and its number alone, or nothing for a name of another kind.
bool isNumbered(std::string_view name, std::string_view prefix) {
  if (!name.starts_with(prefix) || name.size() == prefix.size()) return false;
  name.remove_prefix(prefix.size());
  return std::all_of(name.begin(), name.end(), [](unsigned char c) { return std::isdigit(c); });
}

} // namespace

std::map<std::string, std::string> numbersBySignal(const Design& design, const Library& library) {
  std::set<std::string> kept; // names that stay, bottles by their number
  const auto prefixOf = [](const PartTemplate& part) {
    return isTube(part.kind) || part.kind == PartKind::rectifier ? std::string("V")
                                                                 : std::string(namePrefix(part.kind));
  };
  const auto isMoved = [&](const PartTemplate& part, const std::string& name) {
    return !isControl(part.kind) && part.name.empty() && isNumbered(bottleOf(name), prefixOf(part));
  };
  const auto order = bySignal(design);
  const auto each = [&](const auto& visit) {
    for (const auto* use : order)
      if (const auto section = library.sections.find(use->section); section != library.sections.end())
        for (const auto& part : section->second.parts)
          if (const auto& name = nameOf(*use, part); !name.empty()) visit(part, name);
  };
  each([&](const PartTemplate& part, const std::string& name) {
    if (!isMoved(part, name)) kept.insert(bottleOf(name));
  });
  std::map<std::string, int> reached;
  std::map<std::string, std::string> bottles, names;
  std::map<std::string, char> halves; // by new bottle, the last letter given
  each([&](const PartTemplate& part, const std::string& name) {
    if (!isMoved(part, name)) return;
    const auto prefix = prefixOf(part);
    const auto old = bottleOf(name);
    const bool isHalf = old != name;
    auto bottle = isHalf ? bottles.find(old) : bottles.end();
    std::string number;
    if (bottle == bottles.end()) {
      do
        number = fmt::format("{}{}", prefix, ++reached[prefix]);
      while (kept.contains(number));
      if (isHalf) bottles.emplace(old, number);
    } else {
      number = bottle->second;
    }
    if (isHalf) {
      auto& letter = halves.try_emplace(number, static_cast<char>('a' - 1)).first->second;
      number += ++letter;
    }
    if (number != name) names.emplace(name, number);
  });
  return names;
}

std::map<std::string, std::string> renumber(Document& document, const Library& library, const std::string& date) {
  const auto names = numbersBySignal(document.ink, library);
  if (names.empty()) return names;
  const auto nameNow = [&](const std::string& part) { return names.contains(part) ? names.at(part) : part; };
  // Told from the first tube on.
  std::vector<std::pair<std::string, std::string>> told(names.begin(), names.end());
  std::sort(told.begin(), told.end(), [](const auto& a, const auto& b) {
    const auto order = [](const std::string& name) {
      const auto digits = std::min(name.find_first_of("0123456789"), name.size());
      return std::tuple{!name.starts_with("V"), name.substr(0, digits), std::atoi(name.c_str() + digits), name};
    };
    return order(a.second) < order(b.second);
  });
  Renumber change;
  for (const auto& [from, to] : told) {
    change.from.push_back(from);
    change.to.push_back(to);
  }
  std::set<std::string> inked;
  for (const auto* use : std::as_const(document.ink).sections())
    for (const auto& [ref, part] : use->parts)
      inked.insert(part.name);
  Design renamed = document.ink;
  apply(renamed, library, change);
  auto taken = NameBook(document).parts;
  for (const auto& [from, to] : names)
    taken.insert(to);
  for (auto& sheet : document.sheets) {
    const auto before = settle(document.ink, library, sheet.marks);
    auto design = before.design;
    // What is pencilled in makes way for the ink's new names.
    for (auto* use : design.sections())
      for (auto& [ref, part] : use->parts)
        if (!inked.contains(part.name)) part.name.clear();
    apply(design, library, change);
    nameParts(design, library, taken);
    auto marks = difference(renamed, design, library);
    for (std::size_t i = 0; i < sheet.marks.size(); ++i)
      if (before.fallen[i]) {
        marks.push_back(sheet.marks[i]);
        for (auto& waiting : marks.back().changes) {
          if (auto* field = std::get_if<SetField>(&waiting)) field->part = nameNow(field->part);
          // What waits to be put in gets names that nobody has.
          if (auto* add = std::get_if<AddSection>(&waiting)) {
            Design alone;
            for (auto& [ref, part] : add->use.parts)
              part.name.clear();
            alone.line.push_back(add->use);
            nameParts(alone, library, taken);
            add->use = alone.line.front();
            for (const auto& [ref, part] : add->use.parts)
              taken.insert(part.name);
          }
        }
      }
    sheet.marks = std::move(marks);
  }
  for (auto& [title, target] : document.targets) {
    for (auto& part : target.parts)
      part = nameNow(part);
    std::map<std::string, std::vector<double>> atHand;
    for (auto& [part, values] : target.atHand)
      atHand[nameNow(part)] = std::move(values);
    target.atHand = std::move(atHand);
  }
  std::map<std::string, std::map<std::string, double>> measured;
  for (auto& [part, volts] : document.measured)
    measured[nameNow(part)] = std::move(volts);
  document.measured = std::move(measured);
  document.ink = std::move(renamed);
  document.log.push_back(
      {document.revision() + 1, date, "The parts' numbers follow the signal", {Mark{{std::move(change)}}}, {}});
  return names;
}

} // namespace vinegar::amp
