#pragma once

#include "amp/change/change.h"
#include "amp/design/target.h"

namespace vinegar::amp {

struct PencilSheet {
  std::string name;
  /// What stands between the ink and what is pencilled, as `difference` tells it; after that the marks that have no
  /// place in the present ink and wait for it.
  std::vector<Mark> marks;
  std::string extra;
  bool operator==(const PencilSheet&) const = default;
};

struct Revision {
  int number = 0;
  std::string date; ///< ISO 8601, local time with offset
  std::string reason;
  std::vector<Mark> marks;
  std::string extra;
  bool operator==(const Revision&) const = default;
};

/// The document: ink, pencil over it, and the log. `ink` already holds every revision's marks.
struct Document {
  Design ink;
  std::vector<PencilSheet> sheets{{"Sheet 1", {}, {}}};
  std::size_t activeSheet = 0;
  std::vector<Revision> log;
  /// What a meter read in the amplifier as it is built: by part and electrode ("V1a", "plate"), volts to ground.
  std::map<std::string, std::map<std::string, double>> measured;
  std::map<std::string, Target> targets; ///< by the builder's name for each
  std::vector<ToneBand> bands;           ///< the builder's own; empty: the usual ones
  std::optional<MeasuredSound> sound;    ///< of the loudspeaker that is played through
  std::string about; ///< a line on what the amplifier is for
  std::string extra;
  bool operator==(const Document&) const = default;

  [[nodiscard]] const PencilSheet& sheet() const { return sheets[activeSheet]; }
  [[nodiscard]] int revision() const { return log.empty() ? 0 : log.back().number; }
};

/// Every name of a part, id of a section, rail and chain that the ink, a sheet or the log has ever had: none is given
/// twice in a document's life. A half of a bottle that still stands is no new name.
struct NameBook {
  explicit NameBook(const Document& document);
  std::set<std::string> parts, ids, rails, chains;
};

/// Ink with the active sheet's pencil over it.
Design pencilled(const Document& document, const Library& library);
/// Makes the active sheet's marks those that lead from the ink to `design`. Its knobs are not looked at.
void pencil(Document& document, const Library& library, const Design& design);
/// Pencils one field on the active sheet; a change back to the ink value rubs the mark out.
void pencil(Document& document, const Library& library, const std::string& part, const std::string& field,
            const Setting& to);
/// Rubs out the mark of that number on the active sheet with all that lean on it.
void rubOut(Document& document, const Library& library, std::size_t mark);
/// Rubs out all marks on one part; those on the rest of its bottle go with a tube's.
void rubOut(Document& document, const Library& library, const std::string& part);
void rubOutAll(Document& document);
/// Makes the active sheet's pencil the new ink, as a revision. Marks that have no place in the ink stay on the sheet;
/// marks on other sheets that now equal the ink are dropped from them.
void ink(Document& document, const Library& library, const std::string& reason, const std::string& date);
/// The design as it was after revision `number` (0: before the first). A log that does not lead back from the ink, as
/// in a file edited elsewhere, is a Problem.
tl::expected<Design, Problem> atRevision(const Document& document, const Library& library, int number);

/// What is odd about a document and stands in nobody's way: fields that are not known, perhaps misspelt, knobs of no
/// part, marks that cannot mean what they say.
std::vector<Problem> remarks(const Document& document, const Library& library);

} // namespace vinegar::amp
