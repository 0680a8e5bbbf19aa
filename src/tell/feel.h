// How an amplifier gives way while a phrase is played, and how it would with other parts.
#pragma once

#include "predict/feel/feel_choices.h"
#include "tell/columns.h"

namespace vinegar::tell {

const Columns<predict::RailDip>& dips();
const Columns<predict::BiasMove>& biasMoves();
/// What parts bear in the burst.
const Columns<predict::PlayedRating>& stresses();
/// The same burst with other parts; those of rectifiers also tell what their bias asks for.
Columns<predict::FeelRow> feelRows(predict::FeelSubject subject);

} // namespace vinegar::tell
