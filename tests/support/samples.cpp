#include "support/samples.h"

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

amp::Document sample(const std::string& name) {
  auto loaded = files::readDesign(samplePath(name), library());
  if (!loaded) throw std::runtime_error(loaded.error().line());
  return loaded->document;
}

int trials(int all) {
  if (std::getenv("VINEGAR_FULL")) return all;
  return std::max(1, all / (stride > 1 ? 40 : 10));
}

Solved solve(const amp::Design& design) {
  auto circuit = amp::compile(design, library());
  if (!circuit) throw std::runtime_error(circuit.error().line());
  auto point = predict::predictOperatingPoint(*circuit);
  if (!point) throw std::runtime_error(point.error().line());
  return {std::move(*circuit), std::move(*point)};
}

} // namespace vinegar::testing_support
