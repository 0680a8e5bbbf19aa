#include "pages/feel/burst_view.h"

#include "theme/text.h"
#include "widgets/readings.h"

#include <QComboBox>
#include <QLabel>
#include <QSlider>
#include <cmath>

namespace vinegar::app {
namespace {

using predict::Track;
using units::Unit;
using Look = CurvePlot::Look;

constexpr int momentSteps = 1000;

Look thickOf(Side::Look look, int& others) {
  if (look == Side::Look::ink) return Look::ink;
  if (look == Side::Look::active) return Look::pencil;
  return others++ == 0 ? Look::other : Look::another;
}
Look thinOf(Side::Look look) { return look == Side::Look::ink ? Look::inkThin : Look::pencilThin; }

std::vector<double> secondsOf(const predict::Burst& burst, std::size_t count) {
  std::vector<double> seconds(count);
  for (std::size_t k = 0; k < count; ++k)
    seconds[k] = burst.secondsOf(k);
  return seconds;
}

/// Steps that err by over a tenth of the loudest are not let pass.
predict::BurstQuestion bounded(predict::BurstQuestion question) {
  question.mostStepError = 0.1;
  return question;
}

const predict::RailDip* fedOf(const predict::Feel& feel) {
  return feel.fed < 0 ? nullptr : &feel.rails[static_cast<std::size_t>(feel.fed)];
}

} // namespace

BurstView::BurstView(Page& page, PhraseBox& phrases)
    : FeelView(page, phrases, {"burstAnswer", "burst", tr("Burst readings"), tr("burst"), tr("burst-table")}) {
  setObjectName(QStringLiteral("burstView"));
  setShares(10, 9);
  look_ = new QComboBox;
  look_->setObjectName(QStringLiteral("burstLook"));
  look_->setAccessibleName(tr("What is shown of the burst"));
  look_->addItem(tr("B+ and output"), QStringLiteral("supply"));
  look_->addItem(tr("All nodes"), QStringLiteral("nodes"));
  look_->addItem(tr("Bias of the output stage"), QStringLiteral("bias"));
  look_->addItem(tr("A moment"), QStringLiteral("moment"));
  curves().addTool(look_);
  moment_ = new QSlider(Qt::Horizontal);
  moment_->setObjectName(QStringLiteral("moment"));
  moment_->setAccessibleName(tr("The moment that is looked into"));
  moment_->setRange(0, momentSteps);
  moment_->setPageStep(momentSteps / 20);
  moment_->setFixedWidth(150);
  moment_->hide();
  curves().addTool(moment_);
  connect(look_, &QComboBox::activated, this, [this] { draw(); });
  connect(moment_, &QSlider::valueChanged, this, [this] { draw(); });
  connect(&sheet(), &FigureSheet::cellTaken, this, [this](int row, int) {
    if (const auto at = static_cast<std::size_t>(row); at < parts_.size() && !parts_[at].empty()) select(parts_[at]);
  });
  connect(&curves(), &CurvePlot::placeClicked, this, [this](double x, double) {
    const auto* feel = burst_->any();
    if (!feel || look() == QLatin1String("moment")) return;
    const double all = static_cast<double>(feel->burst.output.size()) / feel->burst.samplesPerSecond;
    moment_->setValue(static_cast<int>(momentSteps * (x + feel->burst.lead) / all));
  });
}

QString BurstView::look() const { return look_->currentData().toString(); }

void BurstView::setLook(const QString& id) {
  if (const int at = look_->findData(id); at >= 0) look_->setCurrentIndex(at);
}

void BurstView::put() {
  // A glance at the beginning, in which most of the droop comes, within some frames; then all of it.
  auto glance = burst(coarse);
  glance.mostSeconds = 0.25;
  burst_.ask(glance, bounded(burst(fine)));
  blame_.askAfresh(burst(middling));
}

void BurstView::draw() {
  const auto *now = standing(*burst_), *ink = burst_->inkValue();
  if (!now) return;
  const bool isCoarse = burst_.isCoarse();
  // A glance is at the beginning alone.
  const auto text = said(*now, ink != now ? ink : nullptr);
  answer().setText(isCoarse ? tr("%1 (its beginning, coarse, being refined)").arg(text) : text);
  CurvePlot::Picture picture;
  picture.xLabel = tr("seconds");
  picture.xUnit = tr("s");
  const auto id = look();
  moment_->setVisible(id == QLatin1String("moment"));
  if (id == QLatin1String("nodes"))
    drawNodes(picture);
  else if (id == QLatin1String("bias"))
    drawBias(picture);
  else if (id == QLatin1String("moment"))
    drawMoment(picture);
  else
    drawSupply(picture);
  if (id != QLatin1String("moment") && !isCoarse)
    picture.marks.push_back(
        {now->burst.sounds, tr("stopped"), true, false, static_cast<int>(picture.panes.size()) - 1});
  curves().show(std::move(picture));
  fillSheet(*now, ink != now ? ink : nullptr);
}

QString BurstView::said(const predict::Feel& now, const predict::Feel* ink) {
  QString text;
  if (const auto* dip = fedOf(now)) {
    constexpr double stiff = 0.01;
    text = dip->share() < stiff
               ? tr("%1 hardly sags: %2").arg(railWords(dip->rail), droopWords(*dip))
               : tr("%1 sags by %2 in %3").arg(railWords(dip->rail), droopWords(*dip), secondsWords(dip->down90));
    if (dip->share() >= stiff && std::isfinite(dip->back90))
      text += tr(" and is back %1 after the last note").arg(secondsWords(dip->back90));
    // A screen's or a driver's node may give way where the plates' hardly does.
    const auto most = std::max_element(now.rails.begin(), now.rails.end(),
                                       [](const auto& a, const auto& b) { return a.share() < b.share(); });
    constexpr double far = 2;
    if (most->share() > stiff && most->share() > far * dip->share())
      text += tr("; node %1 by %2").arg(QString::fromStdString(most->rail), droopWords(*most));
    if (const auto* before = ink ? fedOf(*ink) : nullptr) text += tr("; in ink by %1").arg(droopWords(*before));
  } else {
    text = tr("Its rails come from a bench supply, which holds them: nothing sags. Put in a transformer and rectifier "
              "to see what a real supply does");
  }
  return text;
}

void BurstView::drawSupply(CurvePlot::Picture& picture) {
  const auto& answers = *burst_;
  picture.title = tr("Burst");
  double loudest = 0;
  bool rails = false;
  for (const auto& side : answers.sides)
    if (const auto* feel = side.get()) {
      rails |= feel->fed >= 0;
      if (loudest == 0) loudest = feel->outputVolts;
    }
  const int lower = rails ? 1 : 0;
  if (rails) picture.panes.push_back({tr("B+, V"), tr("V"), CurvePlot::Pane::Scale::tight});
  picture.panes.push_back({tr("output, dB"),
                           tr("dB"),
                           CurvePlot::Pane::Scale::tight,
                           std::pair{-24.0, 3.0},
                           {},
                           {{0, QStringLiteral("0")}, {-10, QStringLiteral("-10")}, {-20, QStringLiteral("-20")}}});
  int others = 0;
  for (const auto& side : answers.sides) {
    const auto* feel = side.get();
    if (!feel) continue;
    const auto look = thickOf(side.side.look, others);
    if (const auto* dip = fedOf(*feel)) {
      const auto volts = predict::overPeriods(feel->burst.track(Track::What::rail, dip->rail)->mean);
      picture.curves.push_back({QStringLiteral("%1, %2").arg(QString::fromStdString(dip->rail), side.side.name),
                                secondsOf(feel->burst, volts.size()), volts, look, 0});
    }
    std::vector<double> decibels;
    for (const double volts : feel->envelope)
      decibels.push_back(20 * std::log10(std::max(volts, 1e-6) / std::max(loudest, 1e-6)));
    picture.curves.push_back(
        {tr("output, %1").arg(side.side.name), secondsOf(feel->burst, decibels.size()), decibels, look, lower});
  }
}

void BurstView::drawNodes(CurvePlot::Picture& picture) {
  picture.title = tr("Nodes");
  picture.panes.push_back({tr("V"), tr("V"), CurvePlot::Pane::Scale::tight});
  for (const auto& side : burst_->sides) {
    const auto* feel = side.get();
    if (!feel || (side.side.look != Side::Look::ink && side.side.look != Side::Look::active)) continue;
    for (const auto& track : feel->burst.tracks) {
      if (track.what != Track::What::rail) continue;
      const auto volts = predict::overPeriods(track.mean);
      const bool ink = side.side.look == Side::Look::ink;
      picture.curves.push_back({QStringLiteral("%1, %2").arg(QString::fromStdString(track.name), side.side.name),
                                secondsOf(feel->burst, volts.size()), volts, ink ? Look::ink : Look::pencil, 0,
                                ink ? QString::fromStdString(track.name) : QString(), 0.97});
    }
  }
}

void BurstView::drawBias(CurvePlot::Picture& picture) {
  picture.title = tr("Bias");
  picture.panes.push_back({tr("grid to cathode, V"), tr("V"), CurvePlot::Pane::Scale::tight});
  picture.panes.push_back({tr("cathode, V"), tr("V"), CurvePlot::Pane::Scale::tight});
  constexpr double slowly = 3; // as the readings are taken
  for (const auto& side : burst_->sides) {
    const auto* feel = side.get();
    if (!feel || (side.side.look != Side::Look::ink && side.side.look != Side::Look::active)) continue;
    bool first = true;
    for (const auto& track : feel->burst.tracks) {
      if (track.what != Track::What::grid && track.what != Track::What::cathode) continue;
      const auto volts = predict::overPeriods(track.mean, slowly);
      const auto name = QString::fromStdString(track.name);
      const bool grid = track.what == Track::What::grid;
      picture.curves.push_back(
          {QStringLiteral("%1, %2").arg(name, side.side.name), secondsOf(feel->burst, volts.size()), volts,
           first || !grid ? (side.side.look == Side::Look::ink ? Look::ink : Look::pencil) : thinOf(side.side.look),
           grid ? 0 : 1, grid ? name : QString(), first ? 0.2 : 0.3});
      if (!grid) first = false;
    }
  }
}

void BurstView::drawMoment(CurvePlot::Picture& picture) {
  picture.title = tr("Moment");
  picture.panes.push_back({tr("speaker, V"), tr("V")});
  bool supply = false;
  for (const auto& side : burst_->sides)
    if (const auto* feel = side.get()) supply |= !feel->burst.reservoir.empty();
  if (supply) picture.panes.push_back({tr("reservoir, V"), tr("V"), CurvePlot::Pane::Scale::tight});
  int others = 0;
  constexpr double periods = 3;
  for (const auto& side : burst_->sides) {
    const auto* feel = side.get();
    if (!feel) continue;
    const auto& burst = feel->burst;
    const auto look = thickOf(side.side.look, others);
    const auto wide = static_cast<std::size_t>(periods * burst.samplesPerSecond / burst.mainsHertz);
    if (burst.output.size() <= wide) continue;
    const auto from =
        static_cast<std::size_t>(static_cast<double>(burst.output.size() - wide) * moment_->value() / momentSteps);
    std::vector<double> seconds, speaker, reservoir;
    for (std::size_t k = from; k < from + wide; ++k) {
      seconds.push_back(static_cast<double>(k + 1) / burst.samplesPerSecond - burst.lead);
      speaker.push_back(burst.output[k]);
      if (!burst.reservoir.empty()) reservoir.push_back(burst.reservoir[k]);
    }
    picture.curves.push_back({tr("speaker, %1").arg(side.side.name), seconds, speaker, look, 0});
    if (!reservoir.empty())
      picture.curves.push_back({tr("reservoir, %1").arg(side.side.name), seconds, reservoir, look, 1});
  }
}

void BurstView::fillSheet(const predict::Feel& now, const predict::Feel* ink) {
  std::vector<FigureSheet::Row> rows;
  parts_.clear();
  const auto put = [&](const QString& what, const QString& inked, const QString& pencilled, const QString& tip = {},
                       bool danger = false, const std::string& part = {}) {
    FigureSheet::Row row;
    row.cells.push_back({what, tip, danger, false, true});
    if (ink) row.cells.push_back({inked, tip});
    row.cells.push_back({danger ? warned(pencilled) : pencilled, tip, danger, ink != nullptr});
    rows.push_back(std::move(row));
    parts_.push_back(part);
  };
  const auto both = [&](const QString& what, const auto& words, const QString& tip = {}) {
    put(what, ink ? words(*ink) : QString(), words(now), tip);
  };
  const auto dip = [&](const auto& words) {
    return [words](const predict::Feel& feel) {
      const auto* one = fedOf(feel);
      return one ? words(*one) : noReading();
    };
  };
  if (fedOf(now)) {
    both(tr("droop"), dip([](const auto& d) { return droopWords(d); }));
    both(tr("sag time 63/90 %"), dip([](const auto& d) {
           return QStringLiteral("%1, %2").arg(secondsWords(d.down63), secondsWords(d.down90));
         }));
    both(tr("recovery time 63/90 %"), dip([](const auto& d) {
           return QStringLiteral("%1, %2").arg(secondsWords(d.back63), secondsWords(d.back90));
         }),
         tr("After the last note is stopped, of what is left of the droop then"));
  }
  const auto blame = [&](const auto& words) {
    const auto *mine = blame_->nowValue(), *theirs = blame_->inkValue();
    const bool fresh = blame_->edition == burst_->edition;
    return std::pair{fresh && theirs ? words(*theirs) : QStringLiteral("..."),
                     fresh && mine ? words(*mine) : QStringLiteral("...")};
  };
  const auto loss = blame([](const predict::Blame& b) {
    return tr("%1 dB at %2").arg(b.attackLoss, 0, 'f', 1).arg(secondsWords(b.attackLossAt));
  });
  put(tr("attack loss"), loss.first, loss.second,
      tr("The most that supply, bias and blocking take from the output in its first quarter second, against the same "
         "with all three held still"));
  const auto bloom = blame([](const predict::Blame& b) { return tr("%1 dB").arg(b.bloom, 0, 'f', 1); });
  put(tr("bloom"), bloom.first, bloom.second, tr("How much of it is back when the last note is stopped"));
  if (fedOf(now)) {
    both(tr("B+ before"), dip([](const auto& d) { return readingOf(d.before, Unit::volt, 4); }));
    both(tr("lowest"), dip([](const auto& d) {
           return tr("%1 at %2").arg(readingOf(d.lowest, Unit::volt, 4), secondsWords(d.lowestAt));
         }));
    both(tr("settled"), dip([](const auto& d) { return readingOf(d.settled, Unit::volt, 4); }),
         tr("Over the last sixth of what sounds"));
  }
  both(tr("loudest"), [](const predict::Feel& feel) {
    const auto volts = readingOf(feel.outputVolts, Unit::volt);
    // A line that ends without a loudspeaker gives none a watt.
    return feel.outputWatts > 0 ? QStringLiteral("%1, %2").arg(volts, readingOf(feel.outputWatts, Unit::watt)) : volts;
  });
  if (fedOf(now)) {
    both(
        tr("ripple, at the lowest"),
        [](const predict::Feel& feel) {
          return tr("%1 pp, %2")
              .arg(readingOf(feel.rippleAtRest, Unit::volt, 2), readingOf(feel.rippleVolts, Unit::volt, 2));
        },
        tr("Peak to peak of B+ at rest, and at its lowest"));
    for (const auto& beat : now.beats)
      put(tr("%1 Hz with %2 Hz").arg(now.rippleHertz, 0, 'f', 0).arg(beat.ofHertz, 0, 'f', 0), {},
          noteWords(beat.hertz), tr("Ghost note: intermodulation of ripple and note"));
  }
  for (std::size_t i = 0; i < now.bias.size(); ++i) {
    const auto volts = [&](double predict::BiasMove::*which) {
      return [i, which](const predict::Feel& feel) {
        return i < feel.bias.size() ? signedVolts(feel.bias[i].*which) : noReading();
      };
    };
    const auto name = QString::fromStdString(now.bias[i].tube);
    const auto row = [&](const QString& what, const auto& words, const QString& tip) {
      put(what, ink ? words(*ink) : QString(), words(now), tip, false, now.bias[i].tube);
    };
    row(tr("%1 bias moves").arg(name), volts(&predict::BiasMove::most),
        tr("The most, over three periods of the mains; down is colder"));
    row(tr("%1 by its cathode").arg(name), volts(&predict::BiasMove::byCathode),
        tr("Of that, what its cathode has risen; the rest is the grid's, charged where it conducts"));
  }
  for (std::size_t i = 0; i < now.stresses.size(); ++i) {
    const auto words = [i](const predict::Feel& feel) {
      if (i >= feel.stresses.size()) return noReading();
      const auto& s = feel.stresses[i];
      const auto unit = predict::unitOf(s.quantity);
      return s.limit ? tr("%1 of %2").arg(readingOf(s.value, unit), readingOf(*s.limit, unit))
                     : readingOf(s.value, unit);
    };
    const auto& s = now.stresses[i];
    put(QStringLiteral("%1 %2").arg(QString::fromStdString(s.part),
                                    tr(std::string(predict::words(s.quantity)).c_str())),
        ink ? words(*ink) : QString(), words(now),
        s.quantity == predict::Rating::Quantity::peakAmps ? tr("The highest in the burst")
                                                          : tr("The most over half a second of the burst"),
        s.over(), s.part);
  }
  const auto finer = [](const predict::Feel& feel) {
    const auto& burst = feel.burst;
    const auto all = burst.track(Track::What::output) ? burst.track(Track::What::output)->mean.size() : 0;
    return burst.redone + burst.finer > 0 ? tr("%1 of %2 moments").arg(burst.redone + burst.finer).arg(all)
                                          : tr("nowhere");
  };
  both(tr("finer steps"), finer,
       tr("Moments whose step would have erred by over a tenth of the loudest were recomputed with quarter steps"));
  sheet().setStretched(ink ? QList<int>{} : QList<int>{1});
  sheet().setSheet(ink ? QStringList{tr("reading"), tr("ink"), tr("pencil")} : QStringList{tr("reading"), tr("ink")},
                   std::move(rows));
}

} // namespace vinegar::app

#include "moc_burst_view.cpp"
