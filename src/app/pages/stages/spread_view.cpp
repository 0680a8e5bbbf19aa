#include "pages/stages/spread_view.h"

#include "pages/tolerance_box.h"
#include "plots/curve_plot.h"
#include "theme/text.h"
#include "theme/theme.h"
#include "widgets/figure_table.h"
#include "widgets/paragraph.h"
#include "widgets/readings.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QLineEdit>
#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

namespace vinegar::app {
namespace {
constexpr int bandsWidth = 370; ///< a title and three figures

/// What becomes of the tube over all builds, and the same beside another's.
std::pair<QString, QString> toldOf(const predict::StageSpread& spread) {
  using S = SpreadView;
  if (predict::isDead(spread.plateAmps.high))
    return {S::tr("no current worth the name in any build"), S::tr("no current")};
  if (spread.overShare && *spread.overShare > 0) {
    const auto share = S::tr("one build in %1").arg(std::max(1.0, std::round(1 / *spread.overShare)));
    return {S::tr("%1 is over its plate rating").arg(share), S::tr("%1 is over").arg(share)};
  }
  const auto wide =
      S::tr("%1 % either way")
          .arg(100 * (spread.plateAmps.high - spread.plateAmps.low) / 2 / spread.plateAmps.middle, 0, 'f', 0);
  return {S::tr("its current stays within %1").arg(wide), S::tr("within %1").arg(wide)};
}
} // namespace

using predict::Band;
using units::Unit;
using Look = FigureTable::Look;

SpreadView::SpreadView(Page& page, TubeChoice& choice) : StageView(page, choice) {
  auto* column = contentColumn(8);
  told_ = newAnswer("spreadTold");
  column->addWidget(told_);
  auto* row = new QHBoxLayout;
  auto* words = quietLabel(tr("90 % of 500 builds, with"));
  row->addWidget(words);
  tolerance_ = new ToleranceBox(QStringLiteral("tolerance"));
  row->addWidget(tolerance_);
  row->addStretch(1);
  column->addLayout(row);
  auto* beside = new QHBoxLayout;
  beside->setSpacing(16);
  column->addLayout(beside, 1);
  cloud_ = newPlot(tr("builds"));
  cloud_->setObjectName(QStringLiteral("cloud"));
  cloud_->setAccessibleName(tr("Where each build stands"));
  beside->addWidget(cloud_, 1);
  column = new QVBoxLayout;
  beside->addLayout(column);
  bands_ = new FigureTable;
  bands_->setObjectName(QStringLiteral("bands"));
  bands_->setAccessibleName(tr("Bands"));
  bands_->setMinimumWidth(bandsWidth);
  column->addWidget(bands_);
  pairRow_ = new QWidget;
  auto* pair = new QVBoxLayout(pairRow_);
  pair->setContentsMargins(0, 10, 0, 0);
  auto* fields = new QHBoxLayout;
  auto* what = quietLabel(tr("Mismatch: measured idle plate currents of both tubes"));
  what->setWordWrap(true); // the plot has the room
  pair->addWidget(what);
  const auto field = [&](const char* name, const QString& about) {
    auto* edit = new QLineEdit;
    edit->setObjectName(QLatin1String(name));
    edit->setAccessibleName(about);
    edit->setFont(figureFont(9.5));
    edit->setFixedWidth(80);
    fields->addWidget(edit);
    connect(edit, &QLineEdit::returnPressed, this, &SpreadView::putPair);
    return edit;
  };
  first_ = field("firstAmps", tr("Current of this tube, as 36mA"));
  second_ = field("secondAmps", tr("Current of its partner, as 31mA"));
  auto* find = new QPushButton(tr("Compare"));
  find->setObjectName(QStringLiteral("comparePair"));
  fields->addWidget(find);
  fields->addStretch(1);
  pair->addLayout(fields);
  pairSaid_ = new Label;
  pairSaid_->setObjectName(QStringLiteral("pairSaid"));
  pair->addWidget(pairSaid_);
  pairs_ = new FigureTable;
  pairs_->setObjectName(QStringLiteral("pairTable"));
  pairs_->setMaximumWidth(640);
  pair->addWidget(pairs_);
  column->addWidget(pairRow_);
  column->addStretch(1);
  pair_.then = [this] { drawPair(); };
  connect(tolerance_, &QComboBox::activated, this, &SpreadView::askSpread);
  connect(find, &QPushButton::clicked, this, &SpreadView::putPair);
  connect(&choice, &TubeChoice::chosen, this, [this] {
    pair_.rest();
    pairs_->setRows({}, 99);
    pairSaid_->clear();
  });
}

void SpreadView::put(const predict::Idle& now) {
  const auto* part = now.circuit->part(choice().tube());
  pairRow_->setVisible(part && predict::outputTransformerOf(*now.circuit, *part));
  askSpread();
}

void SpreadView::clear() {
  bands_->setRows({}, 99);
  pairs_->setRows({}, 99);
  pairSaid_->clear();
  StageView::clear();
}

void SpreadView::askSpread() { spread_.ask({choice().tube(), tolerance_->tolerances()}); }

void SpreadView::putPair() {
  const auto first = units::parse(first_->text().toStdString(), Unit::ampere);
  const auto second = units::parse(second_->text().toStdString(), Unit::ampere);
  const bool good = first && second && *first > 0 && *second > 0;
  setLook(pairSaid_, "danger", !good);
  if (!good) {
    pairs_->setRows({}, 99);
    return pairSaid_->setText(!first    ? QString::fromStdString(first.error().message)
                              : !second ? QString::fromStdString(second.error().message)
                                        : tr("Currents must be above zero."));
  }
  pairSaid_->clear();
  pair_.ask({choice().tube(), *first, *second});
}

void SpreadView::draw() {
  const auto *ink = spread_->inkValue(), *pencil = spread_->pencilValue();
  const auto* now = standing(*spread_);
  if (!now) return;
  const auto name = QString::fromStdString(choice().tube());
  const auto [told, figure] = toldOf(*now);
  const auto before = ink ? toldOf(*ink) : std::pair(told, figure);
  told_->setText(before.second == figure ? tr("%1: %2").arg(name, told)
                                         : tr("%1: %2 (in ink: %3)").arg(name, told, before.second));
  FigureTable::Rows rows{
      {{{}, Look::quiet}, {tr("low"), Look::quiet}, {tr("middle"), Look::quiet}, {tr("high"), Look::quiet}}};
  const auto band = [&](const QString& title, const Band& b, Unit unit, Look look) {
    const auto text = [&](double v) { return unit == Unit::none ? QString::number(v, 'g', 3) : readingOf(v, unit); };
    rows.push_back({{title, Look::quiet}, {text(b.low), look}, {text(b.middle), look}, {text(b.high), look}});
  };
  for (const auto& [spread, look] : {std::pair{ink, Look::figure}, {pencil, Look::pencil}}) {
    if (!spread) continue;
    const QString side = pencil && ink ? (spread == ink ? tr("ink, ") : tr("pencil, ")) : QString();
    band(side + tr("plate to cathode"), spread->plateVolts, Unit::volt, look);
    band(side + tr("plate current"), spread->plateAmps, Unit::ampere, look);
    band(side + tr("plate watts"), spread->plateWatts, Unit::watt, look);
    if (spread->gain) band(side + tr("gain, times"), *spread->gain, Unit::none, look);
  }
  if (now->failures > 0)
    rows.push_back({{tr("builds without an answer"), Look::quiet}, {QString::number(now->failures)}});
  bands_->setRows(std::move(rows), 1);
  bands_->setMinimumHeight(bands_->sizeHint().height());
  drawCloud(ink, pencil);
}

/// Every build on the plane of the plate curves, under the rating.
void SpreadView::drawCloud(const predict::StageSpread* ink, const predict::StageSpread* pencil) {
  CurvePlot::Picture picture;
  picture.title = tr("Builds of %1").arg(QString::fromStdString(choice().tube()));
  picture.xLabel = tr("V, plate to cathode");
  picture.xUnit = tr("V");
  picture.panes = {{tr("mA, plate"), tr("mA"), CurvePlot::Pane::Scale::fromZero}};
  picture.silent = true;
  double mostVolts = 0, mostAmps = 0;
  const auto largest = [](const std::vector<double>& values) {
    return *std::max_element(values.begin(), values.end());
  };
  for (const auto* spread : {ink, pencil}) {
    if (!spread) continue;
    const auto look = spread == pencil ? CurvePlot::Look::pencil : CurvePlot::Look::ink;
    CurvePlot::Path path{spread == pencil ? tr("pencil") : tr("ink"), spread->builtVolts, spread->builtAmps, look};
    for (auto& amps : path.y)
      amps *= 1000;
    path.cloud = true;
    picture.paths.push_back(std::move(path));
    // Its words where no build stands: above the ink's, below the pencil's.
    const bool below = spread == pencil;
    const auto [lowest, highest] = std::minmax_element(spread->builtAmps.begin(), spread->builtAmps.end());
    const auto middle = tr("%1, %2").arg(readingOf(spread->plateVolts.middle, Unit::volt),
                                         readingOf(spread->plateAmps.middle, Unit::ampere));
    picture.dots.push_back({spread->plateVolts.middle, 1000 * spread->plateAmps.middle, {}, look});
    picture.dots.push_back(
        {spread->plateVolts.middle, 1000 * (below ? *lowest : *highest), middle, look, false, below, true});
    mostVolts = std::max(mostVolts, 1.3 * largest(spread->builtVolts));
    mostAmps = std::max(mostAmps, 1.4 * largest(spread->builtAmps));
  }
  if (const auto limit = (pencil ? pencil : ink)->wattsLimit) {
    CurvePlot::Path rating{tr("plate rating"), {}, {}, CurvePlot::Look::ink, true, false, tr("plate rating")};
    for (int i = 1; i <= 200; ++i) {
      const double volts = mostVolts * i / 200;
      if (const double milliamps = 1000 * *limit / volts; milliamps < 1000 * mostAmps) {
        rating.x.push_back(volts);
        rating.y.push_back(milliamps);
      }
    }
    rating.labelAt = 0.7;
    if (!rating.x.empty() && rating.y.back() < 1000 * mostAmps) picture.paths.push_back(std::move(rating));
  }
  picture.axes = QRectF(0, 0, std::max(mostVolts, 1.0), std::max(1000 * mostAmps, 1e-3));
  cloud_->show(std::move(picture));
}

void SpreadView::drawPair() {
  const auto* now = pair_->nowValue();
  if (!now) {
    pairs_->setRows({}, 99);
    if (const auto* problem = pair_->problem(); problem && !problem->cancelled) {
      setLook(pairSaid_, "danger", true);
      pairSaid_->setText(QString::fromStdString(problem->line()));
    }
    return;
  }
  const auto first = QString::fromStdString(now->first), second = QString::fromStdString(now->second);
  FigureTable::Rows rows{{{{}, Look::quiet}, {tr("alike"), Look::quiet}, {tr("as read"), Look::quiet}}};
  const auto row = [&](const QString& title, const QString& alike, const QString& read, bool danger = false) {
    rows.push_back({{title, Look::quiet}, {alike}, {read, danger ? Look::danger : Look::figure}});
  };
  const auto &a = now->matched, &b = now->asRead;
  const auto over = [&](double watts) { return now->wattsLimit && watts > *now->wattsLimit; };
  row(first, readingOf(a.firstWatts, Unit::watt), readingOf(b.firstWatts, Unit::watt), over(b.firstWatts));
  row(second, readingOf(a.secondWatts, Unit::watt), readingOf(b.secondWatts, Unit::watt), over(b.secondWatts));
  row(tr("DC through the transformer's halves, the difference"),
      meterReading(std::abs(a.firstAmps - a.secondAmps), Unit::ampere),
      meterReading(std::abs(b.firstAmps - b.secondAmps), Unit::ampere));
  row(tr("second harmonic at the speaker, half the drive"),
      QStringLiteral("%1 %").arg(100 * a.secondHarmonic, 0, 'f', 2),
      QStringLiteral("%1 %").arg(100 * b.secondHarmonic, 0, 'f', 2));
  pairs_->setRows(std::move(rows), 1);
}

} // namespace vinegar::app

#include "moc_spread_view.cpp"
