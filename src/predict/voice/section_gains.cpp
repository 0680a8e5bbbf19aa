#include "predict/voice/section_gains.h"

#include "predict/rest/places.h"
#include "predict/wave/stage_ports.h"
#include "units/value.h"

#include <algorithm>
#include <cmath>

namespace vinegar::predict {

const SectionGain* SectionGains::of(const std::string& section) const {
  const auto found = std::find_if(all.begin(), all.end(), [&](const auto& gain) { return gain.section == section; });
  return found == all.end() ? nullptr : &*found;
}

tl::expected<SectionGains, Problem> predictSectionGains(const Idle& whole, const amp::Library& library,
                                                        const SectionGainsQuestion&, const GoOn& goOn) {
  constexpr double silent = 1e-15; // of a source of a volt
  const Idle idle = withoutEchoes(whole);
  SectionGains gains;
  const auto places = placesOf(*idle.circuit, library);
  for (const auto& place : places)
    gains.all.push_back({place.chain, place.use->id, {}});
  for (std::size_t f = 0; f < sectionGainHertz.size(); ++f) {
    if (goOn && !goOn(static_cast<double>(f) / sectionGainHertz.size())) return tl::unexpected(Problem::stopped());
    const SmallSignal signal(idle, sectionGainHertz[f]);
    for (std::size_t p = 0; p < places.size(); ++p) {
      const bool through = places[p].in > 0 && places[p].out > 0 && places[p].in != places[p].out;
      const double before = through ? std::abs(signal.volts(places[p].in)) : 0;
      gains.all[p].decibels[f] = before > silent ? units::decibels(std::abs(signal.volts(places[p].out)) / before)
                                                 : std::numeric_limits<double>::quiet_NaN();
    }
  }
  std::erase_if(gains.all, [](const SectionGain& gain) {
    return !std::all_of(gain.decibels.begin(), gain.decibels.end(), [](double d) { return std::isfinite(d); });
  });
  return gains;
}

} // namespace vinegar::predict
