#include "pages/stages/stage_words.h"

#include "pages/kit/input_box.h"
#include "predict/rest/ratings.h"
#include "tell/words.h"
#include "theme/text.h"
#include "widgets/readings.h"
#include "widgets/told.h"

#include <cmath>

namespace vinegar::app {
namespace {

using predict::StageKind;
using predict::StageReadings;
using units::Unit;
using Look = FigureTable::Look;

QString times(double gain) { return QStringLiteral("\u00d7 ") + QString::number(gain, 'g', 3); }

} // namespace

QString wordsOf(const std::vector<amp::SetField>& changes) { return QString::fromStdString(tell::changed(changes)); }

QString verdictOn(const StageReadings& stage) {
  const auto& tube = stage.tube;
  const auto name = QString::fromStdString(tube.name);
  if (tube.plateVolts < 1) return tr("%1 has no volts on its plate").arg(name);
  if (predict::isDead(tube.plateAmps)) return tr("%1 is cut off: it draws next to nothing").arg(name);
  if (predict::plateRating(tube).over())
    return tr("%1 is over its rating: %2 of %3")
        .arg(name, readingOf(tube.plateWatts, Unit::watt), readingOf(*tube.plateWattsLimit, Unit::watt));
  if (stage.kind == StageKind::withoutSignal) return tr("%1 is at work; no signal comes to it").arg(name);
  QString sits;
  if (stage.kind == StageKind::power || stage.kind == StageKind::powerPair) {
    if (tube.plateWattsLimit)
      sits = tr("%1 idles at %2 of its plate rating").arg(name, percent(tube.plateWatts / *tube.plateWattsLimit));
    else
      sits = tr("%1 idles at %2").arg(name, readingOf(tube.plateWatts, Unit::watt));
  } else if (!stage.up || !stage.down) {
    sits = tr("%1 sits at %2").arg(name, readingOf(tube.plateVolts, Unit::volt));
  } else {
    // Between cut-off and grid current; each is a voicing, none a fault.
    sits = stage.restBetween > 0.6   ? tr("%1 sits hot").arg(name)
           : stage.restBetween < 0.4 ? tr("%1 sits cold").arg(name)
                                     : tr("%1 sits centred").arg(name);
  }
  const auto& first = predict::firstLimit(stage);
  if (!first) return tr("%1; nothing ends its swing with any input").arg(sits);
  const double way = first->gridVolts;
  return tr(way < 0 ? "%1: %2 comes first, %3 under its bias" : "%1: %2 comes first, %3 over its bias")
      .arg(sits, toldWords(predict::words(*first)), readingOf(std::abs(way), Unit::volt));
}

FigureTable::Rows readingsOf(const StageReadings* ink, const StageReadings* pencil) {
  FigureTable::Rows rows;
  const auto* now = pencil ? pencil : ink;
  if (!now) return rows;
  const auto both = [&](const QString& title, auto pick, bool danger = false) {
    const QString was = ink ? pick(*ink) : QString(), is = pencil ? pick(*pencil) : QString();
    if (was.isEmpty() && is.isEmpty()) return;
    const bool stands = is.isEmpty() || is == was;
    std::vector<FigureTable::Cell> row{
        {title, Look::quiet}, {was.isEmpty() ? noReading() : was, danger && stands ? Look::danger : Look::figure}};
    if (!stands) row.push_back({is, danger ? Look::danger : Look::pencil});
    rows.push_back(std::move(row));
  };
  const auto optional = [](const std::optional<double>& value, Unit unit) {
    return value ? readingOf(*value, unit) : QString();
  };
  using S = StageReadings;
  both(tr("plate"),
       [](const S& s) { return meterReading(s.tube.plateVolts + s.tube.cathodeVoltsToGround, Unit::volt); });
  both(tr("cathode"), [](const S& s) { return meterReading(s.tube.cathodeVoltsToGround, Unit::volt); });
  both(tr("grid to cathode"), [](const S& s) { return meterReading(s.tube.gridVolts, Unit::volt); });
  both(tr("screen to cathode"), [&](const S& s) { return optional(s.tube.screenVolts, Unit::volt); });
  both(tr("current"), [](const S& s) { return meterReading(s.tube.plateAmps, Unit::ampere); });
  both(tr("screen current"), [&](const S& s) { return optional(s.tube.screenAmps, Unit::ampere); });
  const auto limited = [](const QString& title, const std::optional<double>& limit) {
    return limit ? tr("%1 of %2").arg(title, readingOf(*limit, Unit::watt)) : title;
  };
  both(
      limited(tr("plate watts"), now->tube.plateWattsLimit),
      [](const S& s) { return meterReading(s.tube.plateWatts, Unit::watt); }, predict::plateRating(now->tube).over());
  both(
      limited(tr("screen watts"), now->screenWattsLimit),
      [](const S& s) { return s.tube.screenWatts ? meterReading(*s.tube.screenWatts, Unit::watt) : QString(); },
      now->screenWattsLimit && now->tube.screenWatts && *now->tube.screenWatts > *now->screenWattsLimit);
  both(tr("gain here"), [](const S& s) { return s.gain ? times(*s.gain) : QString(); });
  both(tr("cathode held still"), [](const S& s) { return s.gainBypassed ? times(*s.gainBypassed) : QString(); });
  both(tr("nothing bypassed"), [](const S& s) { return s.gainUnbypassed ? times(*s.gainUnbypassed) : QString(); });
  // What does not change while a value is turned stands with the name, so that ink and pencil have room beside it.
  const auto sheet = [&](const QString& title, std::optional<double> predict::PublishedFigures::*published, Unit unit) {
    const auto value = now->published ? (*now->published).*published : std::nullopt;
    return value ? tr("%1 (sheet %2)").arg(title, readingOf(*value, unit)) : title;
  };
  using Sheet = predict::PublishedFigures;
  both(sheet(tr("mu"), &Sheet::mu, Unit::none),
       [](const S& s) { return std::isfinite(s.tube.mu) ? QString::number(s.tube.mu, 'g', 3) : QString(); });
  both(sheet(tr("gm"), &Sheet::gm, Unit::siemens),
       [](const S& s) { return s.tube.gm > 1e-9 ? readingOf(s.tube.gm, Unit::siemens) : QString(); });
  both(sheet(tr("rp"), &Sheet::rp, Unit::ohm),
       [](const S& s) { return std::isfinite(s.tube.rp) ? readingOf(s.tube.rp, Unit::ohm) : QString(); });
  both(tr("output"), [&](const S& s) { return optional(s.outputOhms, Unit::ohm); });
  both(tr("driven from"), [&](const S& s) { return optional(s.sourceOhms, Unit::ohm); });
  both(tr("input"), [&](const S& s) { return optional(s.inputFarads, Unit::farad); });
  both(tr("Miller corner"), [&](const S& s) { return optional(s.millerHertz, Unit::hertz); });
  using Crest = std::optional<predict::CrestLimit>;
  const auto side = [&](const QString& title, Crest S::*crest) {
    const auto& limit = now->*crest;
    both(!limit                ? title
         : limit->isPartners() ? tr("%1, by its partner").arg(title) // there is no room for how
                               : tr("%1: %2").arg(title, toldWords(predict::words(*limit))),
         [&](const S& s) { return s.*crest ? signedVolts((s.*crest)->gridVolts) : QString(); });
    both(tr("  plate then"), [&](const S& s) { return s.*crest ? signedVolts((s.*crest)->plateVolts) : QString(); });
  };
  side(tr("grid up"), &S::up);
  side(tr("grid down"), &S::down);
  if (!now->shares.empty())
    rows.push_back({{tr("shares its current with"), Look::quiet}, {QString::fromStdString(now->shares)}});
  if (!now->coupled.empty())
    rows.push_back({{tr("its grid stands on the plate of"), Look::quiet}, {QString::fromStdString(now->coupled)}});
  return rows;
}

} // namespace vinegar::app
