#include "pages/voice/target_view.h"

#include "files/safe_file.h"
#include "files/target_file.h"
#include "pages/kit/input_box.h"
#include "plots/response_picture.h"
#include "predict/rest/places.h"
#include "tell/voice.h"
#include "theme/text.h"
#include "theme/theme.h"
#include "widgets/paragraph.h"
#include "widgets/readings.h"
#include "widgets/told.h"

#include <QCheckBox>
#include <QComboBox>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QLineEdit>
#include <QMenu>
#include <QPushButton>
#include <QRegularExpression>
#include <QVBoxLayout>
#include <cmath>
#include <utility>

namespace vinegar::app {

namespace {
constexpr std::array startHertz{60.0, 120.0, 250.0, 500.0, 1000.0, 2000.0, 4000.0, 8000.0};
constexpr int mostReason = 50;
constexpr std::size_t suggested = 4, mostHandles = 80; ///< more points are drawn as a line and not moved
} // namespace

TargetView::TargetView(Page& page, SpanChoice& span)
    : AnswerView(page, span, {"fitAnswer", "fits", tr("Sets of stock values"), tr("target"), {}}) {
  setObjectName(QStringLiteral("targetView"));
  auto* fields = new QHBoxLayout;
  fields->setSpacing(6);
  const auto button = [&](const QString& word, const char* name) {
    auto* made = new QPushButton(word);
    made->setObjectName(QLatin1String(name));
    fields->addWidget(made);
    return made;
  };
  fields->addWidget(quietLabel(tr("may move")));
  parts_ = new QLineEdit;
  parts_->setObjectName(QStringLiteral("fitParts"));
  parts_->setAccessibleName(tr("Parts that may move, as C4 R5"));
  parts_->setFont(figureFont(9.5));
  parts_->setPlaceholderText(QStringLiteral("C4 R5=68k,82k C6"));
  parts_->setToolTip(plainTip(tr("Parts that may move; with = and values parted by commas, among those at hand only")));
  parts_->setMinimumWidth(120);
  fields->addWidget(parts_, 1);
  add_ = button({}, "addPart");
  series_ = new QComboBox;
  series_->setObjectName(QStringLiteral("series"));
  series_->setAccessibleName(tr("Values to choose from"));
  series_->addItem(tr("their own dials"), -1);
  for (const auto& [word, series] :
       {std::pair{"E6", units::Series::e6}, {"E12", units::Series::e12}, {"E24", units::Series::e24}})
    series_->addItem(QLatin1String(word), static_cast<int>(series));
  fields->addWidget(series_);
  level_ = new QCheckBox(tr("Level too"));
  level_->setObjectName(QStringLiteral("levelCounts"));
  level_->setToolTip(plainTip(tr("The curve is to come to the target's level; else its shape alone counts")));
  fields->addWidget(level_);
  find_ = button(tr("Find values"), "findValues");
  addFields(fields);
  grip_ = new QComboBox;
  grip_->setObjectName(QStringLiteral("grip"));
  grip_->setAccessibleName(tr("What moves with a point that is dragged"));
  grip_->setToolTip(plainTip(tr("With a band, all its points move together")));
  curves().addTool(quietLabel(tr("drag")));
  curves().addTool(grip_);
  connect(grip_, &QComboBox::activated, this, &TargetView::draw);
  auto* kept = new QPushButton(tr("Targets"));
  kept->setObjectName(QStringLiteral("targets"));
  menu_ = new QMenu(kept);
  kept->setMenu(menu_);
  curves().addTool(kept);
  connect(menu_, &QMenu::aboutToShow, this, &TargetView::fillMenu);
  sheet().setStretched({1});
  setShares(11, 10);
  response_.then = [this] {
    if (target_.empty() || targetOf_ != this->span().words()) startFromCurve();
    draw();
  };
  fit_.then = [this] {
    shown_ = 0;
    fillSheet();
    draw();
  };
  theirs_.then = [this] { takeCurve(); };
  connect(&page.context().selection, &Selection::selected, this, &TargetView::nameAdd);
  connect(add_, &QPushButton::clicked, this, [this] {
    const auto part = QString::fromStdString(this->page().context().selection.part());
    if (!part.isEmpty()) parts_->setText((parts_->text() + QLatin1Char(' ') + part).simplified());
    nameAdd();
  });
  connect(parts_, &QLineEdit::textChanged, this, &TargetView::nameAdd);
  connect(parts_, &QLineEdit::returnPressed, this, &TargetView::find);
  connect(find_, &QPushButton::clicked, this, &TargetView::find);
  connect(&curves(), &CurvePlot::handleMoved, this,
          [this](int dot, double, double y, bool done) { movePoint(dot, y, done); });
  connect(&sheet(), &FigureSheet::rowChosen, this, [this](int chosen) {
    shown_ = chosen;
    draw();
  });
  nameAdd();
  fillSheet();
}

/// Those kept with the design, and what can be done with the one at hand.
void TargetView::fillMenu() {
  menu_->clear();
  qDeleteAll(menu_->findChildren<QMenu*>());
  const auto& targets = page().session().document().targets;
  for (const auto& [name, target] : targets)
    connect(menu_->addAction(menuText(QString::fromStdString(name))), &QAction::triggered, this,
            [this, kept = target] { take(kept, true); });
  if (!targets.empty()) menu_->addSeparator();
  connect(menu_->addAction(tr("Keep with the design...")), &QAction::triggered, this, [this] {
    const auto name = QInputDialog::getText(this, tr("Keep the target"), tr("What it is called"), QLineEdit::Normal,
                                            tr("wanted %1").arg(this->page().session().document().targets.size() + 1));
    if (!name.trimmed().isEmpty()) keep(name.trimmed());
  });
  if (!targets.empty()) {
    auto* forget = menu_->addMenu(tr("Forget"));
    for (const auto& [name, target] : targets)
      connect(forget->addAction(menuText(QString::fromStdString(name))), &QAction::triggered, this,
              [this, gone = name] {
                this->page().session().edit(tr("forget target %1").arg(QString::fromStdString(gone)),
                                            [&](amp::Document& document) { document.targets.erase(gone); });
              });
  }
  menu_->addSeparator();
  connect(menu_->addAction(tr("Start from the curve")), &QAction::triggered, this, &TargetView::startOver);
  auto* revisions = menu_->addMenu(tr("From a revision"));
  const auto fromRevision = [this](int number) {
    const auto& session = this->page().session();
    auto design = amp::atRevision(session.document(), session.library(), number);
    if (!design) return this->page().context().notify(QString::fromStdString(design.error().line()), true);
    design->knobs = session.pencilled().knobs; // played alike
    ofDesign(tr("revision %1").arg(number), std::make_shared<const amp::Design>(std::move(*design)));
  };
  const auto& log = page().session().document().log;
  for (auto revision = log.rbegin(); revision != log.rend(); ++revision)
    connect(revisions->addAction(menuText(
                tr("%1, %2").arg(revision->number).arg(QString::fromStdString(revision->reason).left(mostReason)))),
            &QAction::triggered, this, [fromRevision, number = revision->number] { fromRevision(number); });
  connect(revisions->addAction(tr("as it was at first")), &QAction::triggered, this,
          [fromRevision] { fromRevision(0); });
  connect(menu_->addAction(tr("Open...")), &QAction::triggered, this, [this] {
    const auto path = QFileDialog::getOpenFileName(this, tr("Open a target"), {},
                                                   tr("Targets and designs (*.json *.csv *.txt *.frd *.vinegar)"));
    if (!path.isEmpty()) this->open(path);
  });
  connect(menu_->addAction(tr("Save as a file...")), &QAction::triggered, this, [this] {
    const auto path =
        QFileDialog::getSaveFileName(this, tr("Save the target"), tr("target.json"), tr("Targets (*.json)"));
    QString wrong;
    const auto target = path.isEmpty() ? std::nullopt : asked(wrong);
    if (!target) return sayWrong(wrong);
    if (const auto problem = files::saveAtomically(path.toStdString(), files::writeTargetText(*target)))
      this->page().context().notify(QString::fromStdString(problem->line()), true);
  });
}

void TargetView::startOver() {
  startFromCurve();
  sought_ = false;
  forgetFits();
  draw();
}

void TargetView::keep(const QString& name) {
  QString wrong;
  const auto target = asked(wrong);
  if (!target) return sayWrong(wrong);
  page().session().edit(tr("keep target %1").arg(name),
                        [&](amp::Document& document) { document.targets[name.toStdString()] = *target; });
}

void TargetView::takeKept(const QString& name) {
  const auto& targets = page().session().document().targets;
  if (const auto found = targets.find(name.toStdString()); found != targets.end()) take(found->second, true);
}

/// As it was kept or read; `whole`: with the span that it is for.
void TargetView::take(const amp::Target& target, bool whole) {
  const auto kept = target; // what is looked at next may fill all anew
  if (whole) span().look(kept.from, kept.to);
  sought_ = false;
  forgetFits();
  target_ = kept.target;
  targetOf_ = span().words();
  QStringList words;
  for (const auto& part : kept.parts) {
    QStringList hand;
    if (const auto values = kept.atHand.find(part); values != kept.atHand.end())
      for (const double value : values->second)
        hand << QString::fromStdString(units::schematic(value, units::Unit::none));
    words << QString::fromStdString(part) +
                 (hand.isEmpty() ? QString() : QLatin1Char('=') + hand.join(QLatin1Char(',')));
  }
  if (!words.isEmpty()) parts_->setText(words.join(QLatin1Char(' ')));
  level_->setChecked(kept.level);
  series_->setCurrentIndex(std::max(0, series_->findData(kept.series ? static_cast<int>(*kept.series) : -1)));
  draw();
}

void TargetView::sayWrong(const QString& wrong) {
  if (wrong.isEmpty()) return;
  setLook(&answer(), "danger", true);
  answer().setText(wrong);
}

void TargetView::fillGrip() {
  if (grip_->count() > 0 && bands() == listed_) return;
  listed_ = bands();
  const auto before = grip_->currentText();
  grip_->clear();
  grip_->addItem(tr("a point"));
  for (const auto& band : listed_)
    grip_->addItem(bandWords(band));
  grip_->setCurrentIndex(std::max(0, grip_->findText(before)));
}

void TargetView::put() {
  fillGrip();
  if (parts_->text().isEmpty()) suggestParts();
  if (!fit_->nowValue() && answer().text().isEmpty()) fillSheet();
  response_.ask(responseOver(span().from(), span().to()));
}

/// In a narrow window the values found need the room.
void TargetView::resizeEvent(QResizeEvent* event) {
  AnswerView::resizeEvent(event);
  constexpr int least = 700;
  const bool narrow = width() < least;
  if (std::exchange(narrow_, narrow) != narrow) fillSheet();
}

void TargetView::clear() {
  sought_ = false;
  target_.clear();
  parts_->clear();
}

void TargetView::nameAdd() {
  const auto part = QString::fromStdString(page().context().selection.part());
  const bool there = parts_->text().simplified().split(QLatin1Char(' ')).contains(part);
  add_->setText(part.isEmpty() || there ? tr("Add part") : menuText(tr("Add %1").arg(part)));
  add_->setEnabled(!part.isEmpty() && !there);
}

/// Those of the first tone network, or the first parts there are.
void TargetView::suggestParts() {
  const auto* idle = now();
  if (!idle) return;
  QStringList best;
  for (const auto& place : predict::placesOf(*idle->circuit, page().context().asker.library())) {
    if (place.section->group != "tone") continue;
    for (const auto& part : idle->circuit->parts) {
      const auto kind = part.resolved.part->kind;
      if (part.resolved.section == place.use->id && !part.devices.empty() &&
          (kind == amp::PartKind::resistor || kind == amp::PartKind::capacitor) && best.size() < int(suggested))
        best << QString::fromStdString(part.resolved.name);
    }
    break;
  }
  parts_->setText(best.join(QLatin1Char(' ')));
}

void TargetView::startFromCurve() {
  const auto* response = response_->nowValue();
  if (!response) return;
  target_.clear();
  targetOf_ = span().words();
  for (const double hertz : startHertz)
    target_.push_back({hertz, std::round(10 * predict::decibelsAt(*response, hertz)) / 10});
}

/// What was found was for another target: it goes, and is sought anew where the point is let go.
void TargetView::movePoint(int dot, double decibels, bool done) {
  const auto index = static_cast<std::size_t>(dot);
  if (index >= target_.size() || !std::isfinite(decibels)) return;
  const double change = decibels - target_[index].decibels;
  const auto chosen = static_cast<std::size_t>(std::max(0, grip_->currentIndex()));
  const auto* band = chosen > 0 && chosen <= listed_.size() ? &listed_[chosen - 1] : nullptr;
  const auto within = [&](double hertz) { return band && hertz >= band->low && hertz <= band->high; };
  for (auto& point : target_)
    if (&point == &target_[index] || (within(target_[index].hertz) && within(point.hertz))) point.decibels += change;
  forgetFits();
  draw();
  if (done && sought_) find();
}

void TargetView::forgetFits() {
  fit_.rest();
  fillSheet();
}

/// Another design's own curve over the span, the knobs as its file has them.
void TargetView::takeCurve() {
  const auto& answer = theirs_->sides.front();
  const auto* theirs = answer.get();
  if (!theirs)
    return page().context().notify(
        tr("%1: %2").arg(answer.side.name, QString::fromStdString(answer.value.error().line())), true);
  sought_ = false;
  forgetFits();
  target_.clear();
  for (std::size_t f = 0; f < theirs->hertz.size(); ++f)
    if (theirs->hertz[f] >= startHertz.front() && theirs->hertz[f] <= startHertz.back())
      target_.push_back({theirs->hertz[f], theirs->decibels[f]});
  targetOf_ = span().words();
  draw();
}

void TargetView::ofDesign(const QString& name, const std::shared_ptr<const amp::Design>& design) {
  const auto& edition = page().context().asker.sides().edition;
  theirs_.ask({from(), to(), {}}, {edition, {{name, Side::Look::other, Side::besides, design}}});
}

void TargetView::open(const QString& path) {
  if (path.endsWith(QStringLiteral(".vinegar"))) {
    if (auto design = readOther(path)) ofDesign(QString::fromStdString(design->name), design);
    return;
  }
  const auto read = files::readTarget(path.toStdString());
  if (!read) return page().context().notify(QString::fromStdString(read.error().line()), true);
  if (read->target.size() < 2)
    return page().context().notify(tr("%1: a target needs two points or more").arg(path), true);
  take(*read, false);
}

/// The target with all that is chosen about it; `wrong`: what of it cannot be read.
std::optional<amp::Target> TargetView::asked(QString& wrong) const {
  amp::Target question;
  question.from = from();
  question.to = to();
  question.target = target_;
  for (const auto& word : parts_->text().split(QRegularExpression(QStringLiteral("[\\s;]+")), Qt::SkipEmptyParts)) {
    const auto name = word.section(QLatin1Char('='), 0, 0);
    if (!word.contains(QLatin1Char('='))) {
      for (const auto& part : name.split(QLatin1Char(','), Qt::SkipEmptyParts))
        question.parts.push_back(part.toStdString());
      continue;
    }
    question.parts.push_back(name.toStdString());
    auto& hand = question.atHand[name.toStdString()];
    for (const auto& text : word.section(QLatin1Char('='), 1).split(QLatin1Char(','), Qt::SkipEmptyParts)) {
      const auto value = units::parse(text.toStdString());
      if (!value) {
        wrong = tr("%1: %2").arg(word, QString::fromStdString(value.error().message));
        return std::nullopt;
      }
      hand.push_back(*value);
    }
  }
  if (const int series = series_->currentData().toInt(); series >= 0)
    question.series = static_cast<units::Series>(series);
  question.level = level_->isChecked();
  return question;
}

void TargetView::find() {
  sought_ = true;
  QString wrong;
  auto question = asked(wrong);
  if (!question) return sayWrong(wrong);
  fit_.ask(std::move(*question));
}

void TargetView::draw() {
  const auto* response = standing(*response_);
  if (!response) return;
  using Look = CurvePlot::Look;
  const auto look = response_->pencil() ? Look::pencil : Look::ink;
  auto picture = voicePicture(tr("Target, %1").arg(span().words()), tr("dB, %1").arg(span().words()));
  picture.curves.push_back({response_->pencil() ? tr("pencil") : tr("ink"), response->hertz, response->decibels, look});
  CurvePlot::Curve wanted{tr("target"), {}, {}, Look::other};
  for (const auto& point : target_) {
    wanted.x.push_back(point.hertz);
    wanted.y.push_back(point.decibels);
    if (target_.size() <= mostHandles) picture.dots.push_back({point.hertz, point.decibels, {}, Look::other, true});
  }
  picture.curves.push_back(std::move(wanted));
  if (const auto chosen = static_cast<std::size_t>(std::max(0, grip_->currentIndex()));
      chosen > 0 && chosen <= listed_.size())
    for (const double edge : {listed_[chosen - 1].low, listed_[chosen - 1].high})
      picture.marks.push_back({edge, readingOf(edge, units::Unit::hertz), true});
  if (const auto* fit = fit_->nowValue(); fit && shown_ >= 0 && static_cast<std::size_t>(shown_) < fit->sets.size()) {
    const auto& set = fit->sets[static_cast<std::size_t>(shown_)];
    picture.curves.push_back({tr("set %1").arg(shown_ + 1), fit->hertz, set.decibels, Look::another});
  }
  curves().show(std::move(picture));
}

void TargetView::fillSheet() {
  const auto* fit = fit_->nowValue();
  sheet().setVisible(fit && !fit->sets.empty());
  setLook(&answer(), "danger", false);
  if (!fit) {
    sheet().clear();
    answer().setText(tr("Drag the points to what you want to hear, then find values"));
    if (const auto* problem = fit_->problem()) {
      setLook(&answer(), "danger", !problem->cancelled);
      answer().setText(problem->cancelled ? tr("Cancelled.") : QString::fromStdString(problem->line()));
    }
    return;
  }
  const bool moves = !narrow_ && std::any_of(fit->sets.begin(), fit->sets.end(),
                                             [](const auto& set) { return !set.movedTube.empty(); });
  const bool clips = !narrow_ && std::any_of(fit->sets.begin(), fit->sets.end(),
                                             [](const auto& set) { return set.clipsAt.has_value(); });
  Told<predict::FitSet> told{true};
  told.leaves = {"offset_decibels"};
  if (narrow_) told.leaves.insert("at_1khz_decibels");
  if (!moves) told.leaves.insert("moves");
  if (!clips) told.leaves.insert("clips_at_input_volts_rms");
  told.cells["distance_decibels"] = [](const predict::FitSet&, FigureSheet::Cell& cell) { cell.strong = true; };
  told.cells["clips_at_input_volts_rms"] = [fit](const predict::FitSet&, FigureSheet::Cell& cell) {
    cell.tip += QLatin1Char('\n') + tr("now %1").arg(fit->clipsAt ? InputBox::level(*fit->clipsAt) : noReading());
  };
  told.finish = [this](const predict::FitSet& set, FigureSheet::Row& row) {
    letPencil(row, page().session(), set.changes, row.cells.front().text);
  };
  if (!now()) return sheet().clear();
  showTold(sheet(), tell::fitSets(*now()->circuit), fit->sets, told);
  QStringList searched;
  for (const auto& dial : fit->searched) {
    const auto part = now() ? now()->circuit->part(dial.part) : nullptr;
    const auto unit = part ? amp::valueUnit(part->resolved.part->kind) : units::Unit::none;
    searched << tr("%1 %2 to %3")
                    .arg(QString::fromStdString(dial.part), schematicValue(dial.from, unit),
                         schematicValue(dial.to, unit));
  }
  answer().setToolTip(plainTip(tr("Searched: %1").arg(searched.join(QStringLiteral(", ")))));
  answer().setText(fit->sets.empty()
                       ? tr("No stock values of these parts come nearer than %1 dB, where the curve is now")
                             .arg(fit->distance, 0, 'f', 2)
                       : tr("%1 dB from the target instead of %2")
                             .arg(fit->sets.front().distance, 0, 'f', 2)
                             .arg(fit->distance, 0, 'f', 2));
}

} // namespace vinegar::app

#include "moc_target_view.cpp"
