#include "window/vitals.h"

#include "drawer/figure_table.h"
#include "theme/theme.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <cmath>

namespace vinegar::app {
namespace {

constexpr double valuePoints = 10.5;

QString read(double value, units::Unit unit, int digits = 3) {
  return QString::fromStdString(units::reading(value, unit, digits));
}

} // namespace

Vitals::Vitals(QWidget* parent) : QWidget(parent) {
  setObjectName(QStringLiteral("vitals"));
  setAttribute(Qt::WA_StyledBackground);
  auto* layout = new QHBoxLayout(this);
  layout->setContentsMargins(8, 0, 8, 0);
  layout->setSpacing(0);
  add(tr("Gain at 1 kHz"), tr("Jack to speaker, at the knobs as they stand. Shows the Voice page."));
  add(tr("E2 against 1 kHz"), tr("Level at the low E, 82.4 Hz, against 1 kHz"));
  add(tr("5 kHz against 1 kHz"), tr("Level at 5 kHz against 1 kHz"));
  add(tr("B+ idle"), tr("DC volts at the reservoir, no signal. Selects the reservoir."));
  add(tr("Idle draw"), tr("DC current out of the reservoir, no signal. Selects the reservoir."));
  add(tr("Hottest plate"), tr("The tube nearest its plate rating, idle. Selects it."));
  add(tr("Findings"), tr("Tubes over their plate rating at idle. Selects the first."));
  connect(cell(0).button, &QPushButton::clicked, this, [this] { Q_EMIT pageWanted(QStringLiteral("Voice")); });
  connect(cell(1).button, &QPushButton::clicked, this, [this] { Q_EMIT pageWanted(QStringLiteral("Voice")); });
  connect(cell(2).button, &QPushButton::clicked, this, [this] { Q_EMIT pageWanted(QStringLiteral("Voice")); });
  connect(cell(3).button, &QPushButton::clicked, this, [this] { Q_EMIT partWanted(QStringLiteral("B+")); });
  connect(cell(4).button, &QPushButton::clicked, this, [this] { Q_EMIT partWanted(QStringLiteral("B+")); });
  connect(cell(5).button, &QPushButton::clicked, this, [this] { Q_EMIT partWanted(hottest_); });
  connect(cell(6).button, &QPushButton::clicked, this, [this] { Q_EMIT partWanted(finding_); });
}

void Vitals::add(const QString& name, const QString& tip) {
  auto* button = new QPushButton(this);
  button->setToolTip(tip);
  button->setObjectName(QStringLiteral("vital"));
  auto* column = new QVBoxLayout(button);
  column->setContentsMargins(8, 5, 2, 6);
  column->setSpacing(1);
  auto* caption = new QLabel(name);
  caption->setProperty("quiet", true);
  caption->setFont(textFont(8.5));
  auto* values = new FigureTable;
  values->setRows({{{QStringLiteral("\u2014"), FigureTable::Look::footer, valuePoints}}}, 99);
  column->addWidget(caption);
  column->addWidget(values);
  for (QWidget* part : {static_cast<QWidget*>(caption), static_cast<QWidget*>(values)})
    part->setAttribute(Qt::WA_TransparentForMouseEvents);
  button->setMinimumHeight(52);
  static_cast<QHBoxLayout*>(layout())->addWidget(button, 1);
  cells_.push_back({button, values, name});
}

void Vitals::set(int index, const QString& ink, const QString& pencil) {
  auto& c = cell(index);
  std::vector<FigureTable::Cell> cells{{ink, FigureTable::Look::footer, valuePoints}};
  if (pencil != ink) cells.push_back({pencil, FigureTable::Look::footerPencil, valuePoints});
  c.values->setRows({std::move(cells)}, 99);
  c.button->setAccessibleName(c.name + QStringLiteral(": ") + ink +
                              (pencil == ink ? QString() : tr(", pencil %1").arg(pencil)));
}

void Vitals::display(const Shown& shown, const std::vector<Problem>& also) {
  const auto texts = [&](const Shown::Answer& answer) {
    std::array<QString, 7> t;
    t.fill(QStringLiteral("\u2014"));
    if (!answer) {
      t[6] = QStringLiteral("\u26a0 ") + tr("no answer");
      return t;
    }
    const auto& v = (*answer)->vitals;
    t[0] = read(v.gain.at1kHz, units::Unit::decibel);
    const auto lean = [&v](double level) { return signedDecibels(level - v.gain.at1kHz) + QStringLiteral(" dB"); };
    t[1] = lean(v.gain.atE2);
    t[2] = lean(v.gain.at5kHz);
    t[3] = read(v.reservoirVolts, units::Unit::volt);
    t[4] = read(v.reservoirAmps, units::Unit::ampere);
    if (!v.hottestTube.empty())
      t[5] = QStringLiteral("%1 %2 %")
                 .arg(QString::fromStdString(v.hottestTube))
                 .arg(std::lround(100 * v.hottestWatts / v.hottestLimit));
    // What the supply's rules find is of what stands now; the ink's own count waits until it stands.
    const auto count = v.findings.size() + (&answer == &shown.now() ? also.size() : 0);
    t[6] = count == 0 ? tr("none") : QStringLiteral("\u26a0 ") + tr("%n to look at", nullptr, static_cast<int>(count));
    return t;
  };
  const auto ink = texts(shown.ink), pencil = texts(shown.now());
  for (int i = 0; i < 7; ++i)
    set(i, ink[static_cast<std::size_t>(i)], pencil[static_cast<std::size_t>(i)]);
  hottest_.clear();
  finding_.clear();
  if (const auto& now = shown.now()) {
    hottest_ = QString::fromStdString((*now)->vitals.hottestTube);
    auto all = (*now)->vitals.findings;
    all.insert(all.end(), also.begin(), also.end());
    if (!all.empty()) {
      finding_ = QString::fromStdString(all.front().place);
      cell(6).button->setToolTip(QString::fromStdString(all.front().line()));
    }
  } else {
    finding_ = QString::fromStdString(now.error().place);
    cell(6).button->setToolTip(QString::fromStdString(now.error().line()));
  }
}

} // namespace vinegar::app
