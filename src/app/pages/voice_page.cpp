#include "pages/voice_page.h"

#include "drawer/knob.h"
#include "plots/response_plot.h"
#include "theme/theme.h"
#include "window/session.h"

#include <QCheckBox>
#include <QComboBox>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QLabel>
#include <QMenu>
#include <QPushButton>
#include <QSignalBlocker>
#include <QSlider>
#include <QToolButton>
#include <QVBoxLayout>
#include <cmath>

namespace vinegar::app {

VoicePage::VoicePage(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
  setObjectName(QStringLiteral("page"));
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(14, 8, 14, 6);
  column->setSpacing(4);
  auto* head = new QHBoxLayout;
  auto* title = new QLabel(tr("Voice"));
  title->setFont(textFont(14, QFont::DemiBold));
  head->addWidget(title);
  auto* question = new QLabel(tr("what will it sound like?"));
  question->setProperty("quiet", true);
  question->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
  head->addWidget(question, 1);
  whole_ = new QPushButton(tr("Whole amp"));
  whole_->setCheckable(true);
  whole_->setObjectName(QStringLiteral("wholeAmp"));
  head->addWidget(whole_);
  const auto combo = [&](const QString& word, const char* name) {
    auto* box = new QComboBox;
    box->setObjectName(QLatin1String(name));
    box->setAccessibleName(word);
    box->setSizeAdjustPolicy(QComboBox::AdjustToContents);
    box->setMaximumWidth(150);
    auto* label = new QLabel(word);
    label->setProperty("quiet", true);
    head->addWidget(label);
    head->addWidget(box);
    return box;
  };
  from_ = combo(tr("from"), "from");
  to_ = combo(tr("to"), "to");
  phase_ = new QCheckBox(tr("Phase"));
  phase_->setObjectName(QStringLiteral("phase"));
  notes_ = new QCheckBox(tr("Notes"));
  notes_->setChecked(true);
  auto* fit = new QPushButton(tr("Fit"));
  fit->setObjectName(QStringLiteral("fit"));
  fit->setToolTip(tr("Set the axes to the curves. They stay put otherwise; drag or use the wheel to move them."));
  auto* share = new QToolButton;
  share->setText(tr("Export"));
  share->setPopupMode(QToolButton::InstantPopup);
  auto* menu = new QMenu(share);
  menu->addAction(tr("Copy picture and figures"), this, [this] { plot_->copyToClipboard(); });
  menu->addAction(tr("Export as SVG, PDF, PNG or CSV\u2026"), this, &VoicePage::exportPlot);
  share->setMenu(menu);
  column->addLayout(head);

  knobRow_ = new QWidget;
  knobLayout_ = new QHBoxLayout(knobRow_);
  knobLayout_->setContentsMargins(0, 0, 0, 0);
  knobLayout_->setSpacing(10);
  column->addWidget(knobRow_);
  plot_ = new ResponsePlot;
  for (QWidget* tool : {static_cast<QWidget*>(phase_), static_cast<QWidget*>(notes_), static_cast<QWidget*>(fit),
                        static_cast<QWidget*>(share)})
    plot_->addTool(tool);
  column->addWidget(plot_, 1);

  connect(whole_, &QPushButton::clicked, this, [this] { setSpan(QStringLiteral("jack"), QStringLiteral("speaker")); });
  for (auto* box : {from_, to_})
    connect(box, &QComboBox::activated, this, [this] {
      fitNext_ = true;
      Q_EMIT spanChanged();
    });
  connect(phase_, &QCheckBox::toggled, this, [this](bool on) { plot_->setPhaseShown(on); });
  connect(notes_, &QCheckBox::toggled, this, [this](bool on) { plot_->setNotesShown(on); });
  connect(fit, &QPushButton::clicked, this, [this] { plot_->fit(); });
  refresh();
}

std::string VoicePage::from() const { return from_->count() ? from_->currentText().toStdString() : "jack"; }
std::string VoicePage::to() const { return to_->count() ? to_->currentText().toStdString() : "speaker"; }

void VoicePage::setSpan(const QString& from, const QString& to) {
  from_->setCurrentText(from);
  to_->setCurrentText(to);
  fitNext_ = true;
  Q_EMIT spanChanged();
}

void VoicePage::startAfresh() {
  fitNext_ = true;
  from_->clear();
  to_->clear();
}

void VoicePage::fillProbes(const amp::Circuit& circuit) {
  QStringList names;
  for (const auto& probe : circuit.probes)
    names << QString::fromStdString(probe.name);
  QStringList present;
  for (int i = 0; i < from_->count(); ++i)
    present << from_->itemText(i);
  if (names == present) return;
  for (const auto& [box, otherwise] : {std::pair{from_, QStringLiteral("jack")}, {to_, QStringLiteral("speaker")}}) {
    const QString chosen = box->count() ? box->currentText() : otherwise;
    box->clear();
    box->addItems(names);
    box->setCurrentText(names.contains(chosen) ? chosen : otherwise);
  }
}

void VoicePage::display(const Shown& shown) {
  if (!shown.now() && !shown.ink) {
    plot_->setProblem(tr("No response: %1").arg(QString::fromStdString(shown.ink.error().line())));
    return;
  }
  const auto& any = shown.ink ? shown.ink : shown.now();
  fillProbes(*(*any)->circuit);
  const bool whole = shown.question.from == "jack" && shown.question.to == "speaker";
  whole_->setChecked(whole);
  plot_->setLevelLabel(
      tr("dB, %1 to %2").arg(QString::fromStdString(shown.question.from), QString::fromStdString(shown.question.to)));
  std::vector<ResponsePlot::Curve> curves;
  if (shown.ink) curves.push_back({tr("ink"), (*shown.ink)->response, true, false});
  QString problem;
  for (const auto& sheet : shown.sheets) {
    if (sheet.answer)
      curves.push_back({sheet.active ? tr("pencil") : sheet.name, (*sheet.answer)->response, false, sheet.active});
    else
      problem = tr("%1: %2").arg(sheet.name, QString::fromStdString(sheet.answer.error().line()));
  }
  plot_->setCurves(std::move(curves));
  if (fitNext_) plot_->fit();
  fitNext_ = false;
  if (!problem.isEmpty()) Q_EMIT failed(problem);
}

void VoicePage::buildKnobs(const std::vector<amp::ResolvedPart>& controls) {
  std::vector<std::string> names;
  for (const auto& control : controls)
    names.push_back(control.section + "." + control.name);
  if (names == knobNames_ && knobLayout_->count() > 0) return;
  knobNames_ = names;
  knobs_.clear();
  while (auto* item = knobLayout_->takeAt(0)) {
    delete item->widget();
    delete item;
  }
  auto* word = new QLabel(names.empty() ? tr("This design has no knobs") : tr("Played at"));
  word->setProperty("quiet", true);
  knobLayout_->addWidget(word);
  for (const auto& control : controls) {
    auto* knob = new Knob(session_, control);
    knobLayout_->addWidget(new QLabel(QString::fromStdString(control.name)));
    knobLayout_->addWidget(knob);
    knobs_.push_back(knob);
  }
  knobLayout_->addStretch();
}

void VoicePage::refresh() {
  std::vector<amp::ResolvedPart> controls;
  for (const auto& part : session_.inkParts())
    if (amp::isControl(part.part->kind) && part.knob == part.name) controls.push_back(part);
  buildKnobs(controls);
  for (auto* knob : knobs_)
    knob->refresh();
}

void VoicePage::restyle() { plot_->restyle(); }

void VoicePage::exportPlot() {
  const QString path =
      QFileDialog::getSaveFileName(this, tr("Export the response"), QStringLiteral("response.svg"),
                                   tr("Scalable picture (*.svg);;Page (*.pdf);;Picture (*.png);;Figures (*.csv)"));
  if (path.isEmpty()) return;
  if (const QString problem = plot_->exportTo(path); !problem.isEmpty()) Q_EMIT failed(problem);
}

} // namespace vinegar::app
