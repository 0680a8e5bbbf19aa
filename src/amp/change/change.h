#pragma once

#include "amp/design/design.h"

namespace vinegar::amp {

/// A change of one field of one part.
struct SetField {
  std::string part;  ///< the part's name, e.g. "C2"
  std::string field; ///< "value", "tube", "fitted", "taper" or a parameter
  Setting from, to;
  bool operator==(const SetField&) const = default;
};
struct AddSection { ///< named in full: id, part names, joins
  Spot spot;
  SectionUse use;
  bool operator==(const AddSection&) const = default;
};
struct RemoveSection { ///< whole, so that it can come back as it was
  Spot spot;
  SectionUse use;
  bool operator==(const RemoveSection&) const = default;
};
struct MoveSection {
  std::string id;
  Spot from, to;
  bool operator==(const MoveSection&) const = default;
};
struct ReplaceSection { ///< same id, same spot
  SectionUse from, to;
  bool operator==(const ReplaceSection&) const = default;
};
/// A port joined elsewhere; "": the port's own default. The port "node" of a supply section is its rail's name.
struct JoinPort {
  std::string section, port, from, to;
  bool operator==(const JoinPort&) const = default;
};
/// An end of a side chain joined elsewhere; `end` is "from" or "to".
struct JoinEnd {
  std::string chain, end, from, to;
  bool operator==(const JoinEnd&) const = default;
};
struct AddChain { ///< with its sections; `after`: the side chain before it, "": first
  std::string after;
  Chain chain;
  bool operator==(const AddChain&) const = default;
};
struct RemoveChain {
  std::string after;
  Chain chain;
  bool operator==(const RemoveChain&) const = default;
};
/// Parts under other names, each of `from` by the one of `to` in its place. The circuit is the same.
struct Renumber {
  std::vector<std::string> from, to;
  bool operator==(const Renumber&) const = default;
};

using Change = std::variant<SetField, AddSection, RemoveSection, MoveSection, ReplaceSection, JoinPort, JoinEnd,
                            AddChain, RemoveChain, Renumber>;

/// One act of the builder: what stands or falls together, as a bottle's two halves or a section with the joins that
/// name it.
struct Mark {
  std::vector<Change> changes;
  std::map<std::size_t, std::string> extra = {}; ///< by number of the change: fields of the file that are not known
  bool operator==(const Mark&) const = default;

  /// Its only change when that is a field's, or its first when all are (a bottle); else nullptr.
  [[nodiscard]] const SetField* field() const;
};

/// Does it. The Problem says what the change needs and the design lacks; the design is then as before.
std::optional<Problem> apply(Design& design, const Library& library, const Change& change);
/// Undoes it, applied to the design that `change` made.
Change inverse(Change change);

/// The marks that lead from one design to the other: `settle(from, library, difference(from, to, library)).design` has
/// the line, supply and sides of `to`. Knobs are no change. Sections are known by id, parts by name.
std::vector<Mark> difference(const Design& from, const Design& to, const Library& library);

struct Settled {
  Design design;
  std::vector<std::optional<Problem>> fallen; ///< by mark: why it does not stand
};
/// `ink` with every mark that stands, each whole or not at all.
Settled settle(const Design& ink, const Library& library, const std::vector<Mark>& marks);

/// The marks that fall when this one is rubbed out, itself first. Indexes of `marks`.
std::vector<std::size_t> leaningOn(const Design& ink, const Library& library, const std::vector<Mark>& marks,
                                   std::size_t mark);

/// The marks undone in the order that undoes them.
std::vector<Mark> inverse(std::vector<Mark> marks);

/// "C2 22u -> 330n", "R7 ... "; sections by their titles. `before` and `after`: the designs the mark leads from and to.
std::string describe(const Mark& mark, const Design& before, const Design& after, const Library& library);
/// A port in words: "in of driver V2a"; a rail: "rail B".
std::string describePort(const std::string& target, const Design& design, const Library& library);
/// "common-cathode stage V1a", the section's title with the tube or first part it holds.
std::string describeSection(const SectionUse& use, const Library& library);

/// Names of the parts a mark touches.
std::set<std::string> partsOf(const Mark& mark);

/// The changes that setting one field means: one, or for a tube one for every unit of the same bottle. Empty when
/// nothing would change.
std::vector<SetField> changesFor(const Design& design, const Library& library, const std::string& partName,
                                 const std::string& field, const Setting& to);
/// `design` with the fields set. Fields of parts that are not there are passed over.
Design withChanges(Design design, const Library& library, const std::vector<SetField>& changes);

} // namespace vinegar::amp
