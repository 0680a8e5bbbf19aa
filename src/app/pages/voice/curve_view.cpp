#include "pages/voice/curve_view.h"

#include "files/columns.h"
#include "plots/response_picture.h"
#include "predict/voice/hearing.h"
#include "tell/voice.h"
#include "theme/text.h"
#include "widgets/readings.h"
#include "widgets/told.h"

#include <QCheckBox>
#include <QComboBox>
#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QPushButton>
#include <QSignalBlocker>
#include <QVBoxLayout>
#include <utility>

namespace vinegar::app {

using predict::Readout;
using Kind = Readout::Kind;
using units::Unit;

namespace {

constexpr int sideWidth = 370, leastPlot = 300, mostSoundName = 40;
constexpr double soundStep = 1.01; ///< between points that are kept of a measured loudspeaker
constexpr std::pair<const char*, double> openStrings[] = {{"E2", 82.407},  {"A2", 110},     {"D3", 146.832},
                                                          {"G3", 195.998}, {"B3", 246.942}, {"E4", 329.628}};

QString tipOf(const Readout& readout) {
  QStringList lines;
  for (const auto& maker : readout.makers)
    lines << tr("a tenth more of %1 does %2")
                 .arg(QString::fromStdString(maker.part),
                      readout.isFrequency() ? tr("%1 % to where it is").arg(100 * maker.effect, 0, 'f', 1)
                                            : tr("%1 dB to it").arg(maker.effect, 0, 'f', 2));
  return lines.join(QLatin1Char('\n'));
}

} // namespace

CurveView::CurveView(Page& page, SpanChoice& span) : VoiceView(page, span) {
  setObjectName(QStringLiteral("curveView"));
  auto* content = new QWidget;
  auto* row = new QHBoxLayout(content);
  row->setContentsMargins(0, 0, 0, 0);
  row->setSpacing(10);
  plot_ = newPlot(tr("response"));
  side_ = new QWidget;
  side_->setFixedWidth(sideWidth);
  auto* side = new QVBoxLayout(side_);
  side->setContentsMargins(0, 0, 0, 0);
  side->setSpacing(4);
  auto* tools = new QHBoxLayout;
  tools->setSpacing(10);
  const auto box = [&](const QString& word, const char* name) {
    auto* check = new QCheckBox(word);
    check->setObjectName(QLatin1String(name));
    tools->addWidget(check);
    return check;
  };
  phase_ = box(tr("Phase"), "phase");
  difference_ = box(tr("Difference"), "difference");
  notes_ = box(tr("Notes"), "notes");
  notes_->setChecked(true);
  tools->addStretch(1);
  auto* fit = new QPushButton(tr("Fit"));
  fit->setObjectName(QStringLiteral("fit"));
  connect(fit, &QPushButton::clicked, plot_, &CurvePlot::fit);
  tools->addWidget(fit);
  side->addLayout(tools);
  auto* ears = new QHBoxLayout;
  ears->setSpacing(6);
  const auto choice = [&](const char* name, const QString& about, const QStringList& words) {
    auto* combo = new QComboBox;
    combo->setObjectName(QLatin1String(name));
    combo->setAccessibleName(about);
    combo->addItems(words);
    ears->addWidget(combo, 1);
    connect(combo, &QComboBox::activated, this, [this] {
      if (heard() == Heard::otherSound) return; // is asked for a file
      const auto before = askedTo_;
      put();
      if (askedTo_ == before) draw(); // else what is wanted is on its way
    });
    return combo;
  };
  heard_ = choice("heard", tr("How the curve is taken"), {});
  fillHeard();
  connect(heard_, &QComboBox::activated, this, [this] {
    if (heard() == Heard::otherSound) openSound();
  });
  note_ = choice("note", tr("A note whose partials are marked"), {tr("no note")});
  for (const auto& [name, hertz] : openStrings)
    note_->addItem(tr("partials of %1").arg(QLatin1String(name)), hertz);
  side->addLayout(ears);
  sheet_ = newSheet("readouts", tr("Readings of the curve"), tr("readings"));
  sheet_->setStretched({0});
  side->addWidget(sheet_, 1);
  row->addWidget(plot_, 1);
  row->addWidget(side_);
  setContent(content);
  readouts_.then = [this] {
    fillSheet();
    draw();
  };
  connect(notes_, &QCheckBox::toggled, this, &CurveView::draw);
  for (const auto& [one, other] : {std::pair{phase_, difference_}, {difference_, phase_}})
    connect(one, &QCheckBox::toggled, this, [this, other = other](bool on) {
      const QSignalBlocker quiet(other);
      if (on) other->setChecked(false);
      draw();
    });
  const auto look = [this](int row) {
    if (std::exchange(looked_, row) != row) draw();
  };
  connect(sheet_, &FigureSheet::rowHovered, this, [this, look](int row) { look(row >= 0 ? row : sheet_->chosen()); });
  connect(sheet_, &FigureSheet::rowChosen, this, look);
  connect(sheet_, &FigureSheet::cellTaken, this, [this](int taken, int) {
    const auto index = static_cast<std::size_t>(taken);
    if (index >= makers_.size()) return;
    // Once more goes on to the second.
    const auto& [first, second] = makers_[index];
    const auto& part = this->page().context().selection.part() == first && !second.empty() ? second : first;
    if (!part.empty()) select(part);
  });
}

void CurveView::put() {
  asked_ = span().words();
  fillHeard();
  // What is heard of a loudspeaker is what its cone does, not what stands on its terminals.
  const bool ofCone = heard() == Heard::closedBox || heard() == Heard::openBack;
  const bool ofSpeaker = ofCone || heard() == Heard::ownSound;
  const auto node = ofSpeaker ? speakerNode(ofCone) : QString();
  if (ofSpeaker && node.isEmpty()) heard_->setCurrentIndex(0);
  askedTo_ = node.isEmpty() ? span().to() : node;
  if (!node.isEmpty()) asked_ = tr("%1 to %2").arg(span().from(), tr("speaker"));
  response_.ask(responseOver(span().from(), askedTo_));
  readouts_.ask({from(), to(), bands()});
}

CurveView::Heard CurveView::heard() const { return static_cast<Heard>(heard_->currentData().toInt()); }

/// The ways there are, with the loudspeaker that the design has a measurement of. The choice stays where it can.
void CurveView::fillHeard() {
  const auto& sound = page().session().document().sound;
  const auto of = sound ? QString::fromStdString(sound->name) : QString();
  if (heard_->count() > 0 && of == soundOf_) return;
  soundOf_ = of;
  const auto before = heard();
  const QSignalBlocker quiet(heard_);
  heard_->clear();
  const std::pair<QString, Heard> ways[] = {{tr("as it is"), Heard::asItIs},
                                            {tr("in third octaves"), Heard::thirdOctaves},
                                            {tr("weighted A"), Heard::curveA},
                                            {tr("as loud as heard at 60 phon"), Heard::at60},
                                            {tr("as loud as heard at 90 phon"), Heard::at90},
                                            {tr("before a closed box, estimated"), Heard::closedBox},
                                            {tr("before an open back, estimated"), Heard::openBack}};
  for (const auto& [words, way] : ways)
    heard_->addItem(words, static_cast<int>(way));
  if (sound) heard_->addItem(tr("through %1").arg(of), static_cast<int>(Heard::ownSound));
  heard_->addItem(tr("through a measured speaker..."), static_cast<int>(Heard::otherSound));
  heard_->setCurrentIndex(std::max(0, heard_->findData(static_cast<int>(before))));
}

void CurveView::openSound(const QString& given) {
  const auto path = given.isEmpty() ? QFileDialog::getOpenFileName(this, tr("A measured loudspeaker"), {},
                                                                   tr("Levels over frequency (*.frd *.csv *.txt)"))
                                    : given;
  heard_->setCurrentIndex(0);
  if (path.isEmpty()) return put();
  auto points = files::readColumns(path.toStdString(), "level in dB");
  if (points && points->size() < 2) points = tl::unexpected(Problem{path.toStdString(), "needs two points or more"});
  if (!points) {
    page().context().notify(QString::fromStdString(points.error().line()), true);
    return put();
  }
  // As many as a curve shows, even over the logarithm of frequency.
  amp::MeasuredSound sound{QFileInfo(path).completeBaseName().left(mostSoundName).toStdString(), {}};
  double next = 0;
  for (const auto& point : *points)
    if (point.hertz >= next) {
      sound.points.push_back(point);
      next = point.hertz * soundStep;
    }
  page().session().edit(tr("measured speaker %1").arg(QString::fromStdString(sound.name)),
                        [&](amp::Document& document) { document.sound = std::move(sound); });
  fillHeard();
  heard_->setCurrentIndex(heard_->findData(static_cast<int>(Heard::ownSound)));
  put();
  draw();
}

QString CurveView::speakerNode(bool cone) const {
  const auto* idle = now();
  if (!idle) return {};
  for (const auto& part : idle->circuit->parts)
    if (part.resolved.part->kind == amp::PartKind::speaker && part.inner.size() == 2 && part.nodes.back() == 0)
      return QString::fromStdString(
          idle->circuit->netlist.nodeNames()[static_cast<std::size_t>(cone ? part.inner.back() : part.nodes.front())]);
  return {};
}

void CurveView::clear() {
  makers_.clear();
  looked_ = -1;
}

void CurveView::resizeEvent(QResizeEvent* event) {
  VoiceView::resizeEvent(event);
  side_->setVisible(width() >= sideWidth + leastPlot);
}

void CurveView::addMarks(CurvePlot::Picture& picture) const {
  const auto* readouts = readouts_->nowValue();
  const auto look = response_->pencil() ? CurvePlot::Look::pencil : CurvePlot::Look::ink;
  const auto curve = std::find_if(picture.curves.begin(), picture.curves.end(),
                                  [&](const auto& c) { return c.look == look && c.pane == 0; });
  if (!readouts || curve == picture.curves.end()) return;
  for (const auto& readout : readouts->all)
    if (readout.isFrequency() || readout.kind == Kind::hump) {
      const bool below = readout.kind != Kind::peak && readout.kind != Kind::hump;
      picture.dots.push_back({readout.hertz, CurvePlot::valueAt(*curve, readout.hertz, true),
                              readingOf(readout.hertz, Unit::hertz), look, false, below});
    }
  // Levels, tilts and losses crowd the curve: the one that is looked at is marked.
  if (const auto index = static_cast<std::size_t>(looked_); looked_ >= 0 && index < readouts->all.size())
    if (const auto& readout = readouts->all[index]; !readout.isFrequency() && now())
      picture.dots.push_back({readout.hertz, CurvePlot::valueAt(*curve, readout.hertz, true),
                              QStringLiteral("%1 %2").arg(saidWords(tell::words(readout, *now()->circuit->design,
                                                                                page().context().asker.library(),
                                                                                predict::againstBand(bands())->name)),
                                                          QString::fromStdString(tell::written(readout))),
                              look, false, true});
}

void CurveView::addPartials(CurvePlot::Picture& picture, const predict::Response* response) const {
  if (!response || note_->currentIndex() <= 0) return;
  const auto look = response_->pencil() ? CurvePlot::Look::pencil : CurvePlot::Look::ink;
  for (const auto& partial : predict::partialsOf(*response, note_->currentData().toDouble()))
    picture.dots.push_back({partial.hertz, predict::decibelsAt(*response, partial.hertz),
                            partial.number > 8 ? QString() : signedDecibels(partial.decibels), look, false,
                            partial.number % 2 == 0, false});
}

void CurveView::draw() {
  if (response_->empty()) return;
  auto taken = *response_;
  const auto way = heard();
  const auto& sound = page().session().document().sound;
  const auto taking = [&](const predict::Response& response) {
    switch (way) {
    case Heard::thirdOctaves:
      return predict::thirdOctaves(response);
    case Heard::curveA:
      return predict::weightedA(response);
    case Heard::at60:
      return predict::weightedByLoudness(response, 60);
    case Heard::at90:
      return predict::weightedByLoudness(response, 90);
    case Heard::closedBox:
      return predict::soundOf(response, false);
    case Heard::openBack:
      return predict::soundOf(response, true);
    case Heard::ownSound:
      if (sound) return predict::through(response, sound->points);
      [[fallthrough]];
    default:
      return response;
    }
  };
  for (auto& answer : taken.sides)
    if (way != Heard::asItIs && answer.value)
      answer.value = std::make_shared<const predict::Response>(taking(**answer.value));
  auto picture = responsePicture(taken, {asked_, phase_->isChecked(), notes_->isChecked(), difference_->isChecked()});
  const Problem* problem = nullptr;
  QString whose;
  for (const auto& answer : response_->sides)
    if (!answer.value && !answer.value.error().cancelled) {
      problem = &answer.value.error();
      whose = answer.side.look == Side::Look::ink ? tr("ink") : answer.side.name;
    }
  if (picture.curves.empty()) {
    plot_->clear();
    if (problem) sayProblem(*problem);
    return;
  }
  if (way == Heard::asItIs && note_->currentIndex() == 0) addMarks(picture);
  addPartials(picture, taken.nowValue());
  state().showContent();
  plot_->show(std::move(picture));
  if (problem) page().context().notify(tr("%1: %2").arg(whose, QString::fromStdString(problem->line())), true);
}

void CurveView::fillSheet() {
  const auto *ink = readouts_->inkValue(), *pencil = readouts_->pencilValue();
  const auto* shown = pencil ? pencil : ink;
  makers_.clear();
  if (!shown || !now()) return sheet_->clear();
  const auto& library = page().context().asker.library();
  Told<predict::Readout> told;
  told.besides(ink && pencil ? &ink->all : nullptr,
               [](const auto& a, const auto& b) { return a.kind == b.kind && a.name == b.name; });
  told.cells["value"] = [both = told.withInk](const predict::Readout&, FigureSheet::Cell& cell) {
    cell.words = false;
    cell.strong = both;
  };
  told.cells["made_by"] = [this](const predict::Readout& readout, FigureSheet::Cell& cell) {
    if (readout.makers.empty()) cell.text.clear();
    cell.words = false;
    cell.tip = tipOf(readout);
    auto& makers = makers_.emplace_back();
    for (std::size_t m = 0; m < std::min(makers.size(), readout.makers.size()); ++m)
      makers[m] = readout.makers[m].part;
  };
  const auto columns = tell::readouts(*now()->circuit->design, library, predict::againstBand(bands())->name);
  if (shown->dry) told.note = tr("without the spring's echoes");
  showTold(*sheet_, columns, shown->all, told);
}

QStringList CurveView::flags() const {
  QStringList flags;
  for (const auto& [box, word] : {std::pair{phase_, "phase"}, {difference_, "difference"}, {notes_, "notes"}})
    if (box->isChecked()) flags << QLatin1String(word);
  return flags;
}

void CurveView::setFlags(const QByteArray& flags) {
  const QSignalBlocker a(phase_), b(difference_), c(notes_);
  phase_->setChecked(flags.contains("phase"));
  difference_->setChecked(flags.contains("difference") && !phase_->isChecked());
  notes_->setChecked(flags.contains("notes"));
}

} // namespace vinegar::app

#include "moc_curve_view.cpp"
