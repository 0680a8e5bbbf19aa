#pragma once

#include "audit/supply_rules.h"
#include "plots/curve_plot.h"
#include "predict/supply_events.h"
#include "window/shown.h"

namespace vinegar::app {

/// What the Supply page's views show, made from predictions alone: nothing here touches a widget, so that a worker may
/// call it. `Sides` is ink and, when there are marks, pencil, each with its word.
using Sides = std::vector<std::pair<QString, std::shared_ptr<const amp::Design>>>;
/// False cancels.
using GoOn = std::function<bool(double share)>;
using PictureOrProblem = tl::expected<CurvePlot::Picture, Problem>;

PictureOrProblem switchOnPicture(const Sides& sides, const amp::Library& library, predict::SwitchOnQuestion::From from,
                                 const QString& fromText, const GoOn& goOn);
PictureOrProblem dischargePicture(const Sides& sides, const amp::Library& library, bool tubesIn);
/// The chosen rectifier, in ink and pencil, and every other that fits.
PictureOrProblem regulationPicture(const Sides& sides, const amp::Library& library, const GoOn& goOn);
/// Two cycles of a rail's volts and of the current of one plate. `rail` by name; pencil may be null.
CurvePlot::Picture cyclesPicture(const predict::Overview* ink, const predict::Overview* pencil, const QString& rail);

/// Colours of a text, as the theme had them when it was asked for.
struct TextColours {
  QString ink, quiet, danger, link;
};
TextColours textColours();
/// Windings, heaters, heater to cathode with an elevation divider where one is wanted, and the mains at its ends.
QString budgetsText(const predict::Overview& overview, const amp::Library& library, const TextColours& colours);
/// `unchecked`: why nothing could be checked, or empty.
QString findingsText(const std::vector<audit::Finding>& findings, const QString& unchecked, const TextColours& colours);

/// "319 V"; what is next to nothing is 0.
QString readValue(double value, units::Unit unit, int digits = 3);

} // namespace vinegar::app
