#pragma once

#include "run/run_pages.h"

#include <QString>

class QWidget;

namespace vinegar::app {

class RunView;

/// By the file's ending: pdf, svg or png. Empty on success, else why not.
QString exportRun(const RunView& run, const QString& path, const QString& title, Pages pages);
/// Asks where to, then the same; empty also when the builder thought better of it.
QString exportRunAsked(const RunView& run, const QString& title, QWidget* parent);
/// Asks which printer. Empty on success, else why not.
QString printRunAsked(const RunView& run, const QString& title, QWidget* parent);

} // namespace vinegar::app
