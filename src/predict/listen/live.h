// An amplifier played block by block, as a sound device asks for it: with its supply, at any rate, turned meanwhile.
#pragma once

#include "predict/rest/idle.h"
#include "tubes/width.h"

#include <memory>

namespace vinegar::predict {

struct LiveSetup {
  double samplesPerSecond = 48000; ///< of what comes in and goes out
  double engineRate = 48000;       ///< steps a second; another than the outer one is resampled
  double inputPeak = 0.1;          ///< volts at the jack for a sample of 1
  std::string output = "speaker";
  /// Error of a step at the output, of the loudest volts so far, over which 64 samples are gone through again in
  /// quarters of a step, which costs five times as much; 0: none are.
  double mostStepError = 0;
  tubes::Width width = tubes::usualWidth();
};

/// Whole amplifier and supply, cycle by cycle, from rest. One thread at a time; no allocation in `play`
/// but where a step has to be gone through finer.
class Live {
public:
  /// What a block has cost and how it went.
  struct Block {
    long steps = 0, evaluations = 0, most = 0; ///< `most`: evaluations of the costliest step, which are bounded
    long finer = 0;                            ///< steps that had to be gone through in several
    long redone = 0;                           ///< samples whose steps erred too much, gone through in quarters
    long held = 0;                             ///< steps without a state even so: the output stood still
  };
  /// An amplifier without a jack or without that output is the Problem.
  static tl::expected<Live, Problem> make(const Idle& idle, const LiveSetup& setup);
  ~Live();
  Live(Live&&) noexcept;
  Live& operator=(Live&&) noexcept;

  /// Takes `count` samples and gives as many, volts of the output; none more than a block of 4096. With resampling what
  /// comes out is later by its delay, some milliseconds.
  Block play(const float* in, float* out, std::size_t count);
  /// From the next sample on the amplifier is this one, its volts and currents as they stand: a knob, another value.
  /// Equal in everything but values; else the Problem, and all stays. Its sound fades in over 5 ms, in which a sample
  /// costs twice. A millisecond or two, on the caller's thread.
  std::optional<Problem> turn(const Idle& other);
  /// Back to rest.
  void restart();
  static constexpr std::size_t mostSamples = 4096;
  /// Of a step: two attempts of forty moves, each halved nine times at most, and their beginnings.
  static constexpr long mostEvaluations = 802;

private:
  struct State;
  explicit Live(std::unique_ptr<State> state);
  std::unique_ptr<State> state_;
};

} // namespace vinegar::predict
