#include "pages/voice/compare_view.h"

#include "plots/response_picture.h"
#include "predict/voice/hearing.h"
#include "tell/voice.h"
#include "theme/text.h"
#include "widgets/readings.h"
#include "widgets/told.h"

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

void CompareView::fillSheet() {
  if (readouts_->sides.size() < 2 || !first_.design || !second_.design) return sheet().clear();
  const auto& [firstGains, secondGains] = gainsOf();
  const auto rows = tell::differencesOf({*first_.design, readouts_->sides[0].get(), firstGains},
                                        {*second_.design, readouts_->sides[1].get(), secondGains},
                                        page().session().library(), predict::againstBand(bands())->name);
  Told<tell::Difference> told;
  told.cells["what"] = [](const tell::Difference& row, FigureSheet::Cell& cell) {
    if (!row.about.empty()) cell.tip = toldWords(row.about);
  };
  for (const char* side : {"first", "second"})
    told.cells[side] = [](const tell::Difference&, FigureSheet::Cell& cell) { cell.words = false; };
  showTold(sheet(), tell::differences("here", "there"), rows, told);
}

} // namespace vinegar::app

#include "moc_compare_view.cpp"
