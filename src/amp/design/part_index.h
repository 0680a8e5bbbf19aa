#pragma once

#include "amp/design/design.h"

#include <unordered_map>

namespace vinegar::amp {

/// Where every part of a design stands, by name: for whoever looks up more than one. Holds on as long as the design
/// does not move or lose a section. `Use` is SectionUse or const SectionUse.
template <class Use> struct PartIndex {
  struct Entry {
    Use* use;
    const PartTemplate* part;
  };
  std::unordered_map<std::string, Entry> entries;

  template <class AnyDesign> PartIndex(AnyDesign& design, const Library& library) {
    for (auto* use : design.sections()) {
      const auto section = library.sections.find(use->section);
      if (section == library.sections.end()) continue;
      for (const auto& part : section->second.parts)
        if (const auto own = use->parts.find(part.ref); own != use->parts.end())
          entries.try_emplace(own->second.name, Entry{use, &part});
    }
  }
  [[nodiscard]] const Entry* find(const std::string& name) const {
    const auto found = entries.find(name);
    return found == entries.end() ? nullptr : &found->second;
  }
  [[nodiscard]] std::optional<ResolvedPart> resolved(const std::string& name) const {
    const auto* entry = find(name);
    return entry ? std::optional(resolvePart(*entry->use, *entry->part)) : std::nullopt;
  }
};

} // namespace vinegar::amp
