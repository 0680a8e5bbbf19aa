#include "amp/acts/acts.h"

#include "amp/acts/sensible.h"

#include <algorithm>
#include <fmt/format.h>
#include <utility>

namespace vinegar::amp {
namespace {

using Answer = tl::expected<Design, Problem>;

tl::unexpected<Problem> no(std::string place, std::string message) {
  return tl::unexpected(Problem{std::move(place), std::move(message)});
}

std::pair<std::string, std::string> split(const std::string& target) {
  const auto dot = target.find('.');
  return dot == std::string::npos ? std::pair{std::string(), target}
                                  : std::pair{target.substr(0, dot), target.substr(dot + 1)};
}

bool isRailPort(const SectionTemplate& section, const std::string& port) {
  return std::find(section.railPorts.begin(), section.railPorts.end(), port) != section.railPorts.end();
}

/// Every join that names `from` goes to `to` instead; to "" where it is dropped.
template <class Translate> void retarget(Design& design, const Translate& translate) {
  for (auto* use : design.sections())
    for (auto join = use->joins.begin(); join != use->joins.end();) {
      const auto to = translate(join->second);
      if (to == join->second) {
        ++join;
      } else if (to.empty()) {
        join = use->joins.erase(join);
      } else {
        join->second = to;
        ++join;
      }
    }
  for (auto& side : design.sides)
    for (auto* end : {&side.from, &side.to})
      if (!end->empty())
        if (auto to = translate(*end); to != *end) *end = to.empty() ? "open" : std::move(to);
}

std::string_view wordOf(Carries carries) {
  switch (carries) {
  case Carries::single:
    return "one signal";
  case Carries::balanced:
    return "two opposite signals";
  case Carries::speaker:
    return "a speaker's signal";
  case Carries::nothing:
    break;
  }
  return "nothing";
}

/// Why it does not fit between two sections; nothing when it does.
std::string whyNot(const SectionTemplate& section, const std::string& chain, const SectionTemplate* before,
                   const SectionTemplate* after) {
  if (!section.refusal.empty()) return "refused: " + section.refusal;
  if (chain == "supply") {
    const bool from = section.port("from") != nullptr;
    if (!before && from) return "takes its volts from a section before it, and there is none";
    if (before && !from) return "starts a supply, and this one has its start";
    if (!before && after && !after->port("from")) return "this supply has its start";
    return {};
  }
  if (before && section.in != before->out)
    return fmt::format("takes {}, and here is {}", wordOf(section.in), wordOf(before->out));
  if (before && before->out == Carries::nothing) return "the chain ends before this place";
  if (after && section.out != after->in)
    return fmt::format("gives {}, and what follows takes {}", wordOf(section.out), wordOf(after->in));
  if (after && section.out == Carries::nothing) return "ends a chain, and more follows here";
  return {};
}

std::vector<Candidate> fitFirst(std::vector<Candidate> all) {
  std::erase_if(all, [](const Candidate& one) { return !one.section->offered; });
  std::sort(all.begin(), all.end(), [](const Candidate& a, const Candidate& b) {
    return std::tuple{!a.why.empty(), a.section->title} < std::tuple{!b.why.empty(), b.section->title};
  });
  return all;
}

std::vector<Candidate> candidates(const Library& library, const std::string& chain, const SectionTemplate* before,
                                  const SectionTemplate* after) {
  std::vector<Candidate> all;
  for (const auto& [id, section] : library.sections) {
    const bool supply = section.deck == "supply";
    if ((chain == "supply") != supply || (chain == "line" && section.deck != "line")) continue;
    all.push_back({&section, whyNot(section, chain, before, after)});
  }
  return fitFirst(std::move(all));
}

/// Index to insert at, or a Problem.
tl::expected<std::size_t, Problem> placeIn(const std::vector<SectionUse>* chain, const Spot& spot) {
  if (!chain) return no(spot.chain, "there is no such chain");
  if (spot.after.empty()) return 0;
  for (std::size_t i = 0; i < chain->size(); ++i)
    if ((*chain)[i].id == spot.after) return i + 1;
  return no(spot.after, fmt::format("does not stand in the {}", spot.chain));
}

/// What was made, with what it needs beside it; `fresh`: the sections that are new in it.
Answer finished(const Design& before, Design design, const Library& library, const NameBook& names = NameBook({}),
                const std::vector<std::string>& fresh = {}) {
  for (const auto& id : fresh)
    joinSensibly(design, library, names, id);
  nameParts(design, library, names.parts);
  coupleSensibly(design, library, before);
  leakSensibly(design, library);
  return design;
}

} // namespace

std::vector<Candidate> candidatesFor(const Design& design, const Library& library, const Spot& spot) {
  const auto* chain = design.chain(spot.chain);
  const auto at = placeIn(chain, spot);
  if (!at) return {};
  return candidates(library, spot.chain, *at > 0 ? templateOf(library, (*chain)[*at - 1]) : nullptr,
                    *at < chain->size() ? templateOf(library, (*chain)[*at]) : nullptr);
}

std::vector<Candidate> replacementsFor(const Design& design, const Library& library, const std::string& id) {
  const auto found = find(design, id);
  if (!found) return {};
  const auto* before = found->before() ? templateOf(library, *found->before()) : nullptr;
  const auto* after = found->after() ? templateOf(library, *found->after()) : nullptr;
  auto all = candidates(library, found->name, before, after);
  std::erase_if(all, [&](const Candidate& one) { return one.section->id == found->use().section; });
  // A chain's ends stay joined: what has no such port does not fit there.
  if (found->side)
    for (auto& one : all) {
      if (one.why.empty() && !before && !found->side->from.empty() && !headOf(*one.section))
        one.why = "takes no signal, and the chain brings one";
      if (one.why.empty() && !after && !found->side->to.empty() && !tailOf(*one.section))
        one.why = "gives no signal, and the chain takes one on";
    }
  return fitFirst(std::move(all));
}

std::vector<Candidate> besidesFor(const Design& design, const Library& library, const std::string& id) {
  const auto found = find(design, id);
  if (!found) return {};
  const bool ofSupply = found->name == "supply";
  std::vector<Candidate> all;
  for (const auto& [name, section] : library.sections) {
    if (section.deck == "supply") continue;
    std::string why;
    if (!section.refusal.empty())
      why = "refused: " + section.refusal;
    else if (ofSupply && headOf(section))
      why = "takes a signal, and a supply gives none";
    else if (section.deck == "line" && section.in != Carries::single && section.in != Carries::nothing)
      why = fmt::format("takes {}, and a chain starts with {}", wordOf(section.in), wordOf(Carries::single));
    all.push_back({&section, std::move(why)});
  }
  return fitFirst(std::move(all));
}

Answer insertSection(Design design, const Library& library, const NameBook& names, const Spot& spot,
                     const std::string& section) {
  const auto known = library.sections.find(section);
  if (known == library.sections.end()) return no(section, "is not in the section library");
  auto* chain = design.chain(spot.chain);
  const auto at = placeIn(chain, spot);
  if (!at) return tl::unexpected(at.error());
  const Design before = design;
  SectionUse use{freeName(section, idsOf(design, names)), section, {}, {}, {}, {}};
  if (spot.chain == "supply") use.node = freeRail(design, names);
  const auto id = use.id;
  chain->insert(chain->begin() + static_cast<std::ptrdiff_t>(*at), std::move(use));
  return finished(before, std::move(design), library, names, {id});
}

Answer duplicateSection(Design design, const Library& library, const NameBook& names, const std::string& id) {
  const auto found = find(design, id);
  if (!found) return no(id, "there is no such section");
  const Design before = design;
  auto copy = found->use();
  copy.id = freeName(copy.section, idsOf(design, names));
  if (!copy.node.empty()) copy.node = freeRail(design, names);
  for (auto& [ref, part] : copy.parts)
    part.name.clear();
  // Its own ends are its neighbours'.
  for (const char* port : {"in", "out", "inB", "outB"})
    copy.joins.erase(port);
  const auto newId = copy.id;
  found->chain->insert(found->chain->begin() + static_cast<std::ptrdiff_t>(found->index) + 1, std::move(copy));
  return finished(before, std::move(design), library, names, {newId});
}

Answer removeSection(Design design, const Library& library, const std::string& id) {
  const auto found = find(design, id);
  if (!found) return no(id, "there is no such section");
  const Design before = design;
  const auto use = found->use();
  // Ports of the neighbours that take the place of its own ends.
  std::string in, out, rail;
  if (const auto* before = found->before()) {
    if (const auto* section = templateOf(library, *before); section && section->port("out")) in = before->id + ".out";
  }
  if (const auto* after = found->after()) {
    if (const auto* section = templateOf(library, *after); section && section->port("in")) out = after->id + ".in";
  }
  if (!use.node.empty()) {
    const auto from = use.joins.find("from");
    if (from != use.joins.end()) {
      rail = from->second;
      const bool named = rail.find('.') == std::string::npos; // a section's second rail has no name to hang on
      if (!named) rail = found->before() ? found->before()->node : std::string();
      // What stands on the branch after it goes on from where the branch begins.
      if (found->after()) {
        auto& after = (*found->chain)[found->index + 1];
        const auto* section = templateOf(library, after);
        if (section && section->port("from") && after.joins.try_emplace("from", from->second).second && !named)
          rail = after.node;
      }
    } else if (found->before())
      rail = found->before()->node;
    else if (found->after())
      rail = found->after()->node;
  }
  if (found->side && found->side->sections.size() == 1) return removeChain(std::move(design), library, found->side->id);
  found->chain->erase(found->chain->begin() + static_cast<std::ptrdiff_t>(found->index));
  retarget(design, [&](const std::string& target) -> std::string {
    if (!use.node.empty() && target == use.node) return rail.empty() ? target : rail;
    const auto [section, port] = split(target);
    if (section != use.id) return target;
    if (port == "in" || port == "out") return in.empty() ? out : in;
    return {};
  });
  return finished(before, std::move(design), library);
}

Answer moveSection(Design design, const Library& library, const std::string& id, const Spot& spot) {
  const auto found = find(design, id);
  if (!found) return no(id, "there is no such section");
  if (spot.after == id) return no(id, "cannot stand after itself");
  const auto* section = templateOf(library, found->use());
  if (section && (section->deck == "supply") != (spot.chain == "supply"))
    return no(id, fmt::format("does not belong in the {}", spot.chain));
  if (const auto at = placeIn(design.chain(spot.chain), spot); !at) return tl::unexpected(at.error());
  const Design before = design;
  const bool emptied = found->side && found->side->sections.size() == 1 && found->side->id != spot.chain;
  const auto left = found->side ? found->side->id : std::string();
  auto use = found->use();
  found->chain->erase(found->chain->begin() + static_cast<std::ptrdiff_t>(found->index));
  auto* chain = design.chain(spot.chain);
  chain->insert(chain->begin() + static_cast<std::ptrdiff_t>(*placeIn(chain, spot)), std::move(use));
  if (emptied) std::erase_if(design.sides, [&](const Chain& side) { return side.id == left; });
  return finished(before, std::move(design), library);
}

Answer moveSectionBy(Design design, const Library& library, const std::string& id, int places) {
  const auto found = find(design, id);
  if (!found) return no(id, "there is no such section");
  const auto last = static_cast<std::ptrdiff_t>(found->chain->size()) - 1;
  const auto to = std::clamp(static_cast<std::ptrdiff_t>(found->index) + places, std::ptrdiff_t{0}, last);
  if (to == static_cast<std::ptrdiff_t>(found->index)) return design;
  // The section that it then stands after: of those without itself the one before its new place.
  const auto before = to > static_cast<std::ptrdiff_t>(found->index) ? to : to - 1;
  const Spot spot{found->name, before < 0 ? std::string() : (*found->chain)[static_cast<std::size_t>(before)].id};
  return moveSection(std::move(design), library, id, spot);
}

namespace {

/// Power tubes that stand on a resistor of their cathodes.
double tubesOn(const SectionTemplate& section, const PartTemplate& resistor) {
  return static_cast<double>(std::count_if(section.parts.begin(), section.parts.end(), [&](const PartTemplate& part) {
    return isTube(part.kind) && part.nodes.back() == resistor.nodes.front();
  }));
}

double powerTubes(const SectionTemplate& section) {
  return static_cast<double>(std::count_if(section.parts.begin(), section.parts.end(), [](const PartTemplate& part) {
    return isTube(part.kind) && part.role == "power-tube";
  }));
}

bool hasRole(const SectionTemplate& section, std::string_view role) {
  return std::any_of(section.parts.begin(), section.parts.end(), [&](const auto& part) { return part.role == role; });
}

/// What is shared by all tubes of an output stage, for as many of them as the new section has; nothing where the old
/// value says nothing of the new place.
std::optional<double> rescaled(const SectionTemplate& from, const PartTemplate& old, double value,
                               const SectionTemplate& to, const PartTemplate& part) {
  double share = 0;
  if (part.role == "power-cathode-bias") {
    // Beside a negative supply it makes a part of the bias alone.
    if (hasRole(from, "bias-range") != hasRole(to, "bias-range")) return std::nullopt;
    share = tubesOn(from, old) / std::max(1.0, tubesOn(to, part));
  } else if (part.role == "output-transformer" && old.nodes.size() == part.nodes.size()) {
    share = powerTubes(from) / std::max(1.0, powerTubes(to));
  }
  if (!(share > 0)) return std::nullopt;
  return share == 1 ? value : units::nearest(units::Series::e24, value * share);
}

/// The same role, in order, those first that both sections ship with the same value; then tubes by their order alone:
/// the bottle in the socket is the bottle in the socket. Names go along. A setting goes along where both sections ship
/// it alike: where they do not, it is what makes the new one another section. What one tube has the others of its role
/// have too, and what they share is made for their number.
void handOnParts(const SectionUse& before, const SectionTemplate& old, SectionUse& use, const SectionTemplate& fresh,
                 const Library& library) {
  std::set<std::string> handedOn;
  const auto handOn = [&](const PartTemplate& from, const PartTemplate& to, bool named) {
    const auto own = before.parts.find(from.ref);
    if (own == before.parts.end() || use.parts.contains(to.ref)) return;
    const auto resolved = resolvePart(before, from);
    const auto now = resolvePart(use, to);
    PartUse next{named ? own->second.name : std::string(), {}, {}};
    const auto put = [&](const std::string& field, const Setting& setting) {
      if (setting != to.defaults.at(field) && !checkSetting(now, field, setting, library))
        next.settings[field] = setting;
    };
    for (const auto& [field, setting] : resolved.settings) {
      const auto shipped = from.defaults.find(field), there = to.defaults.find(field);
      if (there == to.defaults.end()) continue;
      if (field == "tube" || (shipped != from.defaults.end() && shipped->second == there->second)) put(field, setting);
    }
    if (to.defaults.contains("value"))
      if (const auto value = rescaled(old, from, resolved.value(), fresh, to)) {
        next.settings.erase("value");
        put("value", *value);
      }
    use.parts[to.ref] = std::move(next);
    if (named) handedOn.insert(from.ref);
  };
  const auto meet = [](const PartTemplate& from, const PartTemplate& to) {
    return from.kind == to.kind && from.role == to.role && from.positions.size() == to.positions.size();
  };
  const auto each = [&](const auto& wanted, bool named) {
    for (const auto& to : fresh.parts)
      for (const auto& from : old.parts)
        if ((!named || !handedOn.contains(from.ref)) && wanted(from, to)) handOn(from, to, named);
  };
  each(
      [&](const auto& from, const auto& to) {
        const auto value = from.defaults.find("value"), other = to.defaults.find("value");
        return meet(from, to) &&
               (value == from.defaults.end() || other == to.defaults.end() || value->second == other->second);
      },
      true);
  each(meet, true);
  each([](const auto& from, const auto& to) { return from.kind == to.kind && isTube(to.kind); }, true);
  each(meet, false);
}

} // namespace

Answer replaceSection(Design design, const Library& library, const NameBook& names, const std::string& id,
                      const std::string& section) {
  const auto known = library.sections.find(section);
  if (known == library.sections.end()) return no(section, "is not in the section library");
  const auto found = find(design, id);
  if (!found) return no(id, "there is no such section");
  const auto& fresh = known->second;
  const Design whole = design;
  const auto before = found->use();
  if (before.section == section) return design;
  const auto* old = templateOf(library, before);
  SectionUse use{before.id, section, {}, {}, before.node, before.extra};
  if (old) handOnParts(before, *old, use, fresh, library);
  for (const auto& [port, target] : before.joins)
    if (fresh.port(port)) use.joins[port] = target;
  found->use() = std::move(use);
  retarget(design, [&](const std::string& target) -> std::string {
    const auto [owner, port] = split(target);
    return owner != id || fresh.port(port) ? target : std::string();
  });
  return finished(whole, std::move(design), library, names, {id});
}

Answer insertChain(Design design, const Library& library, const NameBook& names, const std::string& id,
                   const std::vector<std::string>& sections, const std::string& from, const std::string& to) {
  if (sections.empty()) return no(id, "a chain needs a section");
  auto taken = names.chains;
  taken.insert({"line", "supply"});
  for (const auto& side : design.sides)
    taken.insert(side.id);
  Chain chain{freeName(id.empty() ? sections.front() : id, taken), {}, from, to, {}};
  auto ids = idsOf(design, names);
  for (const auto& section : sections) {
    if (!library.sections.contains(section)) return no(section, "is not in the section library");
    chain.sections.push_back({freeName(section, ids), section, {}, {}, {}, {}});
    ids.insert(chain.sections.back().id);
  }
  std::vector<std::string> fresh;
  for (const auto& use : chain.sections)
    fresh.push_back(use.id);
  const Design before = design;
  design.sides.push_back(std::move(chain));
  return finished(before, std::move(design), library, names, fresh);
}

Answer insertBeside(Design design, const Library& library, const NameBook& names, const std::string& id,
                    const std::string& section) {
  const auto known = library.sections.find(section);
  if (known == library.sections.end()) return no(section, "is not in the section library");
  const auto found = find(design, id);
  if (!found) return no(id, "there is no such section");
  const auto* own = templateOf(library, found->use());
  const bool fed = own && own->port("out") && headOf(known->second);
  return insertChain(std::move(design), library, names, {}, {section}, fed ? id + ".out" : std::string(),
                     tailOf(known->second) ? "open" : std::string());
}

Answer removeChain(Design design, const Library&, const std::string& id) {
  const auto* side = std::as_const(design).side(id);
  if (!side) return no(id, "there is no such chain");
  std::set<std::string> gone;
  for (const auto& use : side->sections)
    gone.insert(use.id);
  std::erase_if(design.sides, [&](const Chain& chain) { return chain.id == id; });
  retarget(design, [&](const std::string& target) -> std::string {
    return gone.contains(split(target).first) ? std::string() : target;
  });
  return design;
}

bool meetsNeighbour(const Design& design, const Library& library, const std::string& port) {
  const auto [id, name] = split(port);
  const auto found = find(design, id);
  const auto* section = found ? templateOf(library, found->use()) : nullptr;
  if (!section) return false;
  if (found->chain == &design.supply) return name == "node";
  if (name == "in" || name == "inB") return found->before() != nullptr;
  if (name == "out" || name == "outB") return found->after() != nullptr;
  return false;
}

std::string joinOf(const Design& design, const Library& library, const std::string& port) {
  const auto [id, name] = split(port);
  const auto found = find(design, id);
  const auto* section = found ? templateOf(library, found->use()) : nullptr;
  const auto* known = section ? section->port(name) : nullptr;
  if (!known) return {};
  if (const auto join = found->use().joins.find(name); join != found->use().joins.end()) return join->second;
  if (found->side) {
    if (!found->before() && known == headOf(*section)) return found->side->from;
    if (!found->after() && known == tailOf(*section)) return found->side->to;
  }
  return known->join;
}

Answer renameRail(Design design, const std::string& section, const std::string& name) {
  const auto refuse = [&](std::string why) { return tl::unexpected(Problem{section, std::move(why)}); };
  auto* use = design.section(section);
  if (!use || use->node.empty()) return refuse("makes no rail");
  if (name.empty() || name == "0" || name == "ground" || name == "open" || name.find('.') != std::string::npos)
    return refuse(fmt::format("a rail cannot be called \"{}\"", name));
  const auto former = use->node;
  if (name == former) return design;
  for (const auto& other : design.supply)
    if (other.node == name) return refuse(fmt::format("there is a rail {} already", name));
  for (auto* other : design.sections()) {
    if (other->node == former) other->node = name;
    for (auto& [port, target] : other->joins)
      if (target == former) target = name;
  }
  return design;
}

Answer joinPort(Design design, const Library& library, const std::string& port, const std::string& to) {
  const auto [id, name] = split(port);
  const auto found = find(design, id);
  const auto* section = found ? templateOf(library, found->use()) : nullptr;
  const auto* known = section ? section->port(name) : nullptr;
  if (!known) return no(port, "there is no such port");
  if (meetsNeighbour(design, library, port)) return no(port, "meets its neighbour; there is nothing to join");
  if (found->side) {
    auto* end = !found->before() && known == headOf(*section)  ? &found->side->from
                : !found->after() && known == tailOf(*section) ? &found->side->to
                                                               : nullptr;
    if (end) {
      *end = to;
      return design;
    }
  }
  if (to.empty())
    found->use().joins.erase(name);
  else
    found->use().joins[name] = to;
  return design;
}

std::vector<std::string> joinsFor(const Design& design, const Library& library, const std::string& port) {
  const auto [id, name] = split(port);
  const auto found = find(design, id);
  const auto* section = found ? templateOf(library, found->use()) : nullptr;
  if (!section || !section->port(name) || meetsNeighbour(design, library, port)) return {};
  std::vector<std::string> all;
  if (isRailPort(*section, name) || (name == "from" && section->deck == "supply")) {
    for (const auto& use : design.supply) {
      if (use.id == id) break; // a branch comes from a rail before it
      all.push_back(use.node);
      if (const auto* other = templateOf(library, use); other && name == "from")
        for (const auto& end : other->ports)
          if (end.feeds) all.push_back(use.id + "." + end.name);
    }
    return all;
  }
  all = {"open", "ground"};
  for (const auto* use : design.sections()) {
    const auto* other = templateOf(library, *use);
    if (use->id == id || !other) continue;
    for (const auto& end : other->ports)
      if (!isRailPort(*other, end.name) && !end.feeds && end.name != "node" &&
          !(other->deck == "supply" && end.name == "from"))
        all.push_back(use->id + "." + end.name);
  }
  return all;
}

} // namespace vinegar::amp
