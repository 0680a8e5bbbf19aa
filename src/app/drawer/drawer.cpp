#include "drawer/drawer.h"

#include "document/session.h"
#include "drawer/parameter_form.h"
#include "drawer/part_readings.h"
#include "drawer/value_box.h"
#include "predict/rest/places.h"
#include "theme/text.h"
#include "theme/theme.h"
#include "widgets/paragraph.h"
#include "widgets/readings.h"

#include <QScrollBar>
#include <QVBoxLayout>
#include <algorithm>
#include <map>

namespace vinegar::app {
namespace {

constexpr int drawerWidth = 286;
constexpr int paragraphWidth = drawerWidth - 16 - 14 - 12;
constexpr std::size_t mostMarks = 12;

} // namespace

Drawer::Drawer(Session& session, Asker& asker, Selection& selection, const FindingsDesk& findings, QWidget* parent)
    : QScrollArea(parent), session_(session), asker_(asker), selection_(selection), findings_(findings),
      steps_(asker, predict::predictSteps, Weight::heavy, Of::now),
      report_(asker, predict::predictSupplyReport, Weight::quick, Of::inkAndNow) {
  setObjectName(QStringLiteral("drawer"));
  setWidgetResizable(true);
  setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  setFixedWidth(drawerWidth);
  setFocusPolicy(Qt::NoFocus);
  auto* body = new QWidget;
  body->setObjectName(QStringLiteral("drawerBody"));
  auto* column = new QVBoxLayout(body);
  column->setContentsMargins(16, 12, 14, 12);
  column->setSpacing(6);
  const auto paragraph = [](double points, const char* look, const QString& text = {}) {
    return new Paragraph(paragraphWidth, textFont(points), look, text);
  };
  const auto table = [](const char* name, const QString& accessible) {
    auto* made = new FigureTable;
    made->setObjectName(QLatin1String(name));
    made->setAccessibleName(accessible);
    return made;
  };
  title_ = new Label;
  title_->setFont(textFont(17, QFont::DemiBold));
  title_->setObjectName(QStringLiteral("partName"));
  role_ = paragraph(10, "quiet");
  column->addWidget(title_);
  column->addWidget(role_);

  whole_ = new QWidget;
  auto* overall = new QVBoxLayout(whole_);
  overall->setContentsMargins(0, 0, 0, 0);
  overall->setSpacing(6);
  tubes_ = table("tubes", tr("Tubes at idle"));
  tubesFoot_ = paragraph(8, "quiet", tr("plate to cathode, plate current, share of the plate rating; idle"));
  marks_ = paragraph(9.5, "pencil");
  marks_->setObjectName(QStringLiteral("allMarks"));
  empty_ =
      paragraph(10, "quiet", tr("Select a part in the run: click it, move with the arrow keys, or type its name."));
  for (QWidget* widget : {static_cast<QWidget*>(tubes_), static_cast<QWidget*>(tubesFoot_),
                          static_cast<QWidget*>(marks_), static_cast<QWidget*>(empty_)})
    overall->addWidget(widget);
  column->addWidget(whole_);

  part_ = new QWidget;
  auto* one = new QVBoxLayout(part_);
  one->setContentsMargins(0, 0, 0, 0);
  one->setSpacing(6);
  const auto heading = [&](const QString& text) {
    auto* label = new Label(text);
    label->setFont(textFont(10, QFont::DemiBold));
    label->setContentsMargins(0, 8, 0, 0);
    one->addWidget(label);
    return label;
  };
  value_ = new ValueBox(session, paragraphWidth);
  one->addWidget(value_);
  finding_ = paragraph(9.5, "danger");
  finding_->setObjectName(QStringLiteral("partFindings"));
  one->addWidget(finding_);
  readingTitle_ = heading(tr("At idle, DC"));
  readings_ = table("readings", tr("DC readings"));
  one->addWidget(readings_);
  stepTitle_ = heading(tr("One step from here, in this circuit"));
  stepTable_ = table("steps", tr("Effect of one step"));
  one->addWidget(stepTable_);
  stepFoot_ = paragraph(8, "quiet", tr("dB over the span shown; change of DC volts across it"));
  one->addWidget(stepFoot_);
  heading(tr("What it does here"));
  does_ = paragraph(9.5, nullptr);
  does_->setObjectName(QStringLiteral("does"));
  one->addWidget(does_);
  parameters_ = new ParameterForm(session);
  one->addWidget(parameters_);
  column->addWidget(part_);
  column->addStretch(1);
  setWidget(body);

  connect(value_, &ValueBox::typingEnded, this, &Drawer::typingEnded);
  connect(parameters_, &ParameterForm::refused, value_, &ValueBox::sayError);
  connect(parameters_, &ParameterForm::accepted, value_, &ValueBox::clearError);
  connect(&selection, &Selection::selected, this, [this] {
    value_->clearError();
    if (stepsOf_ != selection_.part()) showSteps(false); // another part's
    refresh();
    followIdle();
    verticalScrollBar()->setValue(0);
  });
  connect(&selection, &Selection::pieceTaken, this, [this] {
    refresh();
    followIdle();
  });
  connect(&selection, &Selection::spanChanged, this, &Drawer::ask);
  connect(&asker, &Asker::idleAnswered, this, &Drawer::followIdle);
  connect(&findings, &FindingsDesk::changed, this, &Drawer::showFindings);
  steps_.answered = [this](const Answers<predict::Steps>& answers) {
    const auto* steps = answers.nowValue();
    const auto* idle = asker_.idle().nowValue();
    const auto* part = idle ? idle->circuit->part(selection_.part()) : nullptr;
    const bool any = steps && part && (steps->up || steps->down);
    showSteps(any);
    stepsOf_ = selection_.part();
    if (any) stepTable_->setRows(stepReadings(*steps, amp::valueUnit(part->resolved.part->kind)), 2);
  };
  report_.answered = [this](const auto& answers) {
    reports_ = answers;
    showReadings();
  };
  refresh();
  followIdle();
}

void Drawer::refresh() {
  const auto named = [this](const std::vector<amp::ResolvedPart>& parts) {
    const auto found =
        std::find_if(parts.begin(), parts.end(), [this](const auto& p) { return p.name == selection_.part(); });
    return found == parts.end() ? nullptr : &*found;
  };
  const auto *ink = named(session_.inkParts()), *now = named(session_.pencilledParts());
  whole_->setVisible(!now);
  part_->setVisible(now != nullptr);
  if (now)
    showPart(ink, *now);
  else
    showWhole();
}

void Drawer::showPart(const amp::ResolvedPart* ink, const amp::ResolvedPart& now) {
  const auto& library = session_.library();
  const auto& role = library.role(now.part->role);
  setTitle(QString::fromStdString(now.name));
  QString place = QString::fromStdString(role.title) + QStringLiteral(" \u00b7 ") +
                  QString::fromStdString(library.sections.at(now.sectionType).title) + QStringLiteral(" \u201c") +
                  QString::fromStdString(now.section) + QStringLiteral("\u201d");
  if (amp::isTube(now.part->kind))
    for (const auto& spare : amp::spareHalves(session_.pencilled(), library))
      if (spare.besides == now.name)
        place += QStringLiteral("\n") +
                 tr("%1, the other half of the bottle, is spare").arg(QString::fromStdString(spare.name));
  role_->setText(place);
  does_->setText(QString::fromStdString(role.does + (role.more.empty() ? "" : " Larger: " + role.more + ".") +
                                        (role.less.empty() ? "" : " Smaller: " + role.less + ".")));
  value_->show(ink, now);
  parameters_->show(now);
  showFindings();
}

void Drawer::showWhole() {
  const auto& document = session_.document();
  const auto* use = session_.pencilled().section(selection_.piece().section);
  empty_->setVisible(!use);
  if (use) return showSection(*use);
  setTitle(QString::fromStdString(document.ink.name));
  const auto count = session_.pencilledParts().size();
  role_->setText(count == 0 ? tr("An empty design")
                            : tr("%1 parts in %2 sections").arg(count).arg(document.ink.sections().size()));
  QStringList lines;
  const auto& marks = document.sheet().marks;
  for (std::size_t i = 0; i < std::min(marks.size(), mostMarks); ++i)
    lines << QString::fromStdString(amp::describe(marks[i], document.ink, session_.pencilled(), session_.library()));
  if (marks.size() > mostMarks) lines << tr("and %1 more").arg(marks.size() - mostMarks);
  marks_->setVisible(!lines.isEmpty());
  if (!lines.isEmpty()) marks_->setText(lines.join(QLatin1Char('\n')));
}

/// The section in hand: what it is for, and its parts.
void Drawer::showSection(const amp::SectionUse& use) {
  const auto& library = session_.library();
  setTitle(sentence(QString::fromStdString(amp::describeSection(use, library))));
  const auto section = library.sections.find(use.section);
  role_->setText(section == library.sections.end() ? tr("not in the section library")
                                                   : QString::fromStdString(section->second.use));
  marks_->hide();
}

FigureTable::Rows Drawer::sectionRows(const std::string& id) const {
  using Look = FigureTable::Look;
  std::map<std::string, QString> inked;
  for (const auto& part : session_.inkParts())
    inked[part.name] = QString::fromStdString(part.fitted() ? part.label() : "\u2014");
  FigureTable::Rows rows;
  for (const auto& part : session_.pencilledParts()) {
    if (part.section != id) continue;
    const auto text = QString::fromStdString(part.fitted() ? part.label() : "\u2014");
    const auto ink = inked.find(part.name);
    rows.push_back({{QString::fromStdString(part.name), Look::quiet},
                    {text, ink != inked.end() && ink->second == text ? Look::figure : Look::pencil},
                    {QString::fromStdString(session_.library().role(part.part->role).title), Look::quiet}});
  }
  return rows;
}

void Drawer::showSteps(bool shown) {
  for (QWidget* widget :
       {static_cast<QWidget*>(stepTitle_), static_cast<QWidget*>(stepTable_), static_cast<QWidget*>(stepFoot_)})
    widget->setVisible(shown);
}

void Drawer::setTitle(const QString& text) {
  title_->setFont(textFont(17, QFont::DemiBold));
  if (title_->fontMetrics().horizontalAdvance(text) > paragraphWidth) title_->setFont(textFont(12, QFont::DemiBold));
  title_->setText(title_->fontMetrics().elidedText(text, Qt::ElideRight, paragraphWidth));
  title_->setToolTip(plainTip(text));
}

void Drawer::showFindings() {
  QStringList lines;
  for (const auto& finding : findings_.findings())
    if (!selection_.part().empty() && finding.part == selection_.part())
      lines << warned(QString::fromStdString(finding.what + " " + finding.cure));
  finding_->setVisible(!lines.isEmpty());
  if (!lines.isEmpty()) finding_->setText(lines.join(QLatin1Char('\n')));
}

void Drawer::followIdle() {
  const auto* now = asker_.idle().nowValue();
  if (selection_.part().empty()) {
    const auto* use = session_.pencilled().section(selection_.piece().section);
    auto rows = use ? sectionRows(use->id) : now ? tubeReadings(*now) : FigureTable::Rows{};
    tubesFoot_->setVisible(!rows.empty() && !use);
    tubes_->setAccessibleName(use ? tr("Parts of the section") : tr("Tubes at idle"));
    tubes_->setRows(std::move(rows), use ? 99 : 2);
  }
  ask();
  showReadings();
}

void Drawer::ask() {
  const auto& part = selection_.part();
  const auto* now = asker_.idle().nowValue();
  if (!now || part.empty() || !now->circuit->part(part)) {
    steps_.rest();
    showSteps(false);
  } else {
    auto [from, to] = selection_.span();
    if (now->circuit->probe(to) < 0)
      to = predict::endOf(*now->circuit); // a preamplifier, before its Voice was looked at
    steps_.ask({part, from, to});
  }
  if (now && isReadByCycle(*now, part))
    report_.ask({});
  else
    report_.rest();
}

void Drawer::showReadings() {
  const auto& part = selection_.part();
  const auto* now = asker_.idle().nowValue();
  auto rows = now && !part.empty() && now->circuit->part(part) ? partReadings(asker_.idle(), reports_, part)
                                                               : FigureTable::Rows{};
  readingTitle_->setVisible(!rows.empty());
  readings_->setVisible(!rows.empty());
  readings_->setRows(std::move(rows), 99);
}

void Drawer::typeValue(const QString& begun) {
  if (value_->startTyping(begun)) ensureWidgetVisible(value_);
}

void Drawer::startAfresh() {
  steps_.rest();
  report_.rest();
  reports_ = {};
  for (auto* table : {tubes_, readings_, stepTable_})
    table->setRows({}, 99);
  showSteps(false);
  value_->clearError();
}

} // namespace vinegar::app

#include "moc_drawer.cpp"
