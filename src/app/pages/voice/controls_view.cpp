#include "pages/voice/controls_view.h"

#include "drawer/value_box.h"
#include "theme/text.h"
#include "widgets/pick_list.h"
#include "widgets/readings.h"

#include <QCheckBox>
#include <QComboBox>
#include <QHBoxLayout>
#include <QVBoxLayout>
#include <cmath>

namespace vinegar::app {

using predict::Thirds, predict::Travel;

namespace {
constexpr double telling = 0.1; ///< dB: less and a control does nothing here
double levelAt(const Travel& travel, std::size_t curve, double hertz) {
  return CurvePlot::valueAt({{}, travel.hertz, travel.curves[curve].decibels}, hertz, true);
}
QString share(double part) { return QStringLiteral("%1 %").arg(100 * part, 0, 'f', 0); }
} // namespace

ControlsView::ControlsView(Page& page, SpanChoice& span)
    : AnswerView(page, span,
                 {"controlAnswer", "tapers", tr("How much happens in each third of the travel"), tr("control"), {}}) {
  curves().addTool(quietLabel(tr("control")));
  control_ = new QComboBox;
  control_->setObjectName(QStringLiteral("travelControl"));
  control_->setAccessibleName(tr("Control"));
  control_->setSizeAdjustPolicy(QComboBox::AdjustToContents);
  curves().addTool(control_);
  reach_ = new QCheckBox(tr("Reach"));
  reach_->setObjectName(QStringLiteral("reach"));
  reach_->setToolTip(plainTip(tr("Where this control and those beside it can bring the curve together")));
  curves().addTool(reach_);
  alike_ = new QCheckBox(tr("Alike at 1 kHz"));
  alike_->setObjectName(QStringLiteral("alike"));
  curves().addTool(alike_);
  connect(alike_, &QCheckBox::toggled, this, &ControlsView::draw);
  sheet().setFixedWidth(432);
  connect(control_, &QComboBox::activated, this, &ControlsView::put);
  connect(&sheet(), &FigureSheet::cellTaken, this, [this](int taken, int column) {
    const auto row = static_cast<std::size_t>(taken);
    if (row >= standing_.size() || standing_[row].empty()) return;
    const auto& parts = standing_[row];
    select(parts[std::min(static_cast<std::size_t>(std::max(0, column - 1)), parts.size() - 1)]);
  });
  connect(reach_, &QCheckBox::toggled, this, [this] {
    put();
    draw();
  });
}

void ControlsView::fillControls() {
  QStringList names;
  const auto* idle = now();
  for (const auto& part : idle->circuit->parts) {
    const auto& own = part.resolved;
    if (!amp::isControl(own.part->kind) || part.devices.empty()) continue;
    const auto name = QString::fromStdString(own.knob);
    if (!names.contains(name) && amp::isPlayed(own, page().context().asker.library())) names << name;
  }
  refill(*control_, names);
}

std::vector<std::string> ControlsView::company() const {
  const auto* idle = now();
  const auto chosen = control_->currentText().toStdString();
  std::vector<std::string> knobs{chosen};
  const auto& parts = idle->circuit->parts;
  const auto own = std::find_if(parts.begin(), parts.end(), [&](const auto& p) { return p.resolved.knob == chosen; });
  for (const auto& part : parts)
    if (own != parts.end() && part.resolved.section == own->resolved.section && !part.devices.empty() &&
        part.resolved.part->kind == amp::PartKind::pot && knobs.size() < 3 &&
        std::find(knobs.begin(), knobs.end(), part.resolved.knob) == knobs.end())
      knobs.push_back(part.resolved.knob);
  return knobs;
}

void ControlsView::put() {
  if (!now()) return;
  fillControls();
  if (control_->count() == 0) {
    travel_.rest();
    envelope_.rest();
    return state().say(
        tr("This design has no control to be turned. Put in a volume or tone control on the Arrange page."));
  }
  // What a guitar's own controls do, the jack does not tell against itself.
  auto start = from();
  asked_ = span().words();
  const auto& parts = now()->circuit->parts;
  const auto own = std::find_if(parts.begin(), parts.end(), [&](const auto& part) {
    return part.resolved.knob == control_->currentText().toStdString();
  });
  if (const auto source = origin(); source && own != parts.end() && own->resolved.section == source->section) {
    start = source->node;
    asked_ = tr("%1 to %2").arg(source->name, span().to());
  }
  travel_.ask({control_->currentText().toStdString(), start, to()});
  if (reach_->isChecked())
    envelope_.ask({company(), start, to()});
  else
    envelope_.rest();
}

void ControlsView::clear() { control_->clear(); }

void ControlsView::draw() {
  const auto* travel = standing(*travel_);
  if (!travel) return;
  alike_->setVisible(travel->isSwitch);
  reach_->setVisible(!travel->isSwitch);
  using Look = CurvePlot::Look;
  // Another title, so that the axes take in where it reaches.
  const auto* envelope = envelope_->nowValue();
  const bool reaching = envelope && reach_->isChecked() && !travel->isSwitch;
  auto picture = voicePicture((reaching ? tr("Reach, %1") : tr("Control, %1")).arg(asked_), tr("dB, %1").arg(asked_));
  const bool pencil = travel_->pencil();
  const auto thick = pencil ? Look::pencil : Look::ink, thin = pencil ? Look::pencilThin : Look::inkThin;
  for (std::size_t c = 0; c < travel->curves.size(); ++c) {
    auto curve = travel->curves[c];
    if (travel->isSwitch && alike_->isChecked()) {
      const double off = levelAt(*travel, c, 1000) - levelAt(*travel, 0, 1000);
      for (auto& level : curve.decibels)
        level -= off;
    }
    const auto name =
        travel->isSwitch ? QString::fromStdString(curve.title) : QString::number(std::lround(10 * curve.setting));
    const bool end = travel->isSwitch || c == 0 || c + 1 == travel->curves.size() || c == travel->curves.size() / 2;
    CurvePlot::Curve line{name, travel->hertz, curve.decibels, end ? thick : thin};
    if (travel->isSwitch && c % 2) line.look = c % 4 == 1 ? Look::other : Look::another;
    line.label = name;
    // Each at a place of its own: positions may lie upon each other.
    line.labelAt = travel->isSwitch ? 0.3 + 0.5 * static_cast<double>(c) / static_cast<double>(travel->curves.size())
                                    : 0.64 + 0.05 * static_cast<double>(c % 3);
    picture.curves.push_back(std::move(line));
  }
  if (reaching) {
    picture.curves.push_back({tr("most"), envelope->hertz, envelope->most, Look::other});
    picture.curves.push_back({tr("least"), envelope->hertz, envelope->least, Look::other});
  }
  curves().show(std::move(picture));
  fillSheet(*travel);
  const auto name = QString::fromStdString(travel->control);
  if (travel->whole < telling) {
    answer().setText(tr("%1 does nothing over this span").arg(name));
  } else if (travel->isSwitch) {
    answer().setText(tr("%1 moves the curve by %2 dB in all").arg(name).arg(travel->whole, 0, 'f', 1));
  } else {
    const auto& thirds = travel->thirds.share;
    const auto most = static_cast<std::size_t>(std::max_element(thirds.begin(), thirds.end()) - thirds.begin());
    const QString third = most == 0 ? tr("first") : most == 1 ? tr("middle") : tr("last");
    const auto& best = travel->tapers.front();
    QString text = travel->thirds.unevenness() < 1.25
                       ? tr("%1 works evenly").arg(name)
                       : tr("%1: %2 of what it does happens in the %3 third").arg(name, share(thirds[most]), third);
    if (best.taper != travel->taper && best.thirds.unevenness() < travel->thirds.unevenness() - 0.1)
      text += tr("; %1 would be the most even").arg(QString::fromStdString(best.taper));
    answer().setText(text);
  }
}

std::vector<const amp::CompiledPart*> ControlsView::partsAt(const std::string& control, std::size_t position) const {
  const auto& circuit = *now()->circuit;
  std::vector<const amp::CompiledPart*> parts;
  for (const auto& contact : circuit.parts) {
    if (contact.resolved.knob != control || position >= contact.resolved.part->positions.size()) continue;
    const int to = contact.resolved.part->positions[position].to;
    if (to <= 0 || static_cast<std::size_t>(to) >= contact.nodes.size()) continue;
    const auto node = contact.nodes[static_cast<std::size_t>(to)];
    for (const auto& part : circuit.parts)
      if (node > 0 && part.resolved.section == contact.resolved.section && amp::hasValue(part.resolved.part->kind) &&
          std::find(part.nodes.begin(), part.nodes.end(), node) != part.nodes.end())
        parts.push_back(&part);
  }
  return parts;
}

/// Side by side, each part's value to be typed over: a switch is designed where its positions are heard against each
/// other.
void ControlsView::fillPositions(const Travel& travel) {
  std::vector<FigureSheet::Row> rows;
  standing_.assign(travel.curves.size(), {});
  std::size_t most = 1;
  for (std::size_t c = 0; c < travel.curves.size(); ++c)
    most = std::max(most, partsAt(travel.control, c).size());
  for (std::size_t c = 0; c < travel.curves.size(); ++c) {
    FigureSheet::Row row{{{QString::fromStdString(travel.curves[c].title), {}, false, false, true}}};
    const auto parts = partsAt(travel.control, c);
    for (const auto* part : parts) {
      const auto name = part->resolved.name;
      standing_[c].push_back(name);
      row.cells.push_back({valueWords(name, part->resolved.value()),
                           tr("Type another value"),
                           false,
                           false,
                           false,
                           {},
                           [this, name](const QString& typed) { takeTyped(name, typed); }});
    }
    while (row.cells.size() <= most)
      row.cells.push_back({noReading()});
    for (const double hertz : {82.407, 1000.0, 5000.0}) {
      const double over = levelAt(travel, c, hertz) - levelAt(travel, 0, hertz);
      row.cells.push_back({signedDecibels(over), {}, false, false, false, over});
    }
    rows.push_back(std::move(row));
  }
  QStringList titles{tr("position"), tr("what is there")};
  while (titles.size() <= static_cast<qsizetype>(most))
    titles << tr("and");
  sheet().setSheet(titles << tr("E2") << tr("1 kHz") << tr("5 kHz"), std::move(rows));
}

/// "3k3", or with the part's name before it as it stands there.
void ControlsView::takeTyped(const std::string& name, const QString& typed) {
  const auto part = amp::findPart(page().session().pencilled(), page().session().library(), name);
  if (!part) return;
  auto text = typed.trimmed();
  if (const auto own = QString::fromStdString(name) + QLatin1Char(' '); text.startsWith(own))
    text = text.mid(own.size());
  const auto to = amp::typedSetting(*part, "value", text.toStdString(), page().session().library());
  if (!to) {
    page().context().notify(QString::fromStdString(to.error().line()), true);
    draw(); // what stands, again
    return;
  }
  pencilField(page().session(), name, "value", *to);
  draw();
}

void ControlsView::fillSheet(const Travel& travel) {
  standing_.clear();
  if (travel.isSwitch) return fillPositions(travel);
  std::vector<FigureSheet::Row> rows;
  const auto thirdsInto = [](FigureSheet::Row& row, const Thirds& thirds, bool strong) {
    for (const double part : thirds.share)
      row.cells.push_back({share(part), {}, false, strong, false, part});
  };
  for (const auto& choice : travel.tapers) {
    const bool stands = choice.taper == travel.taper;
    const auto title =
        choice.taper.starts_with(amp::measuredTaper) ? tr("as measured") : QString::fromStdString(choice.taper);
    const amp::SetField change{travel.control, "taper", travel.taper, choice.taper};
    auto row = stands ? FigureSheet::Row{}
                      : pencilRow(page().session(), {change},
                                  QStringLiteral("%1 %2").arg(QString::fromStdString(travel.control), title));
    if (stands) row.stands = tr("as it is");
    row.cells.push_back({title, {}, false, stands, true});
    thirdsInto(row, choice.thirds, stands);
    row.cells.push_back({QString::number(travel.whole, 'f', 1)});
    rows.push_back(std::move(row));
  }
  for (const auto& choice : travel.values) {
    const auto title = valueWords(travel.control, choice.value);
    const auto* part = now()->circuit->part(travel.control);
    auto row = pencilRow(page().session(), {{travel.control, "value", part ? part->resolved.value() : 0, choice.value}},
                         title);
    row.cells.push_back({title.section(QLatin1Char(' '), -1), {}, false, false, true});
    thirdsInto(row, choice.thirds, false);
    row.cells.push_back({QString::number(choice.whole, 'f', 1)});
    rows.push_back(std::move(row));
  }
  sheet().setSheet({tr("law, value"), tr("1st third"), tr("2nd"), tr("3rd"), tr("dB")}, std::move(rows), true);
}

} // namespace vinegar::app

#include "moc_controls_view.cpp"
