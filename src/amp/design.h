#pragma once

#include "amp/section.h"

#include <map>
#include <optional>
#include <string>
#include <vector>

namespace vinegar::amp {

/// What a design says of one part: its name and only the settings that differ from the section's defaults.
struct PartUse {
  std::string name;
  std::map<std::string, Setting> settings;
  std::string extra; ///< fields of the file that this version does not know, kept for rewriting (JSON object text)
  bool operator==(const PartUse&) const = default;
};

/// One section standing in the amplifier.
struct SectionUse {
  std::string id;                           ///< unique in the design, e.g. "first"
  std::string section;                      ///< id of the SectionTemplate
  std::map<std::string, PartUse> parts;     ///< by ref
  std::map<std::string, std::string> joins; ///< port -> supply node name, "ground", "open" or "section.port"
  std::string node;                         ///< supply sections: the name of the rail node they make, e.g. "B"
  std::string extra;
  bool operator==(const SectionUse&) const = default;
};

/// An amplifier. A plain value: copied, compared, never pointed into.
struct Design {
  std::string name;
  std::vector<SectionUse> line;   ///< signal chain, left to right
  std::vector<SectionUse> supply; ///< from the reservoir towards the first stage
  std::vector<SectionUse> lanes;  ///< side lanes, e.g. feedback
  /// Pot name -> rotation in [0, 1], switch name -> position from 1: how the amp is played, not a change of it.
  std::map<std::string, double> knobs;
  bool operator==(const Design&) const = default;

  [[nodiscard]] std::vector<const SectionUse*> sections() const;
  [[nodiscard]] std::vector<SectionUse*> sections();
};

/// A change of one field of one part.
struct Change {
  std::string part;  ///< the part's name, e.g. "C2"
  std::string field; ///< "value", "tube", "fitted", "taper" or a parameter
  Setting from, to;
  bool operator==(const Change&) const = default;
};

struct PencilSheet {
  std::string name;
  std::vector<Change> changes; ///< at most one per part and field; never from == to
  std::string extra;
  bool operator==(const PencilSheet&) const = default;
};

struct Revision {
  int number = 0;
  std::string date; ///< ISO 8601, local time with offset
  std::string reason;
  std::vector<Change> changes;
  std::string extra;
  bool operator==(const Revision&) const = default;
};

/// The document: ink, pencil over it, and the log. `ink` already holds every revision's changes.
struct Document {
  Design ink;
  std::vector<PencilSheet> sheets{{"Sheet 1", {}, {}}};
  std::size_t activeSheet = 0;
  std::vector<Revision> log;
  std::string extra;
  bool operator==(const Document&) const = default;

  [[nodiscard]] const PencilSheet& sheet() const { return sheets[activeSheet]; }
  [[nodiscard]] int revision() const { return log.empty() ? 0 : log.back().number; }
};

/// A part with its settings worked out: the section's defaults overlaid with the design's own.
struct ResolvedPart {
  std::string name;
  std::string section;                ///< id of the section it stands in, e.g. "first"
  std::string sectionType;            ///< that section's template
  std::string knob;                   ///< controls: the knob that turns it, its own name unless ganged
  const PartTemplate* part = nullptr; ///< the library's
  std::map<std::string, Setting> settings;

  [[nodiscard]] double number(const std::string& field) const { return std::get<double>(settings.at(field)); }
  [[nodiscard]] double value() const { return number("value"); }
  [[nodiscard]] bool fitted() const { return std::get<bool>(settings.at("fitted")); }
  [[nodiscard]] const std::string& text(const std::string& field) const {
    return std::get<std::string>(settings.at(field));
  }
  /// "22u", "12AX7", "250k log15", or "not fitted".
  [[nodiscard]] std::string label() const;
};

/// "V1" of "V1a"; a name without a half's letter is its own bottle.
std::string bottleOf(const std::string& name);

/// Where a control stands: a pot's rotation in [0, 1], a switch's position from 1. Unset: half, and 1.
double knobOf(const Design& design, const ResolvedPart& control);

ResolvedPart resolvePart(const SectionUse& use, const PartTemplate& part);
/// All parts in drawing order. Sections unknown to the library are left out; `check` reports them.
std::vector<ResolvedPart> resolveParts(const Design& design, const Library& library);
std::optional<ResolvedPart> findPart(const Design& design, const Library& library, const std::string& name);

/// Whether another section's port is joined to this one: that takes the place of the port's own default.
bool takenByOther(const Design& design, const SectionUse& use, const std::string& port);

/// Gives every part that has none a stable, unique name: R1, C1, V1a/V1b in bottles, "Treble" for pots.
void nameParts(Design& design, const Library& library);

/// The unused half of a bottle whose other half is at work.
struct SpareHalf {
  std::string name, type; ///< "V1b", "12AT7"
  std::string besides;    ///< the tube that shares its bottle, "V1a"
};
std::vector<SpareHalf> spareHalves(const Design& design, const Library& library);

/// What is wrong with a design, in the order found: unknown sections, ports that do not meet, values no part can have,
/// tubes not in the catalogue, names used twice, joins to nowhere. Empty: it can be compiled.
std::vector<Problem> check(const Design& design, const Library& library);

/// Why `to` cannot be the part's `field`, or nothing.
std::optional<Problem> checkSetting(const ResolvedPart& part, const std::string& field, const Setting& to,
                                    const Library& library);

/// The changes that setting one field means: one change, or for a tube one for every unit of the same bottle.
/// Empty when nothing would change.
std::vector<Change> changesFor(const Design& design, const Library& library, const std::string& partName,
                               const std::string& field, const Setting& to);

/// `design` with the changes made. Changes to parts that are not there are passed over.
Design withChanges(Design design, const Library& library, const std::vector<Change>& changes);
/// The changes undone, last first: from ink back to an earlier revision.
std::vector<Change> reversed(std::vector<Change> changes);
/// The changes that lead from one design to the other, for parts of the same name.
std::vector<Change> difference(const Design& from, const Design& to, const Library& library);

/// Ink with the active sheet's pencil over it.
Design pencilled(const Document& document, const Library& library);
/// Pencils one change on the active sheet; a change back to the ink value rubs the mark out.
void pencil(Document& document, const Library& library, const std::string& part, const std::string& field,
            const Setting& to);
/// Rubs out one part's marks, or all when `part` is empty.
void rubOut(Document& document, const std::string& part = {});
/// Makes the active sheet's pencil the new ink, as a revision. The sheet is left empty; marks on other sheets that now
/// equal the ink are dropped from them.
void ink(Document& document, const Library& library, const std::string& reason, const std::string& date);
/// The design as it was after revision `number` (0: before the first).
Design atRevision(const Document& document, const Library& library, int number);

std::string settingText(const Setting& setting, units::Unit unit);
/// "C2 22u -> 330n"
std::string describe(const Change& change, const Design& design, const Library& library);

} // namespace vinegar::amp
