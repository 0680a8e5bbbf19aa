#include "support/paths.h"

namespace vinegar::testing_support {

std::string folder(const std::string& name) { return VINEGAR_SOURCE "/" + name; }

} // namespace vinegar::testing_support
