#include "pages/voice/ends_view.h"

#include "theme/text.h"
#include "widgets/readings.h"

#include <QHBoxLayout>
#include <QVBoxLayout>

namespace vinegar::app {

EndsView::EndsView(Page& page, SpanChoice& span)
    : AnswerView(page, span, {"endsAnswer", "ends", tr("Sources and speakers by class")}),
      variants_(page.context().asker, predict::predictVariants, Weight::heavy, Of::now),
      likenesses_(files::readLikenesses(page.context().dataFolder.toStdString())) {
  setShares(4, 5);
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
  if (span().from() == QStringLiteral("jack"))
    for (const auto& part : idle->circuit->parts)
      if (part.resolved.part->kind == amp::PartKind::signalSource && !part.devices.empty()) {
        question.from = idle->circuit->netlist.nodeNames()[static_cast<std::size_t>(part.nodes.front())];
        asked_ = tr("%1 to %2").arg(QString::fromStdString(part.resolved.name), span().to());
        break;
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
  shown_ = -1;
  if (question.variants.empty()) {
    variants_.rest();
    return state().say(tr("This design has no instrument and no speaker. Put in either on the Arrange page."));
  }
  variants_.ask(std::move(question));
}

void EndsView::clear() {
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
