#include "amp/design/design.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <unordered_map>
#include <utility>

namespace vinegar::amp {

std::string bottleOf(const std::string& name) {
  return !name.empty() && std::islower(static_cast<unsigned char>(name.back())) ? name.substr(0, name.size() - 1)
                                                                                : name;
}

bool isPlayed(const ResolvedPart& control, const Library& library) { return library.role(control.part->role).played; }

double knobOf(const Design& design, const ResolvedPart& control) {
  const auto set = design.knobs.find(control.knob);
  if (control.part->kind != PartKind::selector) return set == design.knobs.end() ? control.part->stands : set->second;
  // A position that the switch does not have is `check`'s to report.
  const auto positions = static_cast<double>(control.part->positions.size());
  return set == design.knobs.end() ? 1 : std::clamp(std::round(set->second), 1.0, positions);
}

const std::string& nameOf(const SectionUse& use, const PartTemplate& part) {
  const auto own = use.parts.find(part.ref);
  return own == use.parts.end() ? part.name : own->second.name;
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

/// Of a design or a const one.
template <class Use, class AnyDesign> std::vector<Use*> sectionsOf(AnyDesign& design) {
  std::vector<Use*> all;
  const auto take = [&](auto& list) {
    for (auto& use : list)
      all.push_back(&use);
  };
  take(design.line);
  take(design.supply);
  for (auto& side : design.sides)
    take(side.sections);
  return all;
}

} // namespace

std::vector<const SectionUse*> Design::sections() const { return sectionsOf<const SectionUse>(*this); }
std::vector<SectionUse*> Design::sections() { return sectionsOf<SectionUse>(*this); }

const SectionUse* Design::section(const std::string& id) const {
  for (const auto* use : sections())
    if (use->id == id) return use;
  return nullptr;
}
SectionUse* Design::section(const std::string& id) { return const_cast<SectionUse*>(std::as_const(*this).section(id)); }

const Chain* Design::side(const std::string& id) const {
  const auto found = std::find_if(sides.begin(), sides.end(), [&](const Chain& chain) { return chain.id == id; });
  return found == sides.end() ? nullptr : &*found;
}
Chain* Design::side(const std::string& id) { return const_cast<Chain*>(std::as_const(*this).side(id)); }

std::vector<std::pair<std::string, const std::vector<SectionUse>*>> Design::chains() const {
  std::vector<std::pair<std::string, const std::vector<SectionUse>*>> all{{"line", &line}, {"supply", &supply}};
  for (const auto& one : sides)
    if (std::none_of(all.begin(), all.end(), [&](const auto& other) { return other.first == one.id; }))
      all.emplace_back(one.id, &one.sections);
  return all;
}

const std::vector<SectionUse>* Design::chain(const std::string& id) const {
  for (const auto& [name, uses] : chains())
    if (name == id) return uses;
  return nullptr;
}
std::vector<SectionUse>* Design::chain(const std::string& id) {
  return const_cast<std::vector<SectionUse>*>(std::as_const(*this).chain(id));
}

std::optional<Standing> standingOf(const Design& design, const std::string& id) {
  for (const auto& [chain, uses] : design.chains())
    for (std::size_t i = 0; i < uses->size(); ++i)
      if ((*uses)[i].id == id) return Standing{chain, i};
  return std::nullopt;
}

std::optional<Spot> spotOf(const Design& design, const std::string& id) {
  const auto standing = standingOf(design, id);
  if (!standing) return std::nullopt;
  return Spot{standing->chain,
              standing->index == 0 ? std::string() : (*design.chain(standing->chain))[standing->index - 1].id};
}

const Port* headOf(const SectionTemplate& section) {
  const auto* in = section.port("in");
  return in ? in : section.deck == "lane" ? section.port("from") : nullptr;
}
const Port* tailOf(const SectionTemplate& section) {
  const auto* out = section.port("out");
  return out ? out : section.deck == "lane" ? section.port("to") : nullptr;
}

std::string ResolvedPart::label() const {
  if (!fitted()) return "not fitted";
  if (hasType(part->kind)) return text("tube");
  if (!hasValue(part->kind)) return {};
  if (part->kind == PartKind::fuse) return units::reading(value(), units::Unit::ampere, 0);
  auto label = units::schematic(value(), valueUnit(part->kind));
  if (part->kind == PartKind::pot)
    label += text("taper") == "linear" ? " lin" : text("taper").starts_with(measuredTaper) ? " own" : " log";
  if (part->kind == PartKind::inductor) label += "H";
  if (part->kind == PartKind::transformer) label += ":1";
  if (part->kind == PartKind::speaker || part->kind == PartKind::springTank) label += " \u03a9";
  return label;
}

std::vector<ResolvedPart> resolveParts(const Design& design, const Library& library) {
  std::vector<ResolvedPart> parts;
  forEachPart(design, library,
              [&](const SectionUse& use, const PartTemplate& part) { parts.push_back(resolvePart(use, part)); });
  return parts;
}

double sourceVolts(const Design& design, const Library& library) {
  constexpr double strum = 0.1;
  for (const auto& part : resolveParts(design, library))
    if (part.part->kind == PartKind::signalSource && part.fitted()) {
      const double gives = library.role(part.part->role).givesVolts;
      return gives > 0 ? gives : strum;
    }
  return strum;
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

std::unordered_set<std::string> takenPorts(const Design& design) {
  std::unordered_set<std::string> taken;
  for (const auto* use : design.sections())
    for (const auto& [port, target] : use->joins)
      taken.insert(target);
  for (const auto& side : design.sides) {
    taken.insert(side.from);
    taken.insert(side.to);
  }
  return taken;
}

void nameParts(Design& design, const Library& library, const std::set<std::string>& others) {
  auto taken = others;
  for (const auto* use : std::as_const(design).sections())
    for (const auto& [ref, part] : use->parts)
      if (!part.name.empty()) taken.insert(part.name);
  const auto claim = [&](const std::string& name) { return taken.insert(name).second; };
  // Names are only ever taken, so the search goes on where it ended last time.
  std::map<std::pair<std::string, std::string>, int> reached;
  const auto nextFree = [&](const std::string& prefix, const std::string& suffix) {
    for (int& n = reached[{prefix, suffix}];;)
      if (const auto name = fmt::format("{}{}{}", prefix, ++n, suffix); claim(name)) return name;
  };
  // The second half of a two-unit bottle goes to the next unit of the same type; by type, the half's name.
  std::multimap<std::string, std::string> spares;
  for (const auto& half : spareHalves(design, library))
    spares.emplace(half.type, half.name);
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
        // A half whose bottle stands is no new name, whoever had it before; but two sheets may both want it.
        auto free = tube ? spares.upper_bound(tube->name) : spares.end();
        if (tube)
          free = free == spares.begin() || std::prev(free)->first != tube->name ? spares.end() : std::prev(free);
        if (!other) {
          do
            own.name = nextFree("V", "");
          while (taken.contains(own.name + "a"));
        } else if (free != spares.end()) {
          own.name = free->second;
          taken.insert(own.name);
          spares.erase(free);
        } else {
          do
            own.name = nextFree("V", "a");
          while (taken.contains(bottleOf(own.name)) || taken.contains(bottleOf(own.name) + "b"));
          spares.emplace(other->name, bottleOf(own.name) + "b");
        }
      } else if (!part.name.empty()) {
        reached.try_emplace({part.name + " ", ""}, 1); // the second of them is "Treble 2"
        own.name = claim(part.name) ? part.name : nextFree(part.name + " ", "");
      } else {
        own.name = nextFree(std::string(namePrefix(part.kind)), "");
      }
    }
  }
}

std::vector<SpareHalf> spareHalves(const Design& design, const Library& library) {
  std::vector<SpareHalf> spares;
  std::unordered_set<std::string_view> names;
  forEachPart(design, library,
              [&](const SectionUse& use, const PartTemplate& part) { names.insert(nameOf(use, part)); });
  forEachPart(design, library, [&](const SectionUse& use, const PartTemplate& part) {
    const auto& own = nameOf(use, part);
    const auto bottle = bottleOf(own);
    if (!isTube(part.kind) || bottle == own) return;
    const auto* tube = library.tubes.find(resolvePart(use, part).text("tube"));
    const auto* other = tube ? library.tubes.otherHalf(*tube) : nullptr;
    const auto name = bottle + (own.back() == 'a' ? "b" : "a");
    if (other && !names.contains(name)) spares.push_back({name, other->name, own});
  });
  return spares;
}

} // namespace vinegar::amp
