#include "support/samples.h"

#include <stdexcept>

namespace vinegar::testing_support {

const amp::Library& library() {
  static const amp::Library shipped = [] {
    auto loaded = amp::Library::load(VINEGAR_SOURCE_DATA);
    if (!loaded) throw std::runtime_error(loaded.error().line());
    return std::move(*loaded);
  }();
  return shipped;
}

std::filesystem::path samplePath(const std::string& name) {
  return std::filesystem::path(VINEGAR_SOURCE_DATA) / "samples" / (name + ".vinegar");
}

amp::Document sample(const std::string& name) {
  auto loaded = files::readDesign(samplePath(name), library());
  if (!loaded) throw std::runtime_error(loaded.error().line());
  return loaded->document;
}

Solved solve(const amp::Design& design) {
  auto circuit = amp::compile(design, library());
  if (!circuit) throw std::runtime_error(circuit.error().line());
  auto point = predict::predictOperatingPoint(*circuit);
  if (!point) throw std::runtime_error(point.error().line());
  return {std::move(*circuit), std::move(*point)};
}

} // namespace vinegar::testing_support
