// What a builder would do without being told when a section comes, goes or moves: the acts of build.h end with it.
#pragma once

#include "amp/change/document.h"

namespace vinegar::amp {

/// A section in its chain. Of a Design or a const one; holds on as long as no chain gains or loses a section.
template <class AnyDesign> struct Found {
  static constexpr bool isConst = std::is_const_v<AnyDesign>;
  using Uses = std::conditional_t<isConst, const std::vector<SectionUse>, std::vector<SectionUse>>;
  using Side = std::conditional_t<isConst, const Chain, Chain>;
  Uses* chain = nullptr;
  std::size_t index = 0;
  std::string name;     ///< of the chain
  Side* side = nullptr; ///< the chain when it is a side chain
  [[nodiscard]] auto& use() const { return (*chain)[index]; }
  [[nodiscard]] auto* before() const { return index > 0 ? &(*chain)[index - 1] : nullptr; }
  [[nodiscard]] auto* after() const { return index + 1 < chain->size() ? &(*chain)[index + 1] : nullptr; }
};
template <class AnyDesign> std::optional<Found<AnyDesign>> find(AnyDesign& design, const std::string& id) {
  const auto at = standingOf(design, id);
  if (!at) return std::nullopt;
  return Found<AnyDesign>{design.chain(at->chain), at->index, at->chain, design.side(at->chain)};
}

/// The section's template, or nullptr.
const SectionTemplate* templateOf(const Library& library, const SectionUse& use);
/// `wish`, or it with the first number that is free.
std::string freeName(std::string wish, const std::set<std::string>& taken);
/// Ids of the design and of the book.
std::set<std::string> idsOf(const Design& design, const NameBook& names);
/// A to Z, then A2...
std::string freeRail(const Design& design, const NameBook& names);

/// Rails and what the section by itself would leave open, as they stand to reason at its place; a bench supply where
/// there is none.
void joinSensibly(Design& design, const Library& library, const NameBook& names, const std::string& id);
/// The coupling capacitor between two sections that did not stand side by side in `before`: there where the plate's
/// volts would reach a grid, a wire before a stage that is made for them.
void coupleSensibly(Design& design, const Library& library, const Design& before);
/// A grid that lost its way to ground, as after a volume control, gets the leak that its section has a place for.
void leakSensibly(Design& design, const Library& library);

} // namespace vinegar::amp
