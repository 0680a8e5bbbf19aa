#include "predict/feel/burst.h"

#include "circuit/stepper.h"
#include "predict/rest/places.h"
#include "predict/supply/mean_supply.h"
#include "predict/supply/supply.h"
#include "predict/wave/held_sine.h"
#include "predict/wave/played.h"
#include "predict/wave/power.h"
#include "predict/wave/stage_ports.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <limits>
#include <numbers>
#include <numeric>
#include <optional>

namespace vinegar::predict {
namespace {

using circuit::Node;
using What = Track::What;

constexpr double levelHertz = 1000;
constexpr long leadPeriods = 3;     ///< of the mains, in which ripple finds its way into the stages
constexpr double withoutMains = 50; ///< Hz, to tell hops by
constexpr double theta = 0.51;      ///< nearly no damping: nothing jumps in a phrase
constexpr double slowTheta = 0.6;
constexpr double quiet = 0.15; ///< s after the sound's end, in which what is fast dies away
constexpr long redoneIn = 4;   ///< steps for one whose error was too large
constexpr int slowPerHop = 2;  ///< steps in a hop after that, where there is no ripple to follow

/// The amplifier with its rectifiers as they are, at the moment when the mains rises through nothing.
struct Start {
  std::shared_ptr<const circuit::System> system;
  Eigen::VectorXd x;
};
Start startOf(const Idle& idle, const BurstQuestion& question, const GoOn& goOn) {
  if (question.held != Held::nothing) {
    auto held = railsOf(idle);
    for (const auto& [node, isCathode] : slowNodes(idle))
      if (!isCathode || question.held >= Held::bias) held.emplace_back(node, idle.point.volts(node));
    auto netlist = holding(idle, held);
    if (question.held == Held::coupling) {
      constexpr double still = 1e3; // so large that nothing charges it in a burst
      for (const auto& part : idle.circuit->parts)
        if (part.resolved.part->role == "coupling")
          for (const int d : part.devices)
            netlist.setLaw(d, circuit::varied(netlist.devices()[static_cast<std::size_t>(d)].law, still));
    }
    Start start{std::make_shared<const circuit::System>(std::move(netlist)), {}};
    // The operating point as it is, and the sources that hold it without current.
    start.x = idle.point.dc.x;
    start.x.conservativeResize(start.system->size());
    start.x.tail(start.system->size() - idle.point.dc.x.size()).setZero();
    return start;
  }
  if (!idle.point.supply) return {idle.point.system, idle.point.dc.x};
  if (question.averaged) {
    auto netlist = idle.circuit->netlist;
    for (auto& [device, law] : meanSupply(idle, goOn))
      netlist.replaceLaw(device, std::move(law));
    return {std::make_shared<const circuit::System>(netlist), idle.point.dc.x};
  }
  return {std::make_shared<const circuit::System>(idle.circuit->netlist), startOfCycle(idle)};
}

bool isRectifier(const amp::CompiledPart& part) {
  const auto kind = part.resolved.part->kind;
  return kind == amp::PartKind::rectifier || kind == amp::PartKind::diode;
}

/// The speaker, or where a preamplifier ends.
std::pair<std::string, Node> outputOf(const amp::Circuit& circuit) {
  auto end = endOf(circuit);
  const auto node = end.empty() ? Node{0} : circuit.probe(end);
  return {std::move(end), node};
}

/// Something looked at in every sample.
struct Look {
  Track track;
  Node plus = 0, minus = 0; ///< volts between them
  std::size_t device = 0;   ///< ampere of its pin, times the volts if both
  int pin = -1;
  double sum = 0, squares = 0, low = 0, high = 0;
  std::size_t plusAt = 0, minusAt = 0; ///< among the stepper's outputs
};

std::vector<Look> looksOf(const Idle& idle, const circuit::System& system, bool withRectifiers) {
  const auto& circuit = *idle.circuit;
  std::vector<Look> looks;
  const auto add = [&](What what, std::string name, Node plus, Node minus = 0, std::size_t device = 0, int pin = -1) {
    Look look;
    look.track.what = what;
    look.track.name = std::move(name);
    look.plus = plus;
    look.minus = minus;
    look.device = device;
    look.pin = pin;
    looks.push_back(std::move(look));
  };
  if (const auto jack = circuit.probe("jack"); jack > 0) add(What::input, "jack", jack);
  if (const auto [name, node] = outputOf(circuit); node > 0) add(What::output, name, node);
  for (const auto& resistor : speakerResistors(circuit))
    add(What::speakerVolts, std::to_string(looks.size()), resistor.from, resistor.to);
  for (std::size_t r = 0; r < circuit.rails.size(); ++r)
    if (isItself(circuit.rails, r)) add(What::rail, circuit.rails[r].name, circuit.rails[r].node);
  const auto& places = system.nonlinearDevices();
  const auto placeOf = [&](int device) {
    return static_cast<std::size_t>(std::find(places.begin(), places.end(), device) - places.begin());
  };
  for (const auto& part : circuit.parts) {
    if (part.devices.empty()) continue;
    if (amp::isTube(part.resolved.part->kind) && outputTransformerOf(circuit, part)) {
      const auto device = placeOf(part.devices.front());
      const auto& nodes = part.nodes;
      const auto cathode = nodes.back();
      add(What::grid, part.resolved.name, nodes[nodes.size() - 2], cathode);
      add(What::cathode, part.resolved.name, cathode);
      add(What::plateWatts, part.resolved.name, nodes.front(), cathode, device, 0);
      if (nodes.size() == 4) add(What::screenWatts, part.resolved.name, nodes[1], cathode, device, 1);
    }
    if (isRectifier(part) && withRectifiers)
      for (const int d : part.devices)
        if (circuit::isTwoPin(system.netlist().devices()[static_cast<std::size_t>(d)].law))
          add(What::rectifierAmps, part.resolved.name, 0, 0, placeOf(d), 0);
  }
  return looks;
}

} // namespace

const Track* Burst::track(Track::What what, const std::string& name) const {
  const auto found = std::find_if(tracks.begin(), tracks.end(), [&](const Track& track) {
    return track.what == what && (name.empty() || track.name == name);
  });
  return found == tracks.end() ? nullptr : &*found;
}

std::vector<double> overPeriods(const std::vector<float>& hops, double periods) {
  const auto wide = std::max<std::ptrdiff_t>(1, std::lround(periods * hopsPerPeriod));
  const auto count = static_cast<std::ptrdiff_t>(hops.size());
  std::vector<double> sums(hops.size() + 1), means(hops.size());
  for (std::size_t k = 0; k < hops.size(); ++k)
    sums[k + 1] = sums[k] + static_cast<double>(hops[k]);
  for (std::ptrdiff_t k = 0; k < count; ++k) {
    const auto from = std::clamp<std::ptrdiff_t>(k - wide / 2, 0, std::max<std::ptrdiff_t>(0, count - wide));
    const auto to = std::min(count, from + wide);
    means[static_cast<std::size_t>(k)] =
        (sums[static_cast<std::size_t>(to)] - sums[static_cast<std::size_t>(from)]) / static_cast<double>(to - from);
  }
  return means;
}

tl::expected<Burst, Problem> playBurst(const Idle& idle, const amp::Library&, const BurstQuestion& question,
                                       const GoOn& goOn) {
  const auto start = startOf(idle, question, goOn);
  const auto& system = *start.system;
  const bool mains = idle.point.supply != nullptr && question.held == Held::nothing;
  const double mainsHertz = idle.point.supply ? idle.circuit->supply.hertz : withoutMains;

  circuit::StepperSetup setup;
  setup.samplesPerSecond = question.samplesPerSecond;
  setup.theta = theta;
  setup.width = question.width;
  const auto drive = driveOf(system, SmallSignal(idle, levelHertz));
  if (drive.volts.empty())
    return tl::unexpected(
        Problem{"the amplifier", "has nothing at its jack to be played with; start it with an input"});
  setup.inputs = drive.devices;
  const bool cycles = mains && !question.averaged;
  if (cycles) setup.inputs.push_back(idle.circuit->supply.mains);

  auto looks = looksOf(idle, system, cycles);
  const auto outputAt = [&](Node node) {
    const auto at = std::find(setup.outputs.begin(), setup.outputs.end(), node) - setup.outputs.begin();
    if (at == static_cast<std::ptrdiff_t>(setup.outputs.size())) setup.outputs.push_back(node);
    return static_cast<std::size_t>(at);
  };
  for (auto& look : looks) {
    look.plusAt = outputAt(look.plus);
    look.minusAt = outputAt(look.minus);
  }
  const auto rails = mains ? mainRails(*idle.circuit) : MainRails{};
  const auto speaker = outputAt(std::max(0, outputOf(*idle.circuit).second)), reservoir = outputAt(rails.rectified),
             fed = outputAt(rails.fed);

  Burst burst;
  burst.samplesPerSecond = question.samplesPerSecond;
  burst.mainsHertz = mainsHertz;
  const auto perHop = std::max(
      1L, std::lround(question.samplesPerSecond / mainsHertz / hopsPerPeriod)); // 1: of mains that no house has
  burst.hop = static_cast<double>(perHop) / question.samplesPerSecond;
  const auto lead = leadPeriods * hopsPerPeriod * perHop;
  burst.lead = static_cast<double>(lead) / question.samplesPerSecond;
  const double most = question.mostSeconds > 0 ? question.mostSeconds : question.sound->seconds();
  burst.sounds = std::min(question.sound->sounds(), most);
  const auto sound = question.sound->at(question.samplesPerSecond);
  const auto samples = std::min(static_cast<double>(sound->size()), most * question.samplesPerSecond);
  const auto hops = static_cast<long>(samples) / perHop + leadPeriods * hopsPerPeriod;
  burst.output.reserve(static_cast<std::size_t>(hops * perHop));
  if (mains) {
    burst.reservoir.reserve(burst.output.capacity());
    burst.fed.reserve(burst.output.capacity());
  }

  std::vector<double> inputs(setup.inputs.size());
  const auto wave = mainsWave(idle.circuit->supply);
  auto played = sound; // at so many samples for one of the answer's
  long dense = 1;
  const auto fill = [&](double samples) {
    const double t = samples / question.samplesPerSecond,
                 into = static_cast<double>(dense) * (samples - static_cast<double>(lead));
    const auto k = static_cast<long>(std::floor(into));
    const double share = into - static_cast<double>(k);
    const auto heard = [&](long index) {
      return index >= 0 && index < static_cast<long>(played->size())
                 ? static_cast<double>((*played)[static_cast<std::size_t>(index)])
                 : 0.0;
    };
    const double level = share > 0 ? (1 - share) * heard(k) + share * heard(k + 1) : heard(k);
    for (std::size_t i = 0; i < drive.volts.size(); ++i)
      inputs[i] = drive.volts[i] * question.inputPeak * level;
    if (cycles) inputs.back() = wave(t);
  };
  std::optional<circuit::Stepper> stepper(std::in_place, system, start.x, setup);
  const auto finer = [&](circuit::Stepper& with, double sample, double samples) {
    ++burst.finer;
    return with.stepFiner([&](double share) -> const std::vector<double>& {
      fill(sample + share * samples);
      return inputs;
    });
  };
  // Steps from a sample on, each over so many samples, and what is told after every `told` of them. False where there
  // is no state; `failed` then says where.
  double failed = 0;
  const auto go = [&](circuit::Stepper& with, long sample, double samplesEach, long steps, long told) {
    for (auto& look : looks) {
      look.sum = look.squares = 0;
      look.low = std::numeric_limits<double>::infinity();
      look.high = -look.low;
    }
    for (long k = 0; k < steps; ++k) {
      const double from = static_cast<double>(sample) + static_cast<double>(k) * samplesEach;
      fill(from + samplesEach);
      if (!with.step(inputs.data()) && !finer(with, from, samplesEach)) {
        failed = from;
        return false;
      }
      if ((k + 1) % told != 0) continue;
      for (auto& look : looks) {
        double value = with.output(look.plusAt) - with.output(look.minusAt);
        if (look.pin >= 0) {
          const double amps = with.amps(look.device, look.pin);
          value = look.track.what == What::rectifierAmps ? amps : value * amps;
        }
        look.sum += value;
        look.squares += value * value;
        look.low = std::min(look.low, value);
        look.high = std::max(look.high, value);
      }
      for (long i = 0; i < std::lround(samplesEach * static_cast<double>(told)); ++i) {
        burst.output.push_back(static_cast<float>(with.output(speaker)));
        if (!mains) continue;
        burst.reservoir.push_back(static_cast<float>(with.output(reservoir)));
        burst.fed.push_back(static_cast<float>(with.output(fed)));
      }
    }
    return true;
  };
  const double rests = burst.lead + burst.sounds + quiet;
  std::optional<circuit::Stepper> before, quarter;
  if (question.mostStepError > 0) before.emplace(*stepper);
  double loudest = 0;
  bool slow = false;
  for (long hop = 0; hop < hops; ++hop) {
    if (!slow && !cycles && perHop % slowPerHop == 0 && system.delayed().empty() &&
        static_cast<double>(hop) * burst.hop > rests) {
      slow = true;
      setup.samplesPerSecond = slowPerHop / burst.hop;
      setup.theta = slowTheta;
      burst.evaluations += stepper->work().evaluations;
      circuit::Stepper slowly(system, start.x, setup);
      slowly.resume(*stepper);
      stepper.emplace(std::move(slowly));
    }
    const long steps = slow ? slowPerHop : perHop;
    const bool watched = before && !slow;
    if (watched) before->resume(*stepper);
    const auto already = burst.output.size();
    const auto none = [&] {
      return tl::unexpected(Problem{"the amplifier", fmt::format("no state was found {:.4g} s after the sound began",
                                                                 failed / question.samplesPerSecond - burst.lead)});
    };
    if (!go(*stepper, hop * perHop, static_cast<double>(perHop) / static_cast<double>(steps), steps, 1)) return none();
    if (watched) {
      const auto error = [&] {
        double most = 0;
        for (auto k = std::max<std::size_t>(already, 3); k < burst.output.size(); ++k) {
          const auto volts = [&](std::size_t back) { return static_cast<double>(burst.output[k - back]); };
          loudest = std::max(loudest, std::abs(volts(0)));
          most = std::max(most, circuit::stepError(volts(0), volts(1), volts(2), volts(3)));
        }
        return loudest > 0 ? most / loudest : 0;
      };
      if (error() > question.mostStepError) {
        ++burst.redone;
        if (!quarter) {
          auto small = setup;
          small.samplesPerSecond *= redoneIn;
          quarter.emplace(system, start.x, small);
        }
        played = question.sound->at(redoneIn * question.samplesPerSecond);
        dense = redoneIn;
        quarter->resume(*before);
        for (auto* samples : {&burst.output, &burst.reservoir, &burst.fed})
          samples->resize(std::min(samples->size(), already));
        if (!go(*quarter, hop * perHop, 1.0 / redoneIn, redoneIn * steps, redoneIn)) return none();
        stepper->resume(*quarter);
        played = sound;
        dense = 1;
      }
    }
    for (auto& look : looks) {
      auto& track = look.track;
      const auto count = static_cast<double>(steps);
      track.mean.push_back(static_cast<float>(look.sum / count));
      track.low.push_back(static_cast<float>(look.low));
      track.high.push_back(static_cast<float>(look.high));
      if (track.what == What::input || track.what == What::output || track.what == What::rectifierAmps ||
          track.what == What::speakerVolts)
        track.squares.push_back(static_cast<float>(look.squares / count));
    }
    if (goOn && hop % 8 == 0 && !goOn(static_cast<double>(hop) / static_cast<double>(hops)))
      return tl::unexpected(Problem::stopped());
  }
  burst.evaluations += stepper->work().evaluations + (quarter ? quarter->work().evaluations : 0);
  for (auto& look : looks) {
    const auto first = look.track.mean.begin() + (leadPeriods - 1) * hopsPerPeriod;
    look.track.rest = std::accumulate(first, first + hopsPerPeriod, 0.0) / hopsPerPeriod;
    burst.tracks.push_back(std::move(look.track));
  }
  return burst;
}

} // namespace vinegar::predict
