#include "units/csv.h"

#include <cctype>

namespace vinegar::units {

std::string csvCell(std::string_view text) {
  // A name that a spreadsheet would work out as a formula, though not a figure with its sign, is marked as text.
  const bool sign = text.starts_with('+') || text.starts_with('-');
  const bool figure = sign && text.size() > 1 && (std::isdigit(static_cast<unsigned char>(text[1])) || text[1] == '.');
  if (text.starts_with('=') || text.starts_with('@') || (sign && text.size() > 1 && !figure))
    return csvCell("'" + std::string(text));
  if (text.find_first_of(",\"\n\r;\t") == std::string_view::npos) return std::string(text);
  std::string cell = "\"";
  for (const char c : text) {
    if (c == '"') cell += '"';
    cell += c;
  }
  return cell + '"';
}

} // namespace vinegar::units
