#pragma once

#include "amp/design/design.h"

namespace vinegar::amp {

/// Two parts that do the same in both, and differ.
struct PartPair {
  std::string role;          ///< in the builder's words, "plate load"
  std::string first, second; ///< "R3 120k", "R7 100k"; empty where there is none
};
/// A section of either design, or of both where they stand for each other.
struct SectionPair {
  std::string chain; ///< "line", "supply" or a side chain's id
  const SectionUse *first = nullptr, *second = nullptr;
  std::vector<PartPair> parts; ///< that differ; of sections of one template, or of one function
};

/// Two designs side by side, sections set against each other by what they do: in every chain the pairing of most
/// likeness that keeps the order (S. B. Needleman and C. D. Wunsch, A general method applicable to the search for
/// similarities, Journal of Molecular Biology, 1970): the same template before the same group. Chains by their id,
/// those left over in their order. The pointers are into the designs. Any thread.
std::vector<SectionPair> align(const Design& first, const Design& second, const Library& library);

} // namespace vinegar::amp
