#include "pages/arrange/arrange_page.h"

#include "amp/acts/acts.h"
#include "pages/arrange/in_hand.h"
#include "pages/arrange/marks_view.h"
#include "pages/arrange/shelf.h"
#include "pages/arrange/start_view.h"
#include "pages/arrange/values_view.h"
#include "run/run_picture.h"
#include "run/section_sheet.h"
#include "theme/theme.h"
#include "widgets/figure_table.h"
#include "widgets/paragraph.h"
#include "widgets/readings.h"

#include <QButtonGroup>
#include <QHBoxLayout>
#include <QPushButton>
#include <QScrollArea>
#include <QStackedWidget>
#include <QVBoxLayout>

namespace vinegar::app {

extern const PageFacts arrangePage;
const PageFacts arrangePage{"Arrange", QT_TRANSLATE_NOOP("Page", "Arrange"),
                            QT_TRANSLATE_NOOP("Page", "what stands where, and what if?"), makePage<ArrangePage>,
                            PageFacts::arranging};

namespace {

constexpr int effectWidth = 356;

std::set<std::string> idsOf(const amp::Design& design) {
  std::set<std::string> ids;
  for (const auto* use : design.sections())
    ids.insert(use->id);
  return ids;
}

/// What stands where, how it is joined and what its parts are called; in place of what a newer program wrote, the
/// chain.
std::vector<amp::SectionUse> withoutValues(const amp::Design& design) {
  std::vector<amp::SectionUse> bare;
  const auto add = [&](const std::vector<amp::SectionUse>& sections, const std::string& chain) {
    for (const auto& use : sections) {
      auto& one = bare.emplace_back(amp::SectionUse{use.id, use.section, {}, use.joins, use.node, chain});
      for (const auto& [ref, part] : use.parts)
        one.parts[ref].name = part.name;
    }
  };
  add(design.line, "line");
  add(design.supply, "supply");
  for (const auto& side : design.sides)
    add(side.sections, side.id);
  return bare;
}

} // namespace

ArrangePage::ArrangePage(const PageContext& context, const PageFacts& facts) : Page(context, facts) {
  auto* content = new QWidget;
  auto* row = new QHBoxLayout(content);
  row->setContentsMargins(0, 0, 0, 0);
  row->setSpacing(14);
  inHand_ = new InHand(session(), context.selection);
  row->addWidget(inHand_, 0, Qt::AlignTop);
  auto* left = new QVBoxLayout;
  left->setSpacing(4);
  auto* ways = new QHBoxLayout;
  ways->setSpacing(3);
  ways_ = new QButtonGroup(this);
  const auto addWay = [&](const char* name, const QString& text, const QString& tip, Way way) {
    auto* button = new QPushButton(text);
    button->setObjectName(QLatin1String(name));
    button->setToolTip(tip);
    button->setCheckable(true);
    button->setStyleSheet(QStringLiteral("padding-left: 8px; padding-right: 8px;"));
    ways_->addButton(button, static_cast<int>(way));
    ways->addWidget(button);
  };
  addWay("wayBefore", tr("Before"), tr("Put it in before the section in hand (Shift+Ins)"), Way::before);
  addWay("wayInstead", tr("Instead"), tr("Put it in the place of the section in hand (Enter)"), Way::instead);
  addWay("wayAfter", tr("After"), tr("Put it in after the section in hand (Ins)"), Way::after);
  addWay("wayBeside", tr("Beside"), tr("Start a chain beside the line, fed from the section in hand (Ctrl+Ins)"),
         Way::beside);
  ways->addStretch(1);
  ways_->button(static_cast<int>(Way::instead))->setChecked(true);
  left->addLayout(ways);
  shelf_ = new Shelf;
  left->addWidget(shelf_, 1);
  row->addLayout(left, 2);
  auto* right = new QVBoxLayout;
  right->setSpacing(6);
  title_ = new Label;
  title_->setObjectName(QStringLiteral("lookedAt"));
  title_->setFont(textFont(11, QFont::DemiBold));
  auto* head = new QHBoxLayout;
  head->addWidget(title_, 1);
  right->addLayout(head);
  use_ = new Paragraph(effectWidth, textFont(9), "quiet");
  right->addWidget(use_);
  why_ = new Label;
  why_->setObjectName(QStringLiteral("whyNot"));
  why_->setWordWrap(true);
  why_->setProperty("danger", true);
  right->addWidget(why_);
  effect_ = new FigureTable;
  effect_->setObjectName(QStringLiteral("effect"));
  effect_->setAccessibleName(tr("What it does to this amplifier"));
  effect_->setFixedWidth(effectWidth);
  right->addWidget(effect_);
  picture_ = new RunPicture;
  right->addWidget(picture_, 1);
  put_ = new QPushButton(tr("Pencil it in"));
  put_->setObjectName(QStringLiteral("putIn"));
  put_->setProperty("strong", true);
  head->addWidget(put_);
  row->addLayout(right, 0);
  stack_ = new QStackedWidget;
  // In a small window it scrolls rather than squeezes.
  auto* scroll = new QScrollArea;
  scroll->setWidgetResizable(true);
  scroll->setFocusPolicy(Qt::NoFocus);
  scroll->setWidget(content);
  stack_->addWidget(scroll);
  values_ = new ValuesView(session(), context.selection);
  stack_->addWidget(values_);
  marks_ = new MarksView(session());
  stack_->addWidget(marks_);
  start_ = new StartView(*this);
  stack_->addWidget(start_);
  connect(start_, &StartView::fromNothing, this, [this] {
    fromNothing_ = true;
    this->context().selection.take({{}, amp::Spot{"line", {}}});
    showView(0);
    shelf_->startTyping();
  });
  frame().setContent(stack_);
  frame().addView(QStringLiteral("Shelf"), tr("Shelf"));
  frame().addView(QStringLiteral("Values"), tr("Values"));
  frame().addView(QStringLiteral("Marks"), tr("Marks"));
  connect(&frame(), &PageFrame::viewChosen, this, &ArrangePage::showView);
  connect(&context.selection, &Selection::pieceTaken, this, &ArrangePage::followPiece);
  connect(&context.selection, &Selection::actWanted, this, [this](PieceAct wanted) {
    if (isVisible()) act(wanted);
  });
  connect(ways_, &QButtonGroup::idClicked, this, &ArrangePage::fillShelf);
  connect(shelf_, &Shelf::lookedAt, this, &ArrangePage::look);
  connect(shelf_, &Shelf::taken, this, &ArrangePage::put);
  connect(put_, &QPushButton::clicked, this, &ArrangePage::put);
  showView(0);
  followPiece();
}

void ArrangePage::showView(int view) {
  frame().setView(view);
  const bool start = session().pencilled().sections().empty() && !fromNothing_;
  stack_->setCurrentWidget(start ? static_cast<QWidget*>(start_) : stack_->widget(view));
  if (start) return start_->follow();
  if (view == 0) return followPiece();
  if (view == 2) return marks_->follow();
  values_->follow();
  values_->edit(context().selection.part());
  values_->setFocus();
}

QByteArray ArrangePage::saveView() const { return frame().viewId().toUtf8(); }

void ArrangePage::restoreView(const QByteArray& wanted) {
  if (const int index = frame().viewOf(QString::fromUtf8(wanted)); index >= 0) showView(index);
}

ArrangePage::Way ArrangePage::way() const {
  if (context().selection.piece().place) return Way::after;
  return static_cast<Way>(std::max(0, ways_->checkedId()));
}

amp::Spot ArrangePage::spot() const {
  const auto& piece = context().selection.piece();
  if (piece.place) return *piece.place;
  const auto& design = session().pencilled();
  if (const auto standing = amp::standingOf(design, piece.section))
    return way() == Way::after ? amp::Spot{standing->chain, piece.section} : *amp::spotOf(design, piece.section);
  // Nothing in hand: at the end of the line, which is where a new amplifier grows.
  return amp::Spot{"line", design.line.empty() ? std::string() : design.line.back().id};
}

void ArrangePage::followPiece() {
  if (stack_->currentIndex() != 0) return;
  inHand_->follow();
  const auto& piece = context().selection.piece();
  for (auto* button : ways_->buttons())
    button->setVisible(!piece.section.empty());
  fillShelf();
}

void ArrangePage::fillShelf() {
  const auto& design = session().pencilled();
  const auto& piece = context().selection.piece();
  const auto& library = session().library();
  if (piece.section.empty() || way() == Way::after || way() == Way::before)
    return shelf_->setCandidates(amp::candidatesFor(design, library, spot()));
  if (way() == Way::instead) {
    const auto* use = design.section(piece.section);
    const auto known = use ? library.sections.find(use->section) : library.sections.end();
    return shelf_->setCandidates(amp::replacementsFor(design, library, piece.section),
                                 known == library.sections.end() ? std::string() : known->second.group);
  }
  shelf_->setCandidates(amp::besidesFor(design, library, piece.section));
}

tl::expected<amp::Design, Problem> ArrangePage::trial(const amp::SectionTemplate& section) const {
  const auto& design = session().pencilled();
  const auto& library = session().library();
  const amp::NameBook names(session().document());
  const auto& piece = context().selection.piece();
  if (piece.section.empty() || way() == Way::after || way() == Way::before)
    return amp::insertSection(design, library, names, spot(), section.id);
  if (way() == Way::instead) return amp::replaceSection(design, library, names, piece.section, section.id);
  return amp::insertBeside(design, library, names, piece.section, section.id);
}

void ArrangePage::look() {
  const auto* looked = shelf_->looked();
  title_->setText(looked ? QString::fromStdString(looked->section->title) : QString());
  use_->setText(looked ? QString::fromStdString(looked->section->use) : QString());
  std::optional<RunContent> content;
  if (looked) {
    content = sectionContent(*looked->section, session().library());
    content->drawing.tags.clear(); // by itself it has no volts
  }
  picture_->show(std::move(content));
  trial_.ask({}, trialSides());
}

Sides ArrangePage::trialSides() {
  const auto* looked = shelf_->looked();
  put_->setEnabled(false);
  why_->hide();
  const auto side = [](const amp::Design& design, const QString& name, Side::Look how) {
    return Side{name, how, Side::besides, std::make_shared<const amp::Design>(design)};
  };
  Sides sides{++editions_, {side(session().pencilled(), tr("now"), Side::Look::ink)}};
  const auto say = [this](const QString& words) {
    why_->setText(words);
    why_->show();
  };
  if (looked && !looked->why.empty()) {
    say(tr("Does not fit: it %1.").arg(QString::fromStdString(looked->why)));
  } else if (looked) {
    if (const auto with = trial(*looked->section)) {
      put_->setEnabled(true);
      sides.all.push_back(side(*with, tr("with it"), Side::Look::active));
    } else {
      say(QString::fromStdString(with.error().line()));
    }
  }
  if (session().pencilled().sections().empty() && sides.all.size() > 1) sides.all.erase(sides.all.begin());
  return sides;
}

void ArrangePage::draw() {
  const auto& answers = *trial_;
  using Look = FigureTable::Look;
  const auto *now = answers.inkValue(), *with = answers.pencilValue();
  const auto* looked = shelf_->looked();
  if (const auto* problem = answers.problem(); problem && !session().pencilled().sections().empty()) {
    why_->setText(warned(QString::fromStdString(problem->line())));
    why_->show();
  } else if (!looked || looked->why.empty()) {
    why_->hide();
  }
  FigureTable::Rows rows{
      {{tr("in this amplifier"), Look::quiet}, {tr("now"), Look::quiet}, {tr("with it"), Look::quiet}}};
  const auto add = [&](const QString& name, auto text) {
    const auto of = [&](const predict::Trial* trial) { return trial ? text(*trial) : noReading(); };
    rows.push_back({{name, Look::quiet}, {of(now)}, {of(with), Look::pencil}});
  };
  add(tr("dB at E2, 1k, 5k"), [](const predict::Trial& t) {
    const auto& gain = t.vitals.gain;
    if (!gain) return noReading();
    return QStringLiteral("%1 %2 %3")
        .arg(gain->atE2, 0, 'f', 1)
        .arg(gain->at1kHz, 0, 'f', 1)
        .arg(gain->at5kHz, 0, 'f', 1);
  });
  add(tr("B+ idle"), [](const predict::Trial& t) { return meterReading(t.vitals.reservoirVolts, units::Unit::volt); });
  add(tr("B+ draw"), [](const predict::Trial& t) { return meterReading(t.vitals.reservoirAmps, units::Unit::ampere); });
  add(tr("Heaters"), [](const predict::Trial& t) { return readingOf(t.heaterWatts, units::Unit::watt); });
  add(tr("Bottles, spare halves"),
      [](const predict::Trial& t) { return QStringLiteral("%1, %2").arg(t.bottles).arg(t.spareHalves); });
  if (!answers.pencil() && !answers.sides.empty())
    for (auto& row : rows)
      row.pop_back(); // nothing is looked at that could come in
  effect_->setRows(std::move(rows), 1);
}

void ArrangePage::doIt(const QString& name, const tl::expected<amp::Design, Problem>& design, const Piece& then) {
  if (!design) return context().notify(QString::fromStdString(design.error().line()), false);
  session().edit(name, [&](amp::Document& d) { amp::pencil(d, session().library(), *design); });
  if (!then.empty()) context().selection.take(then);
}

void ArrangePage::put() {
  const auto* looked = shelf_->looked();
  if (!looked || !looked->why.empty()) return;
  const auto with = trial(*looked->section);
  const auto before = idsOf(session().pencilled());
  Piece then = context().selection.piece();
  // What comes next is put after what was put in, as a builder goes along the line.
  if (way() != Way::instead) ways_->button(static_cast<int>(Way::after))->setChecked(true);
  if (with)
    for (const auto& id : idsOf(*with))
      if (const auto* use = with->section(id); use->section == looked->section->id && !before.contains(id))
        then = {id, {}};
  doIt(tr("put in %1").arg(QString::fromStdString(looked->section->title)), with, then);
  if (with) shelf_->showAll(); // what is put in next is another
}

void ArrangePage::choose(Way way) {
  if (session().pencilled().sections().empty()) fromNothing_ = true;
  if (stack_->currentIndex() != 0) showView(0);
  if (auto* button = ways_->button(static_cast<int>(way))) button->setChecked(true);
  fillShelf();
  shelf_->startTyping();
}

void ArrangePage::act(PieceAct act) {
  const auto piece = context().selection.piece();
  const auto& library = session().library();
  const auto name = [&] {
    const auto* use = session().pencilled().section(piece.section);
    return use ? QString::fromStdString(amp::describeSection(*use, library)) : QString();
  };
  switch (act) {
  case PieceAct::choose:
    return choose(piece.section.empty() ? Way::after : Way::instead);
  case PieceAct::insertBefore:
    return choose(Way::before);
  case PieceAct::insertAfter:
    return choose(Way::after);
  case PieceAct::putBeside:
    return choose(piece.section.empty() ? Way::after : Way::beside);
  case PieceAct::remove:
    if (piece.section.empty()) return;
    return doIt(tr("take out %1").arg(name()), amp::removeSection(session().pencilled(), library, piece.section), {});
  case PieceAct::duplicate:
    if (piece.section.empty()) return;
    return doIt(
        tr("double %1").arg(name()),
        amp::duplicateSection(session().pencilled(), library, amp::NameBook(session().document()), piece.section),
        piece);
  case PieceAct::moveLeft:
    return move(-1);
  case PieceAct::moveRight:
    return move(1);
  }
}

void ArrangePage::move(int by) {
  const auto piece = context().selection.piece();
  const auto& design = session().pencilled();
  const auto standing = amp::standingOf(design, piece.section);
  if (!standing) return;
  // The supply is drawn from right to left.
  doIt(tr("move"),
       amp::moveSectionBy(design, session().library(), piece.section, standing->chain == "supply" ? -by : by), piece);
}

void ArrangePage::followDocument() {
  const bool start = session().pencilled().sections().empty() && !fromNothing_;
  if (start != (stack_->currentWidget() == start_)) return showView(std::max(0, frame().viewOf(frame().viewId())));
  // Where only a value is turned, the shelf and what is in hand stay, and the trial of it waits until that rests.
  auto sections = withoutValues(session().pencilled());
  const bool same = sections == followed_;
  followed_ = std::move(sections);
  if (!same)
    followPiece();
  else if (stack_->currentIndex() == 0) {
    trial_.empty(); // figures of the value before are no one's
    draw();
    trial_.askAfterRest({}, [this] { return trialSides(); });
  }
  if (stack_->currentWidget() == values_) values_->follow();
  if (stack_->currentWidget() == marks_) marks_->follow();
}

void ArrangePage::followIdle(const Answers<predict::Idle>&) { frame().state().showContent(); }

void ArrangePage::startAfresh() {
  fromNothing_ = false;
  followed_.clear();
  trial_.rest();
  effect_->setRows({}, 1);
}

void ArrangePage::restyle() {
  followed_.clear();
  followDocument();
  picture_->update();
}

} // namespace vinegar::app

#include "moc_arrange_page.cpp"
