#include "files/phrases.h"

#include "units/json.h"

#include <cmath>
#include <fmt/format.h>
#include <sndfile.h>
#include <system_error>

namespace vinegar::files {
namespace {

using units::JsonReader;

double within(const JsonReader& reader, const char* field, double low, double high) {
  const double value = reader.number(field);
  if (!(value >= low && value <= high)) reader.at(field).fail(fmt::format("must be from {:g} to {:g}", low, high));
  return value;
}

predict::Instrument instrumentOf(const JsonReader& reader) {
  predict::Instrument instrument;
  instrument.id = reader.text("id");
  instrument.title = reader.text("title");
  instrument.pluck = within(reader, "pluck", 0.01, 0.5);
  instrument.pickup = within(reader, "pickup", 0.01, 0.5);
  instrument.decay = within(reader, "decay", 0.05, 60);
  instrument.partials = static_cast<int>(within(reader, "partials", 1, 200));
  instrument.times = within(reader, "times", 0.1, 10);
  return instrument;
}

predict::Phrase phraseOf(const JsonReader& reader) {
  predict::Phrase phrase;
  phrase.id = reader.text("id");
  phrase.title = reader.text("title");
  phrase.about = reader.text("about", "");
  phrase.seconds = within(reader, "seconds", 0.1, 30);
  if (reader.has("rise")) phrase.rise = within(reader, "rise", 0, 30);
  phrase.held = reader.flag("held", false);
  for (const auto& note : reader.list("notes")) {
    const auto fields = note.elements();
    if (fields.size() != 4) note.fail("a note is when it begins, how long it sounds, its frequency and its strength");
    predict::Note one{fields[0].asNumber(), fields[1].asNumber(), fields[2].asNumber(), fields[3].asNumber()};
    if (!(one.at >= 0 && one.sounds > 0 && one.at + one.sounds <= phrase.seconds && one.hertz > 10 &&
          one.hertz < 5000 && one.strength > 0))
      note.fail("does not sound within the phrase");
    phrase.notes.push_back(one);
  }
  if (phrase.notes.empty()) reader.fail("has no notes");
  return phrase;
}

} // namespace

tl::expected<Phrases, Problem> readPhrases(const std::filesystem::path& data) {
  Phrases all;
  const auto problem = units::readJsonFolder(data / "phrases", [&](const JsonReader& file) {
    for (const auto& reader : file.list("instruments"))
      all.instruments.push_back(instrumentOf(reader));
    for (const auto& reader : file.list("phrases"))
      all.phrases.push_back(phraseOf(reader));
  });
  if (problem) return tl::unexpected(*problem);
  if (all.instruments.empty() || all.phrases.empty())
    return tl::unexpected(Problem{(data / "phrases").string(), "holds no phrase or no instrument"});
  return all;
}

tl::expected<std::shared_ptr<const predict::Sound>, Problem> readSound(const std::filesystem::path& data,
                                                                       const std::string& phrase,
                                                                       const std::string& instrument,
                                                                       double mostSeconds) {
  const auto all = readPhrases(data);
  if (!all) return tl::unexpected(all.error());
  const auto named = [](const auto& list, const std::string& id,
                        const char* what) -> tl::expected<std::size_t, Problem> {
    std::string known;
    for (std::size_t i = 0; i < list.size(); ++i) {
      if (list[i].id == id) return i;
      known += (known.empty() ? "" : ", ") + list[i].id;
    }
    return tl::unexpected(Problem{what, fmt::format("\"{}\" is not known; there is {}", id, known)});
  };
  const auto which = named(all->phrases, phrase, "phrase"), on = named(all->instruments, instrument, "instrument");
  if (!which) return tl::unexpected(which.error());
  if (!on) return tl::unexpected(on.error());
  auto played = all->phrases[*which];
  played.seconds = std::min(played.seconds, mostSeconds);
  std::erase_if(played.notes, [&](const auto& note) { return note.at >= played.seconds; });
  for (auto& note : played.notes)
    note.sounds = std::min(note.sounds, played.seconds - note.at);
  return std::make_shared<const predict::Sound>(std::move(played), all->instruments[*on]);
}

tl::expected<std::shared_ptr<const predict::Sound>, Problem> readRecording(const std::filesystem::path& path) {
  constexpr double mostSeconds = 12; // every sample of the answers is kept while they are looked at
  const auto refuse = [&](const std::string& why) { return tl::unexpected(Problem{path.string(), why}); };
  // Of a pipe or a device nobody knows when, or whether, it ends.
  std::error_code failed;
  if (const auto status = std::filesystem::status(path, failed);
      std::filesystem::exists(status) && !is_regular_file(status))
    return refuse("is no ordinary file");
  SF_INFO info{};
  const std::unique_ptr<SNDFILE, int (*)(SNDFILE*)> file(sf_open(path.c_str(), SFM_READ, &info), sf_close);
  if (!file) return refuse(fmt::format("cannot be read as a recording: {}", sf_strerror(nullptr)));
  if (info.frames <= 0 || info.channels < 1 || info.samplerate < 1000) return refuse("holds no sound");
  constexpr int mostRate = 384'000, mostChannels = 64;
  if (info.samplerate > mostRate)
    return refuse(fmt::format("has {} samples a second; {} are read at most", info.samplerate, mostRate));
  if (info.channels > mostChannels)
    return refuse(fmt::format("has {} channels; {} are read at most", info.channels, mostChannels));
  const double seconds = static_cast<double>(info.frames) / info.samplerate;
  if (seconds > mostSeconds)
    return refuse(fmt::format("is {:.0f} s long; cut it to the {:.0f} s that matter", seconds, mostSeconds));
  const auto channels = static_cast<std::size_t>(info.channels);
  // Block by block: a file's head may promise more than the file holds.
  constexpr sf_count_t block = 4096;
  std::vector<float> frames(static_cast<std::size_t>(block) * channels), mixed;
  float most = 0;
  for (sf_count_t read = 0; (read = sf_readf_float(file.get(), frames.data(), block)) > 0;)
    for (std::size_t k = 0; k < static_cast<std::size_t>(read); ++k) {
      float sum = 0;
      for (std::size_t c = 0; c < channels; ++c)
        sum += frames[k * channels + c];
      mixed.push_back(sum / static_cast<float>(channels));
      if (!std::isfinite(mixed.back())) return refuse("has samples that are no numbers");
      most = std::max(most, std::abs(mixed.back()));
    }
  if (mixed.empty()) return refuse("holds no sound");
  if (!(most > 1e-6F)) return refuse("is silent");
  return std::make_shared<const predict::Sound>(path.stem().string(), std::move(mixed), info.samplerate);
}

} // namespace vinegar::files
