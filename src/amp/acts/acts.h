#pragma once

#include "amp/change/document.h"

namespace vinegar::amp {

// A builder's acts, from a design to a design: pencil(document, library, design) then marks them. A Problem only where
// the act means nothing; what `check` says of the result is shown as ever. New parts and sections get names that
// `names` does not have, and a rail and joins that make sense where they stand.

/// A section that may be taken for a place, and where it does not fit there, why.
struct Candidate {
  const SectionTemplate* section;
  std::string why; ///< empty: it fits
};
/// Every section of the library that belongs in such a chain, those that fit first, each by title.
std::vector<Candidate> candidatesFor(const Design& design, const Library& library, const Spot& spot);
/// What may stand in the place of a section.
std::vector<Candidate> replacementsFor(const Design& design, const Library& library, const std::string& id);

/// What may start a chain beside the line, fed from a section.
std::vector<Candidate> besidesFor(const Design& design, const Library& library, const std::string& id);

tl::expected<Design, Problem> insertSection(Design design, const Library& library, const NameBook& names,
                                            const Spot& spot, const std::string& section);
/// A copy with the same values right after it.
tl::expected<Design, Problem> duplicateSection(Design design, const Library& library, const NameBook& names,
                                               const std::string& id);
/// What was joined to its input or output is then joined to its neighbour's, what hung on its rail to the rail before.
/// The last section of a side chain takes the chain with it.
tl::expected<Design, Problem> removeSection(Design design, const Library& library, const std::string& id);
tl::expected<Design, Problem> moveSection(Design design, const Library& library, const std::string& id,
                                          const Spot& spot);
/// By so many places along its chain, the supply's running from the mains; at the end of it nothing changes.
tl::expected<Design, Problem> moveSectionBy(Design design, const Library& library, const std::string& id, int places);
/// Parts of the same role, and tubes in their order, hand on their names, tubes their types, and every part the
/// settings that both sections ship alike; what the new section ships otherwise is what makes it another one and
/// stands. What the tubes of an output stage share, cathode resistor and transformer, is made for their number.
tl::expected<Design, Problem> replaceSection(Design design, const Library& library, const NameBook& names,
                                             const std::string& id, const std::string& section);
/// A chain beside the line, of these sections from left to right. `from` and `to` as Chain has them.
tl::expected<Design, Problem> insertChain(Design design, const Library& library, const NameBook& names,
                                          const std::string& id, const std::vector<std::string>& sections,
                                          const std::string& from, const std::string& to);
/// A chain of one section beside the line, taken from the section `id`'s output where both have the ports; its end
/// stays open until it is joined.
tl::expected<Design, Problem> insertBeside(Design design, const Library& library, const NameBook& names,
                                           const std::string& id, const std::string& section);
tl::expected<Design, Problem> removeChain(Design design, const Library& library, const std::string& id);
/// "section.port" joined to a rail, "ground", "open", another "section.port" or, "", as the section has it by itself.
tl::expected<Design, Problem> joinPort(Design design, const Library& library, const std::string& port,
                                       const std::string& to);

/// The rail that a supply section makes under another name, with all that is joined to it.
tl::expected<Design, Problem> renameRail(Design design, const std::string& section, const std::string& name);

/// The port's present join: an own one, its chain's end, or the section's; "" where it meets its neighbour.
std::string joinOf(const Design& design, const Library& library, const std::string& port);
/// Whether the port is a neighbour's to join: then there is nothing to choose.
bool meetsNeighbour(const Design& design, const Library& library, const std::string& port);
/// Where a port may be joined: rails for one that needs a rail, else ground, open and every other section's free port.
std::vector<std::string> joinsFor(const Design& design, const Library& library, const std::string& port);

} // namespace vinegar::amp
