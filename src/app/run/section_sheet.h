#pragma once

#include "run/run_painter.h"

namespace vinegar::app {

/// What the run painter needs to draw one section with its values as shipped.
RunContent sectionContent(const amp::SectionTemplate& section, const amp::Library& library);

/// The same of a whole amplifier, without its volts.
RunContent designContent(const amp::Design& design, const amp::Library& library);

/// Pictures of sections on one sheet `width` pixels wide, each under its title, `unit` pixels to a grid step.
QImage sectionSheet(const std::vector<const amp::SectionTemplate*>& sections, const amp::Library& library,
                    ResistorStyle style, int width, double unit);

} // namespace vinegar::app
