#include "pages/stages/stage_view.h"

#include "theme/text.h"
#include "widgets/pick_list.h"

#include <QComboBox>
#include <QHBoxLayout>

namespace vinegar::app {

TubeChoice::TubeChoice(const PageContext& context) : context_(context), box_(new QComboBox) {
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(0, 0, 0, 0);
  row->setSpacing(4);
  auto* word = quietLabel(tr("tube"));
  row->addWidget(word);
  box_->setObjectName(QStringLiteral("tube"));
  box_->setAccessibleName(tr("Tube"));
  box_->setSizeAdjustPolicy(QComboBox::AdjustToContents);
  box_->setMaximumWidth(150);
  row->addWidget(box_);
  connect(box_, &QComboBox::activated, this, [this] {
    context_.selection.select(tube());
    Q_EMIT chosen();
  });
  connect(&context.selection, &Selection::selected, this, &TubeChoice::followSelection);
}

std::string TubeChoice::tube() const { return box_->currentData().toString().toStdString(); }

void TubeChoice::choose(const std::string& tube) {
  const int at = box_->findData(QString::fromStdString(tube));
  if (at < 0 || at == box_->currentIndex()) return;
  box_->setCurrentIndex(at);
  Q_EMIT chosen();
}

/// A tube itself, or the first of the section that a part stands in.
void TubeChoice::followSelection() {
  const auto& part = context_.selection.part();
  if (part.empty()) return;
  if (box_->findData(QString::fromStdString(part)) >= 0) return choose(part);
  const auto& parts = context_.session.pencilledParts();
  const auto own = std::find_if(parts.begin(), parts.end(), [&](const auto& p) { return p.name == part; });
  if (own == parts.end()) return;
  for (const auto& other : parts)
    if (other.section == own->section && amp::isTube(other.part->kind) &&
        box_->findData(QString::fromStdString(other.name)) >= 0)
      return choose(other.name);
}

void TubeChoice::fill(const predict::Idle& idle) {
  QStringList lines, tubes;
  for (const auto& tube : idle.point.tubes) {
    lines << QString::fromStdString(tube.name + "  " + tube.type);
    tubes << QString::fromStdString(tube.name);
  }
  const bool first = box_->count() == 0;
  if (!refill(*box_, lines, tubes, {})) return;
  if (first) followSelection();
}

void TubeChoice::clear() { box_->clear(); }

StageView::StageView(Page& page, TubeChoice& choice) : PageView(page), choice_(choice) {
  connect(&choice, &TubeChoice::chosen, this, &StageView::again);
}

QString StageView::refusal(const predict::Idle& idle) const {
  return idle.point.tubes.empty() ? tr("There is no tube in this design. Put in a stage on the Arrange page.")
                                  : QString();
}

void StageView::ask(const Answers<predict::Idle>& idle) {
  const auto* now = idle.nowValue() ? idle.nowValue() : idle.any();
  choice_.fill(*now);
  put(*now);
}

} // namespace vinegar::app

#include "moc_stage_view.cpp"
