#include "pages/voice/ends_view.h"

#include "files/columns.h"
#include "theme/text.h"
#include "widgets/readings.h"

#include <QDoubleSpinBox>
#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

namespace vinegar::app {
namespace {

constexpr double pico = 1e-12;
constexpr double jackAndWires = 80 * pico; ///< what the classes of cables have besides their length

QDoubleSpinBox* cableBox(const char* name, double most, double step, const QString& suffix) {
  auto* box = new QDoubleSpinBox;
  box->setObjectName(QString::fromLatin1(name));
  box->setRange(0, most);
  box->setSingleStep(step);
  box->setDecimals(step < 1 ? 1 : 0);
  box->setSuffix(suffix);
  box->setFixedWidth(box->fontMetrics().horizontalAdvance(QStringLiteral("000 ") + suffix) + 18);
  box->setButtonSymbols(
      QAbstractSpinBox::NoButtons); // arrow keys and the wheel turn it; its buttons take the table's room
  box->setFocusPolicy(Qt::StrongFocus);
  return box;
}

} // namespace

EndsView::EndsView(Page& page, SpanChoice& span)
    : AnswerView(page, span, {"endsAnswer", "ends", tr("Sources and speakers by class"), {}, tr("ends")}),
      likenesses_(files::readLikenesses(page.context().dataFolder.toStdString())) {
  setObjectName(QStringLiteral("endsView"));
  setShares(1, 2);
  cable_ = new QWidget;
  auto* row = new QHBoxLayout(cable_);
  row->setContentsMargins(0, 0, 0, 0);
  auto* label = new Label(tr("Cable"));
  row->addWidget(label);
  row->addWidget(metres_ = cableBox("cableMetres", 60, 0.5, tr(" m")));
  row->addWidget(picofarads_ = cableBox("cablePicofarads", 400, 5, tr(" pF/m")));
  picofarads_->setValue(100);
  metres_->setAccessibleName(tr("length of the cable"));
  picofarads_->setAccessibleName(tr("capacitance of a metre of cable"));
  label->setBuddy(metres_);
  cable_->setToolTip(plainTip(tr("The cable's length, in pencil: its capacitance, with 80 pF for jack and wires. "
                                 "Ordinary cables have 60 to 150 pF a metre")));
  curves().addTool(cable_);
  for (auto* box : {metres_, picofarads_})
    connect(box, &QDoubleSpinBox::valueChanged, this, [this] { layCable(); });
  auto* impedance = new QPushButton(tr("Impedance..."));
  impedance->setObjectName(QStringLiteral("openImpedance"));
  impedance->setToolTip(plainTip(tr("A loudspeaker by its measured impedance over frequency, in ohms")));
  curves().addTool(impedance);
  connect(impedance, &QPushButton::clicked, this, [this] {
    const auto path = QFileDialog::getOpenFileName(this, tr("A loudspeaker's impedance"), {},
                                                   tr("Ohms over frequency (*.zma *.csv *.txt)"));
    if (!path.isEmpty()) openImpedance(path);
  });
  variants_.then = [this] {
    fillSheet();
    draw();
  };
  const auto show = [this](int row) {
    if (row < 0 || row == shown_) return;
    shown_ = row;
    draw();
  };
  connect(&sheet(), &FigureSheet::rowChosen, this, show);
  connect(&sheet(), &FigureSheet::rowHovered, this, show);
}

void EndsView::put() {
  if (!likenesses_) return sayProblem(likenesses_.error());
  const auto* idle = now();
  if (!idle) return;
  showCable();
  predict::VariantsQuestion question{from(), to(), {}};
  // What the coil gives, since the jack lies behind coil and cable.
  asked_ = span().words();
  if (const auto source = origin()) {
    question.from = source->node;
    asked_ = tr("%1 to %2").arg(source->name, span().to());
  }
  abouts_.clear();
  for (const auto& likeness : *likenesses_) {
    auto changes = files::changesTo(likeness, *idle->circuit->design, page().session().library());
    const bool hasPart = std::any_of(idle->circuit->parts.begin(), idle->circuit->parts.end(), [&](const auto& part) {
      return likeness.roles.contains(part.resolved.part->role);
    });
    if (!hasPart) continue;
    abouts_.push_back(QString::fromStdString(likeness.about));
    question.variants.push_back({likeness.title, std::move(changes)});
  }
  if (measured_) {
    auto changes = predict::changesTo(measured_->fit, *idle->circuit->design, page().session().library());
    const bool hasSpeaker = std::any_of(idle->circuit->parts.begin(), idle->circuit->parts.end(), [](const auto& part) {
      return part.resolved.part->kind == amp::PartKind::speaker;
    });
    if (hasSpeaker) {
      abouts_.push_back(aboutMeasured());
      question.variants.push_back({measured_->name.toStdString(), std::move(changes)});
    }
  }
  shown_ = -1;
  if (question.variants.empty()) {
    variants_.rest();
    return state().say(tr("This design has no instrument and no speaker. Put in either on the Arrange page."));
  }
  variants_.ask(std::move(question));
}

std::vector<const amp::ResolvedPart*> EndsView::cables() const {
  std::vector<const amp::ResolvedPart*> found;
  if (const auto source = origin())
    // As the builder has them by now: an answer on its way may be of a length already turned past.
    for (const auto& part : page().session().pencilledParts())
      if (part.section == source->section && part.part->role == "cable" && part.fitted()) found.push_back(&part);
  return found;
}

void EndsView::showCable() {
  const auto parts = cables();
  cable_->setVisible(!parts.empty());
  if (parts.empty() || picofarads_->value() <= 0) return;
  const double length = std::max(0.0, parts.front()->value() - jackAndWires) / pico / picofarads_->value();
  if (std::abs(length - metres_->value()) < 0.05 + 1e-9) return; // as near as the box tells
  const QSignalBlocker quiet(metres_);
  metres_->setValue(length);
}

void EndsView::layCable() {
  const auto parts = cables();
  if (parts.empty()) return;
  const double farads = jackAndWires + metres_->value() * picofarads_->value() * pico;
  std::vector<std::string> names;
  names.reserve(parts.size());
  for (const auto* part : parts)
    names.push_back(part->name);
  auto& session = page().session();
  session.edit(
      tr("pencil cable"),
      [&](amp::Document& document) {
        for (const auto& name : names)
          amp::pencil(document, session.library(), name, "value", farads);
      },
      QStringLiteral("cable length"));
}

void EndsView::openImpedance(const QString& path) {
  const auto ohms = files::readColumns(path.toStdString(), "impedance in ohms");
  const auto fit = ohms ? predict::fitLoudspeaker(*ohms) : tl::unexpected(ohms.error());
  if (!fit) return page().context().notify(QString::fromStdString(fit.error().line()), true);
  measured_ = Measured{QFileInfo(path).completeBaseName().left(40), *fit};
  put();
}

QString EndsView::aboutMeasured() const {
  const auto& fit = measured_->fit;
  auto words =
      tr("A loudspeaker of %1 ohms that rings at %2; its impedance is the measured one's within %3 %, at worst "
         "%4 % at %5")
          .arg(fit.ratedOhms, 0, 'g', 3)
          .arg(readingOf(fit.speaker.resonanceHertz, units::Unit::hertz))
          .arg(100 * fit.rms, 0, 'f', 1)
          .arg(100 * fit.worst, 0, 'f', 0)
          .arg(readingOf(fit.worstHertz, units::Unit::hertz));
  constexpr double alike = 0.25;
  if (fit.worst > alike) words += tr(". A box with a port has two humps, of which this has one");
  return words;
}

void EndsView::clear() { measured_.reset(); }

void EndsView::draw() {
  const auto* variants = standing(*variants_);
  if (!variants) return;
  using Look = CurvePlot::Look;
  auto picture = voicePicture(tr("Ends, %1").arg(asked_), tr("dB, %1").arg(asked_));
  const bool pencil = variants_->pencil();
  picture.curves.push_back(
      {pencil ? tr("pencil") : tr("ink"), variants->hertz, variants->decibels, pencil ? Look::pencil : Look::ink});
  const auto shown = static_cast<std::size_t>(shown_);
  if (shown_ >= 0 && shown < variants->rows.size() && !variants->rows[shown].decibels.empty()) {
    const auto& row = variants->rows[shown];
    picture.curves.push_back({tr("with it"), variants->hertz, row.decibels, Look::other});
    answer().setText(QStringLiteral("%1. %2").arg(tr(row.variant.title.c_str()),
                                                  shown < abouts_.size() ? abouts_[shown] : QString()));
  } else {
    answer().setText(tr("What drives it and what it drives: look at a row to see its curve"));
  }
  curves().show(std::move(picture));
}

void EndsView::fillSheet() {
  const auto* variants = variants_->nowValue();
  if (!variants) return sheet().clear();
  std::vector<FigureSheet::Row> rows;
  for (const auto& one : variants->rows) {
    const auto title = tr(one.variant.title.c_str());
    auto row =
        one.variant.changes.empty() ? FigureSheet::Row{} : pencilRow(page().session(), one.variant.changes, title);
    if (one.variant.changes.empty()) row.stands = tr("as it is");
    row.cells.push_back(
        {title, one.problem ? QString::fromStdString(one.problem->line()) : QString(), bool(one.problem), false, true});
    for (const double change : {one.atE2, one.at1kHz, one.at5kHz})
      row.cells.push_back({one.problem ? noReading() : signedDecibels(change), {}, false, false, false, change});
    rows.push_back(std::move(row));
  }
  sheet().setSheet({tr("made up as"), tr("E2"), tr("1 kHz"), tr("5 kHz")}, std::move(rows), true);
}

} // namespace vinegar::app

#include "moc_ends_view.cpp"
