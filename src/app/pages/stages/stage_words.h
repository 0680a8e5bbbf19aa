// How what the predictions find of a stage is told, once for all views.
#pragma once

#include "amp/change/change.h"
#include "predict/stages/stages.h"
#include "widgets/figure_table.h"

#include <QString>

namespace vinegar::app {

QString wordsOf(predict::Limit::Kind kind);
QString wordsOf(predict::StageKind kind);
/// "R4 2k2, R3 100k", "12AU7".
QString wordsOf(const std::vector<amp::SetField>& changes);
/// "+1.38 V, grid current": how far its grid has moved against its cathode from the bias, and what ends the swing.
QString limitOf(const predict::CrestLimit& limit);
/// How the tube sits, in a sentence: which side goes first and where, or that it is dead, or of a power tube its share
/// of the rating.
QString verdictOn(const predict::StageReadings& stage);
/// The readings of one tube, ink and pencil side by side; either may be null.
FigureTable::Rows readingsOf(const predict::StageReadings* ink, const predict::StageReadings* pencil);

} // namespace vinegar::app
