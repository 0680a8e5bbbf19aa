#include "tell/said.h"

namespace vinegar::tell {

std::string Said::filled(const std::string& translated) const {
  std::string text;
  for (std::size_t i = 0; i < translated.size(); ++i) {
    const char digit = translated[i] == '%' && i + 1 < translated.size() ? translated[i + 1] : '0';
    const auto place = static_cast<std::size_t>(digit - '1');
    if (digit < '1' || digit > '9' || place >= values.size()) {
      text += translated[i]; // a percent sign of its own
      continue;
    }
    text += values[place];
    ++i;
  }
  return text;
}

} // namespace vinegar::tell
