#include "pages/voice/compare_view.h"

#include "pages/voice/readout_words.h"
#include "plots/response_picture.h"
#include "predict/voice/hearing.h"
#include "theme/text.h"
#include "widgets/readings.h"

#include <QCheckBox>
#include <QComboBox>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QPushButton>
#include <QSignalBlocker>
#include <QVBoxLayout>
#include <cmath>
#include <utility>

namespace vinegar::app {

namespace {
const QString asItStands = QStringLiteral("now"), theInk = QStringLiteral("ink"), fromFile = QStringLiteral("file"),
              sheetKey = QStringLiteral("sheet "), revisionKey = QStringLiteral("revision ");
constexpr int mostOtherName = 60;
} // namespace

CompareView::CompareView(Page& page, SpanChoice& span)
    : AnswerView(page, span, {"compareAnswer", "differences", tr("What differs"), {}, tr("comparison")}) {
  setObjectName(QStringLiteral("compareView"));
  auto* fields = new QHBoxLayout;
  fields->setSpacing(6);
  const auto side = [&](const char* name, const QString& about) {
    auto* box = new QComboBox;
    box->setObjectName(QLatin1String(name));
    box->setAccessibleName(about);
    box->setMinimumContentsLength(18);
    box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    fields->addWidget(box, 1);
    connect(box, &QComboBox::activated, this, &CompareView::put);
    return box;
  };
  here_ = side("here", tr("What is compared"));
  fields->addWidget(quietLabel(tr("beside")));
  others_ = side("others", tr("What it is compared with"));
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
  gains_.then = readouts_.then = [this] { fillSheet(); };
  connect(levelled_, &QCheckBox::toggled, this, &CompareView::draw);
  connect(difference_, &QCheckBox::toggled, this, &CompareView::draw);
  connect(open, &QPushButton::clicked, this, [this] {
    const auto path = QFileDialog::getOpenFileName(this, tr("Another design"), {}, tr("Designs (*.vinegar)"));
    if (!path.isEmpty()) this->open(path);
  });
}

/// What can stand on either side: the design as it stands, the ink, each sheet that has marks, the revisions, the last
/// first, and what was opened. Each choice stays where it is still there.
void CompareView::fillOthers() {
  const auto& document = page().session().document();
  std::vector<std::pair<QString, QString>> all; // words, key
  if (!opened_.isEmpty()) all.emplace_back(opened_, fromFile);
  all.emplace_back(tr("as it stands"), asItStands);
  all.emplace_back(tr("the ink"), theInk);
  for (std::size_t s = 0; s < document.sheets.size(); ++s)
    if (!document.sheets[s].marks.empty())
      all.emplace_back(QString::fromStdString(document.sheets[s].name).left(mostOtherName),
                       sheetKey + QString::number(s));
  for (auto revision = document.log.rbegin(); revision != document.log.rend(); ++revision)
    all.emplace_back(
        tr("revision %1, %2").arg(revision->number).arg(QString::fromStdString(revision->reason)).left(mostOtherName),
        revisionKey + QString::number(revision->number));
  all.emplace_back(tr("as it was at first"), revisionKey + QStringLiteral("0"));
  // At first the revision before the last: what the last one did.
  const auto before =
      revisionKey + QString::number(document.log.size() > 1 ? document.log[document.log.size() - 2].number : 0);
  for (const auto& [box, otherwise] :
       {std::pair{here_, asItStands}, {others_, opened_.isEmpty() ? before : fromFile}}) {
    const auto chosen = box->currentData().toString();
    const QSignalBlocker quiet(box);
    box->clear();
    for (const auto& [words, key] : all)
      box->addItem(words, key);
    const int at = box->findData(chosen);
    box->setCurrentIndex(at >= 0 ? at : std::max(0, box->findData(otherwise)));
  }
}

/// The same design keeps its address, or has that of the side that it is: by it answers are known.
bool CompareView::take(const QComboBox& box, Chosen& chosen) {
  const auto before = std::exchange(chosen.design, nullptr);
  const auto& session = page().session();
  const auto key = box.currentData().toString();
  chosen.name = box.currentText().section(QLatin1Char(','), 0, 0);
  auto design = session.pencilled();
  if (key == fromFile) {
    chosen.design = openedDesign_;
    return chosen.design != nullptr;
  }
  if (key == theInk) {
    design = session.document().ink;
  } else if (key.startsWith(sheetKey)) {
    auto document = session.document();
    document.activeSheet = key.mid(sheetKey.size()).toULongLong();
    design = amp::pencilled(document, session.library());
  } else if (key.startsWith(revisionKey)) {
    auto then = amp::atRevision(session.document(), session.library(), key.mid(revisionKey.size()).toInt());
    if (!then) {
      page().context().notify(QString::fromStdString(then.error().line()), true);
      return false;
    }
    design = std::move(*then);
  }
  design.knobs = session.pencilled().knobs; // played alike
  const auto& sides = page().context().asker.sides().all;
  const auto known = std::find_if(sides.begin(), sides.end(), [&](const Side& side) { return *side.design == design; });
  chosen.design = known != sides.end()          ? known->design
                  : before && *before == design ? before
                                                : std::make_shared<const amp::Design>(std::move(design));
  return true;
}

void CompareView::open(const QString& path) {
  auto design = readOther(path);
  if (!design) return;
  openedDesign_ = std::move(design);
  opened_ = QString::fromStdString(openedDesign_->name);
  fillOthers();
  others_->setCurrentIndex(others_->findData(fromFile));
  put();
}

void CompareView::put() {
  fillOthers();
  if (!take(*here_, first_) || !take(*others_, second_)) {
    response_.rest();
    readouts_.rest();
    gains_.rest();
    return;
  }
  const auto& sides = page().context().asker.sides();
  const bool pencil =
      here_->currentData().toString() == asItStands &&
      std::any_of(sides.all.begin(), sides.all.end(), [](const Side& side) { return side.look == Side::Look::active; });
  const Sides two{sides.edition,
                  {{first_.name, pencil ? Side::Look::active : Side::Look::ink, Side::besides, first_.design},
                   {second_.name, Side::Look::other, Side::besides, second_.design}}};
  response_.ask(responseOver(span().from(), span().to()), two);
  readouts_.ask({from(), to(), bands()}, two);
  gains_.ask({}, two);
}

void CompareView::clear() {
  first_ = second_ = {};
  here_->clear();
  openedDesign_.reset();
  opened_.clear();
  others_->clear();
}

void CompareView::draw() {
  if (response_->sides.size() < 2) return;
  const auto *now = response_->sides[0].get(), *other = response_->sides[1].get();
  if (!now || !other) {
    curves().clear();
    const auto& error = (now ? response_->sides[1] : response_->sides[0]).value.error();
    return sayProblem(now ? Problem{second_.name.toStdString() + ": " + error.place, error.message, error.cancelled}
                          : error);
  }
  state().showContent();
  using Look = CurvePlot::Look;
  auto picture = voicePicture(tr("Comparison, %1").arg(span().words()), tr("dB, %1").arg(span().words()));
  if (difference_->isChecked()) {
    picture.title = tr("Difference, %1").arg(span().words());
    picture.panes = {{tr("dB over %1").arg(second_.name), tr("dB"), CurvePlot::Pane::Scale::fromZero}};
  }
  const double lift = levelled_->isChecked() ? predict::decibelsAt(*now, 1000) - predict::decibelsAt(*other, 1000) : 0;
  const bool pencil = response_->sides[0].side.look == Side::Look::active;
  CurvePlot::Curve here{here_->currentData().toString() == asItStands ? (pencil ? tr("pencil") : tr("ink"))
                                                                      : first_.name,
                        now->hertz, now->decibels, pencil ? Look::pencil : Look::ink};
  // What is or was ink stands in ink beside the pencil.
  const auto key = others_->currentData().toString();
  const bool inked = pencil && (key == theInk || key.startsWith(revisionKey));
  CurvePlot::Curve there{second_.name, other->hertz, other->decibels, inked ? Look::ink : Look::another}, over = here;
  for (std::size_t f = 0; f < now->hertz.size(); ++f) {
    there.y[f] += lift;
    over.y[f] = here.y[f] - there.y[f];
  }
  if (difference_->isChecked())
    picture.curves = {std::move(over)};
  else
    picture.curves = {std::move(here), std::move(there)};
  curves().show(std::move(picture));
  const auto apart = [&](predict::Weighing weighing) {
    return QString::number(predict::decibelsApart(*now, *other, levelled_->isChecked(), weighing), 'f', 1);
  };
  answer().setText(tr("%1 dB rms from %2 between 40 Hz and 10 kHz%3; as it is heard %4 dB (curve A), %5 dB (70 phon)")
                       .arg(apart(predict::Weighing::even), second_.name,
                            levelled_->isChecked() ? tr(", alike at 1 kHz") : QString(),
                            apart(predict::Weighing::curveA), apart(predict::Weighing::loudness)));
}

std::pair<const predict::SectionGains*, const predict::SectionGains*> CompareView::gainsOf() const {
  if (gains_->sides.size() < 2) return {nullptr, nullptr};
  return {gains_->sides[0].get(), gains_->sides[1].get()};
}

/// What a section gives or takes, where that is not alike on both sides.
void CompareView::addGains(const amp::SectionPair& pair, const predict::SectionGains* first,
                           const predict::SectionGains* second, std::vector<FigureSheet::Row>& rows) const {
  constexpr double telling = 0.1;
  const auto* here = first && pair.first ? first->of(pair.first->id) : nullptr;
  const auto* there = second && pair.second ? second->of(pair.second->id) : nullptr;
  if (!here && !there) return;
  double apart = here && there ? 0 : telling;
  for (std::size_t f = 0; here && there && f < here->decibels.size(); ++f)
    apart = std::max(apart, std::abs(here->decibels[f] - there->decibels[f]));
  if (apart < telling) return;
  const auto words = [](const predict::SectionGain* gain) {
    if (!gain) return noReading();
    QStringList levels;
    for (const double level : gain->decibels)
      levels << QString::number(std::round(10 * level) / 10 + 0.0, 'f', 1); // no "-0.0"
    return levels.join(QStringLiteral("  "));
  };
  const auto* use = pair.first ? pair.first : pair.second;
  const auto title = QString::fromStdString(amp::describeSection(*use, page().session().library()));
  rows.push_back(
      {{{tr("dB by %1").arg(title), tr("Its end over its beginning at E2, 1 kHz and 5 kHz"), false, false, true},
        {words(here)},
        {words(there)}}});
}

void CompareView::fillSheet() {
  if (readouts_->sides.size() < 2 || !first_.design || !second_.design) return sheet().clear();
  const auto *now = readouts_->sides[0].get(), *other = readouts_->sides[1].get();
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
        add(readoutWords(readout, *first_.design, library, bandWords(*predict::againstBand(bands()))), here, there);
    }
  const auto& [firstGains, secondGains] = gainsOf();
  for (const auto& pair : amp::align(*first_.design, *second_.design, library)) {
    const auto title = [&](const amp::SectionUse* use) {
      return use ? QString::fromStdString(amp::describeSection(*use, library)) : noReading();
    };
    if (!pair.first || !pair.second || pair.first->section != pair.second->section)
      add(pair.chain == "line" ? tr("section") : tr("section of %1").arg(QString::fromStdString(pair.chain)),
          title(pair.first), title(pair.second));
    addGains(pair, firstGains, secondGains, rows);
    for (const auto& part : pair.parts)
      add(sentence(QString::fromStdString(part.role)),
          part.first.empty() ? noReading() : QString::fromStdString(part.first),
          part.second.empty() ? noReading() : QString::fromStdString(part.second));
  }
  sheet().setSheet({tr("what differs"), tr("here"), tr("there")}, std::move(rows));
}

} // namespace vinegar::app

#include "moc_compare_view.cpp"
