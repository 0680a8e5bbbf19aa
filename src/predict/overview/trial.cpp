#include "predict/overview/trial.h"

#include <set>

namespace vinegar::predict {

tl::expected<Trial, Problem> predictTrial(const Idle& idle, const amp::Library& library, const TrialQuestion&,
                                          const GoOn& goOn) {
  auto vitals = predictVitals(idle, library, {}, goOn);
  if (!vitals) return tl::unexpected(vitals.error());
  Trial trial{std::move(*vitals), 0, 0, 0};
  std::set<std::string> bottles;
  for (const auto& part : idle.circuit->parts) {
    const auto kind = part.resolved.part->kind;
    if (!part.resolved.fitted() || (!amp::isTube(kind) && kind != amp::PartKind::rectifier)) continue;
    const auto* type = library.tubes.find(part.resolved.text("tube"));
    if (!type || type->isSilicon() || !bottles.insert(amp::bottleOf(part.resolved.name)).second) continue;
    ++trial.bottles;
    trial.heaterWatts += type->heaterVolts * type->heaterAmps;
  }
  trial.spareHalves = static_cast<int>(amp::spareHalves(*idle.circuit->design, library).size());
  return trial;
}

} // namespace vinegar::predict
