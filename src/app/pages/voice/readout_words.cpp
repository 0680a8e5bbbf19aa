#include "pages/voice/readout_words.h"

#include "theme/text.h"
#include "widgets/readings.h"

namespace vinegar::app {

using predict::Readout;
using Kind = Readout::Kind;
using units::Unit;

QString readoutWords(const Readout& readout, const amp::Design& design, const amp::Library& library,
                     const QString& against) {
  const auto name = QString::fromStdString(readout.name);
  switch (readout.kind) {
  case Kind::bassCorner:
    return tr("Bass corner");
  case Kind::hump:
    return tr("Hump over midband");
  case Kind::dip:
    return tr("Dip");
  case Kind::dipDepth:
    return tr("Its depth");
  case Kind::peak:
    return readout.hertz < 1500 ? tr("Peak") : tr("Treble peak");
  case Kind::trebleCorner:
    return tr("Treble corner");
  case Kind::level:
    return tr("Level at %1").arg(name);
  case Kind::tilt:
    return tr("%1 to %2").arg(sentence(tr(name.toUtf8().constData())), against);
  case Kind::loss: {
    const auto* use = design.section(readout.name);
    return tr("Loss in %1, least, at %2")
        .arg(use ? QString::fromStdString(amp::describeSection(*use, library)) : name,
             readingOf(readout.hertz, Unit::hertz));
  }
  }
  return name;
}

QString readoutValue(const Readout& readout) {
  if (readout.isFrequency()) return readingOf(readout.value, Unit::hertz);
  const bool difference = readout.kind == Kind::tilt || readout.kind == Kind::hump;
  return tr("%1 dB").arg(difference ? signedDecibels(readout.value) : QString::number(readout.value, 'f', 1));
}

} // namespace vinegar::app
