// What breaks up first, and when? The signal at every section from the jack to the speaker, and what is left to each
// limit.
#pragma once

#include "predict/wave/power.h"

namespace vinegar::predict {

struct LevelsQuestion {
  double hertz = 1000; ///< 0: the worst over the instrument's range, `rangeHertz`
  double inputPeak = 0.1;
  bool waves = false; ///< as the amplifier really plays it, clipped where it clips; else as small signals scale
  bool operator==(const LevelsQuestion&) const = default;
};
/// At a section's output.
struct SectionLevel {
  std::string section, chain; ///< ids; the main line's is "line"
  std::string title;          ///< in the builder's words
  std::vector<std::string> tubes;
  double peakUp = 0, peakDown = 0, rms = 0;       ///< volts about the rest; equal and opposite where nothing clips
  std::optional<double> secondRms;                ///< of the other half of a balanced output
  std::optional<double> gainDecibels;             ///< from its input to its output; of what has no input, none
  std::optional<double> upDecibels, downDecibels; ///< of input that is left to its nearest clipping limit, the crest of
                                                  ///< its grid's wave upward and downward; negative when past it
  std::optional<Limit::Kind> upKind, downKind;
};

struct Levels {
  double hertz = 0, inputPeak = 0;
  std::vector<SectionLevel> sections;     ///< the main line first, then each chain
  std::optional<double> speakerWatts;     ///< that the speaker takes, harmonics and all
  std::optional<double> feedbackDecibels; ///< what all feedback chains together take
};

/// Puts what clips first on waves of the whole amplifier in the place of what the stages by themselves would do.
void putWaves(Levels& levels, const Clipping& clipping);

/// Some milliseconds, with `waves` as long as driveAmplifier takes; five times that for the worst of the range. A
/// design without a source has no levels, which is a Problem.
tl::expected<Levels, Problem> predictLevels(const Idle& idle, const amp::Library& library,
                                            const LevelsQuestion& question, const GoOn& goOn = {});

/// The inputs at which things clip against the setting of one control.
struct LevelMapQuestion {
  std::string control; ///< a knob of the design
  double hertz = 1000; ///< 0: `worstHertz` of the design as it stands
  int columns = 40;
  bool exact = false; ///< by waves of the whole amplifier, else by each stage alone
  bool operator==(const LevelMapQuestion&) const = default;
};
struct LevelMap {
  std::string control;
  double hertz = 0;
  struct Column {
    double setting = 0;        ///< the knob's, 0 to 1
    std::vector<Limit> limits; ///< clipping ones, lowest input first
  };
  std::vector<Column> columns;
  /// The one nearest to that setting; null without columns.
  [[nodiscard]] const Column* columnAt(double setting) const;
  /// The lowest setting at which this input, peak, meets a limit that was found on waves at the setting `here`: as far
  /// as the stage's own limits move with the control, so does that one. Nothing where it is met at none.
  [[nodiscard]] std::optional<double> settingFor(const Limit& limit, double here, double inputPeak) const;
  /// The input, peak, at which anything clips at that setting; nothing under mostInputPeak.
  [[nodiscard]] std::optional<double> cleanUpTo(double setting) const;
  /// How far the control can be turned up before anything clips at this input: 0 to 1; nothing where it clips at once.
  [[nodiscard]] std::optional<double> cleanTravel(double inputPeak) const;
};
/// Some 5 ms a column; exact some 100 ms a column, on two threads. A control that the design does not have is a
/// Problem.
tl::expected<LevelMap, Problem> predictLevelMap(const Idle& idle, const amp::Library& library,
                                                const LevelMapQuestion& question, const GoOn& goOn = {});

} // namespace vinegar::predict
