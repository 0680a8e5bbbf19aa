#include "pages/voice/compare_view.h"

#include "amp/alignment.h"
#include "pages/voice/readout_words.h"
#include "plots/response_picture.h"
#include "predict/hearing.h"
#include "theme/text.h"
#include "widgets/readings.h"

#include <QCheckBox>
#include <QComboBox>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QPushButton>
#include <QSignalBlocker>
#include <QVBoxLayout>
#include <utility>

namespace vinegar::app {

namespace {
constexpr int fromFile = -1; ///< in place of a revision's number
}

CompareView::CompareView(Page& page, SpanChoice& span)
    : AnswerView(page, span, {"compareAnswer", "differences", tr("What differs")}),
      response_(page.context().asker, predict::predictResponse, Weight::heavy),
      readouts_(page.context().asker, predict::predictReadouts, Weight::heavy) {
  setObjectName(QStringLiteral("compareView"));
  auto* fields = new QHBoxLayout;
  fields->setSpacing(6);
  fields->addWidget(quietLabel(tr("beside")));
  others_ = new QComboBox;
  others_->setObjectName(QStringLiteral("others"));
  others_->setAccessibleName(tr("What it is compared with"));
  others_->setMinimumWidth(200);
  fields->addWidget(others_);
  auto* open = new QPushButton(tr("Another design..."));
  open->setObjectName(QStringLiteral("openOther"));
  fields->addWidget(open);
  levelled_ = new QCheckBox(tr("Alike at 1 kHz"));
  levelled_->setObjectName(QStringLiteral("levelled"));
  fields->addWidget(levelled_);
  difference_ = new QCheckBox(tr("Difference"));
  difference_->setObjectName(QStringLiteral("differenceAlone"));
  fields->addWidget(difference_);
  fields->addStretch(1);
  addFields(fields);
  sheet().setStretched({0});
  setShares(6, 5);
  own(response_);
  own(readouts_);
  response_.answered = [this](const auto& answers) {
    answers_ = answers;
    draw();
  };
  readouts_.answered = [this](const auto& answers) {
    read_ = answers;
    fillSheet();
  };
  connect(others_, &QComboBox::activated, this, [this](int index) {
    takeOther(index);
    put();
  });
  connect(levelled_, &QCheckBox::toggled, this, &CompareView::draw);
  connect(difference_, &QCheckBox::toggled, this, &CompareView::draw);
  connect(open, &QPushButton::clicked, this, [this] {
    const auto path = QFileDialog::getOpenFileName(this, tr("Another design"), {}, tr("Designs (*.vinegar)"));
    if (!path.isEmpty()) this->open(path);
  });
}

/// The revisions, the last first, and what was opened. The choice stays where it is still there.
void CompareView::fillOthers() {
  const auto& document = page().session().document();
  const auto before = others_->currentText();
  const QSignalBlocker quiet(others_);
  others_->clear();
  if (!opened_.isEmpty()) others_->addItem(opened_, fromFile);
  for (auto revision = document.log.rbegin(); revision != document.log.rend(); ++revision)
    others_->addItem(tr("revision %1, %2").arg(revision->number).arg(QString::fromStdString(revision->reason)).left(60),
                     revision->number);
  others_->addItem(tr("as it was at first"), 0);
  const int at = others_->findText(before);
  // At first the revision before the last: what the last one did.
  others_->setCurrentIndex(at >= 0 ? at : opened_.isEmpty() && others_->count() > 1 ? 1 : 0);
}

void CompareView::takeOther(int index) {
  const auto before = std::exchange(other_, nullptr);
  if (index < 0) return;
  otherName_ = others_->itemText(index).section(QLatin1Char(','), 0, 0);
  const int number = others_->itemData(index).toInt();
  if (number == fromFile) {
    other_ = openedDesign_;
    return;
  }
  auto design = amp::atRevision(page().session().document(), page().session().library(), number);
  if (!design) return page().context().notify(QString::fromStdString(design.error().line()), true);
  design->knobs = page().session().pencilled().knobs; // played alike
  // The same design keeps its address, by which answers are known.
  other_ = before && *before == *design ? before : std::make_shared<const amp::Design>(std::move(*design));
}

void CompareView::open(const QString& path) {
  auto design = readOther(path);
  if (!design) return;
  openedDesign_ = std::move(design);
  opened_ = QString::fromStdString(openedDesign_->name);
  fillOthers();
  others_->setCurrentIndex(0);
  takeOther(0);
  put();
}

void CompareView::put() {
  fillOthers();
  takeOther(others_->currentIndex());
  if (!other_) {
    response_.rest();
    readouts_.rest();
    return;
  }
  const auto& sides = page().context().asker.sides();
  Sides two{sides.edition, {}};
  for (const auto look : {Side::Look::active, Side::Look::ink})
    for (const auto& side : sides.all)
      if (side.look == look && two.all.empty()) two.all.push_back(side);
  two.all.push_back({otherName_, Side::Look::other, Side::besides, other_});
  response_.ask(responseOver(span().from(), span().to()), two);
  readouts_.ask({from(), to()}, two);
}

void CompareView::clear() {
  answers_ = {};
  read_ = {};
  other_.reset();
  openedDesign_.reset();
  opened_.clear();
  others_->clear();
  AnswerView::clear();
}

void CompareView::draw() {
  if (answers_.sides.size() < 2) return;
  const auto *now = answers_.sides[0].get(), *other = answers_.sides[1].get();
  if (!now || !other) {
    curves().clear();
    const auto& error = (now ? answers_.sides[1] : answers_.sides[0]).value.error();
    return sayProblem(now ? Problem{otherName_.toStdString() + ": " + error.place, error.message, error.cancelled}
                          : error);
  }
  state().showContent();
  using Look = CurvePlot::Look;
  auto picture = voicePicture(tr("Comparison, %1").arg(span().words()), tr("dB, %1").arg(span().words()));
  if (difference_->isChecked()) {
    picture.title = tr("Difference, %1").arg(span().words());
    picture.panes = {{tr("dB over %1").arg(otherName_), tr("dB"), CurvePlot::Pane::Scale::fromZero}};
  }
  const double lift = levelled_->isChecked() ? predict::decibelsAt(*now, 1000) - predict::decibelsAt(*other, 1000) : 0;
  const bool pencil = answers_.sides[0].side.look == Side::Look::active;
  CurvePlot::Curve here{pencil ? tr("pencil") : tr("ink"), now->hertz, now->decibels,
                        pencil ? Look::pencil : Look::ink};
  CurvePlot::Curve there{otherName_, other->hertz, other->decibels, Look::another}, over = here;
  for (std::size_t f = 0; f < now->hertz.size(); ++f) {
    there.y[f] += lift;
    over.y[f] = here.y[f] - there.y[f];
  }
  if (difference_->isChecked())
    picture.curves = {std::move(over)};
  else
    picture.curves = {std::move(here), std::move(there)};
  curves().show(std::move(picture));
  answer().setText(tr("%1 dB rms from %2 between 40 Hz and 10 kHz%3")
                       .arg(predict::decibelsApart(*now, *other, levelled_->isChecked()), 0, 'f', 1)
                       .arg(otherName_, levelled_->isChecked() ? tr(", alike at 1 kHz") : QString()));
}

void CompareView::fillSheet() {
  if (read_.sides.size() < 2 || !other_) return sheet().clear();
  const auto *now = read_.sides[0].get(), *other = read_.sides[1].get();
  const auto& library = page().session().library();
  std::vector<FigureSheet::Row> rows;
  const auto add = [&](const QString& what, const QString& here, const QString& there) {
    rows.push_back({{{what, {}, false, false, true}, {here}, {there}}});
  };
  if (now && other)
    for (const auto& readout : now->all) {
      const auto* its = other->of(readout.kind, readout.name);
      const auto here = readoutValue(readout), there = its ? readoutValue(*its) : noReading();
      if (here != there && readout.kind != predict::Readout::Kind::loss)
        add(readoutWords(readout, page().session().pencilled(), library), here, there);
    }
  const auto& design = page().session().pencilled();
  for (const auto& pair : amp::align(design, *other_, library)) {
    const auto title = [&](const amp::SectionUse* use) {
      return use ? QString::fromStdString(amp::describeSection(*use, library)) : noReading();
    };
    if (!pair.first || !pair.second || pair.first->section != pair.second->section)
      add(pair.chain == "line" ? tr("section") : tr("section of %1").arg(QString::fromStdString(pair.chain)),
          title(pair.first), title(pair.second));
    for (const auto& part : pair.parts)
      add(sentence(QString::fromStdString(part.role)),
          part.first.empty() ? noReading() : QString::fromStdString(part.first),
          part.second.empty() ? noReading() : QString::fromStdString(part.second));
  }
  sheet().setSheet({tr("what differs"), tr("here"), tr("there")}, std::move(rows));
}

} // namespace vinegar::app

#include "moc_compare_view.cpp"
