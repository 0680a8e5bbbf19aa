#include "pages/voice/voice_page.h"

#include "plots/response_picture.h"
#include "theme/text.h"
#include "theme/theme.h"
#include "widgets/knob_grid.h"

#include <QCheckBox>
#include <QComboBox>
#include <QPushButton>
#include <QSignalBlocker>

namespace vinegar::app {

extern const PageFacts voicePage;
const PageFacts voicePage{"Voice", QT_TRANSLATE_NOOP("Page", "Voice"),
                          QT_TRANSLATE_NOOP("Page", "what will it sound like?"), makePage<VoicePage>, PageFacts::gain};

namespace {
const QString jack = QStringLiteral("jack"), speaker = QStringLiteral("speaker");
} // namespace

VoicePage::VoicePage(const PageContext& context, const PageFacts& facts)
    : Page(context, facts), response_(context.asker, predict::predictResponse, Weight::quick) {
  whole_ = new QPushButton(tr("Whole amp"));
  whole_->setCheckable(true);
  whole_->setObjectName(QStringLiteral("wholeAmp"));
  frame().addHeadTool(whole_);
  const auto combo = [&](const QString& word, const char* name) {
    auto* box = new QComboBox;
    box->setObjectName(QLatin1String(name));
    box->setAccessibleName(word);
    box->setSizeAdjustPolicy(QComboBox::AdjustToContents);
    box->setMaximumWidth(150);
    auto* label = new Label(word);
    label->setProperty("quiet", true);
    frame().addHeadTool(label);
    frame().addHeadTool(box);
    return box;
  };
  from_ = combo(tr("from"), "from");
  to_ = combo(tr("to"), "to");
  knobs_ = new KnobGrid(session());
  frame().addRow(knobs_);
  phase_ = new QCheckBox(tr("Phase"));
  phase_->setObjectName(QStringLiteral("phase"));
  notes_ = new QCheckBox(tr("Notes"));
  notes_->setChecked(true);
  plot_ = new CurvePlot;
  plot_->addTool(phase_);
  plot_->addTool(notes_);
  plot_->addFit();
  frame().setContent(plot_);
  frame().setExports(exportsOf(*plot_, tr("response")));

  own(response_);
  response_.answered = [this](const auto& answers) {
    answers_ = answers;
    draw();
  };
  connect(whole_, &QPushButton::clicked, this, [this] { setSpan(jack, speaker); });
  for (auto* box : {from_, to_})
    connect(box, &QComboBox::activated, this, &VoicePage::ask);
  for (auto* box : {phase_, notes_})
    connect(box, &QCheckBox::toggled, this, &VoicePage::draw);
}

QString VoicePage::from() const { return from_->count() ? from_->currentText() : jack; }
QString VoicePage::to() const { return to_->count() ? to_->currentText() : speaker; }

void VoicePage::setSpan(const QString& from, const QString& to) {
  from_->setCurrentText(from);
  to_->setCurrentText(to);
  ask();
}

void VoicePage::followDocument() { knobs_->refresh(); }

void VoicePage::followIdle(const Answers<predict::Idle>& idle) {
  if (saysNothing(idle)) {
    response_.rest();
    plot_->clear();
    answers_ = {};
    return;
  }
  fillProbes(*idle.any()->circuit);
  ask();
}

void VoicePage::startAfresh() {
  response_.rest();
  answers_ = {};
  from_->clear();
  to_->clear();
  plot_->clear();
}

void VoicePage::fillProbes(const amp::Circuit& circuit) {
  QStringList names, present;
  for (const auto& probe : circuit.probes)
    names << QString::fromStdString(probe.name);
  for (int i = 0; i < from_->count(); ++i)
    present << from_->itemText(i);
  if (names == present) return;
  for (const auto& [box, otherwise] : {std::pair{from_, jack}, {to_, speaker}}) {
    const QString chosen = box->count() ? box->currentText() : box->property("wanted").toString();
    box->clear();
    box->addItems(names);
    box->setCurrentText(names.contains(chosen) ? chosen : otherwise);
  }
}

void VoicePage::ask() {
  whole_->setChecked(from() == jack && to() == speaker);
  asked_ = tr("%1 to %2").arg(from(), to());
  context().selection.lookAt({from().toStdString(), to().toStdString()});
  response_.ask(responseOver(from(), to()));
}

void VoicePage::draw() {
  if (answers_.empty()) return;
  auto picture = responsePicture(answers_, {asked_, phase_->isChecked(), notes_->isChecked()});
  const Problem* problem = nullptr;
  QString whose;
  for (const auto& answer : answers_.sides)
    if (!answer.value && !answer.value.error().cancelled) {
      problem = &answer.value.error();
      whose = answer.side.look == Side::Look::ink ? tr("ink") : answer.side.name;
    }
  if (picture.curves.empty()) {
    plot_->clear();
    if (problem) sayProblem(*problem);
    return;
  }
  frame().state().showContent();
  plot_->show(std::move(picture));
  if (problem) context().notify(tr("%1: %2").arg(whose, QString::fromStdString(problem->line())), true);
}

QByteArray VoicePage::saveView() const {
  return (QStringList{phase_->isChecked() ? QStringLiteral("phase") : QString(),
                      notes_->isChecked() ? QStringLiteral("notes") : QString()})
      .join(QLatin1Char(' '))
      .toUtf8();
}

void VoicePage::restoreView(const QByteArray& view) {
  const QSignalBlocker noPhase(phase_), noNotes(notes_);
  phase_->setChecked(view.contains("phase"));
  notes_->setChecked(view.contains("notes"));
}

void VoicePage::restyle() { plot_->restyle(); }

} // namespace vinegar::app

#include "moc_voice_page.cpp"
