#include "amp/change/applier.h"
#include "amp/design/overloaded.h"

#include <algorithm>
#include <fmt/format.h>
#include <utility>

namespace vinegar::amp {
namespace {

/// All of a mark or nothing of it.
std::optional<Problem> applyMark(Design& design, Applier& apply, const Library& library, const Mark& mark) {
  if (mark.changes.size() == 1) return apply(mark.changes.front());
  Design trial = design;
  Applier onTrial(trial, library);
  for (const auto& change : mark.changes)
    if (auto problem = onTrial(change)) return problem;
  for (const auto& change : mark.changes)
    apply(change);
  return std::nullopt;
}

} // namespace

const SetField* Mark::field() const {
  const SetField* first = nullptr;
  for (const auto& change : changes) {
    const auto* field = std::get_if<SetField>(&change);
    if (!field) return nullptr;
    if (!first) first = field;
  }
  return first;
}

std::optional<Problem> apply(Design& design, const Library& library, const Change& change) {
  return Applier(design, library)(change);
}

Change inverse(Change change) {
  return std::visit(Overloaded{[](AddSection& c) -> Change {
                                 return RemoveSection{std::move(c.spot), std::move(c.use)};
                               },
                               [](RemoveSection& c) -> Change {
                                 return AddSection{std::move(c.spot), std::move(c.use)};
                               },
                               [](AddChain& c) -> Change {
                                 return RemoveChain{std::move(c.after), std::move(c.chain)};
                               },
                               [](RemoveChain& c) -> Change {
                                 return AddChain{std::move(c.after), std::move(c.chain)};
                               },
                               [](auto& c) -> Change {
                                 std::swap(c.from, c.to);
                                 return std::move(c);
                               }},
                    change);
}

std::vector<Mark> inverse(std::vector<Mark> marks) {
  std::reverse(marks.begin(), marks.end());
  for (auto& mark : marks) {
    mark.extra.clear();
    std::reverse(mark.changes.begin(), mark.changes.end());
    for (auto& change : mark.changes)
      change = inverse(std::move(change));
  }
  return marks;
}

Settled settle(const Design& ink, const Library& library, const std::vector<Mark>& marks) {
  Settled settled{ink, {}};
  Applier apply(settled.design, library);
  for (const auto& mark : marks)
    settled.fallen.push_back(applyMark(settled.design, apply, library, mark));
  return settled;
}

std::vector<std::size_t> leaningOn(const Design& ink, const Library& library, const std::vector<Mark>& marks,
                                   std::size_t mark) {
  const auto whole = settle(ink, library, marks).fallen;
  std::vector<std::size_t> gone{mark};
  std::set<std::size_t> without{mark};
  for (bool more = true; more;) {
    more = false;
    std::vector<Mark> rest;
    std::vector<std::size_t> numbers;
    for (std::size_t i = 0; i < marks.size(); ++i)
      if (!without.contains(i)) {
        rest.push_back(marks[i]);
        numbers.push_back(i);
      }
    const auto fallen = settle(ink, library, rest).fallen;
    for (std::size_t i = 0; i < rest.size(); ++i)
      if (fallen[i] && !whole[numbers[i]]) {
        gone.push_back(numbers[i]);
        without.insert(numbers[i]);
        more = true;
      }
  }
  return gone;
}

std::set<std::string> partsOf(const Mark& mark) {
  std::set<std::string> names;
  const auto take = [&](const SectionUse& use) {
    for (const auto& [ref, part] : use.parts)
      names.insert(part.name);
  };
  for (const auto& change : mark.changes)
    std::visit(Overloaded{[&](const SetField& c) { names.insert(c.part); }, [&](const AddSection& c) { take(c.use); },
                          [&](const RemoveSection& c) { take(c.use); },
                          [&](const ReplaceSection& c) {
                            take(c.from);
                            take(c.to);
                          },
                          [&](const AddChain& c) {
                            for (const auto& use : c.chain.sections)
                              take(use);
                          },
                          [&](const RemoveChain& c) {
                            for (const auto& use : c.chain.sections)
                              take(use);
                          },
                          [&](const Renumber& c) { names.insert(c.to.begin(), c.to.end()); }, [](const auto&) {}},
               change);
  return names;
}

std::vector<SetField> changesFor(const Design& design, const Library& library, const std::string& partName,
                                 const std::string& field, const Setting& to) {
  std::vector<SetField> changes;
  const auto* type = field == "tube" && std::holds_alternative<std::string>(to)
                         ? library.tubes.find(std::get<std::string>(to))
                         : nullptr;
  // The other half of the bottle becomes the type's other half; where that cannot stand there, it stays what it is.
  const auto* half = type ? library.tubes.otherHalf(*type) : nullptr;
  const auto* other = half ? half : type;
  for (const auto& part : resolveParts(design, library)) {
    const bool sameBottle = part.name != partName && other && isTube(part.part->kind) &&
                            bottleOf(part.name) == bottleOf(partName) && fits(part.part->kind, *other);
    if (part.name != partName && !sameBottle) continue;
    const Setting wanted = sameBottle ? Setting{other->name} : to;
    const auto current = part.settings.find(field);
    if (current != part.settings.end() && current->second != wanted)
      changes.push_back({part.name, field, current->second, wanted});
  }
  return changes;
}

Design withChanges(Design design, const Library& library, const std::vector<SetField>& changes) {
  if (changes.empty()) return design;
  Applier apply(design, library);
  for (const auto& change : changes)
    apply(change);
  return design;
}

} // namespace vinegar::amp
