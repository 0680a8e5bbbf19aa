#include "window/vitals.h"

#include "files/phrases.h"
#include "theme/text.h"
#include "theme/theme.h"
#include "widgets/figure_table.h"
#include "widgets/readings.h"

#include <QHBoxLayout>
#include <QPushButton>
#include <algorithm>
#include <array>
#include <functional>
#include <numbers>
#include <numeric>

namespace vinegar::app {
namespace {

constexpr double valuePoints = 10.5, captionPoints = 8.5;
constexpr std::array<int, 9> usualShares{9, 9, 9, 11, 11, 13, 7, 10, 10}; ///< two currents take more than two shares
constexpr int clips = 3, supplied = 4, drawn = 5, sags = 6, hot = 7, found = 8; ///< places of the vitals

/// The first half second of a hard chord, clean at the jack: what a supply gives way by shows in it.
std::shared_ptr<const predict::Sound> hardChord(const QString& dataFolder) {
  const auto chord = files::readSound(dataFolder.toStdString(), "chord", "guitar", 0.5);
  return chord ? *chord : nullptr; // the Feel page says why
}

/// Of the same tube the pencil tells its figure alone. `at`: where the words name it.
QString besides(const QString& pencil, const QString& ink, int at) {
  if (pencil.section(QLatin1Char(' '), at, at) != ink.section(QLatin1Char(' '), at, at)) return pencil;
  return at < 0 ? pencil.section(QLatin1Char(' '), 0, -2) : pencil.section(QLatin1Char(' '), 1);
}

constexpr double coarseRate = 6000;

} // namespace

Vitals::Vitals(Asker& asker, const FindingsDesk& findings, const QString& dataFolder, QWidget* parent)
    : QWidget(parent), asker_(asker), findings_(findings),
      asking_(asker, predict::predictVitals, Weight::quick, Of::inkAndNow),
      clipping_(asker, predict::predictClipping, Weight::background, Of::inkAndNow),
      sag_(asker, predict::predictFeel, Weight::background, Of::inkAndNow) {
  setObjectName(QStringLiteral("vitals"));
  setAttribute(Qt::WA_StyledBackground);
  auto* layout = new QHBoxLayout(this);
  layout->setContentsMargins(8, 0, 8, 0);
  layout->setSpacing(0);
  add(tr("Gain at 1 kHz"),
      tr("Jack to speaker, or to the end of the line, at the knobs as they stand. Shows the Voice page."));
  add(tr("E2 to 1 kHz"), tr("Level at the low E, 82.4 Hz, against 1 kHz"));
  add(tr("5 kHz to 1 kHz"), tr("Level at 5 kHz against 1 kHz"));
  add(tr("First clipping"), tr("Input, rms at 1 kHz, at which anything clips, and what. Shows the Levels page."));
  add(tr("B+ idle"), tr("DC volts at the reservoir, no signal. Selects the reservoir."));
  add(tr("Idle draw"), tr("DC current out of the reservoir, no signal. Selects the reservoir."));
  add(tr("Sag"),
      tr("Sag of B+ under a hard chord at the source's ordinary level, 100 mV of a guitar, to a percent. Shows the "
         "Feel page."));
  add(tr("Hottest plate"), tr("The tube nearest its plate rating, idle. Selects it."));
  add(tr("Findings"), tr("What is over a rating or unsafe in what stands now. Selects the first."));
  for (const int level : {0, 1, 2})
    connect(cell(level).button, &QPushButton::clicked, this, [this] { Q_EMIT topicWanted(PageFacts::gain); });
  connect(cell(clips).button, &QPushButton::clicked, this, [this] { Q_EMIT topicWanted(PageFacts::clipping); });
  connect(cell(sags).button, &QPushButton::clicked, this, [this] { Q_EMIT topicWanted(PageFacts::sagging); });
  for (const int supply : {supplied, drawn})
    connect(cell(supply).button, &QPushButton::clicked, this, [this] { Q_EMIT partWanted(reservoir_); });
  connect(cell(hot).button, &QPushButton::clicked, this, [this] { Q_EMIT partWanted(hottest_); });
  connect(cell(found).button, &QPushButton::clicked, this, [this] {
    // What concerns no one part is told in full where the findings are.
    if (finding_.isEmpty() && !findings_.findings().empty())
      Q_EMIT topicWanted(PageFacts::findings);
    else
      Q_EMIT partWanted(finding_);
  });
  connect(&findings, &FindingsDesk::changed, this, &Vitals::showFindings);
  asking_.answered = [this](const auto& answers) { draw(answers); };
  asking_.ask({});
  // Waves take longer than a frame: they are worked out when the builder has stopped turning, as findings are.
  clipping_.sleep();
  clipping_.ask({1000, predict::ClippingQuestion::Which::first});
  clipping_.answered = [this](const auto& answers) {
    showClipping(answers);
    clipping_.sleep();
  };
  sag_.sleep();
  sag_.answered = [this](const auto& answers) {
    showSag(answers);
    sag_.sleep();
  };
  connect(&findings, &FindingsDesk::changed, this, [this, chord = hardChord(dataFolder)] {
    if (const auto* now = asker_.idle().now(); now && chord)
      sag_.ask({chord, std::numbers::sqrt2 * amp::sourceVolts(*now->side.design, asker_.library()), coarseRate});
    for (AskingBase* waiting : {static_cast<AskingBase*>(&clipping_), static_cast<AskingBase*>(&sag_)}) {
      waiting->wake();
      if (!waiting->busy()) waiting->sleep();
    }
  });
}

void Vitals::add(const QString& name, const QString& tip) {
  auto* button = new QPushButton(this);
  button->setToolTip(tip);
  button->setObjectName(QStringLiteral("vital"));
  auto* column = new QVBoxLayout(button);
  column->setContentsMargins(8, 5, 2, 6);
  column->setSpacing(1);
  auto* caption = new Label(name);
  caption->setProperty("quiet", true);
  caption->setFont(textFont(captionPoints));
  auto* values = new FigureTable;
  values->setRows({{{noReading(), FigureTable::Look::footer, valuePoints}}}, 99);
  column->addWidget(caption);
  column->addWidget(values);
  for (QWidget* part : {static_cast<QWidget*>(caption), static_cast<QWidget*>(values)})
    part->setAttribute(Qt::WA_TransparentForMouseEvents);
  button->setMinimumHeight(52);
  static_cast<QHBoxLayout*>(layout())->addWidget(button, 1);
  cells_.push_back({button, values, name, tip, noReading(), noReading()});
}

void Vitals::set(int index, const QString& ink, const QString& pencil) {
  auto& c = cell(index);
  if (c.needed > 0 && c.ink == ink && c.pencil == pencil) return;
  c.ink = ink;
  c.pencil = pencil;
  c.needed = std::max(needOf(c, true), QFontMetrics(textFont(captionPoints)).horizontalAdvance(c.name) + 10);
  if (!share())
    write(c);
  else
    for (auto& each : cells_)
      write(each);
  c.button->setAccessibleName(c.name + QStringLiteral(": ") + ink +
                              (pencil == ink ? QString() : tr(", pencil %1").arg(pencil)));
}

QString Vitals::inkOf(const Cell& c, bool unitOnce) {
  const auto unit = c.ink.mid(c.ink.lastIndexOf(QLatin1Char(' ')));
  const bool shared = c.pencil != c.ink && unit.startsWith(QLatin1Char(' ')) && c.pencil.endsWith(unit);
  return unitOnce && shared ? c.ink.chopped(unit.size()) : c.ink;
}

int Vitals::needOf(const Cell& c, bool unitOnce) {
  constexpr int around = 12, between = 10;
  const QFontMetrics metrics(figureFont(valuePoints));
  const int ink = around + metrics.horizontalAdvance(inkOf(c, unitOnce));
  return c.pencil == c.ink ? ink : ink + between + metrics.horizontalAdvance(c.pencil);
}

void Vitals::write(Cell& c) {
  // Where both have no room beside each other, the unit that they share is written once.
  std::vector<FigureTable::Cell> cells{{inkOf(c, needOf(c, false) > c.width), FigureTable::Look::footer, valuePoints}};
  if (c.pencil != c.ink) cells.push_back({c.pencil, FigureTable::Look::footerPencil, valuePoints});
  c.values->setRows({std::move(cells)}, 99);
}

/// The cells stand where they always do while that is room enough, and else take from each other what they need; once
/// they have, they stay while a value is turned.
bool Vitals::share() {
  const int room = width() - layout()->contentsMargins().left() - layout()->contentsMargins().right();
  std::vector<int> usual, need;
  for (std::size_t i = 0; i < cells_.size(); ++i) {
    usual.push_back(room * usualShares[i] / std::accumulate(usualShares.begin(), usualShares.end(), 0));
    need.push_back(cells_[i].needed);
  }
  const bool fitsUsual = std::equal(need.begin(), need.end(), usual.begin(), std::less_equal<>());
  const bool fits = std::all_of(cells_.begin(), cells_.end(), [&](const Cell& c) {
    return need[static_cast<std::size_t>(&c - cells_.data())] <= c.width;
  });
  const bool pencilled = std::any_of(cells_.begin(), cells_.end(), [](const Cell& c) { return c.ink != c.pencil; });
  if (byNeed_ ? pencilled && fits : (!pencilled || fitsUsual) && cells_.front().width == usual.front()) return false;
  byNeed_ = pencilled && !fitsUsual;
  const int spare = (room - std::accumulate(need.begin(), need.end(), 0)) / static_cast<int>(cells_.size());
  for (std::size_t i = 0; i < cells_.size(); ++i) {
    cells_[i].width = byNeed_ ? std::max(1, need[i] + spare) : usual[i];
    static_cast<QHBoxLayout*>(layout())->setStretch(static_cast<int>(i), cells_[i].width);
  }
  return true;
}

void Vitals::resizeEvent(QResizeEvent* event) {
  QWidget::resizeEvent(event);
  byNeed_ = false;
  share();
  for (auto& c : cells_)
    write(c);
}

void Vitals::clear() {
  for (int i = 0; i < static_cast<int>(cells_.size()); ++i) {
    set(i, noReading(), noReading());
    cell(i).button->setToolTip(cell(i).tip);
  }
  hottest_.clear();
  finding_.clear();
  reservoir_.clear();
}

void Vitals::draw(const Answers<predict::Vitals>& answers) {
  constexpr int numbers = 8;
  const auto texts = [&](const predict::Vitals* vitals) {
    std::array<QString, numbers> t;
    t.fill(noReading());
    if (!vitals) return t;
    if (vitals->gain) {
      t[0] = readingOf(vitals->gain->at1kHz, units::Unit::decibel);
      const auto lean = [&](double level) {
        return signedDecibels(level - vitals->gain->at1kHz) + QStringLiteral(" dB");
      };
      t[1] = lean(vitals->gain->atE2);
      t[2] = lean(vitals->gain->at5kHz);
    }
    t[supplied] = meterReading(vitals->reservoirVolts, units::Unit::volt);
    t[drawn] = meterReading(vitals->reservoirAmps, units::Unit::ampere);
    if (!vitals->hottestTube.empty())
      t[hot] = QString::fromStdString(vitals->hottestTube) + QLatin1Char(' ') +
               percent(vitals->hottestWatts / vitals->hottestLimit);
    return t;
  };
  const auto ink = texts(answers.inkValue());
  auto now = texts(answers.nowValue());
  if (now[hot] != ink[hot]) now[hot] = besides(now[hot], ink[hot], 0);
  for (int i = 0; i < numbers; ++i)
    if (i != clips && i != sags) set(i, ink[static_cast<std::size_t>(i)], now[static_cast<std::size_t>(i)]);
  const auto* stands = answers.nowValue();
  reservoir_ = stands ? QString::fromStdString(stands->reservoirPart) : QString();
  hottest_ = stands ? QString::fromStdString(stands->hottestTube) : QString();
  showFindings();
}

void Vitals::showClipping(const Answers<predict::Clipping>& answers) {
  const auto text = [&](const predict::Clipping* clipping) {
    if (!clipping) return noReading();
    const auto* first = clipping->first();
    if (!first) return noReading();
    return readingOf(first->inputPeak / std::numbers::sqrt2, units::Unit::volt, 2) + QLatin1Char(' ') +
           QString::fromStdString(first->tubes.front());
  };
  const auto ink = text(answers.inkValue()), now = text(answers.nowValue());
  set(clips, ink, now == ink ? now : besides(now, ink, -1));
  const auto* first = answers.nowValue() ? answers.nowValue()->first() : nullptr;
  cell(clips).button->setToolTip(plainTip(
      first ? cell(clips).tip + QLatin1Char('\n') +
                  QString::fromStdString(first->tubes.front() + ": " + std::string(predict::words(first->kind)))
            : cell(clips).tip));
}

void Vitals::showSag(const Answers<predict::Feel>& answers) {
  const auto text = [](const predict::Feel* feel) {
    if (!feel || feel->fed < 0) return noReading();
    return percent(feel->rails[static_cast<std::size_t>(feel->fed)].share());
  };
  set(sags, text(answers.inkValue()), text(answers.nowValue()));
}

void Vitals::showFindings() {
  QString text = tr("none"), tip = cell(found).tip;
  finding_.clear();
  const auto& findings = findings_.findings();
  const auto* now = asker_.idle().now();
  const bool nothingThere = now && now->side.design->sections().empty(); // nothing is wrong with it yet
  if (const auto* problem = nothingThere ? nullptr : asker_.idle().problem()) {
    text = warned(tr("no answer"));
    finding_ = QString::fromStdString(problem->place);
    tip = QString::fromStdString(problem->line());
  } else if (nothingThere || asker_.idle().empty()) {
    text = noReading();
  } else if (!findings.empty()) {
    text = warned(tr("%n to look at", nullptr, static_cast<int>(findings.size())));
    finding_ = QString::fromStdString(findings.front().part);
    tip = (finding_.isEmpty() ? QString() : finding_ + QStringLiteral(": ")) +
          QString::fromStdString(findings.front().what);
  }
  set(found, text, text);
  cell(found).button->setToolTip(plainTip(tip));
}

} // namespace vinegar::app

#include "moc_vitals.cpp"
