#pragma once

#include <string>

namespace vinegar::testing_support {

/// Folders of this checkout: "data", "docs".
std::string folder(const std::string& name);

} // namespace vinegar::testing_support
