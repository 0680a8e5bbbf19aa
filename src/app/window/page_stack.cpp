#include "window/page_stack.h"

#include "theme/text.h"
#include "window/actions.h"

#include <QButtonGroup>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>

namespace vinegar::app {
namespace {
constexpr int railWidth = 96;
constexpr int mostNumbered = 9; ///< there is no key Alt+10
} // namespace

PageStack::PageStack(const PageContext& context, Settings& settings, QWidget* parent)
    : QStackedWidget(parent), context_(context), settings_(settings), pages_(pageList().size()) {
  setObjectName(QStringLiteral("pageStack"));
  auto* names = new QWidget;
  names->setObjectName(QStringLiteral("rail"));
  names->setAttribute(Qt::WA_StyledBackground);
  auto* column = new QVBoxLayout(names);
  column->setContentsMargins(0, 8, 0, 8);
  column->setSpacing(2);
  buttons_ = new QButtonGroup(this);
  for (std::size_t i = 0; i < pageList().size(); ++i) {
    const auto& facts = *pageList()[i];
    auto* button = new QPushButton(facts.titleText());
    button->setCheckable(true);
    const QString question = sentence(facts.questionText());
    button->setToolTip(i < mostNumbered ? question + QStringLiteral(" (Alt+%1)").arg(i + 1) : question);
    button->setObjectName(QStringLiteral("page ") + QLatin1String(facts.id));
    buttons_->addButton(button, static_cast<int>(i));
    column->addWidget(button);
  }
  column->addStretch();
  rail_ = new QScrollArea;
  rail_->setObjectName(QStringLiteral("railScroll"));
  rail_->setFrameShape(QFrame::NoFrame);
  rail_->setWidget(names);
  rail_->setWidgetResizable(true);
  rail_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  rail_->setFixedWidth(railWidth);
  rail_->setFocusPolicy(Qt::NoFocus);
  connect(buttons_, &QButtonGroup::idClicked, this,
          [this](int id) { showPage(QLatin1String(pageList()[static_cast<std::size_t>(id)]->id)); });
}

QWidget* PageStack::rail() const { return rail_; }

void PageStack::addActions(Actions& actions) {
  for (std::size_t i = 0; i < pageList().size(); ++i) {
    const auto& facts = *pageList()[i];
    const QString id = QLatin1String(facts.id);
    actions.add(qPrintable(QStringLiteral("page-") + id), tr("Pages"), facts.titleText(),
                i < mostNumbered ? QList{QKeySequence(QStringLiteral("Alt+%1").arg(i + 1))} : QList<QKeySequence>{},
                [this, id] { showPage(id); });
  }
  actions.add("next-page", tr("Pages"), tr("Next page"), {QKeySequence(QStringLiteral("Alt+PgDown"))},
              [this] { move(1); });
  actions.add("former-page", tr("Pages"), tr("Page before"), {QKeySequence(QStringLiteral("Alt+PgUp"))},
              [this] { move(-1); });
}

void PageStack::move(int by) {
  const int count = static_cast<int>(pages_.size());
  showPage(ids()[(current_ + by + count) % count]);
}

QStringList PageStack::ids() {
  QStringList ids;
  for (const auto* facts : pageList())
    ids << QLatin1String(facts->id);
  return ids;
}

QStringList PageStack::titles() {
  QStringList titles;
  for (const auto* facts : pageList())
    titles << facts->titleText();
  return titles;
}

QString PageStack::find(const QString& text) {
  for (const auto* facts : pageList())
    if (text.compare(QLatin1String(facts->id), Qt::CaseInsensitive) == 0 ||
        text.compare(facts->titleText(), Qt::CaseInsensitive) == 0)
      return QLatin1String(facts->id);
  return {};
}

bool PageStack::showPage(const QString& id) {
  const int index = static_cast<int>(ids().indexOf(id));
  if (index < 0) return false;
  auto*& page = pages_[static_cast<std::size_t>(index)];
  if (!page) {
    const auto& facts = *pageList()[static_cast<std::size_t>(index)];
    page = facts.make(context_, facts);
    addWidget(page);
    if (const auto view = settings_.views.value(id); !view.isEmpty()) page->restoreView(view);
  }
  current_ = index;
  settings_.page = id;
  setCurrentWidget(page);
  buttons_->button(index)->setChecked(true);
  rail_->ensureWidgetVisible(buttons_->button(index));
  Q_EMIT shown();
  return true;
}

bool PageStack::isAbout(PageFacts::Topic topic) const { return current_ >= 0 && (page()->facts().topics & topic); }

QString PageStack::pageAbout(PageFacts::Topic topic) {
  for (const auto* facts : pageList())
    if (facts->topics & topic) return QLatin1String(facts->id);
  return {};
}

Page* PageStack::page() const { return current_ < 0 ? nullptr : pages_[static_cast<std::size_t>(current_)]; }

template <class Act> void PageStack::each(Act act) {
  for (auto* page : pages_)
    if (page) act(*page);
}

void PageStack::documentChanged() {
  each([](Page& page) { page.documentChanged(); });
}
void PageStack::idleAnswered() {
  each([](Page& page) { page.idleAnswered(); });
}
void PageStack::documentReplaced() {
  each([](Page& page) { page.documentReplaced(); });
}
void PageStack::restyle() {
  each([](Page& page) { page.restyle(); });
}
void PageStack::keepViews() {
  each([this](Page& page) { settings_.views[QLatin1String(page.facts().id)] = page.saveView(); });
}

} // namespace vinegar::app

#include "moc_page_stack.cpp"
