// What is wrong with a design: check and checkSetting of design.h.
#include "amp/design/design.h"

#include <algorithm>
#include <cctype>
#include <cmath>
#include <fmt/format.h>
#include <set>
#include <unordered_map>

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
  // Shares and quality factors have no unit, so each says its own; the rest follow their unit.
  static const std::map<std::string, Range> named{
      {"mechanicalQ", {1e-2, 100}},  {"electricalQ", {1e-2, 100}}, {"voiceCoilShare", {0.1, 1}},
      {"tapShare", {0.05, 0.95}},    {"bendFlux", {0, 1e3}},       {"delayMilliseconds", {1, 1000}},
      {"decaySeconds", {0.01, 100}}, {"regulation", {0.001, 0.5}}, {"resonanceHertz", {1, 1e4}},
      {"hertz", {10, 1000}},         {"ratedVolts", {0, 1e5}},     {"ratedWatts", {0, 1e4}},
      {"secondaryLoad", {0.1, 1e5}}};
  if (const auto found = named.find(field); found != named.end()) return found->second;
  switch (settingUnit(kind, field)) {
  case units::Unit::ohm: // nothing real has none, and the circuit divides by some of them
    return {1e-6, 1e9};
  case units::Unit::farad:
    return {1e-15, 1};
  case units::Unit::henry:
    return {1e-9, 1e5};
  case units::Unit::volt:
    return {0.1, 5000};
  case units::Unit::ampere:
    return {1e-6, 1e3};
  case units::Unit::hertz:
    return {1, 1e7};
  default:
    return {1e-9, 1e9};
  }
}

/// The rails and where they come from: each from one before it, all of them from one mains.
void checkSupply(const Design& design, const Library& library, std::vector<Problem>& problems) {
  std::set<std::string> above; // rails, and ports that feed
  std::string mains;
  for (const auto& use : design.supply) {
    const auto add = [&](std::string message) { problems.push_back({use.id, std::move(message)}); };
    if (use.node.empty() || above.contains(use.node))
      add("a supply section needs a node name of its own");
    else if (use.node == "0" || use.node == "ground" || use.node == "open" || use.node.find('.') != std::string::npos)
      add(fmt::format("its node cannot be called \"{}\", which means something else in joins", use.node));
    if (const auto section = library.sections.find(use.section); section != library.sections.end()) {
      const auto from = use.joins.find("from");
      if (!section->second.port("from")) {
        const bool hasMains = std::any_of(section->second.parts.begin(), section->second.parts.end(),
                                          [](const auto& part) { return part.kind == PartKind::mains; });
        if (hasMains && !mains.empty())
          add(fmt::format("is a second connection to the mains beside {}; an amplifier has one", mains));
        if (hasMains) mains = use.id;
      } else if (&use == &design.supply.front()) {
        add("takes its volts from the section before it, and there is none; the supply is listed from the mains on");
      } else if (from != use.joins.end() && !above.contains(from->second)) {
        add(fmt::format(
            "takes its volts from \"{}\", which is no rail before it; the supply is listed from the mains on",
            from->second));
      }
      if (use.joins.contains("node")) add("its own rail is named by its node, not by a join");
    }
    above.insert(use.node);
    if (const auto section = library.sections.find(use.section); section != library.sections.end())
      for (const auto& port : section->second.ports)
        if (port.feeds) above.insert(use.id + "." + port.name);
  }
}

void checkPorts(const Design& design, const Library& library, std::vector<Problem>& problems) {
  std::set<std::string> rails;
  for (const auto& use : design.supply)
    rails.insert(use.node);
  std::unordered_map<std::string, const SectionTemplate*> byId;
  for (const auto* use : design.sections())
    if (const auto section = library.sections.find(use->section); section != library.sections.end())
      byId.try_emplace(use->id, &section->second);
  const auto taken = takenPorts(design);
  const auto isJoin = [&](const std::string& place, const std::string& port, const std::string& target) {
    if (const auto dot = target.find('.'); dot != std::string::npos) {
      const auto other = byId.find(target.substr(0, dot));
      if (other == byId.end() || !other->second->port(target.substr(dot + 1)))
        problems.push_back({place, fmt::format("joins {} to \"{}\", which is not there", port, target)});
      else if (target == place + "." + port)
        problems.push_back({place, fmt::format("joins {} to itself", port)});
    } else if (target != "ground" && target != "open" && !rails.contains(target)) {
      problems.push_back({place, fmt::format("joins {} to the supply node \"{}\", which is not there", port, target)});
    }
  };
  // `chain`: a side chain's, whose ends are the chain's to join.
  const auto checkUse = [&](const SectionUse& use, const Chain* chain) {
    const auto found = library.sections.find(use.section);
    if (found == library.sections.end()) return;
    const auto& section = found->second;
    for (const auto& [port, target] : use.joins) {
      if (!section.port(port))
        problems.push_back({use.id, fmt::format("has no port \"{}\" to join", port)});
      else
        isJoin(use.id, port, target);
    }
    for (const auto& rail : section.railPorts)
      if (const auto join = use.joins.find(rail); join == use.joins.end())
        problems.push_back({use.id, fmt::format("needs a supply node at its port \"{}\"", rail)});
      else if (join->second == "ground" || join->second == "open")
        problems.push_back(
            {use.id, fmt::format("needs a supply node at its port \"{}\", not \"{}\"", rail, join->second)});
    // What stands beside the line is joined by nothing but its joins, its neighbours and its chain's ends.
    if (!chain) return;
    const bool first = &use == &chain->sections.front(), last = &use == &chain->sections.back();
    for (const auto& port : section.ports) {
      if (!port.join.empty() || use.joins.contains(port.name) || taken.contains(use.id + "." + port.name) ||
          std::find(section.railPorts.begin(), section.railPorts.end(), port.name) != section.railPorts.end())
        continue;
      if (&port == headOf(section)   ? (!first || !chain->from.empty())
          : &port == tailOf(section) ? (!last || !chain->to.empty())
                                     : (port.name == "inB" && !first) || (port.name == "outB" && !last))
        continue;
      problems.push_back({use.id, fmt::format("its port \"{}\" is joined to nothing", port.name)});
    }
  };
  for (const auto* list : {&design.line, &design.supply})
    for (const auto& use : *list)
      checkUse(use, nullptr);
  std::set<std::string> chains{"line", "supply"};
  for (const auto& side : design.sides) {
    if (side.id.empty() || !chains.insert(side.id).second)
      problems.push_back({side.id, "a side chain needs a name of its own, which is not \"line\" or \"supply\""});
    if (side.sections.empty()) {
      problems.push_back({side.id, "is a chain without a section"});
      continue;
    }
    for (const auto& use : side.sections)
      checkUse(use, &side);
    const auto checkEnd = [&](const SectionUse& use, const char* end, const std::string& target, auto portOf) {
      const auto section = library.sections.find(use.section);
      if (target.empty() || section == library.sections.end()) return;
      const auto* port = portOf(section->second);
      if (!port)
        problems.push_back({side.id, fmt::format("is joined {} \"{}\", but a {} has no port for that", end, target,
                                                 section->second.title)});
      else
        isJoin(use.id, port->name, target);
    };
    checkEnd(side.sections.front(), "from", side.from, headOf);
    checkEnd(side.sections.back(), "to", side.to, tailOf);
  }
}

void checkKnobs(const Design& design, const Library& library, std::vector<Problem>& problems) {
  std::unordered_map<std::string, std::size_t> positions;
  forEachPart(design, library, [&](const SectionUse& use, const PartTemplate& part) {
    if (part.kind == PartKind::selector) positions[nameOf(use, part)] = part.positions.size();
  });
  for (const auto& [knob, setting] : design.knobs) {
    const auto selector = positions.find(knob);
    if (selector == positions.end()) {
      if (!(setting >= 0 && setting <= 1)) problems.push_back({knob, "a knob stands between 0 and 1"});
    } else if (!(setting >= 1 && setting <= static_cast<double>(selector->second) && setting == std::round(setting))) {
      problems.push_back({knob, fmt::format("stands in one of its positions, 1 to {}", selector->second)});
    }
  }
}

/// Neighbours carry the same. A chain may start and end with anything: a piece of an amplifier is a design too.
void checkChain(const std::vector<SectionUse>& chain, const Library& library, std::vector<Problem>& problems) {
  const SectionTemplate* before = nullptr;
  for (const auto& use : chain) {
    const auto found = library.sections.find(use.section);
    if (found == library.sections.end()) return;
    const auto& section = found->second;
    if (before && section.in != before->out)
      problems.push_back({use.id, fmt::format("a {} cannot follow a {}", section.title, before->title)});
    else if (before && section.in == Carries::nothing)
      problems.push_back({use.id, fmt::format("a {} stands alone in its chain", section.title)});
    before = &section;
  }
}

} // namespace

tl::expected<Setting, Problem> typedSetting(const ResolvedPart& part, const std::string& field, const std::string& text,
                                            const Library& library) {
  const auto now = part.settings.find(field);
  if (now == part.settings.end())
    return tl::unexpected(Problem{part.name, fmt::format("has no setting \"{}\"", field)});
  Setting to = text;
  if (std::holds_alternative<bool>(now->second)) {
    to = text == "yes" || text == "true" || text == "on";
  } else if (std::holds_alternative<double>(now->second)) {
    const auto value = units::parse(text, settingUnit(part.part->kind, field));
    if (!value) return tl::unexpected(Problem{part.name, value.error().message});
    to = *value;
  } else if (field == "tube") {
    const auto lowered = [](std::string word) {
      std::transform(word.begin(), word.end(), word.begin(), [](unsigned char c) { return std::tolower(c); });
      return word;
    };
    for (const auto& [name, type] : library.tubes.types())
      if (type.offered && (lowered(name) == lowered(text) ||
                           std::any_of(type.aliases.begin(), type.aliases.end(),
                                       [&](const std::string& alias) { return lowered(alias) == lowered(text); })))
        to = name;
  }
  if (auto problem = checkSetting(part, field, to, library)) return tl::unexpected(std::move(*problem));
  return to;
}

std::optional<Problem> checkSetting(const ResolvedPart& part, const std::string& field, const Setting& to,
                                    const Library& library) {
  const auto current = part.settings.find(field);
  if (current == part.settings.end()) return Problem{part.name, fmt::format("has no setting \"{}\"", field)};
  if (current->second.index() != to.index())
    return Problem{part.name, fmt::format("{} is of the wrong type", fieldWords(field))};
  if (const auto* number = std::get_if<double>(&to)) {
    const auto [low, high] = legalRange(part.part->kind, field);
    const auto unit = settingUnit(part.part->kind, field);
    if (!std::isfinite(*number) || *number < low || *number > high)
      return Problem{part.name, fmt::format("{} must lie between {} and {}", fieldWords(field),
                                            units::reading(low, unit), units::reading(high, unit))};
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
    return Problem{part.name, fmt::format("\"{}\" is not a taper; write linear, log15, reverse-log10 or what was "
                                          "measured, \"measured 0:0 50:12 100:100\": percent of the travel and of the "
                                          "resistance, from 0 to 100 and rising",
                                          std::get<std::string>(to))};
  } else if (field == "fitted" && !std::get<bool>(to) && !part.part->optional) {
    return Problem{part.name, "cannot be left out: the section does not work without it"};
  }
  return std::nullopt;
}

std::vector<Problem> check(const Design& design, const Library& library) {
  std::vector<Problem> problems;
  if (design.sections().empty()) problems.push_back({"line", "the design has no sections yet"});
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
        if (part.settings.empty()) continue;
        // Judged against the section's own type of the field, not against the value under test.
        const ResolvedPart asShipped{part.name, use->id, use->section, {}, known, known->defaults};
        for (const auto& [field, setting] : part.settings)
          if (auto problem = checkSetting(asShipped, field, setting, library)) problems.push_back(*problem);
      }
  }
  const auto belongs = [&](const std::vector<SectionUse>& list, std::string_view place, auto allowed) {
    for (const auto& use : list)
      if (const auto section = library.sections.find(use.section);
          section != library.sections.end() && !allowed(section->second.deck))
        problems.push_back({use.id, fmt::format("a {} does not belong in the {}", section->second.title, place)});
  };
  belongs(design.line, "line", [](const std::string& deck) { return deck == "line"; });
  belongs(design.supply, "supply", [](const std::string& deck) { return deck == "supply"; });
  for (const auto& side : design.sides)
    belongs(side.sections, "lane", [](const std::string& deck) { return deck != "supply"; });
  checkKnobs(design, library, problems);
  checkChain(design.line, library, problems);
  for (const auto& side : design.sides)
    checkChain(side.sections, library, problems);
  checkSupply(design, library, problems);
  checkPorts(design, library, problems);
  return problems;
}

} // namespace vinegar::amp
