// The marks that lead from one design to another: difference of change.h.
#include "amp/change/applier.h"
#include "amp/design/overloaded.h"

#include <algorithm>
#include <utility>

namespace vinegar::amp {
namespace {

/// Indexes of the longest rising run, for "what stayed in its order".
std::vector<std::size_t> longestRising(const std::vector<std::size_t>& values) {
  std::vector<std::size_t> ends, before(values.size());
  for (std::size_t i = 0; i < values.size(); ++i) {
    const auto at = std::lower_bound(ends.begin(), ends.end(), values[i],
                                     [&](std::size_t end, std::size_t value) { return values[end] < value; });
    before[i] = at == ends.begin() ? values.size() : *std::prev(at);
    if (at == ends.end())
      ends.push_back(i);
    else
      *at = i;
  }
  std::vector<std::size_t> run;
  if (ends.empty()) return run;
  for (std::size_t i = ends.back(); i != values.size(); i = before[i])
    run.push_back(i);
  std::reverse(run.begin(), run.end());
  return run;
}

std::string sectionNamed(const std::string& target) {
  const auto dot = target.find('.');
  return dot == std::string::npos ? std::string() : target.substr(0, dot);
}

class Differ {
public:
  Differ(const Design& from, const Design& to, const Library& library) : from_(from), to_(to), library_(library) {}

  std::vector<Mark> run() {
    for (const auto& [design, places] : {std::pair{&from_, &before_}, {&to_, &after_}})
      for (const auto& [chain, uses] : design->chains())
        for (const auto& use : *uses)
          places->try_emplace(use.id, Place{chain, &use});
    removals();
    chains();
    for (const auto& [chain, uses] : to_.chains())
      if (survives(chain)) arrivals(chain, *uses);
    for (const auto* use : from_.sections())
      if (const auto* now = kept(use->id)) content(*use, *now);
    for (const auto& side : to_.sides)
      if (const auto* old = from_.side(side.id))
        for (const auto& [end, was, is] : {std::tuple{"from", &old->from, &side.from}, {"to", &old->to, &side.to}})
          if (*was != *is) joins_.push_back(JoinEnd{side.id, end, *was, *is});
    group();
    return finish();
  }

private:
  struct Place {
    std::string chain;
    const SectionUse* use;
  };

  bool survives(const std::string& chain) const {
    return chain == "line" || chain == "supply" || (from_.side(chain) && to_.side(chain));
  }
  /// What the section is afterwards, where it stays in a chain that stays.
  const SectionUse* kept(const std::string& id) const {
    const auto was = before_.find(id), is = after_.find(id);
    if (was == before_.end() || is == after_.end()) return nullptr;
    return survives(was->second.chain) && survives(is->second.chain) ? is->second.use : nullptr;
  }

  void start(const std::string& id, Change change) {
    owner_.try_emplace(id, marks_.size());
    marks_.push_back({{std::move(change)}});
  }

  /// The mark is made after all those before it, since what it adds may stand after what they add.
  std::size_t toEnd(std::size_t mark) {
    const auto end = marks_.size();
    marks_.push_back(std::move(marks_[mark]));
    marks_[mark] = {};
    for (auto& [id, owner] : owner_)
      if (owner == mark) owner = end;
    return end;
  }

  void removals() {
    for (const auto& [chain, uses] : from_.chains())
      if (survives(chain))
        for (const auto& use : *uses)
          if (!kept(use.id)) start(use.id, RemoveSection{{chain, {}}, use});
  }

  void chains() {
    for (const auto& side : from_.sides)
      if (!survives(side.id)) {
        for (const auto& use : side.sections)
          owner_.try_emplace(use.id, marks_.size());
        marks_.push_back({{RemoveChain{{}, side}}});
      }
    std::string after;
    for (const auto& side : to_.sides) {
      if (!survives(side.id)) {
        // A section that comes from elsewhere leaves its place in the same act.
        Mark mark;
        for (const auto& use : side.sections)
          if (const auto leaving = owner_.find(use.id); leaving != owner_.end()) {
            auto& other = marks_[leaving->second].changes;
            mark.changes.insert(mark.changes.end(), other.begin(), other.end());
            other.clear();
          }
        for (const auto& use : side.sections)
          owner_[use.id] = marks_.size();
        mark.changes.emplace_back(AddChain{after, side});
        marks_.push_back(std::move(mark));
      }
      after = side.id;
    }
  }

  void arrivals(const std::string& chain, const std::vector<SectionUse>& uses) {
    std::vector<std::size_t> stayed, places; // indexes in `uses` and their places before
    const auto& before = *from_.chain(chain);
    std::map<std::string, std::size_t> placeBefore;
    for (std::size_t i = 0; i < before.size(); ++i)
      placeBefore.try_emplace(before[i].id, i);
    for (std::size_t i = 0; i < uses.size(); ++i)
      if (kept(uses[i].id) && before_.at(uses[i].id).chain == chain) {
        stayed.push_back(i);
        places.push_back(placeBefore.at(uses[i].id));
      }
    std::set<std::size_t> still;
    for (const auto i : longestRising(places))
      still.insert(stayed[i]);
    std::string after;
    for (std::size_t i = 0; i < uses.size(); ++i) {
      const auto& use = uses[i];
      if (!kept(use.id)) {
        AddSection add{{chain, after}, use};
        // Out of a chain that goes: one act with it.
        if (const auto leaving = owner_.find(use.id); leaving != owner_.end())
          marks_[toEnd(leaving->second)].changes.emplace_back(std::move(add));
        else
          start(use.id, std::move(add));
      } else if (!still.contains(i)) {
        start(use.id, MoveSection{use.id, {}, {chain, after}});
      }
      after = use.id;
    }
  }

  void content(const SectionUse& was, const SectionUse& is) {
    const auto section = library_.sections.find(was.section);
    bool sameParts =
        was.section == is.section && section != library_.sections.end() && was.parts.size() == is.parts.size();
    for (auto a = was.parts.begin(), b = is.parts.begin(); sameParts && a != was.parts.end(); ++a, ++b)
      sameParts = a->first == b->first && a->second.name == b->second.name;
    if (!sameParts) {
      if (!(was == is)) start(was.id, ReplaceSection{was, is});
      return;
    }
    if (was.node != is.node) joins_.push_back(JoinPort{was.id, "node", was.node, is.node});
    auto ports = was.joins;
    ports.insert(is.joins.begin(), is.joins.end());
    for (const auto& [port, target] : ports)
      if (const auto from = Applier::joinOf(was, port), to = Applier::joinOf(is, port); from != to)
        joins_.push_back(JoinPort{was.id, port, from, to});
    if (was.parts == is.parts) return;
    for (const auto& part : section->second.parts) {
      const auto a = resolvePart(was, part), b = resolvePart(is, part);
      for (const auto& [field, setting] : a.settings)
        if (const auto other = b.settings.find(field); other != b.settings.end() && other->second != setting)
          fields_.push_back({a.name, field, setting, other->second});
    }
  }

  /// Joins that name a section which comes or goes belong to its mark, rails to their supply section's; a bottle's
  /// types are one mark.
  void group() {
    std::map<std::string, std::size_t> rails;
    const auto takeRail = [&](const SectionUse& use, std::size_t mark) {
      if (!use.node.empty()) rails.try_emplace(use.node, mark);
    };
    for (std::size_t m = 0; m < marks_.size(); ++m)
      for (const auto& change : marks_[m].changes) {
        if (const auto* add = std::get_if<AddSection>(&change)) takeRail(add->use, m);
        if (const auto* gone = std::get_if<RemoveSection>(&change)) takeRail(gone->use, m);
      }
    // A rail's other name is one act with all that it is the rail of.
    for (const auto& change : joins_)
      if (const auto* join = std::get_if<JoinPort>(&change); join && join->port == "node") {
        rails.try_emplace(join->from, marks_.size());
        rails.try_emplace(join->to, marks_.size());
        marks_.push_back({{change}});
      }
    for (auto& change : joins_) {
      if (const auto* join = std::get_if<JoinPort>(&change); join && join->port == "node") continue;
      const auto [own, from, to] =
          std::visit(Overloaded{[](const JoinPort& c) {
                                  return std::tuple{c.section, c.from, c.to};
                                },
                                [](const JoinEnd& c) {
                                  return std::tuple{std::string(), c.from, c.to};
                                },
                                [](const auto&) {
                                  return std::tuple{std::string(), std::string(), std::string()};
                                }},
                     change);
      std::optional<std::size_t> mark;
      for (const auto& target : {from, to}) {
        if (const auto found = owner_.find(sectionNamed(target)); !mark && found != owner_.end()) mark = found->second;
        if (const auto found = rails.find(target); !mark && found != rails.end()) mark = found->second;
      }
      if (mark)
        marks_[*mark].changes.push_back(change);
      else
        marks_.push_back({{change}});
    }
    std::map<std::string, std::size_t> bottles;
    for (auto& field : fields_) {
      // What is fitted because of what comes or goes beside it, a grid's leak or a coupling, is part of that act.
      if (const auto mark = field.field == "fitted" ? besides(field.part) : std::nullopt) {
        marks_[*mark].changes.emplace_back(std::move(field));
        continue;
      }
      if (field.field == "tube")
        if (const auto [found, isNew] = bottles.try_emplace(bottleOf(field.part), marks_.size()); !isNew) {
          marks_[found->second].changes.emplace_back(std::move(field));
          continue;
        }
      marks_.push_back({{std::move(field)}});
    }
    std::erase_if(marks_, [](const Mark& mark) { return mark.changes.empty(); });
  }

  /// The mark of the act right before the section whose grid leak this is, or right after the one whose coupling it is.
  std::optional<std::size_t> besides(const std::string& part) const {
    const auto found = findPart(to_, library_, part);
    if (!found) return std::nullopt;
    const bool leak = found->part->role.ends_with("grid-leak"), coupling = found->part->role == "coupling";
    const auto owner = [&](const std::string& id) {
      const auto mark = owner_.find(id);
      return mark == owner_.end() ? std::nullopt : std::optional(mark->second);
    };
    for (const auto* design : {&to_, &from_})
      for (const auto& [chain, uses] : design->chains())
        for (std::size_t i = 0; i < uses->size(); ++i) {
          if ((*uses)[i].id != found->section) continue;
          if (leak && i > 0)
            if (const auto mark = owner((*uses)[i - 1].id)) return mark;
          if (coupling && i + 1 < uses->size())
            if (const auto mark = owner((*uses)[i + 1].id)) return mark;
        }
    return std::nullopt;
  }

  /// Every change knows what it takes away at its turn. Acts so entangled that they cannot stand apart are one mark.
  std::vector<Mark> finish() {
    if (const auto apart = performed(marks_); !apart.empty() || marks_.empty()) return apart;
    Mark all;
    const auto rank = [](const Change& change) {
      return std::visit(Overloaded{[](const RemoveSection&) { return 0; }, [](const RemoveChain&) { return 1; },
                                   [](const AddChain&) { return 2; }, [](const AddSection&) { return 3; },
                                   [](const MoveSection&) { return 3; }, [](const auto&) { return 4; }},
                        change);
    };
    for (auto& mark : marks_)
      all.changes.insert(all.changes.end(), mark.changes.begin(), mark.changes.end());
    // What comes or moves stands after what is there already: from the start of each chain on.
    std::map<std::string, std::size_t> places;
    for (const auto& [chain, uses] : to_.chains())
      for (const auto& use : *uses)
        places.try_emplace(use.id, places.size());
    const auto place = [&](const Change& change) -> std::size_t {
      const auto* add = std::get_if<AddSection>(&change);
      const auto* move = std::get_if<MoveSection>(&change);
      const auto found = places.find(add ? add->use.id : move ? move->id : std::string());
      return found == places.end() ? 0 : found->second;
    };
    std::stable_sort(all.changes.begin(), all.changes.end(), [&](const Change& a, const Change& b) {
      return std::pair{rank(a), place(a)} < std::pair{rank(b), place(b)};
    });
    return performed({all});
  }

  /// The marks with what each takes away, or nothing when they do not lead to `to_`.
  std::vector<Mark> performed(std::vector<Mark> marks) const {
    Design work = from_;
    Applier apply(work, library_);
    for (auto& mark : marks)
      for (auto& change : mark.changes) {
        apply.refresh(change);
        if (apply(change)) return {};
      }
    const auto shape = [](const Design& design) {
      std::vector<std::vector<std::string>> ids;
      for (const auto& [chain, uses] : design.chains()) {
        ids.push_back({chain});
        for (const auto& use : *uses)
          ids.back().push_back(use.id);
      }
      return ids;
    };
    return shape(work) == shape(to_) ? marks : std::vector<Mark>{};
  }

  const Design &from_, &to_;
  const Library& library_;
  std::map<std::string, Place> before_, after_;
  std::map<std::string, std::size_t> owner_; ///< section that comes, goes or moves, to its mark
  std::vector<Mark> marks_;
  std::vector<Change> joins_;
  std::vector<SetField> fields_;
};

} // namespace

std::vector<Mark> difference(const Design& from, const Design& to, const Library& library) {
  return Differ(from, to, library).run();
}

} // namespace vinegar::amp
