#pragma once

#include "amp/design/design.h"
#include "circuit/netlist.h"

#include <memory>
#include <optional>

namespace vinegar::amp {

/// A part of the design as it stands in the netlist.
struct CompiledPart {
  ResolvedPart resolved;
  std::vector<circuit::Node> nodes;      ///< one per pin of the part; -1 where the pin is open
  std::vector<int> devices;              ///< netlist devices that make up the part; empty if not fitted
  std::optional<double> plateWattsLimit; ///< tubes: the rating, where one is agreed
  std::vector<circuit::Node> inner;      ///< nodes of the part's own, e.g. between a speaker's coil and its motion
};

/// Laws by device index, as circuit::System::setLaws takes them.
using DeviceLaws = std::vector<std::pair<int, circuit::Law>>;

struct Probe {
  std::string name; ///< "jack", "speaker", "second.out"
  circuit::Node node = 0;
};

/// A supply node with its place in the netlist.
struct RailNode {
  std::string name;
  circuit::Node node = 0;
};

/// The part of the netlist between the mains and the rails; the rest of the amplifier is its load. Device indexes.
struct SupplyWiring {
  int mains = -1;              ///< the source; -1 when the design has no mains
  double volts = 0, hertz = 0; ///< rms
  std::vector<int> devices;    ///< all of the supply, the mains and the rectifiers among them
  std::vector<int> rectifiers; ///< diodes

  bool operator==(const SupplyWiring&) const = default;
  [[nodiscard]] bool isRectified() const { return mains >= 0 && !rectifiers.empty(); }
};

/// A design compiled: everything a prediction needs. Owns copies; the design may change or go.
/// (`CompiledPart::resolved.part` points into the Library, which must outlive the Circuit.)
struct Circuit {
  Circuit() = default;
  Circuit(const Circuit&) = delete;
  Circuit& operator=(const Circuit&) = delete;
  Circuit(Circuit&&) = default;
  Circuit& operator=(Circuit&&) = default;

  std::shared_ptr<const Design> design;
  circuit::Netlist netlist;
  std::vector<CompiledPart> parts;
  std::vector<Probe> probes; ///< in signal order
  std::vector<RailNode> rails;
  SupplyWiring supply;
  /// "section/localNode" -> netlist node, for the drawing's volt tags and wires.
  std::map<std::string, circuit::Node> localNodes;

  [[nodiscard]] const CompiledPart* part(const std::string& name) const;
  /// A probe's node, or a netlist node of that name, or -1.
  [[nodiscard]] circuit::Node probe(const std::string& name) const;
  /// What the part's devices become with one setting changed: the same circuit with another value, without compiling
  /// it anew. Nothing when the change alters the circuit itself or the part is not fitted. `to` must pass checkSetting.
  [[nodiscard]] std::optional<DeviceLaws> lawsWith(const std::string& part, const std::string& field, const Setting& to,
                                                   const Library& library) const;
};

/// Compiles a design, the one way every prediction starts. Problems are those of `check`, first one first. Any thread;
/// a millisecond for an amplifier.
tl::expected<Circuit, Problem> compile(const Design& design, const Library& library);

} // namespace vinegar::amp
