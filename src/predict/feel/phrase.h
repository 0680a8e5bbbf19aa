// What is played: phrases of plucked strings, or a recording, as volts over time.
#pragma once

#include <map>
#include <memory>
#include <mutex>
#include <string>
#include <vector>

namespace vinegar::predict {

/// A string plucked and stopped.
struct Note {
  double at = 0, sounds = 0; ///< s; from then on, until the hand stops it so much later
  double hertz = 0, strength = 1;
  bool operator==(const Note&) const = default;
};

struct Phrase {
  std::string id, title, about;
  double seconds = 0; ///< all of it, with the silence after the last note
  double rise = 0;    ///< s; brought up from nothing over so long
  bool held = false;  ///< notes do not fade
  std::vector<Note> notes;
  bool operator==(const Phrase&) const = default;
};

/// How a made-up instrument's strings sound.
struct Instrument {
  std::string id, title;
  double pluck = 0.15, pickup = 0.15; ///< where, as shares of the string's length from the bridge
  double decay = 2;                   ///< s; the lowest partial falls to a third
  int partials = 40;
  double times = 1; ///< a note's frequency by the phrase's
  bool operator==(const Instrument&) const = default;
};

/// What is played, its largest peak 1. Never changed after it is made; any thread.
class Sound {
public:
  /// Partials of ideal strings of even stiffness, the pickup seeing the string's velocity: the n-th as
  /// sin(n pi pluck) sin(n pi pickup) / n, the higher fading sooner (N. H. Fletcher and T. D. Rossing, The Physics of
  /// Musical Instruments, 1998, ch. 2).
  Sound(Phrase phrase, Instrument instrument);
  /// A recording's samples, 1,000 to 384,000 a second; they must be finite. Its largest peak is made 1.
  Sound(std::string title, std::vector<float> samples, double samplesPerSecond);

  [[nodiscard]] const std::string& title() const { return title_; }
  [[nodiscard]] double seconds() const { return seconds_; }
  /// When the last note is stopped: what comes after is silence.
  [[nodiscard]] double sounds() const { return sounds_; }
  /// From the sound's first moment, nothing over nine twentieths of the rate in it. Milliseconds the first time, kept
  /// after that.
  [[nodiscard]] std::shared_ptr<const std::vector<float>> at(double samplesPerSecond) const;
  /// The notes' frequencies, lowest first, each once; empty for a recording.
  [[nodiscard]] std::vector<double> hertz() const;

private:
  [[nodiscard]] std::vector<float> played(double samplesPerSecond) const;
  [[nodiscard]] std::vector<float> resampled(double samplesPerSecond) const;

  std::string title_;
  Phrase phrase_;
  Instrument instrument_;
  std::vector<float> recording_;
  double recordedRate_ = 0, seconds_ = 0, sounds_ = 0, peak_ = 1;
  mutable std::mutex mutex_;
  mutable std::map<double, std::shared_ptr<const std::vector<float>>> kept_;
};

} // namespace vinegar::predict
