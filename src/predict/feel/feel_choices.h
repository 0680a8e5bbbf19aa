// The same burst through other supplies: what each part does to the feel, and which part to reach for.
#pragma once

#include "predict/feel/feel.h"
#include "predict/feel/feel_ways.h"

namespace vinegar::predict {

struct FeelRowsQuestion {
  FeelSubject subject = FeelSubject::rectifiers;
  BurstQuestion burst;
  double wantedShare = 0; ///< sag: droop of the fed rail, of its volts
  double wantedBack = 0;  ///< sag: s to have regained two thirds; 0: as it comes
  bool operator==(const FeelRowsQuestion&) const = default;
};

struct FeelRow {
  std::string title, about;
  std::string part; ///< makers: whose doing it is
  std::vector<amp::SetField>
      changes;                    ///< that make it; empty for the design as it stands and for what is no part's value
  bool now = false;               ///< the design as it stands
  std::optional<Problem> problem; ///< it has no answer; the rest is then empty
  RailDip dip;                    ///< of the rail that feeds the output stage
  double rippleVolts = 0;         ///< of it at its lowest
  double rippleAtRest = 0, outputWatts = 0, hottestShare = 0; ///< of a plate's rating, at idle
  std::string hottest;
  double recovers = 0;               ///< s until two thirds are regained
  std::vector<std::string> against;  ///< what it breaks, in words
  std::string watts;                 ///< sag: what the resistors it changes dissipate, and what to buy
  std::vector<amp::SetField> rebias; ///< rectifiers, finely: as of a Consequence
  std::string rebiased;
  std::string group;                ///< balance: the rectifier's type
  double farads = 0;                ///< balance
  std::vector<double> seconds, fed; ///< the rail without ripple
};
struct FeelRows {
  FeelSubject subject = FeelSubject::rectifiers;
  std::string rail;
  std::vector<FeelRow> rows; ///< the design as it stands first
};

/// Each row compiled, brought to rest and played anew, on two threads: some 60 ms a row at 6 kHz on a large amplifier.
/// A design without mains and rectifier is a Problem.
tl::expected<FeelRows, Problem> predictFeelRows(const Idle& idle, const amp::Library& library,
                                                const FeelRowsQuestion& question, const GoOn& goOn = {});

} // namespace vinegar::predict
