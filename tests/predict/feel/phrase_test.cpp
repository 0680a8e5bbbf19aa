// What is played: shipped phrases and recordings.
#include "support/phrases.h"
#include "support/temporary_folder.h"
#include "units/json.h"

#include <cmath>
#include <complex>
#include <fstream>
#include <numbers>

namespace vinegar::predict {
namespace {

using std::numbers::pi;
using testing_support::phrases;
using testing_support::sound;

TEST(Phrase, IsAsLoudAsItSaysAtEveryRateAndHasItsNotes) {
  for (const auto& phrase : phrases().phrases)
    for (const auto& instrument : phrases().instruments) {
      const Sound one(phrase, instrument);
      const auto samples = one.at(48000);
      const auto most = std::max_element(samples->begin(), samples->end(),
                                         [](float a, float b) { return std::abs(a) < std::abs(b); });
      EXPECT_NEAR(std::abs(*most), 1, 1e-6) << phrase.id << instrument.id;
      EXPECT_NEAR(static_cast<double>(samples->size()) / 48000, phrase.seconds, 1e-4);
      EXPECT_EQ(samples, one.at(48000)); // kept
      for (std::size_t k = static_cast<std::size_t>((one.sounds() + 0.15) * 48000); k < samples->size(); ++k)
        ASSERT_LT(std::abs((*samples)[k]), 1e-3) << phrase.id << k; // stopped
    }
  // Its notes, and nothing half way between, by the discrete Fourier sum.
  const auto drone = sound("drone", "pure")->at(12000);
  const auto level = [&](double hertz) {
    std::complex<double> sum = 0;
    for (std::size_t k = 6000; k < 12000; ++k)
      sum += static_cast<double>((*drone)[k]) * std::polar(1.0, -2 * pi * hertz * static_cast<double>(k) / 12000);
    return std::abs(sum) / 3000;
  };
  EXPECT_GT(level(82.41), 0.4);
  EXPECT_GT(level(123.47), 0.4);
  EXPECT_LT(level(103), 0.02);
}

TEST(Phrase, ARecordingIsTheSameSoundAtAnotherRate) {
  std::vector<float> tone(44100);
  for (std::size_t k = 0; k < tone.size(); ++k)
    tone[k] = static_cast<float>(0.3 * std::sin(2 * pi * 440 * static_cast<double>(k) / 44100));
  const Sound recording("a tone", tone, 44100);
  for (const double rate : {6000.0, 48000.0, 96000.0}) {
    const auto at = recording.at(rate);
    for (double t = 0.2; t < 0.8; t += 0.0371)
      EXPECT_NEAR((*at)[static_cast<std::size_t>(t * rate)], std::sin(2 * pi * 440 * std::floor(t * rate) / rate), 5e-3)
          << rate << ' ' << t;
    EXPECT_EQ((*at)[static_cast<std::size_t>(1.5 * rate)], 0) << rate; // the silence after it
  }
}

TEST(Recordings, AreReadAndRefusedInWords) {
  const testing_support::TemporaryFolder folder;
  const auto wav = [&](const std::string& name, int channels, int rate, const std::vector<std::int16_t>& samples) {
    std::string bytes = "RIFF";
    const auto put = [&](std::uint32_t value, int count) {
      for (int i = 0; i < count; ++i)
        bytes += static_cast<char>(value >> (8 * i) & 0xFFU);
    };
    const auto size = static_cast<std::uint32_t>(2 * samples.size());
    put(36 + size, 4);
    bytes += "WAVEfmt ";
    put(16, 4);
    put(1, 2);
    put(static_cast<std::uint32_t>(channels), 2);
    put(static_cast<std::uint32_t>(rate), 4);
    put(static_cast<std::uint32_t>(rate * channels * 2), 4);
    put(static_cast<std::uint32_t>(channels * 2), 2);
    put(16, 2);
    bytes += "data";
    put(size, 4);
    for (const auto one : samples)
      put(static_cast<std::uint16_t>(one), 2);
    const auto path = folder.path / name;
    std::ofstream(path, std::ios::binary) << bytes;
    return path;
  };
  std::vector<std::int16_t> both;
  for (int k = 0; k < 8000; ++k) {
    const auto one = static_cast<std::int16_t>(8000 * std::sin(2 * pi * 200 * k / 8000));
    both.push_back(one);
    both.push_back(one);
  }
  const auto good = files::readRecording(wav("good.wav", 2, 8000, both));
  ASSERT_TRUE(good) << good.error().line();
  EXPECT_EQ((*good)->title(), "good");
  EXPECT_NEAR((*good)->sounds(), 1, 1e-9);
  const auto at = (*good)->at(48000);
  EXPECT_NEAR(*std::max_element(at->begin() + 4800, at->begin() + 40000), 1, 0.02);
  for (const auto& bad : {wav("silent.wav", 1, 8000, std::vector<std::int16_t>(100)), wav("empty.wav", 1, 8000, {}),
                          wav("long.wav", 1, 2000, std::vector<std::int16_t>(80000, 100)), folder.path / "none.wav"}) {
    const auto refused = files::readRecording(bad);
    ASSERT_FALSE(refused) << bad;
    EXPECT_NE(refused.error().line().find(bad.filename().string()), std::string::npos);
  }
  std::ofstream(folder.path / "text.wav") << "no sound at all";
  // Neither a pipe, which never ends, nor a head that promises more than there is, nor a rate that nobody records at.
  const auto pipe = folder.path / "pipe.wav";
  ASSERT_EQ(mkfifo(pipe.c_str(), 0600), 0);
  EXPECT_NE(files::readRecording(pipe).error().message.find("no ordinary file"), std::string::npos);
  EXPECT_FALSE(files::readRecording(wav("fast.wav", 1, 12'500'000, both)));
  EXPECT_FALSE(files::readRecording(folder.path / "text.wav"));
}

TEST(Phrase, FilesSayWhereTheyAreWrong) {
  const testing_support::TemporaryFolder folder;
  std::filesystem::create_directories(folder.path / "phrases");
  const auto whole = *units::readFile(testing_support::folder("data") + "/phrases/phrases.json");
  for (const auto& [from, to, place] :
       std::vector<std::array<std::string, 3>>{{"\"pluck\": 0.16", "\"pluck\": 1.6", "pluck"},
                                               {"\"seconds\": 2", "\"seconds\": -2", "seconds"},
                                               {"[0, 1.1, 82.41, 1]", "[0, 1.1, 82.41]", "notes/0"},
                                               {"[0, 1.1, 82.41, 1]", "[0, 9, 82.41, 1]", "notes/0"}}) {
    auto spoiled = whole;
    const auto at = spoiled.find(from);
    ASSERT_NE(at, std::string::npos) << from;
    spoiled.replace(at, from.size(), to);
    std::ofstream(folder.path / "phrases" / "phrases.json") << spoiled;
    const auto read = files::readPhrases(folder.path);
    ASSERT_FALSE(read) << to;
    EXPECT_NE(read.error().place.find(place), std::string::npos) << read.error().line();
  }
  EXPECT_FALSE(files::readPhrases(folder.path / "nowhere"));
}

} // namespace
} // namespace vinegar::predict
