// Room: the design document, the section library it draws on, and compiling a design to a netlist.
#pragma once

#include "circuit/taper.h"
#include "tubes/catalogue.h"
#include "units/value.h"

#include <array>
#include <boost/container/flat_map.hpp>
#include <filesystem>
#include <list>
#include <map>
#include <optional>
#include <set>
#include <string>
#include <variant>
#include <vector>

namespace vinegar::units {
class JsonReader;
}

namespace vinegar::amp {

/// A setting of a part: a number in SI units, a tube type or taper name, or fitted / not fitted.
using Setting = std::variant<double, std::string, bool>;
/// By field, sorted. One piece of memory: settings are copied far more often than looked up.
using Settings = boost::container::flat_map<std::string, Setting>;

/// A place on a section's drawing grid; y grows downward, the signal line is y = 0.
struct Point {
  double x = 0, y = 0;
  bool operator==(const Point&) const = default;
};

enum class PartKind {
  resistor,
  capacitor,
  inductor,
  pot,
  selector, ///< a switch of one pole: nodes are its common and its throws
  triode,
  pentode,
  zener,
  outputTransformer,
  transformer,
  speaker,
  springTank,
  signalSource,
  voltageSource,
  biasSource, ///< below ground by its value
  mains,
  fuse,
  powerTransformer,
  rectifier, ///< a bottle or a pair of diodes: two plates, one cathode
  diode,
  heaters ///< all heaters of the design that ask for its volts, as one load
};

enum class Direction { right, down, left, up };

/// Where a part stands in the drawing. `at` is the first pin of a two-pin part, the middle of any other.
struct Place {
  Point at;
  Direction direction = Direction::down;
  bool labelLeft = false; ///< label on the other side than usual: left of a vertical part, below a horizontal one
  bool mirrored = false;  ///< the wiper points left
  std::vector<double> taps = {}; ///< power transformers: y of every pin from `at`, the primary's two first
  bool operator==(const Place&) const = default;
};

struct PartTemplate {
  std::string ref;
  PartKind kind = PartKind::resistor;
  std::vector<std::string> nodes; ///< local node names; "ground" is node 0
  std::string role;
  Settings defaults; ///< "value", "tube", "taper", "fitted" and the kind's own parameters
  std::string name;  ///< name wished for in a design, e.g. "Treble"; empty: next free number
  bool optional = false;
  bool linkWhenAbsent = false; ///< left out, a wire takes its place; else its place stays open
  std::string gang;            ///< ref of the part whose knob turns this one too
  double stands = 0.5;         ///< pots: the rotation of a knob that a design says nothing of
  /// Power transformers: the windings after the primary, by their taps' places in the drawing; two taps, or three with
  /// a centre tap. Their settings are NAMEVolts, NAMEAmps and NAMEOhms.
  struct Winding {
    std::string name;
    std::vector<double> taps;
  };
  std::vector<Winding> windings;
  /// Selectors: what each position is called and the node it joins to the common, by index; 0: none.
  struct Position {
    std::string title;
    int to = 0;
  };
  std::vector<Position> positions;
  Place place;
};

/// What a signal port carries; neighbours in the main line must agree.
enum class Carries { nothing, single, balanced, speaker };

struct Port {
  std::string name, node;
  Point at;
  bool flag = false;       ///< a rail drawn as a named flag instead of a wire to the rail line
  bool seeks = false;      ///< put in, it is joined by itself to the free port of this name of another section
  bool feeds = false;      ///< of a supply section: another rail, from which one after it may take its volts
  std::string join;        ///< where the port goes when a design leaves it: "ground", "open" or "" (must be joined)
  std::vector<Point> stub; ///< a piece of wire to the port, drawn only where something is joined to it
};

struct Wire {
  std::string node;
  std::vector<Point> points;
};

/// One circuit topology with its drawing, read from data/sections/ID.json.
struct SectionTemplate {
  std::string id, title, use;
  std::string group;   ///< what a builder wants of it: one of sectionGroups
  std::string deck;    ///< "line", "supply" or "lane"
  std::string ownText; ///< a builder's own: its file, to go along with a design; empty of a shipped one
  std::string refusal; ///< why no amplifier may be built with it; empty for all that may
  bool offered = true; ///< false: a builder's own whose file was taken away; whoever uses it goes on
  std::vector<PartTemplate> parts;
  std::vector<Port> ports;
  std::vector<std::string> railPorts;        ///< ports that want a supply node
  std::map<std::string, std::string> probes; ///< probe name -> local node
  Carries in = Carries::nothing, out = Carries::nothing;
  double width = 0;
  std::vector<Wire> wires;
  std::vector<Point> grounds;
  std::vector<std::pair<std::string, Point>> voltTags;

  [[nodiscard]] const PartTemplate* part(const std::string& ref) const;
  [[nodiscard]] const Port* port(const std::string& name) const;
};

/// The shelf's groups, in the order of the signal.
constexpr std::array<const char*, 10> sectionGroups{"input", "gain",     "tone",    "level",   "splitting",
                                                    "power", "feedback", "effects", "speaker", "supply"};

/// Plain words and buying rules for a role, from data/roles/*.json.
struct Role {
  std::string title;
  std::string does;                    ///< what it does in its place, one or two sentences
  std::string more, less;              ///< what a larger and a smaller value tend to do
  std::optional<units::Series> series; ///< preferred series of the dial
  std::vector<double> stock;           ///< stock values where no series fits (speakers, transformers)
  bool played = true;                  ///< of a control: turned while playing, and not once at the bench
  bool oscillates = false;             ///< of a tube: it makes its own signal and is given none
  double givesVolts = 0;               ///< of a signal source: rms, at an ordinary level; 0: as an instrument
  bool biases = false;                 ///< its value sets a tube's current at rest before anything else
  std::string ownText;                 ///< as a section's
};

/// Everything a design refers to that is data.
struct Library {
  std::map<std::string, SectionTemplate> sections;
  std::map<std::string, Role> roles;
  tubes::Catalogue tubes;

  /// Reads sections/, roles/ and tubes/ under `data`. The first mistake is returned with its file and place.
  static tl::expected<Library, Problem> load(const std::filesystem::path& data);
  /// A builder's own sections, roles and tubes, in the same folders, where there are any; once more, after he has
  /// changed them. What is faulty, or has a name that is shipped or stands twice, is a Problem and left out; the rest
  /// is read. What is no longer there is offered to nobody, and remains for designs that use it. Parts that somebody
  /// points to stay where they are. Nobody else may be reading.
  std::vector<Problem> addOwn(const std::filesystem::path& folder);
  /// The same of the copies that a design brings, `{"roles": {ID: ...}, "tubes": [...], "sections": [...]}`: those that
  /// are not here yet, which stay as they are for the session. `place`: the design's file.
  std::vector<Problem> addCopies(const std::string& copies, const std::string& place);
  /// Whether a text is a section, tube or role file that could stand among the builder's own, and where there: the
  /// folder and name of its file, "sections/my-stage.json". Nothing is taken in.
  [[nodiscard]] tl::expected<std::filesystem::path, Problem> placeForOwn(const std::string& text,
                                                                         const std::string& place) const;
  [[nodiscard]] const Role& role(const std::string& id) const;

private:
  void takeRole(const std::string& id, const units::JsonReader& reader);
  void takeSection(const units::JsonReader& file);
  std::list<SectionTemplate> former_;              ///< what own sections were before they were read again
  std::set<std::string> readTubes_, readSections_; ///< that the builder's own files gave when last read
  /// What came as a design's own copy: section ids, "role NAME" and "tube NAME". An own file does not take its place.
  std::set<std::string> ofDesigns_;
};

units::Unit valueUnit(PartKind kind);
/// The unit of any setting that is a number.
units::Unit settingUnit(PartKind kind, const std::string& field);
/// A setting's name in the builder's words: "htVolts" -> "HT volts rms, a half"; a winding of the builder's own by its
/// own name. English; the window translates.
std::string fieldWords(const std::string& field);
/// A port in the builder's words: "cathodeFoot" -> "cathode foot".
std::string portWords(const std::string& port);
std::string_view kindName(PartKind kind);
/// Letter that starts a part's name: R, C, L, V, T, P...
std::string_view namePrefix(PartKind kind);
/// Played, not changed: its setting is a knob of the design.
inline bool isControl(PartKind kind) { return kind == PartKind::pot || kind == PartKind::selector; }
inline bool isTube(PartKind kind) { return kind == PartKind::triode || kind == PartKind::pentode; }
/// A part that is chosen from the catalogue: its setting is "tube".
inline bool hasType(PartKind kind) { return isTube(kind) || kind == PartKind::rectifier || kind == PartKind::diode; }
/// Whether a catalogue type can stand in that kind of place.
bool fits(PartKind kind, const tubes::TubeType& type);
/// A part whose resistance, capacitance... is a setting "value".
inline bool hasValue(PartKind kind) { return !hasType(kind) && kind != PartKind::selector; }
/// Ways to state a power transformer's volts: its setting "given".
constexpr std::array<const char*, 3> transformerGivens{"measured", "unloaded", "loaded"};
/// Places of a part's pins in the drawing, in the order of its nodes.
std::vector<Point> pinPlaces(PartKind kind, const Place& place, std::size_t nodeCount);
/// A law that was measured begins so.
constexpr std::string_view measuredTaper = "measured ";
/// "linear", "log10", "log15", "log20", "reverse-log10"..., or a measured law in percent of the travel and of the
/// resistance, "measured 0:0 50:12 100:100"; nothing for any other text.
std::optional<circuit::Taper> taperNamed(const std::string& name);
/// The name of a measured law: travel and share of the resistance, each from 0 to 1.
std::string measuredTaperOf(const std::vector<std::pair<double, double>>& points);

} // namespace vinegar::amp
