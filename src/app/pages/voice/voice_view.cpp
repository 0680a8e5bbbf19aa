#include "pages/voice/voice_view.h"

#include "files/design_file.h"
#include "predict/voice/readouts.h"
#include "theme/text.h"
#include "widgets/pick_list.h"
#include "widgets/readings.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QPushButton>
#include <QSignalBlocker>

namespace vinegar::app {
namespace {
const QString jack = QStringLiteral("jack"), speaker = QStringLiteral("speaker");
} // namespace

SpanChoice::SpanChoice(const PageContext& context) : context_(context) {
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(0, 0, 0, 0);
  row->setSpacing(4);
  whole_ = new QPushButton(tr("Whole amp"));
  whole_->setCheckable(true);
  whole_->setObjectName(QStringLiteral("wholeAmp"));
  row->addWidget(whole_);
  const auto combo = [&](const QString& word, const char* name) {
    auto* box = new QComboBox;
    box->setObjectName(QLatin1String(name));
    box->setAccessibleName(word);
    box->setSizeAdjustPolicy(QComboBox::AdjustToContents);
    box->setMaximumWidth(100);
    box->setSizePolicy(QSizePolicy::Fixed, QSizePolicy::Fixed);
    row->addWidget(quietLabel(word));
    row->addWidget(box);
    connect(box, &QComboBox::activated, this, &SpanChoice::choose);
    return box;
  };
  from_ = combo(tr("from"), "from");
  to_ = combo(tr("to"), "to");
  row->addStretch(1);
  connect(whole_, &QPushButton::clicked, this, [this] {
    from_->setCurrentText(jack);
    to_->setCurrentText(speaker);
    choose();
  });
}

QString SpanChoice::from() const { return from_->count() ? from_->currentText() : jack; }
QString SpanChoice::to() const { return to_->count() ? to_->currentText() : speaker; }
QString SpanChoice::words() const { return tr("%1 to %2").arg(from(), to()); }

void SpanChoice::fill(const amp::Circuit& circuit) {
  QStringList names;
  for (const auto& probe : circuit.probes)
    names << QString::fromStdString(probe.name);
  // Without a jack or a speaker, the first probe to the last.
  refill(*from_, names, jack);
  refill(*to_, names, names.contains(speaker) || names.isEmpty() ? speaker : names.last());
  whole_->setChecked(from() == jack && to() == speaker);
  whole_->setEnabled(names.contains(jack) && names.contains(speaker));
  context_.selection.lookAt({from().toStdString(), to().toStdString()});
}

void SpanChoice::clear() {
  from_->clear();
  to_->clear();
}

void SpanChoice::look(const std::string& from, const std::string& to) {
  for (const auto& [box, name] : {std::pair{from_, from}, {to_, to}})
    if (const int at = box->findText(QString::fromStdString(name)); at >= 0) box->setCurrentIndex(at);
  choose();
}

void SpanChoice::choose() {
  whole_->setChecked(from() == jack && to() == speaker);
  context_.selection.lookAt({from().toStdString(), to().toStdString()});
  Q_EMIT chosen();
}

VoiceView::VoiceView(Page& page, SpanChoice& span) : PageView(page), span_(span) {
  connect(&span, &SpanChoice::chosen, this, &VoiceView::again);
}

void VoiceView::ask(const Answers<predict::Idle>& idle) {
  span_.fill(*idle.any()->circuit);
  put();
}

const predict::Idle* VoiceView::now() const {
  const auto& idle = page().context().asker.idle();
  return idle.nowValue() ? idle.nowValue() : idle.any();
}

std::optional<VoiceView::Origin> VoiceView::origin() const {
  const auto* idle = now();
  if (!idle || span_.from() != jack) return std::nullopt;
  for (const auto& part : idle->circuit->parts)
    if (part.resolved.part->kind == amp::PartKind::signalSource && !part.devices.empty())
      return Origin{idle->circuit->netlist.nodeNames()[static_cast<std::size_t>(part.nodes.front())],
                    QString::fromStdString(part.resolved.name), part.resolved.section};
  return std::nullopt;
}

const std::vector<amp::ToneBand>& VoiceView::bands() const {
  const auto& own = page().session().document().bands;
  return own.empty() ? predict::usualBands() : own;
}

QString VoiceView::valueWords(const std::string& part, double value) const {
  const auto* compiled = now() ? now()->circuit->part(part) : nullptr;
  const auto unit = compiled ? amp::valueUnit(compiled->resolved.part->kind) : units::Unit::none;
  return QStringLiteral("%1 %2").arg(QString::fromStdString(part), schematicValue(value, unit));
}

std::shared_ptr<const amp::Design> VoiceView::readOther(const QString& path) {
  auto loaded = files::readDesign(path.toStdString(), page().session().library());
  if (!loaded)
    page().context().notify(QString::fromStdString(loaded.error().line()), true);
  else if (!loaded->copies.empty())
    page().context().notify(tr("%1 brings sections or tubes of its own; open it once by itself first").arg(path), true);
  else
    return std::make_shared<const amp::Design>(std::move(loaded->document.ink));
  return nullptr;
}

CurvePlot::Picture voicePicture(const QString& title, const QString& label) {
  CurvePlot::Picture picture;
  picture.title = title;
  picture.hertz = picture.stay = true;
  picture.cursorAt = 1000;
  picture.panes.push_back({label, tr("dB"), CurvePlot::Pane::Scale::decibels});
  return picture;
}

QString movedWords(const std::string& tube, double share) {
  return tube.empty() ? QString()
                      : QStringLiteral("%1 %2%3 %")
                            .arg(QString::fromStdString(tube), share > 0 ? "+" : "-")
                            .arg(std::abs(100 * share), 0, 'f', 1);
}

} // namespace vinegar::app

#include "moc_voice_view.cpp"
