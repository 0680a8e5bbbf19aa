#include "predict/quiet/hiss.h"

#include "predict/rest/stock.h"
#include "predict/rest/variation.h"
#include "predict/voice/weight.h"
#include "predict/wave/power.h"
#include "units/value.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace vinegar::predict {
namespace {

constexpr int hissPoints = 121;
constexpr double radioHertz = 1e6;
constexpr std::size_t mostCures = 8, mostTried = 12;
constexpr double leastQuieter = 0.01; ///< dB

struct Spectrum {
  std::vector<double> hertz = circuit::logSpaced(20, 2e4, hissPoints), weight; ///< weight: on power
  Spectrum() {
    for (const double f : hertz)
      weight.push_back(std::pow(weightA(f), 2));
  }
};

/// The first tube that the line's signal comes to, and its grid.
const amp::CompiledPart* firstTube(const amp::Circuit& circuit) {
  for (const auto& use : circuit.design->line)
    for (const auto& part : circuit.parts)
      if (part.resolved.section == use.id && amp::isTube(part.resolved.part->kind) && !part.devices.empty())
        return &part;
  return nullptr;
}
circuit::Node gridOf(const amp::CompiledPart& tube) { return tube.nodes[tube.nodes.size() - 2]; }

/// dB from the jack to the first grid at 1 MHz.
std::optional<double> radioAt(const Idle& idle) {
  const auto* tube = firstTube(*idle.circuit);
  if (!tube || idle.circuit->probe("jack") <= 0 || gridOf(*tube) <= 0) return std::nullopt;
  const auto& grid = idle.circuit->netlist.nodeNames()[static_cast<std::size_t>(gridOf(*tube))];
  const auto response = predictResponses(*idle.circuit, idle.point, {{"jack", grid}}, {radioHertz});
  if (!response) return std::nullopt;
  return response->front().decibels.front();
}

tl::expected<circuit::NoiseSpectrum, Problem> noiseOf(const Idle& idle, const Spectrum& spectrum) {
  auto plan = idle.plan ? idle.plan->plan() : nullptr;
  return circuit::solveNoise(*idle.point.system, idle.point.dc.x, spectrum.hertz, idle.circuit->probe("speaker"), 0,
                             &plan);
}

std::optional<double> gainOf(const Idle& idle) {
  const auto response = predictResponses(*idle.circuit, idle.point, {{"jack", "speaker"}}, {1000});
  if (!response) return std::nullopt;
  return response->front().decibels.front();
}

std::vector<HissSource> sourcesOf(const Idle& idle, const circuit::NoiseSpectrum& noise, const Spectrum& spectrum,
                                  double weighted) {
  std::vector<std::string> owners(idle.point.system->netlist().devices().size());
  for (const auto& part : idle.circuit->parts)
    for (const int device : part.devices)
      owners[static_cast<std::size_t>(device)] = part.resolved.name;
  std::map<std::string, HissSource> byPart;
  std::map<std::string, double> strongest;
  for (std::size_t s = 0; s < noise.sources.size(); ++s) {
    const auto device = static_cast<std::size_t>(noise.sources[s].device);
    const auto& owner = owners[device].empty() ? idle.point.system->netlist().devices()[device].id : owners[device];
    const auto row = noise.contributions.row(static_cast<Eigen::Index>(s));
    const std::vector<double> density(row.begin(), row.end());
    auto& source = byPart[owner];
    source.part = owner;
    const double own = std::pow(circuit::noiseVolts(spectrum.hertz, density, spectrum.weight), 2);
    source.volts += std::pow(circuit::noiseVolts(spectrum.hertz, density), 2);
    source.weighted += own;
    if (source.kind.empty() || own > strongest[owner]) {
      source.kind = noise.sources[s].kind;
      strongest[owner] = own;
    }
  }
  std::vector<HissSource> sources;
  for (auto& [name, source] : byPart) {
    source.share = source.weighted / (weighted * weighted);
    source.volts = std::sqrt(source.volts);
    source.weighted = std::sqrt(source.weighted);
    sources.push_back(std::move(source));
  }
  std::stable_sort(sources.begin(), sources.end(),
                   [](const auto& a, const auto& b) { return a.weighted > b.weighted; });
  return sources;
}

/// Resistors by how much a step could quieten, as the sensitivities tell: with the value that is to be tried.
std::vector<amp::SetField> promisingCures(const Idle& idle, const amp::Library& library) {
  const auto variations = partVariations(*idle.circuit, library);
  const auto parameters = parametersOf(variations);
  auto plan = idle.plan ? idle.plan->plan() : nullptr;
  const std::vector<double> few{300, 1000, 3000, 6000}; // where hiss is heard
  const auto noise = circuit::noiseSensitivities(*idle.point.system, idle.point.dc.x, few,
                                                 idle.circuit->probe("speaker"), parameters, &plan);
  const auto gain =
      circuit::responseSensitivities(*idle.point.system, idle.point.dc.x, {1000}, idle.circuit->probe("jack"),
                                     idle.circuit->probe("speaker"), parameters, &plan);
  std::vector<std::pair<double, amp::SetField>> found;
  if (!noise || !gain) return {};
  for (std::size_t p = 0; p < variations.size(); ++p) {
    const auto& resolved = idle.circuit->part(variations[p].name)->resolved;
    if (resolved.part->kind != amp::PartKind::resistor) continue;
    const auto row = static_cast<Eigen::Index>(p);
    const double perLog =
        (0.5 * noise->row(row).mean() - (*gain)(row, 0).real()) * variations[p].value * 20 / std::numbers::ln10;
    const auto value = steppedValue(resolved, library, perLog < 0);
    if (!value || *value <= 0) continue;
    found.emplace_back(perLog * std::log(*value / variations[p].value),
                       amp::SetField{resolved.name, "value", variations[p].value, *value});
  }
  std::stable_sort(found.begin(), found.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
  std::vector<amp::SetField> cures;
  for (const auto& [quieter, change] : found)
    if (quieter < -leastQuieter && cures.size() < mostTried) cures.push_back(change);
  return cures;
}

} // namespace

std::optional<double> Hiss::underFull() const {
  if (!fullVolts || !(*fullVolts > 0)) return std::nullopt;
  return units::decibels(weighted / *fullVolts);
}

tl::expected<Hiss, Problem> predictHiss(const Idle& idle, const amp::Library& library, const HissQuestion& question,
                                        const GoOn& goOn) {
  if (idle.circuit->probe("speaker") <= 0)
    return tl::unexpected(Problem{"the speaker", "there is none here, so there is nothing to hear hiss from"});
  const Spectrum spectrum;
  const auto noise = noiseOf(idle, spectrum);
  if (!noise) return tl::unexpected(noise.error());
  Hiss hiss;
  hiss.volts = circuit::noiseVolts(spectrum.hertz, noise->output);
  hiss.weighted = circuit::noiseVolts(spectrum.hertz, noise->output, spectrum.weight);
  if (!(hiss.weighted > 0)) return tl::unexpected(Problem{"the speaker", "no noise comes to it in this design"});
  hiss.sources = sourcesOf(idle, *noise, spectrum, hiss.weighted);
  hiss.radio = radioAt(idle);
  const auto gain = gainOf(idle);
  if (gain) {
    if (goOn && !goOn(0.1)) return tl::unexpected(Problem::stopped());
    const auto clean = predictCleanPower(idle, library, {false}, goOn);
    if (!clean && clean.error().cancelled) return tl::unexpected(clean.error());
    if (clean && clean->power) hiss.fullVolts = clean->power->atOnce.volts;
  }
  if (!question.cures || !gain) return hiss;
  const auto tried = promisingCures(idle, library);
  auto warmth = warmthOf(idle);
  for (std::size_t c = 0; c < tried.size(); ++c) {
    if (goOn && !goOn(0.2 + 0.8 * static_cast<double>(c) / static_cast<double>(tried.size())))
      return tl::unexpected(Problem::stopped());
    const auto other = predictIdle(amp::withChanges(*idle.circuit->design, library, {tried[c]}), library, &warmth);
    if (!other) continue;
    const auto its = noiseOf(*other, spectrum);
    const auto itsGain = gainOf(*other);
    if (!its || !itsGain) continue;
    HissCure cure;
    cure.change = tried[c];
    cure.hiss = units::decibels(circuit::noiseVolts(spectrum.hertz, its->output, spectrum.weight) / hiss.weighted);
    cure.gain = *itsGain - *gain;
    cure.quieter = cure.hiss - cure.gain;
    if (const auto radio = radioAt(*other); radio && hiss.radio) cure.radio = *radio - *hiss.radio;
    std::tie(cure.movedTube, cure.movedShare) = mostMoved(idle.point, other->point);
    if (cure.quieter < -leastQuieter) hiss.cures.push_back(std::move(cure));
  }
  std::stable_sort(hiss.cures.begin(), hiss.cures.end(),
                   [](const auto& a, const auto& b) { return a.quieter < b.quieter; });
  if (hiss.cures.size() > mostCures) hiss.cures.resize(mostCures);
  return hiss;
}

} // namespace vinegar::predict
