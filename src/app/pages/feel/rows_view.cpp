#include "pages/feel/rows_view.h"

#include "theme/text.h"
#include "widgets/readings.h"

#include <QComboBox>
#include <QDoubleSpinBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <cmath>

namespace vinegar::app {
namespace {

using predict::FeelRow;
using predict::FeelSubject;
using units::Unit;
using CurveLook = CurvePlot::Look;

QString titleOf(const FeelRow& row) { return tr(row.title.c_str()); }

QString percentOf(double share) { return QStringLiteral("%1 %").arg(100 * share, 0, 'f', 1); }

QString againstOf(const FeelRow& row) {
  QStringList all;
  for (const auto& one : row.against)
    all << QString::fromStdString(one);
  return all.join(QStringLiteral("; "));
}

} // namespace

RowsView::RowsView(Page& page, PhraseBox& phrases, FeelSubject subject, Names names)
    : FeelView(page, phrases, std::move(names)), subject_(subject),
      ask_(page.context().asker, predict::predictFeelRows, Weight::heavy, Of::now),
      askFine_(page.context().asker, predict::predictFeelRows, Weight::heavy, Of::now) {
  setShares(1, 2);
  own(ask_);
  own(askFine_);
  const auto take = [this](const auto& answers, bool coarsely) {
    coarse_ = coarsely;
    answers_ = answers;
    if (!rows()) {
      if (const auto* problem = answers_.problem()) sayProblem(*problem);
      return;
    }
    state().showContent();
    fillSheet();
    answer().setText(said() + (coarse_ ? tr(" (coarse, being refined)") : QString()));
    draw();
  };
  ask_.answered = [this, take](const auto& answers) {
    // What is fine already is not made coarse again.
    if (answers_.edition != answers.edition || coarse_ || !rows()) take(answers, true);
  };
  askFine_.answered = [take](const auto& answers) { take(answers, false); };
  const auto look = [this](int row) {
    if (row < 0 || row == looked_) return;
    looked_ = row;
    draw();
  };
  connect(&sheet(), &FigureSheet::rowChosen, this, look);
  connect(&sheet(), &FigureSheet::rowHovered, this, look);
  if (subject == FeelSubject::rectifiers)
    connect(&sheet(), &FigureSheet::cellTaken, this, [this](int at, int column) {
      constexpr int rebias = 8;
      if (column != rebias || !rows() || static_cast<std::size_t>(at) >= rows()->rows.size()) return;
      const auto& row = rows()->rows[static_cast<std::size_t>(at)];
      if (row.rebias.empty()) return;
      auto both = row.changes;
      both.insert(both.end(), row.rebias.begin(), row.rebias.end());
      this->page().session().pencil(both, titleOf(row));
    });
}

void RowsView::put() {
  // Of another phrase or level nothing that was played before may be taken for an answer.
  if (auto now = question(middling); !(now == asked_)) {
    asked_ = std::move(now);
    answers_ = {};
    coarse_ = true;
  }
  askRows();
}

void RowsView::askFine() { askFine_.ask(question(middling)); }

void RowsView::askRows() {
  ask_.ask(question(coarse));
  askFine();
}

void RowsView::clear() {
  answers_ = {};
  coarse_ = true;
  looked_ = -1;
  FeelView::clear();
}

QString RowsView::refusal(const predict::Idle& idle) const {
  return idle.point.supply
             ? QString()
             : tr("This design has no mains and rectifier: its rails come from a bench supply, which holds "
                  "them. Put in a transformer and rectifier to see how it would sag.");
}

void RowsView::addCells(FigureSheet::Row& line, const FeelRow& row) const {
  const auto put = [&](const QString& text, double order, bool strong = false) {
    line.cells.push_back({text, {}, false, strong, false, order});
  };
  put(readingOf(row.dip.before, Unit::volt), row.dip.before);
  put(percentOf(row.dip.share()), row.dip.share(), true);
  put(secondsWords(row.recovers), std::isfinite(row.recovers) ? row.recovers : 1e9);
  put(readingOf(row.rippleVolts, Unit::volt, 2), row.rippleVolts);
  put(readingOf(row.outputWatts, Unit::watt), row.outputWatts);
}

void RowsView::fillSheet() {
  std::vector<FigureSheet::Row> lines;
  const bool rebiases = subject_ == FeelSubject::rectifiers;
  for (const auto& row : rows()->rows) {
    const auto title = titleOf(row);
    auto line = row.changes.empty() ? FigureSheet::Row{} : pencilRow(page().session(), row.changes, title);
    if (row.now) line.stands = tr("now");
    line.cells.push_back({title, tr(row.about.c_str()), false, row.now, true});
    if (row.problem) {
      const auto why = QString::fromStdString(row.problem->line());
      for (int i = 0; i < (rebiases ? 8 : 7); ++i)
        line.cells.push_back({noReading()});
      line.cells.push_back({warned(why), why, true, false, true});
    } else {
      const auto against = againstOf(row);
      const auto count = row.against.size();
      line.cells.push_back({count == 0 ? QString() : warned(QString::number(count)), against, count > 0, false, false,
                            static_cast<double>(count)});
      addCells(line, row);
      line.cells.push_back(
          {percent(row.hottestShare),
           tr("The hottest plate at idle, %1's, of its rating").arg(QString::fromStdString(row.hottest)),
           row.hottestShare > 1, false, false, row.hottestShare});
      if (rebiases)
        line.cells.push_back({QString::fromStdString(row.rebiased),
                              row.rebias.empty() ? QString()
                                                 : tr("Has the output tubes dissipate as they do now. A click pencils "
                                                      "%1 with it")
                                                       .arg(title)});
      line.cells.push_back({against.isEmpty() ? tr("nothing") : warned(against), against, !against.isEmpty(), false,
                            true, static_cast<double>(row.against.size())});
    }
    lines.push_back(std::move(line));
  }
  // How much speaks against a row is seen before its words, which stand where there is room.
  QStringList heads{tr("with"), tr("against"), tr("B+"),      tr("droop"),
                    tr("back"), tr("ripple"),  tr("loudest"), tr("idle")};
  if (rebiases) heads << tr("re-bias");
  heads << tr("what is against it");
  sheet().setStretched({static_cast<int>(heads.size())});
  sheet().setSheet(heads, std::move(lines), true);
}

QString RowsView::said() const {
  const auto& all = rows()->rows;
  const auto* most = &all.front();
  const auto* least = most;
  for (const auto& row : all) {
    if (row.problem) continue;
    if (row.dip.share() > most->dip.share()) most = &row;
    if (row.dip.share() < least->dip.share()) least = &row;
  }
  auto text = tr("%1 gives way by %2").arg(railWords(rows()->rail), droopWords(all.front().dip));
  if (!most->now) text += tr("; most with %1, %2").arg(titleOf(*most), percentOf(most->dip.share()));
  if (!least->now) text += tr("; least with %1, %2").arg(titleOf(*least), percentOf(least->dip.share()));
  return text;
}

void RowsView::draw() {
  if (!rows()) return;
  CurvePlot::Picture picture;
  picture.title = tr("Others");
  picture.xLabel = tr("seconds");
  picture.xUnit = tr("s");
  picture.panes.push_back(
      {tr("%1, V").arg(QString::fromStdString(rows()->rail)), tr("V"), CurvePlot::Pane::Scale::tight});
  const auto& all = rows()->rows;
  const auto looked = static_cast<std::size_t>(std::max(0, looked_));
  for (std::size_t i = 0; i < all.size(); ++i) {
    const auto& row = all[i];
    if (row.problem || row.now || i == looked) continue;
    if (subject_ == FeelSubject::sag && i > 5) break; // the nearest
    picture.curves.push_back({titleOf(row), row.seconds, row.fed, CurveLook::ground});
  }
  picture.curves.push_back(
      {titleOf(all.front()), all.front().seconds, all.front().fed, CurveLook::ink, 0, tr("now"), 0.98});
  if (looked > 0 && looked < all.size() && !all[looked].problem)
    picture.curves.push_back(
        {titleOf(all[looked]), all[looked].seconds, all[looked].fed, CurveLook::other, 0, titleOf(all[looked]), 0.98});
  curves().show(std::move(picture));
}

MakersView::MakersView(Page& page, PhraseBox& phrases)
    : RowsView(page, phrases, FeelSubject::makers,
               {"makersAnswer", "makers", tr("What the droop is made of"), tr("what-makes-it")}),
      askBlame_(page.context().asker, predict::predictBlame, Weight::heavy, Of::now) {
  setShares(2, 3);
  own(askBlame_);
  askBlame_.answered = [this](const auto& answers) {
    blame_ = answers;
    if (rows()) answer().setText(said() + (isCoarse() ? tr(" (coarse, being refined)") : QString()));
    draw();
  };
  connect(&sheet(), &FigureSheet::cellTaken, this, [this](int at, int) {
    const auto* all = rows();
    if (!all || static_cast<std::size_t>(at) >= all->rows.size()) return;
    if (const auto& part = all->rows[static_cast<std::size_t>(at)].part; !part.empty()) select(part);
  });
}

void MakersView::put() {
  if (!(burst(middling) == blamed_)) {
    blamed_ = burst(middling);
    blame_ = {};
  }
  RowsView::put();
  askBlame_.ask(burst(middling));
}

void MakersView::clear() {
  blame_ = {};
  RowsView::clear();
}

void MakersView::fillSheet() {
  const auto& all = rows()->rows;
  const double droop = all.front().dip.droop();
  std::vector<FigureSheet::Row> lines;
  for (const auto& row : all) {
    FigureSheet::Row line;
    line.cells.push_back({titleOf(row), tr(row.about.c_str()), false, row.now, true});
    line.cells.push_back(
        {row.now ? tr("the whole droop") : tr(row.about.c_str()), tr(row.about.c_str()), false, false, true});
    if (row.problem) {
      line.cells.push_back({noReading(), QString::fromStdString(row.problem->line())});
      line.cells.push_back({noReading()});
    } else {
      line.cells.push_back({readingOf(row.dip.droop(), Unit::volt), {}, false, false, false, row.dip.droop()});
      const double takes = droop - row.dip.droop();
      line.cells.push_back(row.now ? FigureSheet::Cell{QString()}
                                   : FigureSheet::Cell{signedVolts(takes), tr("What the droop loses without it"), false,
                                                       true, false, takes});
    }
    lines.push_back(std::move(line));
  }
  sheet().setStretched({1});
  sheet().setSheet({tr("part"), tr("as if it were perfect"), tr("droop"), tr("its doing")}, std::move(lines));
}

QString MakersView::said() const {
  const auto& all = rows()->rows;
  const FeelRow* most = nullptr;
  for (const auto& row : all)
    if (!row.problem && !row.now && (!most || row.dip.droop() < most->dip.droop())) most = &row;
  auto text = tr("%1 gives way by %2").arg(railWords(rows()->rail), droopWords(all.front().dip));
  if (most)
    text += tr("; most of it is %1's: without, %2").arg(titleOf(*most), readingOf(most->dip.droop(), Unit::volt));
  if (const auto* blame = blame_.nowValue()) {
    const auto at = [&](const std::vector<double>& of) {
      double most = 0;
      for (const double one : of)
        if (std::isfinite(one)) most = std::max(most, one);
      return QString::number(most, 'f', 1);
    };
    text += tr(". Of the sound, the supply takes up to %1 dB, bias %2, blocking %3")
                .arg(at(blame->supply), at(blame->bias), at(blame->blocking));
  }
  return text;
}

void MakersView::draw() {
  const auto* blame = blame_.nowValue();
  if (!blame || !rows()) return;
  CurvePlot::Picture picture;
  picture.title = tr("Blame");
  picture.xLabel = tr("seconds");
  picture.xUnit = tr("s");
  picture.panes.push_back({tr("taken from the output, dB"), tr("dB")});
  const auto add = [&](const QString& name, const std::vector<double>& decibels, CurveLook look, double at) {
    CurvePlot::Curve curve{name, {}, {}, look, 0, name, at};
    for (std::size_t k = 0; k < decibels.size(); ++k)
      if (std::isfinite(decibels[k])) {
        curve.x.push_back(blame->seconds[k]);
        curve.y.push_back(decibels[k]);
      }
    if (!curve.x.empty()) picture.curves.push_back(std::move(curve));
  };
  add(tr("supply"), blame->supply, CurveLook::ink, 0.9);
  if (blame->holdsBias) add(tr("bias"), blame->bias, CurveLook::inkThin, 0.7);
  add(tr("blocking"), blame->blocking, CurveLook::ground, 0.5);
  curves().show(std::move(picture));
}

SagView::SagView(Page& page, PhraseBox& phrases)
    : RowsView(page, phrases, FeelSubject::sag,
               {"sagAnswer", "sag", tr("Parts that bring more sag or less"), tr("more-or-less")}),
      askLike_(page.context().asker, predict::predictFeelRows, Weight::heavy, Of::now) {
  auto* fields = new QWidget;
  auto* row = new QHBoxLayout(fields);
  row->setContentsMargins(0, 0, 0, 0);
  const auto box = [&](const char* name, const QString& about, double most, double step, const QString& suffix) {
    auto* spin = new QDoubleSpinBox;
    spin->setObjectName(QLatin1String(name));
    spin->setAccessibleName(about);
    spin->setToolTip(plainTip(about));
    spin->setRange(0, most);
    spin->setSingleStep(step);
    spin->setDecimals(step < 0.1 ? 2 : 1);
    spin->setSuffix(suffix);
    spin->setButtonSymbols(QAbstractSpinBox::NoButtons);
    spin->setFixedWidth(78);
    spin->setKeyboardTracking(false);
    row->addWidget(spin);
    return spin;
  };
  row->addWidget(new Label(tr("Droop")));
  share_ = box("wantedDroop", tr("The droop that is wished, of B+"), 60, 0.5, tr(" %"));
  share_->setValue(8);
  row->addWidget(new Label(tr("back in")));
  back_ = box("wantedBack", tr("Seconds until two thirds of it are regained; 0: as it comes"), 10, 0.05, tr(" s"));
  back_->setSpecialValueText(tr("any time"));
  row->addWidget(new Label(tr("or as with")));
  like_ = new QComboBox;
  like_->setObjectName(QStringLiteral("sagLike"));
  like_->setAccessibleName(tr("A rectifier whose droop is wished"));
  like_->addItem(tr("a rectifier..."));
  like_->setSizeAdjustPolicy(QComboBox::AdjustToContents);
  row->addWidget(like_);
  row->addStretch();
  addFields(fields);
  own(askLike_);
  askLike_.answered = [this](const auto& answers) {
    const auto* all = answers.nowValue();
    if (!all) return;
    known_ = *all;
    const QSignalBlocker quiet(like_);
    const auto chosen = like_->currentText();
    while (like_->count() > 1)
      like_->removeItem(1);
    for (const auto& one : all->rows)
      if (!one.problem) like_->addItem(tr("%1, %2").arg(titleOf(one), percentOf(one.dip.share())));
    like_->setCurrentIndex(std::max(0, like_->findText(chosen)));
  };
  for (auto* spin : {share_, back_})
    connect(spin, &QDoubleSpinBox::valueChanged, this, [this] { askRows(); });
  connect(like_, &QComboBox::activated, this, [this](int index) {
    int at = 0;
    for (const auto& one : known_.rows) {
      if (one.problem || ++at != index) continue;
      share_->setValue(100 * one.dip.share());
    }
  });
}

predict::FeelRowsQuestion SagView::question(double rate) const {
  return {FeelSubject::sag, burst(rate), share_->value() / 100, back_->value()};
}

void SagView::put() {
  askRows();
  askLike_.ask({FeelSubject::rectifiers, burst(coarse)});
}

void SagView::clear() {
  known_ = {};
  RowsView::clear();
}

QString SagView::said() const {
  const auto& all = rows()->rows;
  if (all.size() < 2) return tr("No part of this supply has other stock values to try");
  const auto& best = all[1];
  return tr("Nearest to %1: %2, %3. Each row was played; a thing against it stands in its last column")
      .arg(percentOf(share_->value() / 100), titleOf(best), best.problem ? noReading() : percentOf(best.dip.share()));
}

BalanceView::BalanceView(Page& page, PhraseBox& phrases)
    : RowsView(page, phrases, FeelSubject::balance,
               {"balanceAnswer", "balance", tr("Ripple and droop by reservoir"), tr("balance")}) {
  setShares(3, 2);
}

QString BalanceView::said() const {
  const auto& now = rows()->rows.front();
  return tr("%1: ripple %2 pp while played, droop %3. Down is quieter, left is stiffer; a cross is beyond what "
            "rectifier or supply allows")
      .arg(titleOf(now), readingOf(now.rippleVolts, Unit::volt, 2), percentOf(now.dip.share()));
}

void BalanceView::draw() {
  if (!rows()) return;
  CurvePlot::Picture picture;
  picture.title = tr("Balance");
  picture.xLabel = tr("droop, % of B+");
  picture.xUnit = tr("%");
  picture.silent = true;
  picture.panes.push_back({tr("ripple, V pp"), tr("V")});
  const auto& all = rows()->rows;
  std::vector<std::string> groups;
  for (const auto& row : all)
    if (!row.group.empty() && std::find(groups.begin(), groups.end(), row.group) == groups.end())
      groups.push_back(row.group);
  double left = 1e9, right = 0, top = 0;
  for (std::size_t g = 0; g < groups.size(); ++g) {
    CurvePlot::Path path;
    path.name = QString::fromStdString(groups[g]);
    path.look = g == 0 ? CurveLook::ink : g == 1 ? CurveLook::other : CurveLook::another;
    if (g > 0) path.label = path.name;
    path.labelAt = 0;
    std::size_t last = 0;
    for (std::size_t i = 0; i < all.size(); ++i)
      if (!all[i].problem && all[i].group == groups[g]) last = i;
    for (const auto& row : all) {
      if (row.problem || row.group != groups[g]) continue;
      const double x = 100 * row.dip.share();
      path.x.push_back(x);
      path.y.push_back(row.rippleVolts);
      left = std::min(left, x);
      right = std::max(right, x);
      top = std::max(top, row.rippleVolts);
      CurvePlot::Dot dot;
      dot.x = x;
      dot.y = row.rippleVolts;
      dot.look = path.look;
      const bool allowed = row.against.empty();
      // The first and the last of the design's own: between them they are in the order of the stock list.
      if (g == 0 && (path.x.size() == 1 || &row == &all[last])) dot.word = readingOf(row.farads, Unit::farad, 2);
      if (!allowed) dot.word = g == 0 ? QStringLiteral("\u2715 %1").arg(dot.word) : QStringLiteral("\u2715");
      dot.bare = !allowed;
      picture.dots.push_back(dot);
    }
    picture.paths.push_back(std::move(path));
  }
  CurvePlot::Dot now;
  now.x = 100 * all.front().dip.share();
  now.y = all.front().rippleVolts;
  now.word = tr("now");
  now.below = true;
  picture.dots.push_back(now);
  const double wide = std::max(right - left, 0.5);
  picture.axes = QRectF(left - 0.15 * wide, 0, 1.3 * wide, 1.15 * std::max(top, 1e-3));
  curves().show(std::move(picture));
}

} // namespace vinegar::app

#include "moc_rows_view.cpp"
