#include "support/samples.h"

#include "files/phrases.h"
#include "support/paths.h"

#include <cstdlib>
#include <stdexcept>

namespace vinegar::testing_support {

const amp::Library& library() {
  static const amp::Library shipped = [] {
    auto loaded = amp::Library::load(folder("data"));
    if (!loaded) throw std::runtime_error(loaded.error().line());
    return std::move(*loaded);
  }();
  return shipped;
}

std::filesystem::path samplePath(const std::string& name) {
  return std::filesystem::path(folder("data")) / "samples" / (name + ".vinegar");
}

namespace {
amp::Document shipped(const std::filesystem::path& path) {
  auto loaded = files::readDesign(path, library());
  if (!loaded) throw std::runtime_error(loaded.error().line());
  return loaded->document;
}
} // namespace
amp::Document sample(const std::string& name) { return shipped(samplePath(name)); }
amp::Document skeleton(const std::string& name) {
  return shipped(std::filesystem::path(folder("data")) / "skeletons" / (name + ".vinegar"));
}

namespace {

#if defined(VINEGAR_SANITIZED)
constexpr bool sanitized = true;
#else
constexpr bool sanitized = false;
#endif

std::string_view asked() {
  const char* full = std::getenv("VINEGAR_FULL");
  return full ? full : "";
}
// What nobody defined asks for all.
bool full() { return !asked().empty() && asked() != "window"; }

} // namespace

int stride() { return full() && !sanitized ? 1 : 18; }

int trials(int all) { return full() ? all : std::max(1, all / (sanitized ? 40 : 10)); }

bool runsLong(Long what) {
  if (asked() == "numbers") return what != Long::window;
  if (asked() == "window") return what != Long::numbers;
  return full();
}

std::shared_ptr<const predict::Sound> hardChord() {
  static const auto sound = files::readSound(folder("data"), "chord", "guitar");
  if (!sound) throw std::runtime_error(sound.error().line());
  return *sound;
}

Solved solve(const amp::Design& design) {
  auto circuit = amp::compile(design, library());
  if (!circuit) throw std::runtime_error(circuit.error().line());
  auto point = predict::predictOperatingPoint(*circuit);
  if (!point) throw std::runtime_error(point.error().line());
  return {std::move(*circuit), std::move(*point)};
}

} // namespace vinegar::testing_support
