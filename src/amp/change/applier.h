// How changes are made: what change.cpp and difference.cpp share.
#pragma once

#include "amp/change/change.h"
#include "amp/design/part_index.h"

namespace vinegar::amp {

/// Makes changes one after another, without looking a design's parts up anew for each.
class Applier {
public:
  Applier(Design& design, const Library& library) : design_(design), library_(library) {}

  /// As amp::apply.
  std::optional<Problem> operator()(const Change& change);
  /// What the change takes away, as it is now, so that its inverse brings it back.
  void refresh(Change& change);
  /// "" where the port has no join of its own.
  static std::string joinOf(const SectionUse& use, const std::string& port);

private:
  using Answer = std::optional<Problem>;
  Answer make(const SetField& c);
  Answer make(const AddSection& c);
  Answer make(const RemoveSection& c);
  Answer make(const MoveSection& c);
  Answer make(const ReplaceSection& c);
  Answer make(const JoinPort& c);
  Answer make(const JoinEnd& c);
  Answer make(const AddChain& c);
  Answer make(const RemoveChain& c);
  Answer make(const Renumber& c);
  Answer place(const Spot& spot, SectionUse use);
  [[nodiscard]] Answer taken(const std::string& id) const;
  /// That the section is there and of that template.
  [[nodiscard]] Answer standing(const SectionUse& use) const;
  PartIndex<SectionUse>& parts() {
    if (!parts_) parts_.emplace(design_, library_);
    return *parts_;
  }
  void reshaped() { parts_.reset(); }

  Design& design_;
  const Library& library_;
  std::optional<PartIndex<SectionUse>> parts_;
};

} // namespace vinegar::amp
