#pragma once

#include "amp/design/section.h"

#include <map>
#include <optional>
#include <set>
#include <string>
#include <unordered_set>
#include <vector>

namespace vinegar::amp {

// All functions of this room are pure and may be called from any thread.

/// What a design says of one part: its name and only the settings that differ from the section's defaults.
struct PartUse {
  std::string name;
  Settings settings;
  std::string extra; ///< fields of the file that this version does not know, kept for rewriting (JSON object text)
  bool operator==(const PartUse&) const = default;
};

using PartUses = boost::container::flat_map<std::string, PartUse>;
using Joins = boost::container::flat_map<std::string, std::string>;

/// One section standing in the amplifier.
struct SectionUse {
  std::string id;      ///< unique in the design, e.g. "first"
  std::string section; ///< id of the SectionTemplate
  PartUses parts;      ///< by ref
  Joins joins;         ///< port -> supply node name, "ground", "open" or "section.port"
  std::string node;    ///< supply sections: the name of the rail node they make, e.g. "B"
  std::string extra;
  bool operator==(const SectionUse&) const = default;
};

/// Sections beside the line, from left to right, joined like it: a reverb, a second channel, a loop, feedback.
struct Chain {
  std::string id; ///< unique among the design's chains, e.g. "reverb"; not "line" or "supply"
  std::vector<SectionUse> sections;
  /// "section.port" where the first one's `in` (feedback: `from`) takes its signal and where the last one's `out`
  /// (feedback: `to`) brings it; "open", "ground"; empty where that section has no such port, as a jack has no `in`.
  std::string from, to;
  std::string extra;
  bool operator==(const Chain&) const = default;
};

/// Where a section stands: in "line", "supply" or the side chain of that id, after the section `after`; "": first.
struct Spot {
  std::string chain, after;
  bool operator==(const Spot&) const = default;
};

/// An amplifier. A plain value: copied, compared, never pointed into.
struct Design {
  std::string name;
  std::vector<SectionUse> line;   ///< signal chain, left to right
  std::vector<SectionUse> supply; ///< from the reservoir towards the first stage
  std::vector<Chain> sides;       ///< chains beside the line
  /// Pot name -> rotation in [0, 1], switch name -> position from 1: how the amp is played, not a change of it.
  std::map<std::string, double> knobs;
  bool operator==(const Design&) const = default;

  [[nodiscard]] std::vector<const SectionUse*> sections() const;
  [[nodiscard]] std::vector<SectionUse*> sections();
  /// The section of that id, or nullptr.
  [[nodiscard]] const SectionUse* section(const std::string& id) const;
  [[nodiscard]] SectionUse* section(const std::string& id);
  [[nodiscard]] const Chain* side(const std::string& id) const;
  [[nodiscard]] Chain* side(const std::string& id);
  /// The line, the supply and every side, in this order, by their ids. A side whose id another has before it cannot be
  /// told from that one and is left out: `check` reports it.
  [[nodiscard]] std::vector<std::pair<std::string, const std::vector<SectionUse>*>> chains() const;
  /// The sections of "line", "supply" or the side of that id, or nullptr.
  [[nodiscard]] const std::vector<SectionUse>* chain(const std::string& id) const;
  [[nodiscard]] std::vector<SectionUse>* chain(const std::string& id);
};

/// Where a section stands in its chain, by number; nothing when it is not there.
struct Standing {
  std::string chain;
  std::size_t index;
};
std::optional<Standing> standingOf(const Design& design, const std::string& id);
/// The same by the section before it.
std::optional<Spot> spotOf(const Design& design, const std::string& id);

/// A part with its settings worked out: the section's defaults overlaid with the design's own.
struct ResolvedPart {
  std::string name;
  std::string section;                ///< id of the section it stands in, e.g. "first"
  std::string sectionType;            ///< that section's template
  std::string knob;                   ///< controls: the knob that turns it, its own name unless ganged
  const PartTemplate* part = nullptr; ///< the library's
  Settings settings;

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

/// Whether a control is turned while playing; mains and standby switches, bias and hum balance are not.
bool isPlayed(const ResolvedPart& control, const Library& library);
/// Where a control stands: a pot's rotation in [0, 1], a switch's position from 1. Unset: half, and 1.
double knobOf(const Design& design, const ResolvedPart& control);

ResolvedPart resolvePart(const SectionUse& use, const PartTemplate& part);
/// The part's name in the design; its own name or nothing where it has none yet.
const std::string& nameOf(const SectionUse& use, const PartTemplate& part);
/// `visit(use, part)` of every part in drawing order. Sections unknown to the library are left out.
template <class Visit> void forEachPart(const Design& design, const Library& library, Visit visit) {
  for (const auto* use : design.sections())
    if (const auto section = library.sections.find(use->section); section != library.sections.end())
      for (const auto& part : section->second.parts)
        visit(*use, part);
}
/// All parts in drawing order. Sections unknown to the library are left out; `check` reports them.
std::vector<ResolvedPart> resolveParts(const Design& design, const Library& library);
/// Volts rms that the design's first source of a signal gives at an ordinary level, from its role: a strummed guitar's
/// 0.1 where it has none.
double sourceVolts(const Design& design, const Library& library);
std::optional<ResolvedPart> findPart(const Design& design, const Library& library, const std::string& name);

/// The ports, as "section.port", that some section's port is joined to: that takes the place of their own default.
std::unordered_set<std::string> takenPorts(const Design& design);

/// The port a chain's signal enters the section by: `in`, or `from` of feedback; nullptr for a source.
const Port* headOf(const SectionTemplate& section);
/// The port by which it goes on: `out`, or `to` of feedback; nullptr for a load.
const Port* tailOf(const SectionTemplate& section);

/// Gives every part that has none a stable, unique name: R1, C1, V1a/V1b in bottles, the free half of a bottle first,
/// "Treble" for pots. None of `taken` is given.
void nameParts(Design& design, const Library& library, const std::set<std::string>& taken = {});

/// The unused half of a bottle whose other half is at work.
struct SpareHalf {
  std::string name, type; ///< "V1b", "12AT7"
  std::string besides;    ///< the tube that shares its bottle, "V1a"
};
std::vector<SpareHalf> spareHalves(const Design& design, const Library& library);

/// What is wrong with a design, in the order found: unknown sections, ports that do not meet, values no part can have,
/// tubes not in the catalogue, names used twice, joins to nowhere. Empty: it can be compiled. Any thread; a tenth of a
/// millisecond for an amplifier.
std::vector<Problem> check(const Design& design, const Library& library);

/// A setting as it is typed, "4k7", "12ax7", "log", in the form its field has: a tube by its catalogue's name whatever
/// the letters, a number in the field's unit. A Problem also when the part cannot have it.
tl::expected<Setting, Problem> typedSetting(const ResolvedPart& part, const std::string& field, const std::string& text,
                                            const Library& library);

/// Why `to` cannot be the part's `field`, or nothing.
std::optional<Problem> checkSetting(const ResolvedPart& part, const std::string& field, const Setting& to,
                                    const Library& library);

} // namespace vinegar::amp
