// Any bytes as a design file: read, check, draw, compile, solve, write, read again. Nothing may crash or hang, and what
// was written must read back the same.
#include "amp/drawing/drawing.h"
#include "files/design_file.h"
#include "predict/rest/prediction.h"

#include <cstdlib>

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
  using namespace vinegar;
  static const auto library = amp::Library::load(VINEGAR_SOURCE_DATA);
  if (!library) abort();
  const auto loaded = files::readDesignText({reinterpret_cast<const char*>(data), size}, "fuzz", *library);
  if (!loaded) {
    if (loaded.error().message.empty()) abort();
    return 0;
  }
  const auto& design = loaded->document.ink;
  amp::drawRun(design, *library);
  const auto again = files::readDesignText(files::writeDesignText(loaded->document, *library), "again", *library);
  if (!again || !(again->document == loaded->document)) abort();
  if (design.line.size() > 12) return 0;
  if (const auto circuit = amp::compile(amp::pencilled(loaded->document, *library), *library))
    if (const auto point = predict::predictOperatingPoint(*circuit))
      if (!(point->dc.residual < 1e-9)) abort();
  return 0;
}
