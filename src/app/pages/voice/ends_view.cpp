#include "pages/voice/ends_view.h"

#include "files/columns.h"
#include "theme/text.h"
#include "widgets/readings.h"

#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QPushButton>
#include <QVBoxLayout>

namespace vinegar::app {

EndsView::EndsView(Page& page, SpanChoice& span)
    : AnswerView(page, span, {"endsAnswer", "ends", tr("Sources and speakers by class")}),
      variants_(page.context().asker, predict::predictVariants, Weight::heavy, Of::now),
      likenesses_(files::readLikenesses(page.context().dataFolder.toStdString())) {
  setObjectName(QStringLiteral("endsView"));
  setShares(4, 5);
  auto* impedance = new QPushButton(tr("Measured impedance..."));
  impedance->setObjectName(QStringLiteral("openImpedance"));
  impedance->setToolTip(plainTip(tr("A loudspeaker by its impedance over frequency, in ohms")));
  curves().addTool(impedance);
  connect(impedance, &QPushButton::clicked, this, [this] {
    const auto path = QFileDialog::getOpenFileName(this, tr("A loudspeaker's impedance"), {},
                                                   tr("Ohms over frequency (*.zma *.csv *.txt)"));
    if (!path.isEmpty()) openImpedance(path);
  });
  own(variants_);
  variants_.answered = [this](const auto& answers) {
    answers_ = answers;
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

void EndsView::clear() {
  measured_.reset();
  answers_ = {};
  AnswerView::clear();
}

void EndsView::draw() {
  const auto* variants = answers_.nowValue();
  if (!variants) {
    if (const auto* problem = answers_.problem()) sayProblem(*problem);
    return;
  }
  state().showContent();
  using Look = CurvePlot::Look;
  auto picture = voicePicture(tr("Ends, %1").arg(asked_), tr("dB, %1").arg(asked_));
  const bool pencil = answers_.pencil();
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
  const auto* variants = answers_.nowValue();
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
