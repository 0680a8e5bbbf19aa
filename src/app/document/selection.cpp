#include "document/selection.h"

#include "document/session.h"

#include <algorithm>
#include <numbers>

namespace vinegar::app {

Selection::Selection(const Session& session, QObject* parent) : QObject(parent), session_(session) {
  connect(&session, &Session::replaced, this, [this] {
    part_.clear();
    span_ = {};
    piece_ = {};
    auto played = played_;
    played.inputPeak = std::numbers::sqrt2 * amp::sourceVolts(session_.pencilled(), session_.library());
    play(played);
  });
  connect(&session, &Session::changed, this, [this] {
    if (!exists(part_)) letGo();
    // Where a section was taken out or its neighbour is gone, nothing is in hand.
    const auto& now = session_.pencilled();
    const bool gone = (!piece_.section.empty() && !now.section(piece_.section)) ||
                      (piece_.place && !piece_.place->after.empty() && !now.section(piece_.place->after));
    if (gone) take({});
  });
}

bool Selection::exists(const std::string& part) const {
  const auto named = [&](const amp::ResolvedPart& p) { return p.name == part; };
  return part.empty() || std::any_of(session_.pencilledParts().begin(), session_.pencilledParts().end(), named);
}

void Selection::letGo() {
  part_.clear();
  Q_EMIT selected();
}

void Selection::select(const std::string& part) {
  if (!exists(part)) return;
  part_ = part;
  if (part.empty()) take({});
  for (const auto& known : session_.pencilledParts())
    if (known.name == part) take({known.section, {}});
  Q_EMIT selected();
}

void Selection::take(Piece piece) {
  if (piece == piece_) return;
  piece_ = std::move(piece);
  // Whoever takes another section in hand has put the part down.
  const auto& parts = session_.pencilledParts();
  if (std::any_of(parts.begin(), parts.end(),
                  [&](const amp::ResolvedPart& p) { return p.name == part_ && p.section != piece_.section; }))
    letGo();
  Q_EMIT pieceTaken();
}

void Selection::play(Played played) {
  if (played == played_) return;
  played_ = played;
  Q_EMIT playedChanged();
}

void Selection::lookAt(Span span) {
  if (span == span_) return;
  span_ = std::move(span);
  Q_EMIT spanChanged();
}

} // namespace vinegar::app

#include "moc_selection.cpp"
