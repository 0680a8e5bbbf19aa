// Several ways a design could be, side by side: what each does to a span.
#pragma once

#include "amp/change/change.h"
#include "predict/rest/idle.h"

namespace vinegar::predict {

struct Variant {
  std::string title;
  std::vector<amp::SetField> changes;
  bool operator==(const Variant&) const = default;
};
struct VariantsQuestion {
  std::string from = "jack", to = "speaker";
  std::vector<Variant> variants;
  bool operator==(const VariantsQuestion&) const = default;
};
struct VariantRow {
  Variant variant;
  std::optional<Problem> problem;          ///< it has no answer
  double atE2 = 0, at1kHz = 0, at5kHz = 0; ///< change of the level, dB
  std::vector<double> decibels;            ///< at Variants::hertz
};
struct Variants {
  std::vector<double> hertz, decibels; ///< of the design as it stands
  std::vector<VariantRow> rows;        ///< in the order asked
};
/// Each solved whole, direct sound alone: some milliseconds a variant, twenty where the supply moves.
tl::expected<Variants, Problem> predictVariants(const Idle& idle, const amp::Library& library,
                                                const VariantsQuestion& question, const GoOn& goOn = {});

} // namespace vinegar::predict
