#include "predict/stages/splitter.h"

#include "predict/rest/places.h"
#include "units/value.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace vinegar::predict {
namespace {

constexpr int drivePoints = 8;

struct Outputs {
  circuit::Node first, second;
};

/// Balance at 1 kHz with a part at another value; the rails let stand.
std::optional<double> balanceWith(const Idle& idle, const amp::Library& library, const Outputs& outputs,
                                  const std::string& part, double value) {
  const auto laws = idle.circuit->lawsWith(part, "value", value, library);
  if (!laws) return std::nullopt;
  auto system = *idle.point.system;
  system.setLaws(*laws);
  const auto dc = circuit::solveDc(system, &idle.point.dc.x);
  if (!dc) return std::nullopt;
  const auto ac = circuit::solveAc(system, dc->x, {1000});
  if (!ac) return std::nullopt;
  return units::decibels(std::abs(ac->volts(outputs.first, 0) / ac->volts(outputs.second, 0)));
}

/// Steps one of two plate loads until the balance turns over.
void findCure(const Idle& idle, const amp::Library& library, const Outputs& outputs, Splitter& splitter) {
  double best = std::abs(splitter.at1kHz);
  for (const auto& part : idle.circuit->parts) {
    if (part.resolved.section != splitter.section || part.resolved.part->role != "pair-plate-load") continue;
    for (const bool up : {true, false}) {
      double value = part.resolved.value();
      for (int step = 0; step < 12; ++step) {
        value = up ? units::nextUp(units::Series::e24, value) : units::nextDown(units::Series::e24, value);
        const auto balance = balanceWith(idle, library, outputs, part.resolved.name, value);
        if (!balance) break;
        if (std::abs(*balance) < best - 0.01) {
          best = std::abs(*balance);
          splitter.cure = {{part.resolved.name, "value", part.resolved.value(), value}};
          splitter.cured = *balance;
        } else if (std::abs(*balance) > std::abs(splitter.at1kHz) + 0.5) {
          break;
        }
      }
    }
  }
}

} // namespace

tl::expected<Splitters, Problem> predictSplitters(const Idle& idle, const amp::Library& library,
                                                  const SplitterQuestion& question, const GoOn& goOn) {
  Splitters splitters;
  const auto& circuit = *idle.circuit;
  const SmallSignal signal(idle, 1000);
  if (!signal.stands()) return splitters;
  for (const auto& place : placesOf(circuit, library)) {
    if (place.second <= 0 || place.section->in != amp::Carries::single) continue;
    const Outputs outputs{place.out, place.second};
    Splitter splitter;
    splitter.section = place.use->id;
    splitter.title = amp::describeSection(*place.use, library);
    splitter.hertz = circuit::logSpaced(20, 20000, 61);
    circuit::AcPlan plan = idle.plan ? idle.plan->plan() : nullptr;
    const auto ac = circuit::solveAc(*idle.point.system, idle.point.dc.x, splitter.hertz, &plan);
    if (!ac) return tl::unexpected(ac.error());
    for (std::size_t k = 0; k < splitter.hertz.size(); ++k) {
      const auto ratio = ac->volts(outputs.first, k) / ac->volts(outputs.second, k);
      splitter.decibels.push_back(units::decibels(std::abs(ratio)));
      const double degrees = std::arg(ratio) * 180 / std::numbers::pi;
      splitter.degrees.push_back(degrees < 0 ? degrees + 360 : degrees);
    }
    splitter.at1kHz = units::decibels(std::abs(signal.volts(outputs.first) / signal.volts(outputs.second)));
    findCure(idle, library, outputs, splitter);
    if (question.waves) {
      // Up to a little over where what follows begins to draw grid current.
      double most = mostInputPeak / 10;
      for (const auto& limit : localLimits(signal, mostInputPeak)) {
        const auto* tube = circuit.part(limit.tubes.front());
        if (tube && outputTransformerOf(circuit, *tube) && limit.kind == Limit::Kind::gridCurrent)
          most = 1.6 * limit.inputPeak;
      }
      for (int i = 0; i < drivePoints; ++i) {
        if (goOn && !goOn(static_cast<double>(i) / drivePoints)) return tl::unexpected(Problem::stopped());
        const double input = most * (i + 1) / drivePoints;
        const auto wave = driveAmplifier(signal, input, {outputs.first, outputs.second});
        if (!wave) break;
        const auto swing = [&](Eigen::Index row) {
          return wave->volts.row(row).maxCoeff() - wave->volts.row(row).minCoeff();
        };
        splitter.inputPeak.push_back(input);
        splitter.driven.push_back(units::decibels(swing(0) / swing(1)));
      }
    }
    splitters.all.push_back(std::move(splitter));
  }
  return splitters;
}

} // namespace vinegar::predict
