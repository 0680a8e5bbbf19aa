#include "pages/arrange/in_hand.h"

#include "amp/acts/acts.h"
#include "theme/text.h"
#include "theme/theme.h"
#include "widgets/paragraph.h"

#include <QApplication>
#include <QComboBox>
#include <QGridLayout>
#include <QLineEdit>
#include <QPushButton>
#include <QToolTip>
#include <QVBoxLayout>

namespace vinegar::app {
namespace {

constexpr int paneWidth = 244;

QString words(const std::string& text) { return sentence(QString::fromStdString(text)); }

} // namespace

InHand::InHand(Session& session, Selection& selection, QWidget* parent)
    : QWidget(parent), session_(session), selection_(selection) {
  setFixedWidth(paneWidth);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 4, 0, 0);
  column->setSpacing(6);
  title_ = new Label;
  title_->setObjectName(QStringLiteral("inHand"));
  title_->setFont(textFont(11, QFont::DemiBold));
  title_->setWordWrap(true);
  column->addWidget(title_);
  use_ = new Paragraph(paneWidth, textFont(9), "quiet");
  column->addWidget(use_);
  joins_ = new QWidget;
  grid_ = new QGridLayout(joins_);
  grid_->setContentsMargins(0, 4, 0, 4);
  grid_->setColumnStretch(1, 1);
  column->addWidget(joins_);
  acts_ = new QWidget;
  auto* row = new QGridLayout(acts_);
  row->setContentsMargins(0, 0, 0, 0);
  row->setSpacing(4);
  const auto add = [&](const char* name, const QString& text, const QString& tip, PieceAct act, int r, int c) {
    auto* button = new QPushButton(text);
    button->setObjectName(QLatin1String(name));
    button->setToolTip(tip);
    connect(button, &QPushButton::clicked, this, [this, act] { selection_.want(act); });
    row->addWidget(button, r, c);
    buttons_.push_back(button);
  };
  add("takeOut", tr("Take out"), tr("Del in the run"), PieceAct::remove, 0, 0);
  add("double", tr("Double"), tr("Ctrl+D in the run"), PieceAct::duplicate, 0, 1);
  add("moveLeft", tr("\u2190 Move"), tr("Ctrl+Left in the run"), PieceAct::moveLeft, 1, 0);
  add("moveRight", tr("Move \u2192"), tr("Ctrl+Right in the run"), PieceAct::moveRight, 1, 1);
  column->addWidget(acts_);
  follow();
}

void InHand::clearJoins() {
  while (auto* item = grid_->takeAt(0)) {
    if (auto* widget = item->widget()) {
      widget->disconnect(this); // hidden, it loses the focus, and what was being typed belongs to another section
      widget->hide();
      widget->deleteLater();
    }
    delete item;
  }
}

void InHand::follow() {
  // A choice by the arrow keys is made anew under the hand that makes it.
  const auto* focus = isAncestorOf(QApplication::focusWidget()) ? QApplication::focusWidget() : nullptr;
  const auto held = focus ? focus->objectName() : QString();
  clearJoins();
  fill();
  if (held.isEmpty()) return;
  for (int i = 0; i < grid_->count(); ++i)
    if (auto* widget = grid_->itemAt(i)->widget(); widget && widget->objectName() == held) widget->setFocus();
}

void InHand::fill() {
  const auto& piece = selection_.piece();
  const auto* use = piece.section.empty() ? nullptr : session_.pencilled().section(piece.section);
  joins_->setVisible(use != nullptr);
  acts_->setVisible(use != nullptr);
  if (use) return followSection(*use);
  followPlace();
}

void InHand::followPlace() {
  const auto& place = selection_.piece().place;
  if (!place) {
    title_->setText(tr("Nothing in hand"));
    return use_->setText(tr("Click a section of the run, or a + between two. With the keyboard: arrow keys in the run, "
                            "Enter to choose."));
  }
  const auto* before = place->after.empty() ? nullptr : session_.pencilled().section(place->after);
  title_->setText(
      before ? tr("A place after %1").arg(QString::fromStdString(amp::describeSection(*before, session_.library())))
             : tr("A place at the start of %1")
                   .arg(place->chain == "line"     ? tr("the line")
                        : place->chain == "supply" ? tr("the supply")
                                                   : QString::fromStdString(place->chain)));
  use_->setText(tr("Choose on the shelf what stands here; what it does to this amplifier is worked out first."));
}

void InHand::followSection(const amp::SectionUse& use) {
  const auto& library = session_.library();
  const auto& design = session_.pencilled();
  title_->setText(words(amp::describeSection(use, library)));
  const auto section = library.sections.find(use.section);
  if (section == library.sections.end())
    return use_->setText(tr("\u201c%1\u201d is not in the section library.").arg(QString::fromStdString(use.section)));
  use_->setText(QString::fromStdString(section->second.use));
  int row = 0;
  if (!use.node.empty()) {
    auto* label = new Label(tr("Name"));
    label->setProperty("quiet", true);
    grid_->addWidget(label, row, 0);
    auto* name = new QLineEdit(QString::fromStdString(use.node));
    name->setObjectName(QStringLiteral("railName"));
    name->setAccessibleName(tr("Name of the rail"));
    name->setMaxLength(12);
    connect(name, &QLineEdit::editingFinished, this, [this, name, id = use.id] {
      if (!name->isModified()) return;
      name->setModified(false);
      const auto next = amp::renameRail(session_.pencilled(), id, name->text().trimmed().toStdString());
      if (!next) {
        const auto why = sentence(QString::fromStdString(next.error().message));
        QToolTip::showText(name->mapToGlobal(QPoint(0, name->height())), plainTip(why), name);
        name->setText(QString::fromStdString(session_.pencilled().section(id)->node));
      } else if (*next != session_.pencilled()) {
        session_.edit(tr("rename a rail"), [&](amp::Document& d) { amp::pencil(d, session_.library(), *next); });
      }
    });
    grid_->addWidget(name, row++, 1);
  }
  for (const auto& port : section->second.ports) {
    const auto name = use.id + "." + port.name;
    if (amp::meetsNeighbour(design, library, name)) continue;
    auto places = amp::joinsFor(design, library, name);
    if (places.empty()) continue;
    const auto now = amp::joinOf(design, library, name);
    if (std::find(places.begin(), places.end(), now) == places.end()) places.insert(places.begin(), now);
    auto* label = new Label(words(amp::portWords(port.name)));
    label->setProperty("quiet", true);
    grid_->addWidget(label, row, 0);
    auto* box = new QComboBox;
    box->setObjectName(QStringLiteral("join ") + QString::fromStdString(port.name));
    box->setAccessibleName(label->text());
    box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    box->setMinimumContentsLength(8);
    for (const auto& place : places)
      box->addItem(place.empty() ? (design.supply.empty() || section->second.deck != "supply" ? tr("not joined")
                                                                                              : tr("The one before it"))
                                 : words(amp::describePort(place, design, library)),
                   QString::fromStdString(place));
    box->setCurrentIndex(box->findData(QString::fromStdString(now)));
    box->setToolTip(plainTip(box->currentText()));
    connect(box, &QComboBox::activated, this, [this, box, name] {
      const auto to = box->currentData().toString().toStdString();
      if (auto next = amp::joinPort(session_.pencilled(), session_.library(), name, to))
        session_.edit(tr("join"), [&](amp::Document& d) { amp::pencil(d, session_.library(), *next); });
    });
    grid_->addWidget(box, row++, 1);
  }
  const auto standing = amp::standingOf(design, use.id);
  const bool alone = !standing || design.chain(standing->chain)->size() < 2;
  for (auto* button : buttons_)
    if (button->objectName().startsWith(QStringLiteral("move"))) button->setEnabled(!alone);
}

} // namespace vinegar::app

#include "moc_in_hand.cpp"
