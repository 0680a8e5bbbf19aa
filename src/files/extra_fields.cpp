#include "files/extra_fields.h"

#include <algorithm>
#include <unordered_set>

namespace vinegar::files {

std::string unknownFields(const units::JsonReader& reader, std::initializer_list<const char*> known) {
  auto extra = units::Json::object();
  for (const auto& [key, value] : reader.raw().items())
    if (std::find(known.begin(), known.end(), key) == known.end()) units::append(extra, key, value);
  return extra.empty() ? std::string{} : extra.dump();
}

void restoreUnknown(units::Json& object, const std::string& extra) {
  if (extra.empty()) return;
  std::unordered_set<std::string> known;
  for (const auto& [key, value] : object.items())
    known.insert(key);
  const auto fields = *units::parseJson(extra, {}); // written by unknownFields
  for (const auto& [key, value] : fields.items())
    if (!known.contains(key)) units::append(object, key, value);
}

} // namespace vinegar::files
