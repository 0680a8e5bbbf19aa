#include "amp/change/alignment.h"

#include <algorithm>

namespace vinegar::amp {
namespace {

using Sections = std::vector<SectionUse>;

const SectionTemplate* templateOf(const SectionUse& use, const Library& library) {
  const auto found = library.sections.find(use.section);
  return found == library.sections.end() ? nullptr : &found->second;
}

/// How well two sections stand for each other; 0: not at all.
int likeness(const SectionUse& a, const SectionUse& b, const Library& library) {
  constexpr int sameTemplate = 6, sameGroup = 3, sameId = 1;
  const int known = a.id == b.id ? sameId : 0;
  if (a.section == b.section) return sameTemplate + known;
  const auto *one = templateOf(a, library), *other = templateOf(b, library);
  return one && other && one->group == other->group ? sameGroup + known : 0;
}

std::string said(const ResolvedPart& part) {
  return part.fitted() ? part.name + " " + part.label() : part.name + " not fitted";
}

std::vector<PartPair> differing(const SectionUse& first, const SectionUse& second, const Library& library) {
  std::vector<ResolvedPart> ours, theirs;
  for (const auto& [use, parts] : {std::pair{&first, &ours}, {&second, &theirs}})
    if (const auto* section = templateOf(*use, library))
      for (const auto& part : section->parts)
        parts->push_back(resolvePart(*use, part));
  std::vector<PartPair> pairs;
  std::vector<bool> taken(theirs.size());
  for (const auto& part : ours) {
    // The same place of the same template, else the first of the same role.
    const auto like = [&](bool sameRef) {
      for (std::size_t t = 0; t < theirs.size(); ++t)
        if (!taken[t] && theirs[t].part->kind == part.part->kind && theirs[t].part->role == part.part->role &&
            (!sameRef || theirs[t].part->ref == part.part->ref))
          return t;
      return theirs.size();
    };
    auto at = like(true);
    if (at == theirs.size()) at = like(false);
    const auto role = library.role(part.part->role).title;
    if (at == theirs.size()) {
      if (part.fitted()) pairs.push_back({role, said(part), {}});
      continue;
    }
    taken[at] = true;
    const bool fitted = part.fitted() || theirs[at].fitted();
    if (fitted && (part.fitted() != theirs[at].fitted() || part.label() != theirs[at].label()))
      pairs.push_back({role, said(part), said(theirs[at])});
  }
  for (std::size_t t = 0; t < theirs.size(); ++t)
    if (!taken[t] && theirs[t].fitted())
      pairs.push_back({library.role(theirs[t].part->role).title, {}, said(theirs[t])});
  return pairs;
}

void alignChain(const std::string& chain, const Sections& first, const Sections& second, const Library& library,
                std::vector<SectionPair>& pairs) {
  const std::size_t n = first.size(), m = second.size();
  std::vector<std::vector<int>> best(n + 1, std::vector<int>(m + 1));
  for (std::size_t i = n; i-- > 0;)
    for (std::size_t j = m; j-- > 0;) {
      best[i][j] = std::max(best[i + 1][j], best[i][j + 1]);
      if (const int like = likeness(first[i], second[j], library); like > 0)
        best[i][j] = std::max(best[i][j], like + best[i + 1][j + 1]);
    }
  for (std::size_t i = 0, j = 0; i < n || j < m;) {
    const int like = i < n && j < m ? likeness(first[i], second[j], library) : 0;
    if (like > 0 && best[i][j] == like + best[i + 1][j + 1]) {
      pairs.push_back({chain, &first[i], &second[j], differing(first[i], second[j], library)});
      ++i, ++j;
    } else if (i < n && (j == m || best[i][j] == best[i + 1][j])) {
      pairs.push_back({chain, &first[i++], nullptr, {}});
    } else {
      pairs.push_back({chain, nullptr, &second[j++], {}});
    }
  }
}

} // namespace

std::vector<SectionPair> align(const Design& first, const Design& second, const Library& library) {
  std::vector<SectionPair> pairs;
  alignChain("line", first.line, second.line, library, pairs);
  std::vector<const Chain*> others;
  for (const auto& side : second.sides)
    if (!first.side(side.id)) others.push_back(&side);
  static const Sections none;
  std::size_t next = 0;
  for (const auto& side : first.sides) {
    const auto* same = second.side(side.id);
    if (!same && next < others.size()) same = others[next++];
    alignChain(side.id, side.sections, same ? same->sections : none, library, pairs);
  }
  for (; next < others.size(); ++next)
    alignChain(others[next]->id, none, others[next]->sections, library, pairs);
  alignChain("supply", first.supply, second.supply, library, pairs);
  return pairs;
}

} // namespace vinegar::amp
