#include "predict/feel/phrase.h"

#include <Eigen/Core>
#include <algorithm>
#include <cmath>
#include <numbers>
#include <samplerate.h>

namespace vinegar::predict {
namespace {

constexpr double judgedAt = 48000;   ///< samples a second at which the largest peak is looked for
constexpr double share = 0.45;       ///< of the rate, up to which partials are played
constexpr double attack = 0.002;     ///< s
constexpr double stopping = 0.015;   ///< s; a hand's damping
constexpr double stiffness = 1e-4;   ///< a partial's share of sharpness by the square of its number
constexpr double fadesSooner = 0.12; ///< how much more a partial fades for each number higher
constexpr double pi = std::numbers::pi;

} // namespace

Sound::Sound(Phrase phrase, Instrument instrument)
    : title_(phrase.title), phrase_(std::move(phrase)), instrument_(std::move(instrument)), seconds_(phrase_.seconds) {
  for (const auto& note : phrase_.notes)
    sounds_ = std::max(sounds_, note.at + note.sounds);
  const auto all = played(judgedAt);
  float most = 0;
  for (const float one : all)
    most = std::max(most, std::abs(one));
  if (most > 0) peak_ = most;
}

Sound::Sound(std::string title, std::vector<float> samples, double samplesPerSecond)
    : title_(std::move(title)), recording_(std::move(samples)), recordedRate_(samplesPerSecond),
      sounds_(static_cast<double>(recording_.size()) / samplesPerSecond) {
  constexpr double silence = 0.8; // in which the amplifier comes back
  seconds_ = sounds_ + silence;
  float most = 0;
  for (const float one : recording_)
    most = std::max(most, std::abs(one));
  if (most > 0) peak_ = most;
}

std::vector<double> Sound::hertz() const {
  std::vector<double> all;
  for (const auto& note : phrase_.notes)
    all.push_back(note.hertz * instrument_.times);
  std::sort(all.begin(), all.end());
  all.erase(std::unique(all.begin(), all.end()), all.end());
  return all;
}

std::shared_ptr<const std::vector<float>> Sound::at(double samplesPerSecond) const {
  const std::lock_guard lock(mutex_);
  auto& kept = kept_[samplesPerSecond];
  if (!kept) {
    auto samples = recording_.empty() ? played(samplesPerSecond) : resampled(samplesPerSecond);
    for (float& one : samples)
      one = static_cast<float>(one / peak_);
    kept = std::make_shared<const std::vector<float>>(std::move(samples));
  }
  return kept;
}

std::vector<float> Sound::played(double rate) const {
  const auto count = static_cast<std::size_t>(std::ceil(seconds_ * rate));
  std::vector<float> samples(count, 0.0F);
  for (const auto& note : phrase_.notes) {
    const double lowest = note.hertz * instrument_.times;
    // Each partial as the real part of a number that turns and shrinks; all of a note's at once.
    std::vector<std::pair<double, double>> turns; // how far a sample turns it, by how much it shrinks
    std::vector<double> levels;
    for (int n = 1; n <= instrument_.partials; ++n) {
      const double hertz = n * lowest * std::sqrt(1 + stiffness * n * n);
      if (hertz > share * std::min(rate, judgedAt)) break;
      const double decay = instrument_.decay / (1 + fadesSooner * (n - 1));
      turns.emplace_back(2 * pi * hertz / rate, phrase_.held ? 1 : std::exp(-1 / (decay * rate)));
      levels.push_back(note.strength * std::sin(n * pi * instrument_.pluck) * std::sin(n * pi * instrument_.pickup) /
                       n);
    }
    const auto partials = static_cast<Eigen::Index>(levels.size());
    Eigen::ArrayXf real = Eigen::ArrayXf::Zero(partials), imaginary = real, cosine = real, sine = real;
    for (Eigen::Index i = 0; i < partials; ++i) {
      const auto [turn, shrinks] = turns[static_cast<std::size_t>(i)];
      imaginary[i] = static_cast<float>(levels[static_cast<std::size_t>(i)]); // begins at its zero
      cosine[i] = static_cast<float>(shrinks * std::cos(turn));
      sine[i] = static_cast<float>(shrinks * std::sin(turn));
    }
    const auto from = static_cast<std::size_t>(std::ceil(note.at * rate));
    const auto to = std::min(count, static_cast<std::size_t>((note.at + note.sounds + 6 * stopping) * rate));
    for (std::size_t k = from; k < to; ++k) {
      const double t = static_cast<double>(k) / rate - note.at;
      double gain = t < attack ? 0.5 - 0.5 * std::cos(pi * t / attack) : 1;
      if (t > note.sounds) gain *= std::exp(-(t - note.sounds) / stopping);
      samples[k] += static_cast<float>(gain) * real.sum();
      const Eigen::ArrayXf turned = real * cosine + imaginary * sine;
      imaginary = imaginary * cosine - real * sine;
      real = turned;
    }
  }
  if (phrase_.rise > 0)
    for (std::size_t k = 0; k < count; ++k) {
      const double t = static_cast<double>(k) / rate / phrase_.rise;
      if (t < 1) samples[k] *= static_cast<float>(0.5 - 0.5 * std::cos(pi * t));
    }
  return samples;
}

std::vector<float> Sound::resampled(double rate) const {
  const auto count = static_cast<std::size_t>(std::ceil(seconds_ * rate));
  std::vector<float> samples(count, 0.0F);
  SRC_DATA data{};
  data.data_in = recording_.data();
  data.data_out = samples.data();
  data.input_frames = static_cast<long>(recording_.size());
  data.output_frames = static_cast<long>(count);
  data.src_ratio = rate / recordedRate_;
  // Refused only where the rates are further apart than who reads recordings lets through.
  if (src_simple(&data, SRC_SINC_MEDIUM_QUALITY, 1) != 0) samples.clear();
  return samples;
}

} // namespace vinegar::predict
