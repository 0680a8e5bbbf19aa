#include "units/printable.h"

#include <fmt/format.h>

namespace vinegar::units {

std::string printable(std::string_view text) {
  std::string shown;
  shown.reserve(text.size());
  for (std::size_t i = 0; i < text.size(); ++i) {
    const auto byte = static_cast<unsigned char>(text[i]);
    const auto next = i + 1 < text.size() ? static_cast<unsigned char>(text[i + 1]) : 0U;
    const auto third = i + 2 < text.size() ? static_cast<unsigned char>(text[i + 2]) : 0U;
    if (byte == '\n') {
      shown += "\\n";
    } else if (byte == '\t') {
      shown += "\\t";
    } else if (byte < 0x20 || byte == 0x7f) {
      shown += fmt::format("\\x{:02x}", byte);
    } else if (byte == 0xc2 && next >= 0x80 && next < 0xa0) { // U+0080 to U+009F
      shown += fmt::format("\\x{:02x}", next);
      ++i;
    } else if (byte == 0xe2 &&
               ((next == 0x80 && ((third >= 0x8e && third <= 0x8f) || (third >= 0xa8 && third <= 0xae))) ||
                (next == 0x81 && third >= 0xa6 && third <= 0xa9))) {
      // U+200E, U+200F, U+2028 to U+202E, U+2066 to U+2069
      shown += fmt::format("\\u{:04x}", 0x2000U + ((next & 0x3fU) << 6U) + (third & 0x3fU));
      i += 2;
    } else {
      shown += text[i];
    }
  }
  return shown;
}

} // namespace vinegar::units
