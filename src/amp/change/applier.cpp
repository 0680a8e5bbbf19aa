#include "amp/change/applier.h"

#include "amp/design/overloaded.h"

#include <algorithm>
#include <fmt/format.h>
#include <utility>

namespace vinegar::amp {
namespace {

auto findUse(std::vector<SectionUse>& chain, const std::string& id) {
  return std::find_if(chain.begin(), chain.end(), [&](const SectionUse& use) { return use.id == id; });
}

auto findChain(std::vector<Chain>& chains, const std::string& id) {
  return std::find_if(chains.begin(), chains.end(), [&](const Chain& chain) { return chain.id == id; });
}

} // namespace

std::optional<Problem> Applier::operator()(const Change& change) {
  return std::visit([this](const auto& c) { return make(c); }, change);
}

void Applier::refresh(Change& change) {
  std::visit(Overloaded{[&](SetField& c) {
                          if (const auto part = parts().resolved(c.part))
                            if (const auto now = part->settings.find(c.field); now != part->settings.end())
                              c.from = now->second;
                        },
                        [&](AddSection&) {}, [&](AddChain&) {}, [&](Renumber&) {},
                        [&](RemoveSection& c) {
                          if (const auto spot = spotOf(design_, c.use.id)) {
                            c.spot = *spot;
                            c.use = *std::as_const(design_).section(c.use.id);
                          }
                        },
                        [&](MoveSection& c) {
                          if (const auto spot = spotOf(design_, c.id)) c.from = *spot;
                        },
                        [&](ReplaceSection& c) {
                          if (const auto* use = std::as_const(design_).section(c.from.id)) c.from = *use;
                        },
                        [&](JoinPort& c) {
                          if (const auto* use = std::as_const(design_).section(c.section))
                            c.from = joinOf(*use, c.port);
                        },
                        [&](JoinEnd& c) {
                          if (const auto* chain = std::as_const(design_).side(c.chain))
                            c.from = c.end == "from" ? chain->from : chain->to;
                        },
                        [&](RemoveChain& c) {
                          const auto at = findChain(design_.sides, c.chain.id);
                          if (at == design_.sides.end()) return;
                          c.chain = *at;
                          c.after = at == design_.sides.begin() ? std::string() : std::prev(at)->id;
                        }},
             change);
}

std::string Applier::joinOf(const SectionUse& use, const std::string& port) {
  if (port == "node") return use.node;
  const auto join = use.joins.find(port);
  return join == use.joins.end() ? std::string() : join->second;
}

std::optional<Problem> Applier::make(const SetField& c) {
  const auto* entry = parts().find(c.part);
  if (!entry) return Problem{c.part, "no part of the amplifier has this name"};
  const auto& defaults = entry->part->defaults;
  const auto shipped = defaults.find(c.field);
  if (shipped == defaults.end()) return Problem{c.part, fmt::format("has no setting \"{}\"", c.field)};
  if (shipped->second.index() != c.to.index())
    return Problem{c.part, fmt::format("{} is of the wrong type", fieldWords(c.field))};
  auto& settings = entry->use->parts[entry->part->ref].settings;
  if (shipped->second == c.to)
    settings.erase(c.field);
  else
    settings[c.field] = c.to;
  return std::nullopt;
}

std::optional<Problem> Applier::place(const Spot& spot, SectionUse use) {
  auto* chain = design_.chain(spot.chain);
  if (!chain) return Problem{use.id, fmt::format("its chain \"{}\" is not there", spot.chain)};
  auto at = chain->begin();
  if (!spot.after.empty()) {
    at = findUse(*chain, spot.after);
    if (at == chain->end()) return Problem{use.id, fmt::format("stands after \"{}\", which is not there", spot.after)};
    ++at;
  }
  chain->insert(at, std::move(use));
  reshaped();
  return std::nullopt;
}

std::optional<Problem> Applier::taken(const std::string& id) const {
  if (std::as_const(design_).section(id)) return Problem{id, "a section of this name is there already"};
  return std::nullopt;
}

std::optional<Problem> Applier::make(const AddSection& c) {
  if (auto problem = taken(c.use.id)) return problem;
  return place(c.spot, c.use);
}

std::optional<Problem> Applier::standing(const SectionUse& use) const {
  const auto* now = std::as_const(design_).section(use.id);
  if (!now) return Problem{use.id, "the section is not there"};
  if (now->section != use.section) return Problem{use.id, fmt::format("is a {} now", now->section)};
  return std::nullopt;
}

std::optional<Problem> Applier::make(const RemoveSection& c) {
  if (auto problem = standing(c.use)) return problem;
  const auto at = standingOf(design_, c.use.id);
  if (!at) return Problem{c.use.id, "stands in a chain that has another's name"};
  auto* chain = design_.chain(at->chain);
  chain->erase(chain->begin() + static_cast<std::ptrdiff_t>(at->index));
  reshaped();
  return std::nullopt;
}

std::optional<Problem> Applier::make(const MoveSection& c) {
  const auto from = standingOf(design_, c.id);
  if (!from) return Problem{c.id, "the section is not there"};
  auto* chain = design_.chain(c.to.chain);
  if (!chain) return Problem{c.id, fmt::format("the chain \"{}\" is not there", c.to.chain)};
  if (c.to.after == c.id || (!c.to.after.empty() && findUse(*chain, c.to.after) == chain->end()))
    return Problem{c.id, fmt::format("moves after \"{}\", which is not there", c.to.after)};
  auto* source = design_.chain(from->chain);
  const auto at = source->begin() + static_cast<std::ptrdiff_t>(from->index);
  auto use = std::move(*at);
  source->erase(at);
  return place(c.to, std::move(use));
}

std::optional<Problem> Applier::make(const ReplaceSection& c) {
  if (auto problem = standing(c.from)) return problem;
  *design_.section(c.from.id) = c.to;
  reshaped();
  return std::nullopt;
}

std::optional<Problem> Applier::make(const JoinPort& c) {
  auto* use = design_.section(c.section);
  if (!use) return Problem{c.section, "the section is not there"};
  if (c.port == "node") {
    use->node = c.to;
    return std::nullopt;
  }
  const auto section = library_.sections.find(use->section);
  if (section != library_.sections.end() && !section->second.port(c.port))
    return Problem{c.section, fmt::format("has no port \"{}\" to join", c.port)};
  if (c.to.empty())
    use->joins.erase(c.port);
  else
    use->joins[c.port] = c.to;
  return std::nullopt;
}

std::optional<Problem> Applier::make(const JoinEnd& c) {
  auto* chain = design_.side(c.chain);
  if (!chain) return Problem{c.chain, "the chain is not there"};
  (c.end == "from" ? chain->from : chain->to) = c.to;
  return std::nullopt;
}

std::optional<Problem> Applier::make(const AddChain& c) {
  if (c.chain.id.empty() || std::as_const(design_).chain(c.chain.id))
    return Problem{c.chain.id, "a chain of this name is there already"};
  for (const auto& use : c.chain.sections)
    if (auto problem = taken(use.id)) return problem;
  auto at = design_.sides.begin();
  if (!c.after.empty()) {
    at = findChain(design_.sides, c.after);
    if (at == design_.sides.end())
      return Problem{c.chain.id, fmt::format("stands after the chain \"{}\", which is not there", c.after)};
    ++at;
  }
  design_.sides.insert(at, c.chain);
  reshaped();
  return std::nullopt;
}

std::optional<Problem> Applier::make(const RemoveChain& c) {
  const auto at = findChain(design_.sides, c.chain.id);
  if (at == design_.sides.end()) return Problem{c.chain.id, "the chain is not there"};
  design_.sides.erase(at);
  reshaped();
  return std::nullopt;
}

std::optional<Problem> Applier::make(const Renumber& c) {
  std::unordered_map<std::string, const std::string*> names;
  for (std::size_t i = 0; i < std::min(c.from.size(), c.to.size()); ++i)
    names.emplace(c.from[i], &c.to[i]);
  for (auto* use : design_.sections())
    for (auto& [ref, part] : use->parts)
      if (const auto found = names.find(part.name); found != names.end()) part.name = *found->second;
  reshaped();
  return {};
}

} // namespace vinegar::amp
