#include "predict/voice/variants.h"

namespace vinegar::predict {

tl::expected<Variants, Problem> predictVariants(const Idle& idle, const amp::Library& library,
                                                const VariantsQuestion& question, const GoOn& goOn) {
  Variants variants;
  variants.hertz = circuit::logSpaced(10, 1e5, 121);
  auto all = variants.hertz;
  all.insert(all.end(), {82.407, 1000, 5000});
  const auto responseOf = [&](const Idle& one) {
    return predictResponse(withoutEchoes(one), library, {question.from, question.to, all});
  };
  const auto now = responseOf(idle);
  if (!now) return tl::unexpected(now.error());
  const auto count = variants.hertz.size();
  const auto curveOf = [&](const Response& response) {
    return std::vector<double>(response.decibels.begin(),
                               response.decibels.begin() + static_cast<std::ptrdiff_t>(count));
  };
  variants.decibels = curveOf(*now);
  auto warmth = warmthOf(idle);
  for (std::size_t v = 0; v < question.variants.size(); ++v) {
    if (goOn && !goOn(static_cast<double>(v) / static_cast<double>(question.variants.size())))
      return tl::unexpected(Problem::stopped());
    VariantRow row;
    row.variant = question.variants[v];
    const auto other =
        predictIdle(amp::withChanges(*idle.circuit->design, library, row.variant.changes), library, &warmth);
    const auto response = other ? responseOf(*other) : tl::unexpected(other.error());
    if (response) {
      row.decibels = curveOf(*response);
      row.atE2 = response->decibels[count] - now->decibels[count];
      row.at1kHz = response->decibels[count + 1] - now->decibels[count + 1];
      row.at5kHz = response->decibels[count + 2] - now->decibels[count + 2];
    } else {
      row.problem = response.error();
    }
    variants.rows.push_back(std::move(row));
  }
  return variants;
}

} // namespace vinegar::predict
