#pragma once

#include "cli/command.h"
#include "tell/columns.h"

namespace vinegar::cli {

/// What the window shows in a table: "csv", or text in columns.
void print(const tell::Sheet& sheet, const std::string& format);
/// As the call wants it: in JSON under that name, with figures around it.
void print(const Subject& on, const tell::Sheet& sheet, const char* name, units::Json around = units::Json::object());

} // namespace vinegar::cli
