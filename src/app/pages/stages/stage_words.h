// How what the predictions find of a stage is told, once for all views.
#pragma once

#include "amp/change/change.h"
#include "predict/stages/stages.h"
#include "widgets/figure_table.h"

#include <QString>

namespace vinegar::app {

/// "R4 2k2, R3 100k", "12AU7".
QString wordsOf(const std::vector<amp::SetField>& changes);
/// How the tube sits, in a sentence: which side goes first and where, or that it is dead, or of a power tube its share
/// of the rating.
QString verdictOn(const predict::StageReadings& stage);
/// The readings of one tube, ink and pencil side by side; either may be null.
FigureTable::Rows readingsOf(const predict::StageReadings* ink, const predict::StageReadings* pencil);

} // namespace vinegar::app
